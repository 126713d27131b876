"""A motor that is in no catalog, typed in from its plate: judged for this call like any other."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from ...core.errors import FieldError, InvalidField, field_errors, invalid
from ...core.match.catalogue import REQUIRED, CatalogueMotor
from ...core.record import KeptPlan
from ...formats.dotted import nested
from ...store.database import Database
from ..acts import ActContext, act_on
from .plate_fields import SECTIONS, Field
from .plates import with_both_amps

MOST = 5
_ASKED = ("motor.role", "motor.part_no", "motor.belongs", "motor.serial", "leads")
_OF_MOTOR = [field for _, _, fields in SECTIONS[1:3] for field in fields if field.path.startswith("motor.")]
_FIRST = ("motor.phase", "motor.hz")
DECIDING = SECTIONS[0][2]
"""The figures that decide, to be tapped."""
SMALL_PRINT: tuple[Field, ...] = (
    Field("motor.part_no", "part number", numeric=False, hint="as on its box"),
    *(field for field in _OF_MOTOR if field.path in _FIRST),
    *(field for field in _OF_MOTOR if field.path not in (*_ASKED, *_FIRST)),
    Field("motor.stud_length_in", "stud ends", "in", hint="out of the body"),
    Field("motor.rpm_min", "ECM: lowest RPM", "rpm"),
    Field("motor.rpm_max", "ECM: highest RPM", "rpm"),
    Field("motor.command", "ECM: command", numeric=False),
    Field("price", "price"),
    Field("lead_days", "delivery", "days", hint="0: in hand"),
)
PLATE_FIELDS = (*DECIDING, *SMALL_PRINT)


def add_plate(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> str:
    """Keep a motor's plate with a call, so that it is judged with the catalog; its part number.

    Raises `InvalidField` naming the page's fields.
    """
    typed = {field.path: fields[field.path] for field in PLATE_FIELDS if fields.get(field.path, "").strip()}
    typed = with_both_amps(typed)
    data = nested({path.removeprefix("motor."): _listed(path, text) for path, text in typed.items()}, CatalogueMotor)
    motor = _motor(data)
    with act_on(db, call_id, context, "add_plate") as (_, row):
        row.plan = with_plate(row.plan, motor)
        if len(row.plan.by_hand) > MOST:
            raise invalid("motor.part_no", motor.part_no, f"at most {MOST} plates typed by hand: take one away first")
    return str(motor.part_no)


def with_plate(plan: KeptPlan, motor: CatalogueMotor) -> KeptPlan:
    """The plan with a typed plate, in the place of one of the same part number."""
    return plan.changed(by_hand=[*(had for had in plan.by_hand if had.part_no != motor.part_no), motor])


def _listed(path: str, text: str) -> str:
    return text.replace(",", "|") if path in ("motor.speed_amps_a", "motor.duty") else text


def _motor(data: dict[str, Any]) -> CatalogueMotor:
    missing = [name for name in REQUIRED if name not in data]
    faults = [FieldError(_on_page(name), "nothing", "a value, a match asks for it") for name in missing]
    try:
        motor = CatalogueMotor.model_validate(data)
    except ValidationError as error:
        found = [FieldError(_on_page(fault.path), fault.value, fault.expected) for fault in field_errors(error)]
        raise InvalidField(faults + found) from None
    if faults:
        raise InvalidField(faults)
    return motor


def _on_page(path: str) -> str:
    path = ".".join(path.split(".")[:1] if path.split(".")[0] in ("duty", "speed_amps_a") else path.split("."))
    return path if path in ("price", "lead_days") else f"motor.{path}"


def drop_plate(db: Database, call_id: int, context: ActContext, part_no: str) -> None:
    """Take a typed plate away again."""
    with act_on(db, call_id, context, "drop_plate") as (_, row):
        row.plan = row.plan.changed(by_hand=[had for had in row.plan.by_hand if had.part_no != part_no])
