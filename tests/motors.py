"""Plates and circuits for the tests of the motor model."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from keen_coil.core.machine.circuit import Windings
from keen_coil.core.machine.fit import Fit, fit_plate
from keen_coil.core.machine.rated import rated
from keen_coil.core.plates import Motor

PLATE: dict[str, Any] = {
    "kind": "psc",
    "hp": 0.25,
    "volts": "208-230",
    "amps_a": 1.4,
    "phase": 1,
    "hz": 60,
    "rpm": 1090,
    "capacitor_uf": 5,
    "capacitor_v": 370,
    "fan": "propeller",
}
TAPPED = {**PLATE, "volts": "115", "amps_a": 2.96, "capacitor_uf": 7.5}
PUBLISHED = Windings(60, 4, 2.02, 2.79, 4.12, 2.12, 66.8, 1.0, 2.0, 2.0, 24, 13)
"""The worked single-phase motor of the textbook: 110 V, 60 Hz, 4 poles, auxiliary open."""


def plate(**changes: Any) -> Motor:
    """A quarter-horse condenser fan motor, changed by field."""
    return Motor.model_validate({**PLATE, **changes})


def fitted(**changes: Any) -> Fit:
    """Its fit."""
    return fit_plate(rated(plate(**changes)))


def circuits() -> st.SearchStrategy[Windings]:
    """Any motor with a main and an auxiliary winding, in ohms of its main winding."""
    return st.builds(
        lambda ohm, r1, x1, r2, x2, xm, a, ra, xa, hz, poles: Windings(
            hz, poles, r1 * ohm, x1 * ohm, r2 * ohm, x2 * ohm, xm * ohm, a, ra * a * a * r1 * ohm, xa * a * a * x1 * ohm
        ),
        st.floats(2, 400),
        st.floats(0.05, 0.4),
        st.floats(0.05, 0.4),
        st.floats(0.05, 0.6),
        st.floats(0.05, 0.4),
        st.floats(0.8, 6),
        st.floats(0.3, 4),
        st.floats(0.5, 2),
        st.floats(0.5, 2),
        st.sampled_from([50.0, 60.0]),
        st.sampled_from([2, 4, 6, 8]),
    )


MICROFARADS = st.one_of(st.none(), st.floats(0.5, 80))
SLIPS = st.floats(0, 2)
