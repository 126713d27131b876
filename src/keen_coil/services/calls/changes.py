"""What is done to the unit in the middle of a call: noted, taken back, and what is still open before power comes on."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from pydantic import ValidationError

from ...core.changes import CHANGES
from ...core.diagnosis.applies import has
from ...core.diagnosis.case import Case
from ...core.diagnosis.next_test import no_live_tests
from ...core.diagnosis.states import as_it_is_now, damage_says
from ...core.errors import FieldError, InvalidField, field_errors, invalid
from ...core.readings import Reading
from ...core.swap.steps import ROWS
from ...core.units import whole_number
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on, say_of
from ..practice.job import change_was_made
from .call_view import CallView
from .readings import last_taken

NEEDS = {"filter_changed": "blower"}
"""What a unit must have for a change to be offered after a reading (`applies`)."""
IN_THE_MOTOR = frozenset(
    {"ground.grounded", "ground.low", "ground.low_dried", "megger.grounded", "megger.low", "megger.low_dried"}
)
MENDED_BY: dict[str, tuple[str, ...]] = {
    "conductor": ("wire_repaired",),
    "connection": ("connection_remade",),
    "fuse": ("protection_reset",),
    "breaker": ("protection_reset",),
    "starter_overload": ("protection_reset",),
    "belt_look": ("belt_set",),
    "load_look": ("load_freed",),
    "vent_drain": ("drain_cleared",),
}
"""The change that mends each kind of recorded damage."""


def note_change(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Note something done to the unit now. Raises `InvalidField` naming the field."""
    what = fields.get("what", "")
    if what not in CHANGES:
        raise invalid("what", what, "one of " + ", ".join(CHANGES))
    with act_on(db, call_id, context, "note_change") as (session, row):
        texts = {name: fields[name].strip() or None for name in ("note", "part_no") if name in fields}
        change = {"what": what, "at": _after_the_last(row, context.now), **texts}
        try:
            row.changes = row.changes.changed(made=[*row.changes.made, change])
        except ValidationError as error:
            raise InvalidField(
                [FieldError(f.path.split(".")[-1], f.value, f.expected) for f in field_errors(error)]
            ) from None
        say_of(session, context, CHANGES[what].says)
        if row.practice:
            change_was_made(row, what)


def _after_the_last(row: tables.Call, now: datetime) -> datetime:
    """Now, and after the reading taken last: what was read before a change was read before it."""
    last = last_taken(row)
    return now if last is None else max(now, last + timedelta(seconds=1))


def take_back_change(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Take back a change that was noted by mistake, by its number. Raises `InvalidField`."""
    with act_on(db, call_id, context, "take_back_change") as (session, row):
        made = row.changes.made
        number = whole_number(fields.get("number", ""), len(made))
        if number is None:
            raise invalid("number", fields.get("number", ""), "the number of a change of this call")
        row.changes = row.changes.changed(made=[change for i, change in enumerate(made) if i != number])
        say_of(session, context, f"Taken back: {CHANGES[made[number].what].says.lower()}")


def offered_after(view: CallView, index: int) -> list[tuple[str, str]]:
    """The changes that a reading asks for, as key and words: what is done about what it found."""
    reading = view.call.readings[index]
    state = view.assessment.judgements[index].state
    if state == "suspect":
        return []
    failed = state == "failed"
    return [
        (what, row.says)
        for what, row in CHANGES.items()
        if has(view.call, NEEDS.get(what, ""))
        and any(_asks(reading, kind, words, failed) for kind, words in row.asked_by.items())
    ]


def _asks(reading: Reading, kind: str, words: tuple[str, ...], failed: bool) -> bool:
    if reading.kind != kind:
        return False
    if kind == "trial":
        return reading.with_ == "other_speed" and reading.value == "runs"
    if kind in ("ground_ohm", "insulation_mohm"):
        return failed and reading.place == "switch_load"
    return reading.value in words if words else failed


def mended_by_steps(view: CallView) -> dict[str, str]:
    """Changes of the unit that steps of the swap are, by the steps that were ticked: the change, its words."""
    ticked = {step.step for step in view.row.steps if step.station == "swap" and not step.skipped}
    here = [row.mends for row in ROWS if row.mends and row.key in ticked]
    return {what: f"{CHANGES[what].says}{f', {note}' if note else ''}" for what, note in here}


def still_open(view: CallView) -> list[str]:
    """Damage that was recorded and is neither mended since nor by a step that was ticked."""
    kinds, done = dict(still_open_kinds(view)), mended_by_steps(view)
    return [says for says in view.assessment.still_open if not set(MENDED_BY.get(kinds.get(says, ""), ())) & set(done)]


def mending(view: CallView) -> list[tuple[str, list[tuple[str, str]]]]:
    """Damage that is still open, each with the changes that mend it."""
    left = set(still_open(view))
    return [
        (says, [(what, CHANGES[what].says) for what in MENDED_BY.get(kind, ())])
        for says, kind in still_open_kinds(view)
        if says in left
    ]


def still_open_kinds(view: CallView) -> list[tuple[str, str]]:
    """Damage still open: its words and the kind of reading that recorded it."""
    kinds = {damage_says(reading): reading.kind for reading in view.call.readings}
    return [(says, kinds[says]) for says in view.assessment.still_open if says in kinds]


def before_power(view: CallView) -> list[str]:
    """What speaks against switching on now, in words; what leaves with a condemned motor does not."""
    trips = view.call.complaint.symptom == "trips"
    failed = any(row.state == "failed" for row in view.assessment.judgements)
    if not (trips or failed or still_open(view)):
        return []
    call = as_it_is_now(view.call) if view.call.changes else view.call
    case = Case(call, view.limits)
    found = [f"Still open: {says}." for says in still_open(view)]
    replaced = view.row.chosen is not None and view.assessment.verdict in (
        "condemn_motor",
        "dry_and_retest",
        "replace_wrong_motor",
    )
    keys = set(case.signals)
    if not replaced and IN_THE_MOTOR & keys:
        found.append("The motor's insulation has failed. Dry or replace it and test to ground first.")
    worn = {kind for says, kind in still_open_kinds(view) if says in still_open(view)}
    if "line_ground.low" in keys and "conductor" not in worn:
        found.append("Low to ground past the switch. Disconnect wire from motor and test each first.")
    if {"cap_can.grounded", "cap.shorted"} & keys and view.row.plan.capacitor is None:
        found.append("The capacitor is shorted or grounded. Replace it first.")
    reason = no_live_tests(case)
    return found or ([reason] if reason and not replaced else [])
