"""Follow-ups over all calls: those that are due, as a calendar, settled with a word."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select

from ...core.errors import NotFound, invalid
from ...formats.ics import Appointment, calendar_of
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, record_act
from .hand_over import KINDS, LONGEST_SAYS


@dataclass(frozen=True)
class Due:
    """A follow-up with its place."""

    id: int
    call_id: int
    kind: str
    says: str
    due_on: date
    site: str
    unit: str
    opened_at: datetime


def open_follow_ups(db: Database, call_id: int | None = None) -> list[Due]:
    """Follow-ups that nobody has settled, soonest first; of one call or of all."""
    row = tables.FollowUp
    query = (
        select(row, tables.Site.name, tables.Unit.name, tables.Call.opened_at)
        .join(row.call)
        .join(tables.Call.motor)
        .join(tables.Motor.unit)
        .join(tables.Unit.site)
        .where(row.settled_at.is_(None))
        .order_by(row.due_on, row.id)
    )
    if call_id is not None:
        query = query.where(row.call_id == call_id)
    with db.reading() as session:
        return [
            Due(one.id, one.call_id, one.kind, one.says, one.due_on, site, unit, opened)
            for one, site, unit, opened in session.execute(query)
        ]


def as_calendar(due: list[Due], now: datetime) -> bytes:
    """Follow-ups as an iCalendar file."""
    return calendar_of(
        (
            Appointment(
                f"{one.opened_at:%Y%m%dT%H%M%SZ}-{one.id}@keen-coil",
                one.due_on,
                f"{KINDS[one.kind].capitalize()}: {one.site}, {one.unit}",
                f"{one.site}, {one.unit}",
                f"{one.says} (call {one.call_id})",
            )
            for one in due
        ),
        now,
    )


def settle(db: Database, context: ActContext, follow_up: int, how: str) -> int:
    """Settle a follow-up with a word on how; the call it was of. Raises `NotFound` or `InvalidField`."""
    says = how.strip()
    if not 3 <= len(says) <= LONGEST_SAYS:
        raise invalid("settled", says[:40] or "nothing", f"what was done, 3 to {LONGEST_SAYS} characters")
    with db.writing() as session:
        row = session.get(tables.FollowUp, follow_up)
        if row is None or row.settled_at is not None:
            raise NotFound("this follow-up")
        record_act(session, context, "settle_follow_up", row.call_id)
        row.settled_at, row.settled = context.now, says
        return row.call_id
