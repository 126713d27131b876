"""How likely each fault is before any reading: by role, kind, what the unit has, and its age."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache

from ..call import Call
from .faults import FAULTS, UNIONS
from .unit_path import no_overload, not_here_reason

SECOND_FAULT = 0.35
"""How much less often a fault is met as a second, unrelated one on the same call (trade judgement)."""

_ROLES = {"condenser_fan": 0, "indoor_blower": 1, "inducer": 2}


def three_phases(call: Call) -> bool:
    """Whether motor or unit is three-phase."""
    return call.motor.kind == "three_phase" or 3 in (call.motor.phase, call.unit.phase)


def has_taps(call: Call) -> bool:
    """Whether the motor has speed taps, by its plate, the speeds used, or the readings."""
    told = (call.motor.speeds or 1) > 1 or len(call.unit.speeds_used) > 1 or len(call.motor.speed_amps_a) > 1
    return (told and call.motor.kind != "ecm") or any((r.speed or 1) > 1 for r in call.readings)


_HAS: dict[str, Callable[[Call], bool]] = {
    "": lambda call: True,
    "ecm": lambda call: call.motor.kind == "ecm",
    "not_ecm": lambda call: call.motor.kind != "ecm",
    "psc": lambda call: call.motor.kind in (None, "psc"),
    "three_phase": three_phases,
    "capacitor": lambda call: not_here_reason(call) is None,
    "overload": lambda call: not no_overload(call),
    "taps": has_taps,
    "belt": lambda call: call.motor.drive == "belt",
    "starter": lambda call: call.unit.switch is not None and call.unit.switch.kind == "starter",
    "heat_pump": lambda call: call.motor.role in (None, "condenser_fan") and call.unit.kind in (None, "heat_pump_outdoor", "package_unit"),
    "combustion": lambda call: call.motor.role in (None, "inducer") or call.unit.kind == "furnace",
}  # fmt: skip


def possible(fault: str, call: Call) -> bool:
    """Whether this unit can have the fault at all."""
    return _HAS[FAULTS[fault].needs](call)


@cache
def _met(fault: str, role: str | None) -> float:
    row = FAULTS[fault].met
    return row[_ROLES[role]] if role in _ROLES else sum(row) / 3


def odds(call: Call) -> dict[str, float]:
    """Log probability of each fault possible in this unit as the only one, and of `none`.

    Faults that grow with age count double at 15 years and half when new. A reading that can only come from a fault
    (defrost held, a tap open) makes it possible whatever the plates say.
    """
    age = call.unit.age_years
    wear = 1.0 if age is None else min(2.0, 0.5 + 0.1 * float(age))
    weights = {
        name: _met(name, call.motor.role) * (wear if row.ages else 1.0)
        for name, row in FAULTS.items()
        if possible(name, call) and (name not in UNIONS or name == "winding_open")
    }
    if _seen(call, "defrost"):
        weights["defrost_hold"] = max(weights.get("defrost_hold", 0.0), 1.0)
    total = sum(weights.values())
    return {name: math.log(weight / total) for name, weight in weights.items() if weight > 0}


def _seen(call: Call, hold: str) -> bool:
    return any(r.kind == "hold" and r.at == hold and r.value is True for r in call.readings)
