"""Van stock as the sum of its movements: a count says how many there are, whatever was noted before it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from ..vocabulary import StockMovementKind


class Movement(NamedTuple):
    """Parts that came onto a van (positive) or left it; of a count, how many there are."""

    kind: StockMovementKind
    quantity: int


class Balance(NamedTuple):
    """What a movement changed, and how many there were after it."""

    change: int
    after: int


def balances(movements: Iterable[Movement]) -> list[Balance]:
    """Each movement, in the order in which they were made, as a change with what was there then.

    The change of a count is what it found more or fewer than the movements before it say, so that the quantity is the
    sum of all changes. Below none says that something was not noted: a count is due.
    """
    found: list[Balance] = []
    there = 0
    for movement in movements:
        after = movement.quantity if movement.kind == "counted" else there + movement.quantity
        found.append(Balance(after - there, after))
        there = after
    return found


def quantity(movements: Iterable[Movement]) -> int:
    """How many there are after all movements, in the order in which they were made."""
    found = balances(movements)
    return found[-1].after if found else 0
