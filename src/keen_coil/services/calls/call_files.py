"""A call as a file out and in: the call as the core knows it, with its record; readings as CSV."""

from __future__ import annotations

import itertools
import json
from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from ...core.call import Call, read_call, write_call
from ...core.errors import FieldError, InvalidField
from ...core.record import CallRecord, Identities, KeptOutcome
from ...formats.readings_csv import read_readings, write_readings
from ...store import tables
from ...store.columns import new_uid, uid_of
from ...store.database import Database
from ..acts import WITH_PRACTICE, ActContext, act_on, record_act, technician_of
from ..people.people import technician_named
from ..stations.hand_over import install
from .call_view import CallView, call_view_of
from .search_text import search_text_of
from .whole_call import CALL_COLUMNS, call_data, record_of_call

BROUGHT_IN = "Imported"


def export_call(view: CallView) -> dict[str, Any]:
    """The call as data for a call file, its record with it."""
    return write_call(view.call.model_copy(update={"record": record_of_call(view.row)}))


def import_call(db: Database, context: ActContext, call: Call, name: str) -> int:
    """Bring a call file in as a new call; its id. With a record it comes back as it was, on a unit of its own.

    A unit of the same name that is there already is left alone: the one brought in says when it came. A call that is
    here as the file has it is not brought in again; its id is what it has here. One that went on since, here or there,
    comes in beside it: only a sync brings both together.
    """
    data = write_call(call)
    record = call.record or CallRecord(site=BROUGHT_IN, unit=name[:80] or "call file", opened_at=context.now)
    known = identities_of(call)
    with db.writing() as session:
        act = record_act(session, context, "import_call", None)
        here = _here(session, known.call) if known else None
        if here is not None and known is not None:
            if _is_the_same(here, call):
                act.call_id = here.id
                return here.id
            known = Identities(call=new_uid(), unit=known.unit, motor=new_uid())
        people = {name: technician_named(session, name) for name in {record.technician, *record.readings_by}}
        motor = tables.Motor(
            uid=_free(session, tables.Motor, known.motor if known else None),
            unit=_unit(session, record, data.get("unit", {}), context.now, known.unit if known else None),
            plate=data.get("motor", {}),
            place=record.place,
            installation=call.installation,
            found_good=record.found_good,
        )
        row = tables.Call(
            uid=known.call if known else new_uid(),
            motor=motor,
            technician=people[record.technician],
            complaint=data.get("complaint", {}),
            meters=data.get("meters", {}),
            changes={"made": data.get("changes", [])},
            chosen=data.get("chosen_motor"),
            **{name: getattr(record, name) for name in CALL_COLUMNS},
        )
        row.power_at = record.power_at or context.now
        if call.judgement is not None:
            row.plan = record.plan.changed(judgement=call.judgement)
        if row.closed_at is not None and row.outcome is None:
            row.outcome = KeptOutcome(verdict="not_proved")
        row.readings = _readings(data.get("readings", []), record.readings_by, people)
        row.steps = [tables.Step(**step.model_dump()) for step in record.steps]
        row.follow_ups = [tables.FollowUp(**item.model_dump()) for item in record.follow_ups]
        row.parts = [tables.PartUsed(**part.model_dump()) for part in record.parts]
        of_call: dict[str, list[Any]] = {"readings": row.readings, "follow_ups": row.follow_ups, "parts": row.parts}
        with session.no_autoflush:
            for name, rows in of_call.items():
                for one, uid in zip(rows, getattr(known, name, []), strict=False):
                    one.uid = _free(session, type(one), uid)
        session.add(row)
        session.flush()
        if row.closed_at is not None and row.chosen and not (row.outcome and row.outcome.unfinished):
            install(session, row, row.closed_at)
        call_view_of(row)
        row.search_text = search_text_of(row)
        act.call_id = row.id
        return row.id


def identities_of(call: Call) -> Identities | None:
    """What a call of a file is known by: of an earlier file that does not say, made from all that it says."""
    if call.record is None:
        return None
    if call.record.identities is not None:
        return call.record.identities
    opened_ms, text = int(call.record.opened_at.timestamp() * 1000), json.dumps(write_call(call), sort_keys=True)
    text += call.record.model_dump_json()
    return Identities(call=uid_of(opened_ms, f"call {text}"), unit=new_uid(), motor=new_uid())


