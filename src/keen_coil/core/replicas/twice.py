"""Units that may have been entered twice, on two vans: offered for joining, never joined by themselves."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from itertools import combinations
from typing import Any, NamedTuple


class UnitSeen(NamedTuple):
    """A unit: its identity, site, name, the serial number on its plate."""

    uid: str
    site: str
    name: str
    serial: str


class Twice(NamedTuple):
    """Two units that look like one: the one entered first, the other, and what they share."""

    first: UnitSeen
    second: UnitSeen
    because: str


def entered_twice(units: Iterable[UnitSeen]) -> list[Twice]:
    """Units of one site with the same name, or with the same serial number, whatever their letters' case."""
    at_site: dict[str, list[UnitSeen]] = defaultdict(list)
    for unit in sorted(set(units)):
        at_site[unit.site].append(unit)
    found = []
    for there in at_site.values():
        for first, second in combinations(there, 2):
            same = _serial(first) and _serial(first) == _serial(second)
            if same or _plain(first.name) == _plain(second.name):
                found.append(Twice(first, second, "serial number" if same else "name"))
    return found


def _plain(text: str) -> str:
    return " ".join(text.casefold().split())


def _serial(unit: UnitSeen) -> str:
    return "".join(letter for letter in unit.serial.casefold() if letter.isalnum())


def fuller(one: dict[str, Any], other: dict[str, Any]) -> dict[str, Any] | None:
    """Two plates as one where neither contradicts the other; None where one does."""
    differ = any(one[name] != other[name] for name in one.keys() & other.keys())
    return None if differ else {**other, **one}
