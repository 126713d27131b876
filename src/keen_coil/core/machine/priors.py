"""What a plate does not fix, as a table: what is taken instead, and how far it may be off.

Trade and design practice, not a standard (Veinott [1] for proportions). Ohms are in units of plate volts over plate
amps.
[1] Veinott, Theory and Design of Small Induction Motors.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np


class Prior(NamedTuple):
    """One quantity the plate leaves open: its middle and its spread (one standard deviation of its logarithm).

    Rows with `low` and `high` are no part of the fit: the band moves them to either end.
    """

    name: str
    says: str
    mid: float
    doubt: float
    low: float = 0.0
    high: float = 0.0


TABLE: tuple[Prior, ...] = (
    Prior("efficiency", "efficiency against the usual for the size", 1.0, 0.08),
    Prior("capacitor", "capacitor volts at full load, share of its rating (spread in shares)", 0.85, 0.06),
    Prior("r1", "main winding ohms", 0.18, 0.30),
    Prior("x1", "leakage ohms of main winding and rotor", 0.15, 0.30),
    Prior("r2", "rotor ohms", 0.30, 0.30),
    Prior("xm", "magnetizing ohms", 1.8, 0.30),
    Prior("ratio", "turns of the auxiliary, times the capacitor's share of the line", 1.2, 0.30),
    Prior("r1a", "auxiliary ohms against main ohms times the turns ratio squared", 1.0, 0.15),
    Prior("core", "core loss, share of shaft power", 0.03, 0.0, 0.015, 0.05),
    Prior("friction", "friction and windage, share of shaft power", 0.03, 0.0, 0.015, 0.05),
)
COVER = 1.64
"""Spreads either way in a band: nine motors in ten."""
NEAR = 0.4
"""Spreads either way at which the members of a fit stand; what they do is scaled up to `COVER`."""
ROW = {row.name: row for row in TABLE}

EFFICIENCY_AT = ((20.0, 0.35), (100.0, 0.55), (750.0, 0.70))
"""Usual efficiency by shaft watts, straight between on a logarithmic scale."""

QUADRATURE_DEG = 20.0
"""Spread of the angle between the windings' currents about 90 degrees."""
CAPACITOR_SHARE = (0.75, 0.95)
"""Capacitor volts at full load, share of its rating: outside is held off firmly."""
PLATE_SPREAD = 0.005
"""How closely amps and power of the plate are asked for; within 2 % is aimed at, above 5 % refused."""
HARD_SPREAD = 0.01
OVERBALANCE = 0.15
"""Ampere-turns of the auxiliary above those of the main winding at full load: makers stay below (design practice)."""
REFUSED_MISS = 0.05
LEAST_RATIO, MOST_RATIO = 0.4, 4.0

LOAD_LOW, LOAD_HIGH = 0.8, 1.04
"""A fan chosen by the unit's maker takes this share of the motor's rating (trade); bands go down from all of it."""
RUNNING_C, RUNNING_U_C = 95.0, 15.0
"""Winding temperature when warm, C, and its spread."""
SATURATION = 3.0
"""Above plate volts the magnetising ohms may fall by this many per cent for each per cent of volts."""
REBUILT_U = 0.02
"""Ohms measured cold and brought to a warm winding are never better than this."""


def usual_efficiency(shaft_w: float) -> float:
    """Usual efficiency of a motor of this size, a fraction; shaft watts."""
    watts, shares = zip(*EFFICIENCY_AT, strict=True)
    return float(np.interp(np.log(shaft_w), np.log(watts), shares))
