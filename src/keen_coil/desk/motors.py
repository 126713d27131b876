"""The motors of a unit: which one is at fault, and its sisters."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import invalid
from ..core.units import horsepower_text
from ..store import tables
from ..store.database import Database
from .acts import ActContext, act_on
from .call_view import CallView

LONGEST_PLACE = 60


@dataclass(frozen=True)
class MotorHere:
    """A motor that is in the unit now."""

    id: int
    name: str
    says: str
    mine: bool


def motors_in(session: Session, unit_id: int) -> list[tables.Motor]:
    """The motors that are in a unit now, in the order they were put in."""
    query = select(tables.Motor).where(tables.Motor.unit_id == unit_id, tables.Motor.removed_at.is_(None))
    return list(session.scalars(query.order_by(tables.Motor.id)))


def motors_here(db: Database, view: CallView) -> list[MotorHere]:
    """The motors in this call's unit now, in the order they were put in."""
    with db.reading() as session:
        there = motors_in(session, view.row.motor.unit_id)
    return [
        MotorHere(m.id, m.place or f"motor {i + 1}", _says(m), m.id == view.row.motor_id) for i, m in enumerate(there)
    ]


def _says(motor: tables.Motor) -> str:
    plate = motor.plate
    hp = horsepower_text(float(plate["hp"])) + " hp" if plate.get("hp") else ""
    words = [str(plate.get("role", "motor")).replace("_", " "), hp, f"{plate['rpm']} rpm" if plate.get("rpm") else ""]
    return ", ".join(word for word in words if word)


def pick_motor_at_fault(db: Database, call_id: int, context: ActContext, motor_id: str) -> None:
    """Make another motor of the same unit the one this call is about.

    Raises `InvalidField` when it is not in the unit, or readings of the first one were taken already.
    """
    with act_on(db, call_id, context, "pick_motor_at_fault") as (session, row):
        here = {str(m.id): m for m in motors_in(session, row.motor.unit_id)}
        if motor_id not in here:
            raise invalid("motor_id", motor_id, "a motor that is in this unit")
        if row.readings and here[motor_id].id != row.motor_id:
            raise invalid(
                "motor_id",
                here[motor_id].place or motor_id,
                "no change once readings were taken: open a call for the other motor",
            )
        row.motor_id = here[motor_id].id


def add_sister(db: Database, call_id: int, context: ActContext, place: str) -> None:
    """Note that the unit has another motor like this one, at a named place. Raises `InvalidField`."""
    name = place.strip()
    if not 1 <= len(name) <= LONGEST_PLACE:
        raise invalid("place", name[:40] or "nothing", f"a location, 1 to {LONGEST_PLACE} characters")
    with act_on(db, call_id, context, "add_sister") as (session, row):
        mine = row.motor
        there = motors_in(session, mine.unit_id)
        if any(motor.place == name for motor in there):
            raise invalid("place", name, "a place of its own")
        session.add(
            tables.Motor(unit_id=mine.unit_id, plate=dict(mine.plate), installation=mine.installation, place=name)
        )
        same = [motor for motor in there if motor.plate.get("role") == mine.plate.get("role")]
        mine.unit.plate = mine.unit.plate | {"sisters": len(same)}
