"""Calls: open a new one, bring one in from a file, change its complaint, close it; the board."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import FieldError, InvalidField, NotFound, invalid
from ...core.installation import Installation
from ...core.limits import Limits
from ...core.unit_kinds import motors_in_words, roles_in
from ...core.vocabulary import UnitKind, words_of
from ...store import tables
from ...store.database import Database
from ..acts import WITH_PRACTICE, ActContext, act_on, record_act, technician_of
from ..people.people import technician_named, van_of_call
from ..people.settings import limits_in, schools_in
from .call_view import CallView, call_view_of, whole_calls
from .search_text import search_text_of

LONGEST_NAME = 120
OPEN_SHOWN, CLOSED_SHOWN = 60, 8
PLACES_OFFERED = 250


@dataclass(frozen=True)
class BoardRow:
    """A line of the board."""

    view: CallView
    site: str
    unit: str


def board(db: Database) -> tuple[list[BoardRow], list[BoardRow]]:
    """Open calls, newest first, and the latest closed ones."""
    with db.reading() as session:
        query = whole_calls()
        opened = query.where(tables.Call.closed_at.is_(None)).order_by(tables.Call.opened_at.desc()).limit(OPEN_SHOWN)
        closed = query.where(tables.Call.closed_at.is_not(None)).order_by(tables.Call.closed_at.desc())
        limits = limits_in(session)
        rows = [[_row(call, limits) for call in session.scalars(part)] for part in (opened, closed.limit(CLOSED_SHOWN))]
        return rows[0], rows[1]


def _row(call: tables.Call, limits: Limits) -> BoardRow:
    return BoardRow(call_view_of(call, limits), call.motor.unit.site.name, call.motor.unit.name)


def version_of_call(db: Database, call_id: int) -> int:
    """The version of a call, which grows with every act on it. Raises `NotFound`."""
    with db.reading() as session:
        found = session.scalar(
            select(tables.Call.version).where(tables.Call.id == call_id), execution_options=WITH_PRACTICE
        )
    if found is None:
        raise NotFound(f"call {call_id}")
    return found


def places(db: Database) -> list[tuple[str, str]]:
    """Sites and units by name, to choose from: the latest ones where there are very many."""
    with db.reading() as session:
        query = select(tables.Site.name, tables.Unit.name).join(tables.Unit.site)
        found = session.execute(query.order_by(tables.Unit.id.desc()).limit(PLACES_OFFERED))
        return sorted((site, unit) for site, unit in found)


def technicians(db: Database) -> list[str]:
    """Names of the technicians."""
    with db.reading() as session:
        return list(session.scalars(select(tables.Technician.name).order_by(tables.Technician.name)))


def open_call(db: Database, context: ActContext, fields: Mapping[str, str]) -> int:
    """Open a call on a site's unit, both made when new; its id. The last motor of that role is taken up again.

    `unit_kind` is asked for where the unit's kind is not known yet, and never assumed. Raises `InvalidField` naming
    the field.
    """
    names = {key: fields.get(key, "").strip() for key in ("site", "unit", "technician")}
    kind = fields.get("unit_kind", "").strip()
    faults = [
        FieldError(key, names[key][:40] or "nothing", f"a name of 1 to {LONGEST_NAME} characters")
        for key in ("site", "unit")
        if not 1 <= len(names[key]) <= LONGEST_NAME
    ]
    if kind and kind not in words_of(UnitKind):
        faults.append(FieldError("unit_kind", kind[:40], "one of " + ", ".join(words_of(UnitKind))))
    complaint = _complaint(fields)
    if faults:
        raise InvalidField(faults)
    with db.writing() as session:
        act = record_act(session, context, "open_call", None)
        schools = schools_in(session)
        technician = technician_named(session, names["technician"]) or technician_of(session, context)
        unit = _unit_at(session, names["site"], names["unit"])
        if not unit.plate.get("kind"):
            if "unit_kind" in fields and not kind:
                raise invalid("unit_kind", "nothing", "the unit type. Much of the path depends on it")
            unit.plate = unit.plate | ({"kind": kind} if kind else {})
        motor = _motor_in(unit, fields.get("role", "").strip())
        row = tables.Call(
            motor=motor,
            technician=technician,
            opened_at=context.now,
            complaint=complaint,
            meters={},
            power="energised",
            power_at=context.now,
            school=schools.sizing,
        )
        row.van = van_of_call(row)
        call_view_of(row)
        row.search_text = search_text_of(row)
        session.add(row)
        session.flush()
        act.call_id = row.id
        return row.id


def _complaint(fields: Mapping[str, str]) -> dict[str, str]:
    pairs = ((key, fields.get(key, "").strip()) for key in ("says", "symptom", "board_code"))
    return {key: text for key, text in pairs if text}


def _unit_at(session: Session, site: str, unit: str) -> tables.Unit:
    """The unit of this name at the site; new rows where there are none."""
    place = session.scalar(select(tables.Site).where(tables.Site.name == site)) or tables.Site(name=site)
    there = next((row for row in place.units if row.name == unit), None)
    return there or tables.Unit(name=unit, plate={}, site=place)


def _motor_in(unit: tables.Unit, role: str) -> tables.Motor:
    """The motor of this role that is in the unit now, a new row where there is none.

    No role: the only one that a unit of its kind has, else that of the only motor known in it. Raises `InvalidField`.
    """
    running = [motor for motor in unit.motors if motor.removed_at is None]
    could = roles_in(unit.plate.get("kind"))
    if not role:
        known = {str(motor.plate.get("role")) for motor in running if motor.plate.get("role")}
        role = could[0] if len(could) == 1 else known.pop() if len(known) == 1 else ""
    if role not in could:
        named = motors_in_words(unit.plate.get("kind"))
        raise invalid("role", role[:40] or "nothing", f"the motor it is about: {named}")
    of_role = [motor for motor in running if motor.plate.get("role") == role]
    return of_role[-1] if of_role else tables.Motor(unit=unit, plate={"role": role}, installation=Installation())


def save_complaint(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Change what the customer says, the symptom, the board's code. Raises `InvalidField`."""
    with act_on(db, call_id, context, "save_complaint") as (_, row):
        row.complaint = _complaint(fields)
        call_view_of(row)
