"""The ladder: from one plain fault to the traps that condemn good motors. One row a rung, each with its recipes."""

from __future__ import annotations

from typing import NamedTuple

from ..tables import listed, table


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
    """A rung of the ladder: key, level 1 to 4, title (which gives nothing away), what it teaches (told at the end)."""

    key: str
    level: int
    title: str
    teaches: str
    recipes: tuple[Recipe, ...]


_TABLE = table(__package__, "ladder")
LEVELS: dict[int, str] = {int(level): title for level, title in _TABLE["levels"].items()}
RUNGS: tuple[Rung, ...] = listed(Rung, [{"key": key, **rung} for key, rung in _TABLE["rungs"].items()], "ladder")
BY_KEY = {rung.key: rung for rung in RUNGS}
