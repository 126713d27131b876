"""The faults of the contract: the link each sits in, the verdict it leads to, how often it is met, its words.

The faults themselves stand in `faults.toml`.
"""

from __future__ import annotations

import math
from functools import cache
from typing import NamedTuple

from ..call import Call
from ..tables import complete, records, table
from ..vocabulary import Link, Role, Verdict, words_of
from .applies import features_of, has

ORDER: tuple[Verdict, ...] = words_of(Verdict)[:-2]
"""Which of two faults leads."""
LINKS: tuple[Link, ...] = words_of(Link)
MOTOR_LINKS: frozenset[str] = frozenset({"windings", "overload", "insulation", "bearings"})


class FaultRow(NamedTuple):
    """A row of the fault table; `needs` names what the unit must have for the fault to be possible.

    `draw` is the draw of practice cases that the fault came with: seeds of earlier draws keep their cases.
    """

    verdict: Verdict
    prior_weight: tuple[float, float, float]
    says: str
    link: Link | None = None
    ages: bool = False
    needs: str = ""
    draw: int = 1


_TABLE = table(__package__, "faults")
FAULTS: dict[str, FaultRow] = records(FaultRow, _TABLE["faults"], "faults")
TRIPS: tuple[str, ...] = tuple(_TABLE["trips"])
"""These say what happened and not why: no motor is acquitted by them before the dead tests to ground."""
AMBIGUOUS_GROUPS: dict[str, tuple[str, ...]] = {name: tuple(of) for name, of in _TABLE["unions"].items()}
"""A fault that stands for one of several when the readings do not tell which."""
MUTUALLY_EXCLUSIVE: tuple[tuple[str, ...], ...] = tuple(tuple(group) for group in _TABLE["one_of"])
"""Faults of which at most one is true at a time: states of the same part."""
LEADS_TO: tuple[tuple[str, str, float], ...] = tuple(
    (cause, brought, float(share)) for cause, row in _TABLE["leads_to"].items() for brought, share in row.items()
)
"""What one fault brings about: cause, consequence, how often. Other pairs are independent."""


SECOND_FAULT = 0.35
"""How much less often a fault is met as a second, unrelated one on the same call (trade judgment)."""

_ROLES = {"condenser_fan": 0, "indoor_blower": 1, "inducer": 2}
complete(_ROLES, words_of(Role), "_ROLES")


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
    Source: trade judgment, not counted.
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
