"""The ladders: of findings, from one plain fault to the traps that condemn good motors; of whole jobs.

One row a rung, each with its recipes.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from ..diagnosis.faults import FAULTS, LEADS_TO
from ..tables import listed, table
from ..vocabulary import CaseEnd, CaseStart


class Recipe(NamedTuple):
    """How a rung's case is made: on which units, which faults with the least and the most of their size, what else."""

    units: tuple[str, ...]
    faults: dict[str, tuple[int, int]] = {}
    symptom: str = ""
    last_visit: str = ""
    wind: bool = False
    air_c: float | None = None
    label_factor: float = 1.0
    label_v: int = 0
    plate: dict[str, float] = {}
    wires: bool = False


class Rung(NamedTuple):
    """A rung of a ladder: key, level, title (which gives nothing away), what it teaches (told at the end).

    starts, ends: the stations between which it is played; a finding ends at Finding.
    """

    key: str
    level: int
    title: str
    teaches: str
    recipes: tuple[Recipe, ...]
    starts: CaseStart = "arrive"
    ends: CaseEnd = "finding"


def _rungs(name: str, ends: CaseEnd) -> tuple[dict[int, str], tuple[Rung, ...]]:
    read = table(__package__, name)
    rows = [{"key": key, "ends": ends, **rung} for key, rung in read["rungs"].items()]
    return {int(level): title for level, title in read["levels"].items()}, listed(Rung, rows, name)


LEVELS, RUNGS = _rungs("ladder", "finding")
JOB_LEVELS, JOBS = _rungs("jobs", "hand-over")
BY_KEY = {rung.key: rung for rung in (*RUNGS, *JOBS)}


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


class PracticeUnit(NamedTuple):
    """A unit to hide faults in: a short name, where it stands, its plates as the call file has them."""

    name: str
    where: str
    call: dict[str, Any]


_TABLE = table(__package__, "units")


def _whole(part: str, plate: dict[str, Any]) -> dict[str, Any]:
    """A plate with what it takes over from another put in."""
    like = plate.get("like")
    own = {key: value for key, value in plate.items() if key != "like"}
    return {**_TABLE[f"like_{part}"][like], **own} if like else own


def _unit(name: str, plates: dict[str, Any]) -> PracticeUnit:
    call = {part: _whole(part, plate) for part, plate in plates.items() if part != "where"}
    return PracticeUnit(name, plates["where"], call)


UNITS: tuple[PracticeUnit, ...] = tuple(_unit(name, plates) for name, plates in _TABLE["units"].items())
BY_NAME = {unit.name: unit for unit in UNITS}
