"""How likely each fault is before any reading: by role, kind, what the unit has, and its age."""

from __future__ import annotations

import math
from functools import cache

from ..call import Call
from .applies import features_of, has
from .faults import AMBIGUOUS_GROUPS, FAULTS

SECOND_FAULT = 0.35
"""How much less often a fault is met as a second, unrelated one on the same call (trade judgement)."""

_ROLES = {"condenser_fan": 0, "indoor_blower": 1, "inducer": 2}


def possible(fault: str, call: Call) -> bool:
    """Whether this unit can have the fault at all."""
    return has(call, FAULTS[fault].needs)


@cache
def _prior_weight(fault: str, role: str | None) -> float:
    row = FAULTS[fault].prior_weight
    return row[_ROLES[role]] if role in _ROLES else sum(row) / 3


def odds(call: Call) -> dict[str, float]:
    """Log probability of each fault possible in this unit as the only one, and of `none`.

        log p_f = log( n_f a_f / sum over g of n_g a_g ),  a = min(2, 0.5 + 0.1 years) for faults that grow with age
    n is `prior_weight` of the table for the motor's role, the mean of the three where the role is not known. Faults
    that the unit cannot have are left out of the sum. Faults that grow with age count double at 15 years and half when
    new. A reading that can only come from a fault (defrost held, a tap open) makes it possible whatever the plates say.
    Source: trade judgement, not counted.
    """
    return call.once("odds", lambda: _odds(call))


def _odds(call: Call) -> dict[str, float]:
    features, age = features_of(call), call.unit.age_years
    wear = 1.0 if age is None else min(2.0, 0.5 + 0.1 * float(age))
    weights = {
        name: _prior_weight(name, call.motor.role) * (wear if row.ages else 1.0)
        for name, row in FAULTS.items()
        if features[row.needs] and (name not in AMBIGUOUS_GROUPS or name == "winding_open")
    }
    total = sum(weights.values())
    return {name: math.log(weight / total) for name, weight in weights.items() if weight > 0}
