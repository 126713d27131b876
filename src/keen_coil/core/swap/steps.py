"""The step list of a job: the rows of the table whose features hold, their words filled in, and what to carry."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache, lru_cache
from typing import NamedTuple

import networkx as nx

from ..tables import listed, table
from .job import Job, way_words
from .schedule import Task

ABOVE = ("^",)


class StepRow(NamedTuple):
    """A step of the table."""

    key: str
    phase: str
    do: str
    minutes: float
    when: tuple[str, ...] = ()
    why: str = ""
    mistake: str = ""
    caution: str = ""
    after: tuple[str, ...] = ABOVE
    wait: str = ""
    marks: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    station: str = ""
    safety: bool = False
    mends: tuple[str, ...] = ()


_TABLE = table(__package__, "steps")
PHASES: dict[str, str] = _TABLE["phases"]
"""The phases of a swap by key, in order."""
ROWS: tuple[StepRow, ...] = listed(StepRow, [{"key": key, **row} for key, row in _TABLE["steps"].items()], "steps")
ALWAYS_UP: tuple[str, ...] = tuple(_TABLE["always_up"])
"""Carried on every job."""
GOES_IN = ("in_stud", "in_belly_band", "in_lug", "in_base", "in_face", "in_any", "assembly_in")
"""Steps with which the new motor is in its place."""
CONNECTED = ("capacitor", "capacitor_joined", "connect_capacitor")
"""Steps with which the new capacitor is in its place."""


LEADS_UNKNOWN = "the way the old ones left"


class Step(NamedTuple):
    """A step of this job. `after` names steps of this job; minutes are hands-on, `wait_min` runs by itself after it."""

    key: str
    phase: str
    do: str
    why: str
    mistake: str
    caution: str
    minutes: float
    after: tuple[str, ...]
    wait: str
    wait_min: float
    marks: tuple[str, ...]
    station: str
    safety: bool = False

    @property
    def alone(self) -> bool:
        """Whether it is ticked for itself only, never with the steps above another."""
        return self.safety or bool(self.marks)


WAITS: dict[str, str] = {
    "part": "the part is on its way",
    "bleed": "the capacitor bleeds down",
    "module": "the module discharges",
    "cool": "the motor cools",
    "oil": "the oil soaks in",
    "warm": "it warms up",
}


def steps_for(job: Job, marks: Mapping[str, str] | None = None) -> list[Step]:
    """The steps of a job in the order of the work; empty for a job that swaps nothing (minutes).

    `marks` are those noted so far, so that a later step can say what an earlier one noted.
    """
    if job.kind == "none":
        return []
    here = [row for row in ROWS if job.has(*row.when)]
    before = _joined(frozenset(row.key for row in here))
    noted = marks or {}
    words = _Words({**job.words, "leads": _leads(noted)})
    if noted.get("turns"):
        words["way"] = way_words(noted["turns"])
    found = [
        Step(
            row.key,
            row.phase,
            row.do.format_map(words),
            row.why,
            row.mistake,
            row.caution,
            row.minutes,
            before[row.key],
            row.wait if row.wait in job.waits else "",
            job.waits.get(row.wait, 0.0) if row.wait else 0.0,
            row.marks,
            row.station,
            row.safety,
        )
        for row in here
    ]
    return _with_work(found, job)


def _with_work(steps: list[Step], job: Job) -> list[Step]:
    """The steps with the match's other work made into steps after the two motors were compared, before it goes in."""
    extra = [(do, minutes) for do, minutes in job.work if do.strip(" .")]
    keys = tuple(f"work_{number}" for number, _ in enumerate(extra, start=1))
    if not extra or not any(step.key == "compare" for step in steps):
        return steps
    made = [
        Step(key, "ready", do.rstrip(".") + ".", "", "", "", minutes, ("compare",), "", 0.0, (), "match")
        for key, (do, minutes) in zip(keys, extra, strict=True)
    ]
    at = next(number for number, step in enumerate(steps) if step.key == "compare") + 1
    later = [step._replace(after=(*step.after, *keys)) if step.key.startswith("in_") else step for step in steps[at:]]
    return [*steps[:at], *made, *later]


class _Words(dict[str, str]):
    def __missing__(self, key: str) -> str:
        return key


def _leads(marks: Mapping[str, str]) -> str:
    at = marks.get("leads_at")
    return f"at {at} o'clock" if at else LEADS_UNKNOWN


def _of_phase(phase: str) -> tuple[str, ...]:
    return tuple(row.key for row in ROWS if row.phase == phase)


def _before() -> dict[str, tuple[str, ...]]:
    """Each step's predecessors as the table names them, the row above where it names none."""
    found: dict[str, tuple[str, ...]] = {}
    above: tuple[str, ...] = ()
    for row in ROWS:
        named = [_of_phase(name) if name in PHASES else (name,) for name in row.after]
        found[row.key] = above if row.after == ABOVE else tuple(key for keys in named for key in keys)
        above = (row.key,)
    return found


@lru_cache(maxsize=64)
def _joined(present: frozenset[str]) -> dict[str, tuple[str, ...]]:
    """The steps of a job that come right before each; absent ones stand for their own, none is named twice over."""
    before = _before()

    @cache
    def nearest(key: str) -> frozenset[str]:
        found: set[str] = set()
        for name in before[key]:
            if name.removesuffix("?") in present:
                found.add(name.removesuffix("?"))
            elif not name.endswith("?"):
                found |= nearest(name)
        return frozenset(found)

    graph: nx.DiGraph[str] = nx.DiGraph()
    graph.add_nodes_from(present)
    for key in present:
        graph.add_edges_from((name, key) for name in nearest(key))
    lean = nx.transitive_reduction(graph)
    return {key: tuple(sorted(lean.predecessors(key))) for key in present}


def tasks(steps: list[Step]) -> list[Task]:
    """The steps as tasks of a schedule."""
    return [Task(step.key, step.minutes, step.after, step.wait_min) for step in steps]


class Carry(NamedTuple):
    """What goes up in one trip: parts, then tools, each once."""

    parts: tuple[str, ...]
    tools: tuple[str, ...]


def carry_list(job: Job) -> Carry:
    """Tools and parts of this job, each once, in the order in which they are needed."""
    here = [row for row in ROWS if job.kind != "none" and job.has(*row.when)]
    tools = dict.fromkeys([*ALWAYS_UP, *(tool for row in here for tool in row.tools)])
    parts = dict.fromkeys([*job.parts, *(part for row in here for part in row.parts if not _named(part, job))])
    return Carry(tuple(parts), tuple(tools))


def _named(part: str, job: Job) -> bool:
    """Whether the work list names this part already in other words."""
    return any(part.split()[-1] in mine for mine in job.parts)
