"""What a choice brings to do: work items by key, read from `work.toml`. The key counts, the sentence is only shown."""

from __future__ import annotations

from typing import NamedTuple

from ..tables import records, table


class WorkRow(NamedTuple):
    """A kind of work: its sentence, hands-on minutes, the feature a job has by it.

    `covered`: the steps of a swap hold it already. `capacitor`: its part is settled at the capacitor's station.
    `stops`: to be found out, for it could stop the job. `doubt`: choosing the motor takes a written answer.
    """

    do: str
    minutes: float
    feature: str = ""
    covered: bool = False
    capacitor: bool = False
    stops: bool = False
    doubt: bool = False


WORK: dict[str, WorkRow] = records(WorkRow, table(__package__, "work"), "work")
UNKEYED = WorkRow("", 0)
"""Work of a file that names it by a sentence alone."""


class Work(NamedTuple):
    """Something to do for this choice: its key, its sentence, the part it takes, minutes of hands-on time."""

    key: str
    do: str
    part: str | None = None
    minutes: float = 0


def work(key: str, part: str | None = None, /, **words: str) -> Work:
    """A work item of the table, its words filled in. Raises `KeyError` on an unknown key."""
    row = WORK[key]
    return Work(key, row.do.format(part=part, **words), part, row.minutes)


def kind_of(key: str) -> WorkRow:
    """The kind of work a kept item is."""
    return WORK.get(key, UNKEYED)
