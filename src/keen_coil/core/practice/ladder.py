"""The ladders: of findings, from one plain fault to the traps that condemn good motors; of whole jobs.

One row a rung, each with its recipes.
"""

from __future__ import annotations

from typing import NamedTuple

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
