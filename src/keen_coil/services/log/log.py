"""The log: calls found by any word, figures over them that decide something, each with its calls."""

from __future__ import annotations

import json
import threading
from collections.abc import Callable
from contextlib import nullcontext
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, Select, func, select, text
from sqlalchemy.orm import Session, aliased

from ...core.diagnosis.faults import FAULTS
from ...core.diagnosis.sentence import headline
from ...core.errors import NotFound, invalid
from ...core.record import KeptGood, KeptOutcome
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, call_row, record_act

PAGE, UNITS_SHOWN, CAUSES_SHOWN = 50, 6, 8
MOST_WORDS = 8
BACK_WITHIN = timedelta(days=365)
"""A unit that fails again within this time came back."""
NO_FAILURE = ("no_fault_found", "not_proved")
LONGEST_SAYS = 500


@dataclass(frozen=True)
class Line:
    """A call in a line: where, what it came to, when, who."""

    id: int
    site: str
    unit: str
    unit_id: int
    role: str
    says: str
    opened_at: datetime
    closed_at: datetime | None
    technician: str
    unfinished: bool


@dataclass(frozen=True)
class UnitLine:
    """A unit with how many calls it had, and the latest."""

    id: int
    site: str
    name: str
    calls: int
    last_at: datetime


@dataclass(frozen=True)
class LogPage:
    """A page of the log: calls, units found by the same words, how many calls in all and how many match."""

    lines: list[Line]
    units: list[UnitLine]
    total: int
    found: int
    page: int

    @property
    def pages(self) -> int:
        """How many pages there are, at least one."""
        return max(1, -(-self.found // PAGE))


@dataclass(frozen=True)
class Share:
    """A cause with the number of closed calls it was found on, and its share of those with a cause."""

    fault: str
    says: str
    calls: int
    share: float


@dataclass(frozen=True)
class Figures:
    """Figures over the closed calls of a time, and how many of those came back, were left unfinished, proved wrong."""

    closed: int
    failures: int
    came_back: int
    found_good: int
    condemned: int
    unfinished: int
    causes: list[Share]
    since: datetime | None


def _verdict() -> ColumnElement[Any]:
    return func.json_extract(tables.Call.outcome, "$.verdict")


def _fault() -> ColumnElement[Any]:
    return func.json_extract(tables.Call.outcome, "$.fault")


def _unfinished() -> ColumnElement[Any]:
    return func.json_extract(tables.Call.outcome, "$.unfinished")


def _failed() -> list[ColumnElement[bool]]:
    return [tables.Call.closed_at.is_not(None), _verdict().not_in(NO_FAILURE)]


def _came_back() -> list[ColumnElement[bool]]:
    """Calls with a failure whose unit had failed in the same role within the time before."""
    before, motor = aliased(tables.Call), aliased(tables.Motor)
    mine = tables.Motor
    earlier = (
        select(before.id)
        .join(motor, motor.id == before.motor_id)
        .where(
            motor.unit_id == mine.unit_id,
            func.json_extract(motor.plate, "$.role").is_(func.json_extract(mine.plate, "$.role")),
            before.id != tables.Call.id,
            before.closed_at.is_not(None),
            before.closed_at <= tables.Call.opened_at,
            func.julianday(before.closed_at) >= func.julianday(tables.Call.opened_at) - BACK_WITHIN.days,
            func.json_extract(before.outcome, "$.verdict").not_in(NO_FAILURE),
        )
        .correlate(tables.Call, mine)
    )
    return [*_failed(), earlier.exists()]


def _condemned() -> list[ColumnElement[bool]]:
    return [tables.Call.closed_at.is_not(None), _verdict() == "condemn_motor"]


FIGURES: dict[str, tuple[str, Callable[[], list[ColumnElement[bool]]]]] = {
    "open": ("open", lambda: [tables.Call.closed_at.is_(None)]),
    "failures": ("with a failure", _failed),
    "came_back": ("came back within a year", _came_back),
    "condemned": ("motor condemned", _condemned),
    "found_good": ("condemned, later found good", lambda: [*_condemned(), tables.Motor.found_good.is_not(None)]),
    "unfinished": ("handed over unfinished", lambda: [_unfinished().is_not(None)]),
}
"""What a figure counts, as the calls behind it; `fault:NAME` is one more for each fault."""


def of_figure(name: str) -> list[ColumnElement[bool]]:
    """The calls behind a figure. Raises `InvalidField`."""
    if name.startswith("fault:") and name[6:] in FAULTS:
        return [tables.Call.closed_at.is_not(None), _fault() == name[6:]]
    if name not in FIGURES:
        raise invalid("of", name[:40], "one of " + ", ".join(FIGURES) + ", fault:NAME")
    return FIGURES[name][1]()


def title_of_figure(name: str) -> str:
    """A figure in words."""
    return FAULTS[name[6:]].says if name.startswith("fault:") else FIGURES[name][0]


_SEARCHES = threading.BoundedSemaphore(1)
"""Searches at once: each reads the words of every call, and would keep pages waiting that need a moment only."""


def search(db: Database, words: str = "", of: str = "", page: int = 1, since: datetime | None = None) -> LogPage:
    """Calls that hold every word, of a figure where one is named, newest first; units found by the same words.

    Raises `InvalidField` on a figure that is none.
    """
    call = tables.Call
    wanted: list[ColumnElement[bool]] = [
        func.instr(call.search_text, word) > 0 for word in words.lower().split()[:MOST_WORDS]
    ]
    wanted += of_figure(of) if of else []
    wanted += [call.opened_at >= since] if since else []
    with _SEARCHES if words else nullcontext(), db.reading() as session:
        total = session.scalar(select(func.count()).select_from(call)) or 0
        newest = (call.opened_at.desc(), call.id.desc())
        asked = select(call.id).where(*wanted)
        asked = asked.join(call.motor) if of else asked
        shown = session.scalars(asked.order_by(*newest).limit(PAGE).offset(PAGE * (page - 1))).all()
        rows = session.execute(calls_as_lines().where(call.id.in_(shown)).order_by(*newest))
        units = _units(session, words) if words and not of else []
        found = len(shown) if page == 1 and len(shown) < PAGE else _count(session, asked)
        return LogPage([line_of(*row) for row in rows], units, total, found, page)


def _count(session: Session, asked: Select[Any]) -> int:
    return session.scalar(select(func.count()).select_from(asked.subquery())) or 0


def calls_as_lines() -> Select[Any]:
    """Calls with what `line_of` makes a line of."""
    call = tables.Call
    return (
        select(
            call.id,
            tables.Site.name,
            tables.Unit.name,
            tables.Unit.id,
            tables.Motor.plate,
            call.outcome,
            call.chosen,
            call.complaint,
            call.opened_at,
            call.closed_at,
            tables.Technician.name,
        )
        .join(call.motor)
        .join(tables.Motor.unit)
        .join(tables.Unit.site)
        .outerjoin(call.technician)
    )


def line_of(
    call_id: int,
    site: str,
    unit: str,
    unit_id: int,
    plate: dict[str, Any],
    outcome: KeptOutcome | None,
    chosen: dict[str, Any] | None,
    complaint: dict[str, Any],
    opened: datetime,
    closed: datetime | None,
    who: str | None,
) -> Line:
    """A call in a line, from a row of `calls_as_lines`."""
    role = str(plate.get("role") or "motor").replace("_", " ")
    return Line(
        call_id,
        site,
        unit,
        unit_id,
        role,
        said_of(outcome, chosen, complaint.get("says", "")),
        opened,
        closed,
        who or "",
        bool(outcome and outcome.unfinished),
    )


def said_of(outcome: KeptOutcome | None, chosen: dict[str, Any] | None, says: str = "") -> str:
    """What a call came to, from what was kept when it was closed; what was reported while it is open."""
    if outcome is None:
        return f"Open: {says}" if says else "Open."
    fault = FAULTS.get(outcome.fault or "")
    parts = [headline(outcome.verdict), fault.says[:1].upper() + fault.says[1:] if fault else ""]
    parts += [f"Fitted {chosen['part_no']}" if chosen and chosen.get("part_no") else ""]
    parts += ["Replaced with no confirmed cause" if outcome.unjudged else ""]
    return ". ".join(part.rstrip(".") for part in parts if part) + "."


def _units(session: Session, words: str) -> list[UnitLine]:
    """Units whose site, name or motors hold every word, the latest visited first."""
    parts = (
        select(func.group_concat(func.json_extract(tables.Motor.plate, "$.part_no"), " "))
        .where(tables.Motor.unit_id == tables.Unit.id)
        .scalar_subquery()
    )
    text = func.lower(tables.Site.name + " " + tables.Unit.name + " " + func.coalesce(parts, ""))
    wanted = [func.instr(text, word) > 0 for word in words.lower().split()[:MOST_WORDS]]
    ids = session.scalars(select(tables.Unit.id).join(tables.Unit.site).where(*wanted)).all()
    # one parameter however many they are
    among = select(func.json_each(json.dumps(list(ids))).table_valued("value").c.value)
    query = (
        select(
            tables.Unit.id,
            tables.Site.name,
            tables.Unit.name,
            func.count(tables.Call.id),
            func.max(tables.Call.opened_at),
        )
        .join(tables.Unit.site)
        .join(tables.Unit.motors)
        .join(tables.Call, tables.Call.motor_id == tables.Motor.id)
        .where(tables.Unit.id.in_(among))
        .group_by(tables.Unit.id)
        .order_by(func.max(tables.Call.opened_at).desc())
    )
    return [UnitLine(*row) for row in session.execute(query.limit(UNITS_SHOWN))]


def figures(db: Database, since: datetime | None = None) -> Figures:
    """The figures over closed calls opened since a moment, all without; counted again when one of them changed."""
    with db.reading() as session:
        key = (str(db.path), since, *session.execute(_CHANGED).one())
    if key not in _COUNTED:
        if len(_COUNTED) >= MOST_COUNTED:
            _COUNTED.clear()
        _COUNTED[key] = _figures(db, since)
    return _COUNTED[key]


_COUNTED: dict[tuple[Any, ...], Figures] = {}
MOST_COUNTED = 16
_CHANGED = text(
    "select (select count(*) from call), (select max(id) from call), (select max(closed_at) from call), "
    "(select count(*) from motor where found_good is not null), "
    "(select max(done_at) from act where name = 'import_log')"
)
"""What changes whenever a figure can: a call more or less, one closed later, a motor found good, another log."""


def _figures(db: Database, since: datetime | None) -> Figures:
    with db.reading() as session:

        def count(*conditions: ColumnElement[bool]) -> int:
            query = select(func.count()).select_from(tables.Call).join(tables.Call.motor)
            return session.scalar(query.where(*_since(since), *conditions)) or 0

        causes = session.execute(
            select(_fault(), func.count())
            .where(*_since(since), *_failed(), _fault().is_not(None))
            .group_by(_fault())
            .order_by(func.count().desc(), _fault())
        ).all()
        every = sum(number for _, number in causes) or 1
        return Figures(
            count(tables.Call.closed_at.is_not(None)),
            count(*_failed()),
            count(*_came_back()),
            count(*of_figure("found_good")),
            count(*_condemned()),
            count(*of_figure("unfinished")),
            [
                Share(fault, FAULTS[fault].says, number, number / every)
                for fault, number in causes[:CAUSES_SHOWN]
                if fault in FAULTS
            ],
            since,
        )


def _since(since: datetime | None) -> list[ColumnElement[bool]]:
    return [tables.Call.opened_at >= since] if since else []


def found_good(db: Database, call_id: int, context: ActContext, how: str) -> None:
    """Note of a closed call that the motor it condemned was tested again and is good. Raises `InvalidField`."""
    says = how.strip()
    if not 3 <= len(says) <= LONGEST_SAYS:
        raise invalid("good", says[:40] or "nothing", f"a test, in 3 to {LONGEST_SAYS} characters")
    with db.writing() as session:
        row = call_row(session, call_id)
        record_act(session, context, "found_good", call_id)
        if row.closed_at is None or row.outcome is None or row.outcome.verdict != "condemn_motor":
            raise NotFound("a closed call that condemned its motor")
        row.motor.found_good = KeptGood(on=f"{context.now:%Y-%m-%d}", says=says, call=call_id)
