"""The same motor again: the old one's, or that of its twin on the unit, taken over with its leads, diagram and body."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...core.installation import Hookup
from ...core.match.place import delivery
from ...core.record import KeptPlan
from ...core.units import Number
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView
from ..catalog.shelf import find_motor, stock_of_call
from ..log.unit_history import motors_in
from .match import kept_with_any, motor_fields

OF_ONE_MOTOR = ("belongs", "serial")
"""What a plate says of this one motor only."""
_DAYS = Number(0, 3650)


@dataclass(frozen=True)
class Twin:
    """A motor that the same one can be had of: `key` is empty for the old one itself."""

    key: str
    name: str
    part_no: str


def twins_of(db: Database, view: CallView) -> list[Twin]:
    """The old motor itself, and the others of its role on the unit that carry another part number."""
    with db.reading() as session:
        others = _others(session, view.row)
    found = [Twin("", "the old one", view.call.motor.part_no or "")] if view.call.motor.belongs is not False else []
    return found + [Twin(str(m.id), m.place or "the other one", m.plate["part_no"]) for m in others]


def _others(session: Session, row: tables.Call) -> list[tables.Motor]:
    mine = row.motor
    return [
        motor
        for motor in motors_in(session, mine.unit_id)
        if motor.id != mine.id
        and motor.plate.get("role") == mine.plate.get("role")
        and motor.plate.get("part_no") not in (None, mine.plate.get("part_no"))
    ]


def pick_same_motor(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Choose the same motor again; `of` names a twin, else it is the old one.

    `part_no` is typed where the plate does not have it yet, `days` is blank for a motor in hand. Nothing is measured,
    no bracket fitted. Raises `InvalidField`.
    """
    with act_on(db, call_id, context, "pick_same_motor") as (session, row):
        like = _like(session, row, fields.get("of", ""))
        part_no = (fields.get("part_no", "").strip() or str(like.plate.get("part_no") or ""))[:60]
        if not part_no:
            raise invalid("part_no", "nothing", "the part number, as on the old plate or on the box")
        days = _days(fields.get("days", "").strip())
        listed = find_motor(session, row, part_no)
        known = motor_fields(listed.model_dump(mode="json", exclude_defaults=True)) if listed else {}
        plate = {**known, **like.plate, "part_no": part_no}
        row.chosen = {key: value for key, value in plate.items() if key not in OF_ONE_MOTOR}
        if like is row.motor and not like.plate.get("part_no"):
            like.plate = {**like.plate, "part_no": part_no}
        _take_wiring(row, like)
        stock = stock_of_call(session, row)
        on_van = (stock or {}).get(part_no, 0)
        row.plan = _plan(row.plan, part_no, on_van, 0.0 if on_van else days)


def _like(session: Session, row: tables.Call, key: str) -> tables.Motor:
    if not key:
        if row.motor.plate.get("belongs") is False:
            raise invalid("of", "the old one", "another motor: the old motor is the wrong one for this unit")
        return row.motor
    found = next((motor for motor in _others(session, row) if str(motor.id) == key), None)
    if found is None:
        raise invalid("of", key[:20], "a motor of this unit")
    return found


def _days(text: str) -> float:
    """Days of delivery; blank is in hand."""
    if not text:
        return 0.0
    try:
        return float(_DAYS.take(text))
    except ValueError:
        raise invalid("days", text[:20], "days of delivery, 0 to 3650; blank when it is in hand") from None


def _take_wiring(row: tables.Call, like: tables.Motor) -> None:
    """The old motor's leads are its own already; those of a twin come with it. A plan made for another is forgotten."""
    had, other = row.motor.installation.hookup, like.installation.hookup
    taken: dict[str, Any] = {"planned": [], "new_leads": []}
    if like is not row.motor:
        taken |= {"new_leads": other.new_leads or other.leads, "diagram": other.diagram}
    hookup: Hookup = had.model_copy(update=taken)
    row.motor.installation = row.motor.installation.model_copy(update={"hookup": hookup})


def _plan(plan: KeptPlan, part_no: str, on_van: int, days: float) -> KeptPlan:
    wait = delivery(days, on_van, part_no)
    work = [] if wait is None else [{**wait._asdict()}]
    return kept_with_any(plan, part_no).changed(work=work, on_van=on_van, lead_days=days)
