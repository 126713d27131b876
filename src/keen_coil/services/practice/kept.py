"""What is kept of a practice call between its pages: the case, what was done, the minutes, what was named."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import NamedTuple

from ...core.errors import NotFound
from ...core.practice.case import Case, read_case
from ...core.practice.score import Done
from ...store import tables


class Named(NamedTuple):
    """What the learner named at Finding: the verdict, the faults."""

    verdict: str
    faults: list[str]


def case_row_of(row: tables.Call) -> tables.Practice:
    """The practice row of a call. Raises `NotFound`."""
    if row.practice_case is None:
        raise NotFound(f"practice on call {row.id}")
    return row.practice_case


def case_of_call(row: tables.Call) -> Case:
    """The case that is hidden in a practice call. Raises `NotFound`."""
    return read_case(case_row_of(row).case)


def add_done(row: tables.Call, done: Done) -> None:
    """Note something that was done, and let its minutes pass."""
    case_row = case_row_of(row)
    case_row.done = {"rows": [*case_row.done["rows"], done.model_dump()]}
    pass_minutes(row, done.minutes)


def rows_of(row: tables.Call) -> list[Done]:
    """What was done, in order."""
    return [Done.model_validate(item) for item in case_row_of(row).done["rows"]]


def named_of(row: tables.Call) -> Named | None:
    """What was named last; None while nothing was."""
    if row.practice_case is None:
        return None
    rows = [item for item in row.practice_case.done["rows"] if item["do"] == "say"]
    return Named(rows[-1]["name"], [fault for fault in rows[-1]["says"].split("|") if fault]) if rows else None


def pass_minutes(row: tables.Call, minutes: float) -> None:
    """Minutes pass: everything of the call moves so much further back."""
    back = timedelta(minutes=minutes)
    row.opened_at -= back
    row.power_at = row.power_at and row.power_at - back
    for step in row.steps:
        step.done_at -= back
    for reading in row.readings:
        taken = reading.body.get("taken_at")
        if taken:
            reading.body = {
                **reading.body,
                "taken_at": (datetime.fromisoformat(taken) - back).isoformat(timespec="seconds"),
            }
    if row.changes.made:
        made = [change.model_copy(update={"at": change.at - back}) for change in row.changes.made]
        row.changes = row.changes.changed(made=made)
