"""The faults of the contract: the link each sits in, the verdict it leads to, how often it is met, its words.

The faults themselves stand in `faults.toml`.
"""

from __future__ import annotations

from typing import NamedTuple

from ..tables import records, table
from ..vocabulary import Link, Verdict, words_of

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
