"""An act: saved whole or not at all, once however often it is sent, on the call as its page showed it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ..core.errors import KeenCoilError, NotFound, invalid
from ..store import tables
from ..store.database import Database
from .calls.search_text import search_text_of
from .calls.whole_call import whole_call

FOUND_BY = (
    "save_complaint",
    "save_plates",
    "pick_motor",
    "pick_motor_at_fault",
    "add_follow_up",
    "drop_follow_up",
    "close_call",
)
"""Acts on a call that change the words it is found by."""
WITH_PRACTICE = {"practice": True}
"""For queries by a call's own id: a practice call is meant as well. Lists leave those out."""
_ACT_ID = re.compile(r"[A-Za-z0-9_-]{8,64}")


class StaleVersion(KeenCoilError):
    """The call was changed since the page was made: which call, and the version that page showed."""

    status, title = 409, "Somebody else changed this"

    def __init__(self, call_id: int, version: int) -> None:
        super().__init__(call_id, version)
        self.call_id = call_id
        self.version = version

    def __str__(self) -> str:
        return f"call {self.call_id} was changed"


class CallClosed(KeenCoilError):
    """The call is closed; nothing may be changed."""

    status, title = 409, "This call is closed"

    def __str__(self) -> str:
        return "A closed call stays the way it was handed over."


class DuplicateSubmission(KeenCoilError):
    """This very act was done before; `call_id` is what it was about."""

    status, title = 303, "Already done"

    def __init__(self, call_id: int | None) -> None:
        super().__init__(call_id)
        self.call_id = call_id


@dataclass(frozen=True)
class ActContext:
    """What a page sends with an act: the act's id, the version of the call it shows, the time now, who does it.

    `who` is the id of the technician that was chosen in Settings on this device, None when nobody was.
    """

    act_id: str
    version: int
    now: datetime
    who: int | None = None


def record_act(session: Session, context: ActContext, name: str, call_id: int | None) -> tables.Act:
    """Note an act by its id. Raises `DuplicateSubmission` on a repeat, `InvalidField` on an id that is none."""
    if not _ACT_ID.fullmatch(context.act_id):
        raise invalid("act_id", context.act_id, "the id the page made")
    done = session.get(tables.Act, context.act_id)
    if done is not None:
        raise DuplicateSubmission(done.call_id)
    technician = technician_of(session, context)
    who = technician.name if technician else None
    act = tables.Act(id=context.act_id, name=name, call_id=call_id, done_at=context.now, who=who)
    session.add(act)
    return act


def say_of(session: Session, context: ActContext, says: str) -> None:
    """What this very act did, in words, for whoever asks what changed."""
    act = session.get(tables.Act, context.act_id)
    if act is not None:
        act.says = says[:300]


def technician_of(session: Session, context: ActContext) -> tables.Technician | None:
    """Who does this, as chosen in Settings; None when nobody was, or is no longer there."""
    return None if context.who is None else session.get(tables.Technician, context.who)


@contextmanager
def act_on(db: Database, call_id: int, context: ActContext, name: str) -> Iterator[tuple[Session, tables.Call]]:
    """One act on an open call, in one transaction. The call's version grows by one.

    Raises `DuplicateSubmission`, `NotFound`, `CallClosed` or `StaleVersion`; then nothing is saved.
    """
    with db.writing() as session:
        row = call_row(session, call_id)
        act = record_act(session, context, name, call_id)
        if row.closed_at is not None:
            raise CallClosed
        if row.version != context.version:
            raise StaleVersion(call_id, context.version)
        row.version += 1
        act.version = row.version
        yield session, row
        whole_call(row)  # what cannot go out again is not kept
        if name in FOUND_BY:
            row.search_text = search_text_of(row)


def call_row(session: Session, call_id: int) -> tables.Call:
    """The row of a call. Raises `NotFound`."""
    row = session.get(tables.Call, call_id, execution_options=WITH_PRACTICE)
    if row is None:
        raise NotFound(f"call {call_id}")
    return row


ProgressCallback = Callable[[int, int], None]


def no_progress(done: int, of: int) -> None:
    """Tell nobody."""
