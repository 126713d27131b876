"""The steps of a swap, read from `steps.toml`, which says how a row is read."""

from __future__ import annotations

from typing import NamedTuple

from ..tables import listed, table

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
