"""What was done to a unit in the middle of a call: what each act touches, and which faults it can cure. One table.

A reading taken after a change that touches what it measures belongs to the new state of the unit. A reading without
a time counts as taken as found.
"""

from __future__ import annotations

from datetime import UTC
from typing import Any, NamedTuple

from .moments import AnyMoment
from .plates import StrictModel
from .readings import Reading, minutes_of
from .tables import TableError, records, table
from .units import LongText, Text
from .vocabulary import ChangeKind, words_of


class Change(StrictModel):
    """Something done to the unit, and when."""

    what: ChangeKind
    at: AnyMoment
    note: LongText | None = None
    part_no: Text | None = None

    @property
    def minutes(self) -> float:
        """When it was done, in minutes since 1970."""
        moment = self.at.replace(tzinfo=UTC) if self.at.tzinfo is None else self.at
        return moment.timestamp() / 60


class ChangeRow(NamedTuple):
    """An act: its words, the kinds of reading it touches (`kind` or `kind@place`), the faults it can cure.

    `asked_by` names the answers after which a page offers it.
    """

    says: str
    touches: frozenset[str]
    cures: tuple[str, ...] = ()
    asked_by: dict[str, tuple[str, ...]] = {}


_TABLE = table(__package__, "changes")
_GROUPS: dict[str, list[str]] = _TABLE["groups"]
RUNNING = frozenset(_GROUPS["running"])
"""What any act on the way of the current, the shaft or the air may move."""


def _row(row: dict[str, Any]) -> dict[str, Any]:
    """A row with the groups it names written out."""
    named = [_GROUPS[name[1:]] if name.startswith("@") else [name] for name in row["touches"]]
    return {**row, "touches": frozenset(kind for kinds in named for kind in kinds)}


CHANGES: dict[str, ChangeRow] = records(
    ChangeRow, {what: _row(row) for what, row in _TABLE["changes"].items()}, "changes"
)
if set(CHANGES) != set(words_of(ChangeKind)):
    raise TableError(f"changes.toml: got {', '.join(CHANGES)}; expected {', '.join(words_of(ChangeKind))}")


def touches(change: Change, reading: Reading) -> bool:
    """Whether what a reading measures may be another thing after the change. Running volts move with the load."""
    row = CHANGES[change.what]
    if reading.kind == "supply_v" and reading.when == "running" and row.touches >= RUNNING:
        return True
    return reading.kind in row.touches or f"{reading.kind}@{reading.place}" in row.touches


def state_of(reading: Reading, changes: tuple[Change, ...]) -> int:
    """How many changes that touch it were made before a reading was taken: 0 is as found."""
    at = minutes_of(reading)
    return 0 if at is None else sum(change.minutes <= at and touches(change, reading) for change in changes)


def last_state_of(reading: Reading, changes: tuple[Change, ...]) -> int:
    """How many changes touch what a reading measures: the state it stands in at the end of the visit."""
    return sum(touches(change, reading) for change in changes)
