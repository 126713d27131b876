"""A call as the data of its file, put together from its rows: what goes out, and what every act must leave readable."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from ...core.call import Call, read_call
from ...core.errors import InvalidField, field_errors
from ...core.record import CallRecord
from ...store import tables


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
        "van": row.van,
        "opened_at": row.opened_at,
        "closed_at": row.closed_at,
        "power": row.power,
        "power_at": row.power_at,
        "school": row.school,
        "plan": row.plan,
        "outcome": row.outcome,
        "found_good": row.motor.found_good,
        "readings_by": by if any(by) else [],
        "steps": [_fields(step, "station", "step", "done_at", "skipped") for step in row.steps],
        "follow_ups": [_fields(item, "kind", "says", "due_on", "settled_at", "settled") for item in row.follow_ups],
        "parts": [_fields(part, "part_no", "quantity", "van", "source", "booked_at") for part in row.parts],
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


def _fields(row: object, *names: str) -> dict[str, Any]:
    return {name: getattr(row, name) for name in names}


def whole_call(row: tables.Call) -> Call:
    """The call with its record, as its file holds it. Raises `InvalidField` when it is none."""
    return read_call(call_data(row)).model_copy(update={"record": record_of_call(row)})
