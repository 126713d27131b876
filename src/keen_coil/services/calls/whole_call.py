"""A call as the data of its file, put together from its rows: what goes out, and what every act must leave readable."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ValidationError

from ...core.call import Call, read_call
from ...core.errors import InvalidField, field_errors
from ...core.record import CallRecord, RecordFollowUp, RecordPart, RecordStep
from ...core.tables import TableError
from ...store import tables

_RECORDS: dict[type[tables.Table], tuple[type[BaseModel], set[str]]] = {
    tables.Call: (
        CallRecord,
        # told by their rows, or as the call itself: the assessed part of the file
        {"motor_id", "technician_id", "complaint", "meters", "chosen", "changes"}
        # counted and made anew where the file comes in; practice calls have cases instead of files
        | {"version", "search_text", "practice"},
    ),
    tables.Step: (RecordStep, set()),
    tables.FollowUp: (RecordFollowUp, set()),
    tables.PartUsed: (RecordPart, set()),
}
"""What a row is in a call file, and the columns that go out another way, each with its reason."""


def columns_of(table: type[tables.Table]) -> tuple[str, ...]:
    """The columns of a table that its record in a call file has, by the same names.

    Raises `TableError` on a column that would not go out: a field of this name, or a reason why it needs none.
    """
    record, apart = _RECORDS[table]
    names = [column.name for column in table.__table__.columns]
    lost = set(names) - set(record.model_fields) - apart - {"id", "uid", "call_id"}
    if lost:
        raise TableError(
            f"{table.__name__}: {', '.join(sorted(lost))}: a field of {record.__name__}, or why it has none"
        )
    return tuple(name for name in names if name in record.model_fields)


CALL_COLUMNS = columns_of(tables.Call)
for _table in _RECORDS:
    columns_of(_table)


def call_data(row: tables.Call) -> dict[str, Any]:
    """A call as data of a call file, without its record."""
    data: dict[str, Any] = {
        "format": "keen-coil/call",
        "version": 1,
        "complaint": row.complaint,
        "unit": _unit_plate(row.motor.unit.plate),
        "motor": row.motor.plate,
        "meters": row.meters,
        "readings": [reading.body for reading in row.readings],
        **row.motor.installation.model_dump(mode="json", by_alias=True, exclude_defaults=True),
    }
    changes = row.changes.model_dump(mode="json", exclude_none=True)["made"] if row.changes else []
    data |= {"changes": changes} if changes else {}
    judgement = row.plan.judgement if row.plan else None
    data |= {"judgement": judgement.model_dump(mode="json")} if judgement else {}
    return data | ({"chosen_motor": row.chosen} if row.chosen else {})


def _unit_plate(plate: dict[str, Any]) -> dict[str, Any]:
    """What is noted of a unit; new ones were once given one phase and 60 Hz that nobody had read."""
    unread = plate.get("phase") == 1 and plate.get("hz") == 60 and set(plate) <= {"kind", "phase", "hz"}
    return {key: plate[key] for key in plate if key == "kind"} if unread else plate


def record_of_call(row: tables.Call) -> CallRecord:
    """Where, who, when, what was settled at the stations, how it ended. Raises `InvalidField`."""
    unit = row.motor.unit
    by = [reading.technician.name if reading.technician else None for reading in row.readings]
    record = {
        "site": unit.site.name,
        "unit": unit.name,
        "place": row.motor.place,
        "technician": row.technician.name if row.technician else None,
        **{name: getattr(row, name) for name in CALL_COLUMNS},
        "found_good": row.motor.found_good,
        "readings_by": by if any(by) else [],
        "steps": [_fields(step, RecordStep) for step in row.steps],
        "follow_ups": [_fields(item, RecordFollowUp) for item in row.follow_ups],
        "parts": [_fields(part, RecordPart) for part in row.parts],
        "identities": _identities(row),
    }
    try:
        return CallRecord.model_validate(record)
    except ValidationError as error:
        raise InvalidField(field_errors(error, "record")) from None


def _identities(row: tables.Call) -> dict[str, Any] | None:
    """What the call and its rows are known by; nothing before they are kept."""
    if not row.uid or not row.motor.uid or not row.motor.unit.uid:
        return None
    rows: dict[str, list[Any]] = {"readings": row.readings, "follow_ups": row.follow_ups, "parts": row.parts}
    of_rows = {name: [one.uid for one in of if one.uid] for name, of in rows.items()}
    return {"call": row.uid, "unit": row.motor.unit.uid, "motor": row.motor.uid, **of_rows}


def _fields(row: object, record: type[BaseModel]) -> dict[str, Any]:
    return {name: getattr(row, name) for name in record.model_fields}


def whole_call(row: tables.Call) -> Call:
    """The call with its record, as its file holds it. Raises `InvalidField` when it is none."""
    return read_call(call_data(row)).model_copy(update={"record": record_of_call(row)})
