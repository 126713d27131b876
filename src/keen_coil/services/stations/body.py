"""The Body: lengths of old and new motor, blade and space as measured; where the hub goes on the new shaft."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from ...core.call import Call, read_call
from ...core.errors import InvalidField, field_errors, invalid
from ...core.match.catalogue import CatalogueMotor
from ...core.match.geometry import Section, section
from ...core.match.rank import Evaluation, judge
from ...core.match.reference import reference_for
from ...core.match.turning import Turning, turning
from ...core.plates import Motor
from ...core.record import KeptHub
from ...core.units import Number
from ...formats.dotted import get
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView, call_view_of
from ..calls.whole_call import call_data
from ..catalog.shelf import find_motor, stock_of_call
from .plate_fields import Field
from .typed_motor import with_plate

BODY_SECTIONS: tuple[tuple[str, tuple[Field, ...]], ...] = (
    (
        "New motor",
        (
            Field("new.body_length_in", "body length", "in"),
            Field("new.body_diameter_in", "body diameter", "in"),
            Field("new.shaft.length_in", "shaft length", "in"),
            Field("new.shaft.flats", "flats"),
            Field("new.shaft.flat_length_in", "flat, from the tip", "in"),
            Field("new.stud_length_in", "stud ends", "in"),
            Field("new.face_to_shaft_end_in", "face to shaft end", "in", hint="blank: by its mounting"),
        ),
    ),
    (
        "Blade or wheel",
        (
            Field("load.blade_plane_in", "plane", "in", hint="face to middle of hub"),
            Field("load.hub_length_in", "hub length", "in"),
            Field("load.set_screw_from_face_in", "set screw", "in", hint="from the body side"),
            Field("load.diameter_in", "diameter", "in"),
            Field("load.width_in", "width", "in"),
        ),
    ),
    (
        "Space",
        (
            Field("space.to_coil_in", "face to coil", "in"),
            Field("space.to_guard_in", "face to guard", "in"),
            Field("space.housing_width_in", "housing width", "in"),
            Field("space.inlet_in", "inlet", "in"),
        ),
    ),
    (
        "Old motor",
        (
            Field("motor.body_length_in", "body length", "in"),
            Field("motor.body_diameter_in", "body diameter", "in"),
            Field("motor.shaft.length_in", "shaft length", "in"),
        ),
    ),
)
BODY_FIELDS = {field.path: field for _, fields in BODY_SECTIONS for field in fields}
AT = "at"
STEP_IN = 0.0625


@dataclass(frozen=True)
class BodyView:
    """The section as typed: old motor where it sat, the new one with its hub; texts of the fields."""

    part_no: str
    call: Call
    new: CatalogueMotor
    old_laid: Section
    laid: Section
    held: Evaluation
    turning: Turning
    texts: dict[str, str]


def body_view(db: Database, view: CallView, part_no: str, typed: Mapping[str, str]) -> BodyView | None:
    """The section of a motor of the catalog in a call, with lengths and hub place as typed; None if no such motor.

    Raises `InvalidField` naming the page's field.
    """
    with db.reading() as session:
        motor = find_motor(session, view.row, part_no)
        van = stock_of_call(session, view.row)
    if motor is None:
        return None
    call, new = _as_typed(view, motor, typed)
    kept = view.row.plan.hub
    kept_at = kept.at_in if kept and kept.part_no == part_no else None
    at = _at(typed) if AT in typed else kept_at
    ref = reference_for(call)
    stock = None if van is None else van.get(part_no, 0)
    held = judge(call, new, view.row.school, ref, stock)  # type: ignore[arg-type]
    return BodyView(
        part_no,
        call,
        new,
        section(call, ref.motor, call.motor, call.load.blade_plane_in),
        section(call, ref.motor, new, at),
        held,
        turning(call.motor.rotation, call.unit.mounted),
        {path: _text(call, new, path) for path in BODY_FIELDS},
    )


def _at(typed: Mapping[str, str]) -> float | None:
    text = typed.get(AT, "").strip()
    if not text:
        return None
    try:
        return float(Number(-240, 240).take(text))
    except ValueError:
        raise invalid(AT, text, "inches from the mounting face, a number from -240 to 240") from None


def _text(call: Call, new: Motor, path: str) -> str:
    value = get(new, path.removeprefix("new.")) if path.startswith("new.") else get(call, path)
    return "" if value is None else str(value)


def _as_typed(view: CallView, motor: CatalogueMotor, typed: Mapping[str, str]) -> tuple[Call, CatalogueMotor]:
    """The call and the new motor with the typed lengths in place; a cleared field is not known."""
    given = {path: typed[path].strip() for path in BODY_FIELDS if path in typed}
    if not given:
        return view.call, motor
    data = call_data(view.row)
    plate = {"new": motor.model_dump(mode="json", by_alias=True, exclude_defaults=True)}
    for path, text in given.items():
        _put(plate if path.startswith("new.") else data, path, text)
    try:
        new = CatalogueMotor.model_validate(plate["new"])
    except ValidationError as error:
        raise InvalidField(field_errors(error, "new")) from None
    return read_call(data), new


def _put(data: dict[str, Any], path: str, text: str) -> None:
    """A field as typed; a cleared one is taken out."""
    *parents, last = path.split(".")
    for parent in parents:
        data = data.setdefault(parent, {})
    if text:
        data[last] = text
    else:
        data.pop(last, None)


def keep_body(db: Database, call_id: int, context: ActContext, part_no: str, typed: Mapping[str, str]) -> None:
    """Keep measured lengths with the call, and where the hub goes on this motor.

    Lengths of the new motor that differ from its catalog make it a plate of this call's own. Raises `InvalidField`.
    """
    with act_on(db, call_id, context, "keep_body") as (session, row):
        motor = find_motor(session, row, part_no)
        if motor is None:
            raise invalid("part", part_no, "a part number of the catalog")
        call, new = _as_typed(call_view_of(row), motor, typed)
        at = _at(typed)
        data = call_data(row)
        for path in (path for path in BODY_FIELDS if path in typed and not path.startswith("new.")):
            _put(data, path, typed[path].strip())
        row.motor.plate = data["motor"]
        row.motor.installation = read_call(data).installation
        if new != motor:
            row.plan = with_plate(row.plan, new)
        laid = section(call, reference_for(call).motor, new, at)
        if laid.at_in is not None:
            hub = KeptHub(part_no=part_no, at_in=laid.at_in, cut_in=laid.cut_in, left_in=laid.left_in)
            row.plan = row.plan.changed(hub=hub)
