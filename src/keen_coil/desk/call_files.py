"""A call as a file out and in: the call as the core knows it, with its record; readings as CSV."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.call import Call, read_call, write_call
from ..core.errors import FieldError, InvalidField
from ..core.record import CallRecord, KeptOutcome
from ..formats.readings_csv import read_readings, write_readings
from ..store import tables
from ..store.database import Database
from .acts import ActContext, act_on, record_act, technician_of
from .call_view import CallView, call_view_of, whole_calls
from .hand_over import install
from .people import technician_named
from .search_text import search_text_of
from .whole_call import call_data, record_of_call

BROUGHT_IN = "Imported"


def export_call(view: CallView) -> dict[str, Any]:
    """The call as data for a call file, its record with it."""
    return write_call(view.call.model_copy(update={"record": record_of_call(view.row)}))


def import_call(db: Database, context: ActContext, call: Call, name: str) -> int:
    """Bring a call file in as a new call; its id. With a record it comes back as it was, on a unit of its own.

    A unit of the same name that is there already is left alone: the one brought in says when it came.
    """
    data = write_call(call)
    record = call.record or CallRecord(site=BROUGHT_IN, unit=name[:80] or "call file", opened_at=context.now)
    with db.writing() as session:
        act = record_act(session, context, "import_call", None)
        people = {name: technician_named(session, name) for name in {record.technician, *record.readings_by}}
        motor = tables.Motor(
            unit=_unit(session, record, data.get("unit", {}), context.now),
            plate=data.get("motor", {}),
            place=record.place,
            installation=call.installation,
            found_good=record.found_good,
        )
        row = tables.Call(
            motor=motor,
            technician=people[record.technician],
            opened_at=record.opened_at,
            closed_at=record.closed_at,
            complaint=data.get("complaint", {}),
            meters=data.get("meters", {}),
            changes={"made": data.get("changes", [])},
            chosen=data.get("chosen_motor"),
            power=record.power,
            power_at=record.power_at or context.now,
            school=record.school,
            van=record.van,
            plan=record.plan if call.judgement is None else record.plan.changed(judgement=call.judgement),
            outcome=record.outcome,
        )
        if row.closed_at is not None and row.outcome is None:
            row.outcome = KeptOutcome(verdict="not_proved")
        row.readings = _readings(data.get("readings", []), record.readings_by, people)
        row.steps = [tables.Step(**step.model_dump()) for step in record.steps]
        row.follow_ups = [tables.FollowUp(**item.model_dump()) for item in record.follow_ups]
        row.parts = [tables.PartUsed(**part.model_dump()) for part in record.parts]
        session.add(row)
        session.flush()
        if row.closed_at is not None and row.chosen and not (row.outcome and row.outcome.unfinished):
            install(session, row, row.closed_at)
        call_view_of(row)
        row.search_text = search_text_of(row)
        act.call_id = row.id
        return row.id


def _unit(session: Session, record: CallRecord, plate: dict[str, Any], now: datetime) -> tables.Unit:
    site = session.scalar(select(tables.Site).where(tables.Site.name == record.site)) or tables.Site(name=record.site)
    names = {unit.name for unit in site.units}
    came = f"{record.unit[:150]} ({now:%Y-%m-%d %H:%M:%S}"
    others = (f"{came}, {number})" for number in itertools.count(2))
    name = next(name for name in itertools.chain((record.unit, f"{came})"), others) if name not in names)
    unit = tables.Unit(name=name, plate=plate, site=site)
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
    """The readings of a call, or of all, as lines of CSV."""
    with db.reading() as session:
        query = whole_calls().order_by(tables.Call.id).execution_options(yield_per=200)
        if call_id is not None:
            query = query.where(tables.Call.id == call_id)
        yield from write_readings(
            (_place(row, reading), reading.body) for row in session.scalars(query) for reading in row.readings
        )


def _place(row: tables.Call, reading: tables.Reading) -> dict[str, Any]:
    motor = row.motor
    who = reading.technician or row.technician
    return {
        "call": row.id,
        "site": motor.unit.site.name,
        "unit": motor.unit.name,
        "role": motor.plate.get("role"),
        "motor": motor.plate.get("part_no"),
        "who": who.name if who else None,
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
