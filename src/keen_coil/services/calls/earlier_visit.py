"""An earlier visit, taken over as found: its readings, marks and changes, its verdict with who and when."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.diagnosis.sentence import HEADLINES
from ...core.errors import invalid
from ...core.record import KeptChanges
from ...core.technician_judgement import TechnicianJudgement
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..people.settings import limits_in
from .call_view import CallView, call_view_of, whole_calls

NOBODY = "an earlier visit"


@dataclass(frozen=True)
class EarlierVisit:
    """A closed call about the motor that is still in: when, who, what it came to, how many readings and marks."""

    call_id: int
    on: datetime
    who: str
    says: str
    readings: int
    marks: int


def earlier_visits(db: Database, view: CallView) -> list[EarlierVisit]:
    """Closed calls about this motor, the latest first; those whose readings are here already are left out."""
    with db.reading() as session:
        found = [_as_line(row) for row in _closed(session, view.row)]
    here = {_key(reading.body) for reading in view.row.readings}
    return [line for line, keys in found if keys - here or (not keys and line.marks)]


def _closed(session: Session, row: tables.Call) -> list[tables.Call]:
    query = whole_calls().where(
        tables.Call.motor_id == row.motor_id,
        tables.Call.id != row.id,
        tables.Call.closed_at.is_not(None),
        tables.Call.practice.is_(False),
    )
    return list(session.scalars(query.order_by(tables.Call.closed_at.desc())).unique())


def _as_line(row: tables.Call) -> tuple[EarlierVisit, set[tuple[str, ...]]]:
    verdict = row.outcome.verdict if row.outcome else "not_proved"
    bodies = _found(row)
    line = EarlierVisit(
        row.id,
        row.closed_at or row.opened_at,
        row.technician.name if row.technician else "",
        HEADLINES[verdict],
        len(bodies),
        len(row.plan.swap.marks),
    )
    return line, {_key(body) for body in bodies}


def _found(row: tables.Call) -> list[dict[str, Any]]:
    """The readings as found that stood at the end of a visit, those corrected left out, each with its time."""
    gone = {reading.body.get("replaces") for reading in row.readings}
    bodies = [dict(reading.body) for number, reading in enumerate(row.readings) if number not in gone]
    found = [body for body in bodies if body.get("stage", "found") == "found"]
    opened = row.opened_at.isoformat(timespec="seconds")
    return [{"taken_at": opened, **{k: v for k, v in body.items() if k != "replaces"}} for body in found]


def _key(body: Mapping[str, Any]) -> tuple[str, ...]:
    return tuple(str(body.get(name)) for name in ("kind", "value", "taken_at", "pair", "at"))


def use_earlier_visit(db: Database, call_id: int, context: ActContext, earlier: str) -> None:
    """Take an earlier visit over as found. Raises `InvalidField` when it is none of this motor's closed calls."""
    with act_on(db, call_id, context, "take_over") as (session, row):
        was = next((call for call in _closed(session, row) if str(call.id) == earlier), None)
        if was is None:
            raise invalid("earlier", earlier[:20], "a closed call about this motor")
        had = {_key(reading.body) for reading in row.readings}
        by = was.technician
        for body in _found(was):
            if _key(body) in had:
                continue
            position = len(row.readings)
            row.readings.append(tables.Reading(position=position, kind=body["kind"], body=body, technician=by))
        made = [change for change in was.changes.made if change not in row.changes.made]
        row.changes = KeptChanges(made=[*made, *row.changes.made])
        marks = {**was.plan.swap.marks, **row.plan.swap.marks}
        row.plan = row.plan.changed(
            swap=row.plan.swap.changed(marks=marks), judgement=row.plan.judgement or _judgement(session, was)
        )
        call_view_of(row)


def _judgement(session: Session, was: tables.Call) -> TechnicianJudgement | None:
    """The judgment of the earlier visit; where the program had proved it then, that, with who was there."""
    if was.plan.judgement is not None:
        return was.plan.judgement
    verdict = was.outcome.verdict if was.outcome else "not_proved"
    if verdict == "not_proved":
        return None
    view = call_view_of(was, limits_in(session))
    return TechnicianJudgement(
        verdict=verdict,
        why=f"found on an earlier visit: {view.sentence}"[:2000],
        by=was.technician.name if was.technician else NOBODY,
        at=was.closed_at or was.opened_at,
    )
