"""Fault families: how practice is counted, and what a learner is weak in."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from ..diagnosis.faults import FAULTS, LEADS_TO


class Family(NamedTuple):
    """Faults that are found in the same way: a key, a name, the faults."""

    key: str
    name: str
    faults: frozenset[str]


def _in(*links: str) -> frozenset[str]:
    return frozenset(name for name, row in FAULTS.items() if row.link in links and not name.startswith("ecm_"))


FAMILIES: tuple[Family, ...] = (
    Family("feed", "supply, breaker, fuses", _in("supply", "protection", "disconnect")),
    Family("control", "call, holds, safeties, switch", _in("control", "switching")),
    Family("wiring", "wires and connections", _in("wiring", "connections")),
    Family("capacitor", "run capacitor", _in("capacitor")),
    Family("windings", "windings, overload, insulation", _in("windings", "overload", "insulation")),
    Family("turning", "bearings, blade, wheel, belt", _in("bearings", "load")),
    Family("air", "air, vent, drain", _in("air")),
    Family("commutated", "ECMs", frozenset(name for name in FAULTS if name.startswith("ecm_"))),
    Family("none", "nothing wrong", frozenset({"none"})),
)
OF = {fault: family for family in FAMILIES for fault in family.faults}


def causes_among(faults: Iterable[str]) -> frozenset[str]:
    """Those of some faults that no other of them brings about."""
    names = frozenset(faults)
    brought = {effect for cause, effect, _ in LEADS_TO if cause in names and effect in names and cause != effect}
    return names - brought or names


def family_of(faults: Iterable[str]) -> Family:
    """The family that a case counts under: that of its first cause by name of the table, nothing wrong when empty."""
    found = causes_among(faults)
    return next((OF[name] for name in FAULTS if name in found), OF["none"])