def _here(session: Session, uid: str) -> tables.Call | None:
    return session.scalar(select(tables.Call).where(tables.Call.uid == uid), execution_options=WITH_PRACTICE)


def _is_the_same(row: tables.Call, call: Call) -> bool:
    """Whether a call is here as a file has it; an earlier file, known by all it says, is what it became."""
    if call.record is not None and call.record.identities is None:
        return True
    return export_call(call_view_of(row)) == write_call(call)


def _free(session: Session, table: Any, uid: str | None) -> str:
    """An identity from a file where nothing here has it, else one of its own."""
    taken = uid is None or session.scalar(select(table.id).where(table.uid == uid), execution_options=WITH_PRACTICE)
    return new_uid() if taken else str(uid)


def _unit(session: Session, record: CallRecord, plate: dict[str, Any], now: datetime, uid: str | None) -> tables.Unit:
    site = session.scalar(select(tables.Site).where(tables.Site.name == record.site)) or tables.Site(name=record.site)
    names = {unit.name for unit in site.units}
    came = f"{record.unit[:150]} ({now:%Y-%m-%d %H:%M:%S}"
    others = (f"{came}, {number})" for number in itertools.count(2))
    name = next(name for name in itertools.chain((record.unit, f"{came})"), others) if name not in names)
    unit = tables.Unit(uid=_free(session, tables.Unit, uid), name=name, plate=plate, site=site)
    session.add(unit)
    return unit


def _readings(
    bodies: list[dict[str, Any]], by: list[str | None], people: Mapping[str | None, tables.Technician | None]
) -> list[tables.Reading]:
    names = [*by, *[None] * len(bodies)]
    return [
        tables.Reading(position=position, kind=body["kind"], body=body, technician=people.get(names[position]))
        for position, body in enumerate(bodies)
    ]


def readings_lines(db: Database, call_id: int | None = None) -> Iterator[str]:
    """The readings of a call, or of all but practice calls, as lines of CSV."""
    call, motor, reader, opener = tables.Call, tables.Motor, aliased(tables.Technician), aliased(tables.Technician)
    query = (
        select(call.id, tables.Site.name, tables.Unit.name, motor.plate, reader.name, opener.name, tables.Reading.body)
        .select_from(call)
        .join(tables.Reading, tables.Reading.call_id == call.id)
        .join(motor, motor.id == call.motor_id)
        .join(tables.Unit, tables.Unit.id == motor.unit_id)
        .join(tables.Site, tables.Site.id == tables.Unit.site_id)
        .outerjoin(reader, reader.id == tables.Reading.technician_id)
        .outerjoin(opener, opener.id == call.technician_id)
        .where(call.id == call_id if call_id is not None else call.practice.is_(False))
        .order_by(call.id, tables.Reading.position)
        .execution_options(yield_per=500, practice=True)
    )
    with db.reading() as session:
        yield from write_readings((_place(*place), body) for *place, body in session.execute(query))


def _place(
    call: int, site: str, unit: str, plate: Mapping[str, Any], reader: str | None, opener: str | None
) -> dict[str, Any]:
    return {
        "call": call,
        "site": site,
        "unit": unit,
        "role": plate.get("role"),
        "motor": plate.get("part_no"),
        "who": reader or opener,
    }


def bring_readings(db: Database, call_id: int, context: ActContext, data: bytes) -> int:
    """Add the readings of a CSV file to a call, all or none; how many. Raises `InvalidField` naming `row N.column`."""
    bodies = read_readings(data)
    with act_on(db, call_id, context, "bring_readings") as (session, row):
        had, who = len(row.readings), technician_of(session, context)
        for body in bodies:
            if "replaces" in body:
                body["replaces"] += had
        try:
            read_call({**call_data(row), "readings": [*(one.body for one in row.readings), *bodies]})
        except InvalidField as error:
            raise InvalidField([_as_row(fault, had) for fault in error.errors]) from None
        for place, body in enumerate(bodies):
            session.add(tables.Reading(call=row, position=had + place, kind=body["kind"], body=body, technician=who))
        return len(bodies)


def _as_row(fault: FieldError, had: int) -> FieldError:
    """A fault of a call file's reading as one of the CSV's row."""
    first, _, rest = fault.path.removeprefix("readings.").partition(".")
    number = f"row {int(first) - had + 2}" if first.isdecimal() else first
    return FieldError(f"{number}.{rest}" if rest else number, fault.value, fault.expected)
