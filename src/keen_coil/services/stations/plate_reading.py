"""What was read off a plate, as proposals for the fields of the page: seen, taken one by one, never entered unseen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...core.plate.answer import PlateField, PlateKind, PlateReading
from ...core.plate.read import LONGEST_TEXT, read_text, text_of
from ...core.units import horsepower_text
from ...formats.dotted import get
from ...store import tables
from ...store.database import Database
from ..acts import ActContext
from ..calls.call_view import CallView
from ..catalog.shelf import find_motor
from .plate_fields import FIELDS, Field
from .plates import plate_texts, save_plates, value_text
from .typed_motor import PLATE_FIELDS

State = Literal["sure", "doubtful", "repaired", "known"]
OF_UNIT = {
    "hp": "unit.fan_hp",
    "amps_a": "unit.fan_amps_a",
    "rpm": "unit.fan_rpm",
    "volts": "unit.supply_v",
    "phase": "unit.phase",
    "hz": "unit.hz",
    "serial": "unit.serial",
}
OF_CAPACITOR = {
    "capacitor_uf": "capacitor.single",
    "herm": "capacitor.herm",
    "fan": "capacitor.fan",
    "capacitor_v": "capacitor.volts_v",
    "tolerance_pct": "capacitor.tolerance_pct",
    "shape": "capacitor.shape",
}
KINDS: dict[str, PlateKind] = {"plate": "motor", "unit_plate": "unit", "capacitor_label": "capacitor"}
"""What is read off a photograph, by what it shows."""
_NEW = {field.path: field for field in PLATE_FIELDS}
_NOT_KNOWN_BEFORE = ("motor.serial", "motor.belongs", "motor.role")


@dataclass(frozen=True)
class Proposal:
    """A value for a field of the page: what it was read from, how sure it is, what stands in the field now."""

    field: Field
    text: str
    state: State
    typed: str = ""
    why: str = ""
    box: tuple[int, int, int, int] | None = None
    now: str = ""

    @property
    def path(self) -> str:
        """The field's path in the call file."""
        return self.field.path

    @property
    def is_taken(self) -> bool:
        """Whether it is ticked before anybody looked: sure, and nothing else stands in the field."""
        return self.state in ("sure", "known") and self.now in ("", self.text)


def read_line(text: str, role: str | None = None) -> PlateReading:
    """What a typed, spoken or pasted line says. Raises `InvalidField` when nothing in it is understood."""
    if not text.strip():
        raise invalid("line", "nothing", "a line such as 1/4 HP 1075 RPM 208-230 V 1.4 A 5 MFD 370 V CW")
    if len(text) > LONGEST_TEXT:
        raise invalid("line", f"{len(text)} characters", f"at most {LONGEST_TEXT}")
    reading = read_text(text, role=role)
    if not reading.fields:
        raise invalid(
            "line", text.strip()[:60], f"words of a plate, such as 1/4 HP 1075 RPM 1.4 A. {reading.says.rstrip('.')}"
        )
    return reading


def proposals(db: Database, view: CallView, reading: PlateReading, is_new: bool = False) -> list[Proposal]:
    """The fields that a reading and its part number speak for, the deciding ones first.

    `is_new`: the replacement's plate, else what is installed.
    """
    fields = _NEW if is_new else FIELDS
    now = {} if is_new else plate_texts(view.call)
    found: dict[str, Proposal] = {}
    for row in reading.fields:
        path = _path(row.field, "motor" if is_new and reading.kind == "unit" else reading.kind)
        if path in fields:
            found[path] = _proposal(row, fields[path], now.get(path, ""), reading)
    found |= _known(db, view, fields, now, found)
    order = list(fields)
    return sorted(found.values(), key=lambda one: order.index(one.path))


def _path(name: str, kind: PlateKind) -> str:
    if kind == "unit":
        return OF_UNIT.get(name, "")
    return OF_CAPACITOR.get(name, "") if kind == "capacitor" else f"motor.{name}"


def _proposal(row: PlateField, field: Field, now: str, reading: PlateReading) -> Proposal:
    text, state, why = text_of(row.value), row.sure, row.why
    if field.path in ("motor.hp", "unit.fan_hp"):
        text = horsepower_text(float(text))
    high = reading.field("amps_high_a")
    if field.path == "motor.amps_a" and high is not None:
        text = f"{text}/{text_of(high.value)}"
    if field.path == "unit.supply_v" and not text.isdigit():
        text, state = text.replace("/", "-").split("-")[1 if "-" in text.split("/")[0] else 0], "doubtful"
        why = "The plate names a range: which supply is here?"
    return Proposal(field, text, state, row.typed, why, row.box, now)


def _known(
    db: Database, view: CallView, fields: Mapping[str, Field], now: Mapping[str, str], read: Mapping[str, Proposal]
) -> dict[str, Proposal]:
    """What catalog, earlier motors and sisters say of the part number that was read; what was read itself leads."""
    part = read.get("motor.part_no")
    if part is None:
        return {}
    with db.reading() as session:
        plate, where = _motor_of(session, view, part.text)
    if plate is None:
        return {}
    found = {}
    for path, field in fields.items():
        value = get(plate, path.removeprefix("motor.")) if path.startswith("motor.") else None
        if value is None or value == [] or path in (*_NOT_KNOWN_BEFORE, "motor.part_no"):
            continue
        text = value_text(path, value)
        had = read.get(path)
        if had is None:
            found[path] = Proposal(field, text, "known", part.text, where, None, now.get(path, ""))
        elif had.text == text:
            found[path] = Proposal(field, text, "sure", had.typed, f"As in {where}.", had.box, had.now)
        else:
            why = f"{where}: {text}." if not had.why else f"{had.why} {where}: {text}."
            found[path] = Proposal(field, had.text, "doubtful", had.typed, why, had.box, had.now)
    return found


def _motor_of(session: Session, view: CallView, part_no: str) -> tuple[object | None, str]:
    """A motor's plate by its part number, and where it is known from: catalog, this unit, another call."""
    motor = find_motor(session, view.row, part_no)
    if motor is not None:
        return motor, f"catalog, {motor.part_no}"
    row = tables.Motor
    query = select(row).where(func.json_extract(row.plate, "$.part_no") == part_no, row.id != view.row.motor_id)
    here = session.scalar(query.where(row.unit_id == view.row.motor.unit_id).order_by(row.id.desc()).limit(1))
    known = here or session.scalar(query.order_by(row.id.desc()).limit(1))
    if known is None:
        return None, ""
    return _Plate(known.plate), "a motor of this unit" if here else "an earlier call"


class _Plate(dict[str, object]):
    """A plate as the store keeps it, read by attribute as the core's models are."""

    def __getattr__(self, name: str) -> object:
        value = self.get(name)
        return _Plate(value) if isinstance(value, dict) else value


def taken_fields(form: Mapping[str, str], is_new: bool = False) -> dict[str, str]:
    """The fields of a sent form that were ticked, with their texts. Raises `InvalidField` when none was."""
    fields = _NEW if is_new else FIELDS
    taken = {path: form.get(path, "").strip() for path in fields if form.get(f"take.{path}")}
    taken = {path: text for path, text in taken.items() if text}
    if not taken:
        raise invalid("take", "nothing ticked", "at least one reading to save")
    return taken


def take_reading(db: Database, call_id: int, context: ActContext, form: Mapping[str, str]) -> None:
    """Save what was ticked of a reading to the plates of a call, all or none. Raises `InvalidField`."""
    save_plates(db, call_id, context, taken_fields(form))
