"""What a plate says of a motor at its rated point, in the units of the model, and plates no motor can have.

The model is for single-phase motors with a run capacitor. Everything else keeps to plate rules.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from ..errors import FieldError, InvalidField, shown
from ..plates import Motor
from ..speed import poles_of, synchronous_speed
from ..units import WATTS_PER_HP
from ..voltage import plate_amps, range_for, ranges

USUAL_HZ = 60
USUAL_CAPACITOR_V = 370.0
USUAL_SLIP = (0.02, 0.20)
MOST_CAPACITOR_SHARE = 1.2
_KIND = "psc: no model for this kind yet, plate rules only"


LABELS = {
    "hp": "horsepower",
    "rpm": "RPM",
    "amps_a": "full-load amps",
    "capacitor_uf": "capacitor µF",
    "capacitor_v": "capacitor volts",
    "hz": "hertz",
}
"""What a plate calls its fields, where their names do not say it."""
NOTHING = "nothing"


class NoModel(InvalidField):
    """A plate the model cannot answer for, with the reason by field; plate rules stay."""

    @property
    def because(self) -> str:
        """The first reason in words."""
        fault = self.errors[0]
        field = fault.path.removeprefix("motor.")
        if field == "kind" and fault.value != NOTHING:
            return "there is no model for this kind of motor"
        label = LABELS.get(field, field.replace("_", " "))
        if fault.value == NOTHING:
            return f"no {label} from the plate"
        return f"{label} {fault.value} on the plate; it should be {fault.expected}"


@dataclass(frozen=True)
class Rated:
    """A motor at its plate: volts, amps, shaft watts, hertz, poles, rpm, run capacitor (µF, its volts).

    `assumed` names in words what the plate left open; `doubts` what is unusual about it.
    """

    volts_v: float
    amps_a: float
    shaft_w: float
    hz: float
    poles: int
    rpm: float
    capacitor_uf: float
    capacitor_v: float
    assumed: tuple[str, ...] = ()
    doubts: tuple[str, ...] = ()

    @property
    def slip(self) -> float:
        """Slip at plate speed, a fraction."""
        return 1 - self.rpm / synchronous_speed(self.poles, self.hz)

    @property
    def base_ohm(self) -> float:
        """Plate volts over plate amps, the unit of the priors."""
        return self.volts_v / self.amps_a


def rated(motor: Motor, supply_v: float | None = None, hz: float | None = None) -> Rated:
    """The rated point of a plate, for the connection that belongs to the supply.

    Args: motor, the plate; supply_v, volts, chooses among the connections of a dual-voltage plate; hz of the unit,
    taken where the plate is silent. 208-230 is taken at 230. Raises `NoModel` naming every field in the way.
    """
    faults = _silent(motor)
    if faults:
        raise NoModel(faults)
    connection = range_for(str(motor.volts), supply_v) or ranges(str(motor.volts))[0]
    amps = plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, connection.high)
    hertz = float(motor.hz or hz or USUAL_HZ)
    assumed = [] if motor.hz or hz else [f"{USUAL_HZ} Hz"]
    if motor.capacitor_v is None:
        assumed.append(f"a capacitor rated {USUAL_CAPACITOR_V:g} V")
    hp, rpm, uf = (float(value or 0) for value in (motor.hp, motor.rpm, motor.capacitor_uf))
    poles = motor.poles or poles_of(rpm, hertz)
    faults = _impossible(hp, connection.high, amps or 0.0, hertz, poles, rpm) + _odd_capacitor(
        uf, motor.capacitor_v, connection.high, amps or 0.0, hertz
    )
    if faults or poles is None or amps is None:
        raise NoModel(faults)
    slip = 1 - rpm / synchronous_speed(poles, hertz)
    odd = f"Plate slip is {100 * slip:.1f} %, unusual: are these the poles?"
    return Rated(
        volts_v=connection.high,
        amps_a=amps,
        shaft_w=hp * WATTS_PER_HP,
        hz=hertz,
        poles=poles,
        rpm=rpm,
        capacitor_uf=uf,
        capacitor_v=motor.capacitor_v or USUAL_CAPACITOR_V,
        assumed=tuple(assumed),
        doubts=() if USUAL_SLIP[0] <= slip <= USUAL_SLIP[1] else (odd,),
    )


def _silent(motor: Motor) -> list[FieldError]:
    """Fields that are missing, or that say there is no run capacitor."""
    if not motor.traits.is_modelled or (motor.kind is None and motor.capacitor_uf is None):
        return [FieldError("motor.kind", shown(motor.kind or ""), _KIND)]
    if motor.phase == 3:
        return [FieldError("motor.phase", "3", "1: the model has a main and an auxiliary winding")]
    needed = ("hp", "volts", "amps_a", "rpm", "capacitor_uf")
    return [FieldError(f"motor.{name}", "nothing", "the plate's value") for name in needed if not getattr(motor, name)]


def _impossible(hp: float, volts: float, amps: float, hz: float, poles: int | None, rpm: float) -> list[FieldError]:
    """More out than in, or faster than its field."""
    found = []
    if hp * WATTS_PER_HP >= volts * amps:
        most = volts * amps / WATTS_PER_HP
        found.append(FieldError("motor.hp", f"{hp:g}", f"under {most:.3g} hp, the volts times amps of the plate"))
    if poles is None or rpm >= synchronous_speed(poles, hz):
        most = synchronous_speed(poles or 2, hz)
        found.append(FieldError("motor.rpm", f"{rpm:g}", f"below {most:g}, synchronous with {poles or 2} poles"))
    return found


def _odd_capacitor(uf: float, rated_v: float | None, volts: float, amps: float, hz: float) -> list[FieldError]:
    """A capacitor rated below the line, or one that would carry more than the motor."""
    found = []
    if rated_v is not None and rated_v < volts:
        expected = f"{volts:g} V or more: a capacitor below the line means a tapped feed, which the model does not hold"
        found.append(FieldError("motor.capacitor_v", f"{rated_v:g}", expected))
    largest = MOST_CAPACITOR_SHARE * amps / (2e-6 * math.pi * hz * volts)
    if uf > largest:
        expected = f"at most {largest:.3g} µF: more would carry over {MOST_CAPACITOR_SHARE:g} times the plate's amps"
        found.append(FieldError("motor.capacitor_uf", f"{uf:g}", expected))
    return found


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
