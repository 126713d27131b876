"""What earlier visits read on the same motor: insulation at 40 C over time; and what is known of its sisters."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.diagnosis.case import answer
from ...core.errors import invalid
from ...core.judge.insulation import at_40_c
from ...core.readings import Reading
from ...core.units import horsepower_text
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView

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


@dataclass(frozen=True)
class Visit:
    """Insulation of one visit: the lowest lead, Mohm at 40 C; infinite when over range."""

    on: datetime
    mohm: float


@dataclass(frozen=True)
class Sister:
    """A motor of the same role on the same unit, and the amps last read on it."""

    id: int
    name: str
    mine: bool
    amps: str


def insulation_trend(db: Database, view: CallView) -> list[Visit]:
    """Insulation tests of this motor over its visits, oldest first."""
    with db.reading() as session:
        rows = session.execute(
            select(tables.Call.opened_at, tables.Reading.body)
            .join(tables.Reading.call)
            .where(tables.Call.motor_id == view.row.motor_id, tables.Reading.kind == "insulation_mohm")
            .order_by(tables.Call.opened_at)
        ).all()
    found: dict[datetime, float] = {}
    for opened, body in rows:
        mohm = _at_40(Reading.model_validate(body))
        if mohm is not None:
            found[opened] = min(found.get(opened, float("inf")), mohm)
    return [Visit(on, mohm) for on, mohm in found.items()]


def _at_40(reading: Reading) -> float | None:
    if reading.value == "OL":
        return float("inf")
    return None if reading.temperature_c is None else at_40_c(reading.numbers[0], float(reading.temperature_c))


def sisters_of(db: Database, view: CallView) -> list[Sister]:
    """The motors of this role that are in the unit now, ours among them; empty when there is only one."""
    role = view.call.motor.role
    with db.reading() as session:
        motors = [m for m in motors_in(session, view.row.motor.unit_id) if m.plate.get("role") == role]
        if len(motors) < 2:
            return []
        amps = {
            m.id: _last_amps(
                session.scalars(
                    select(tables.Reading.body)
                    .join(tables.Reading.call)
                    .where(tables.Call.motor_id == m.id, tables.Reading.kind == "run_amps_a")
                    .order_by(tables.Reading.id.desc())
                    .limit(1)
                ).first()
            )
            for m in motors
        }
    return [
        Sister(m.id, m.place or f"motor {i + 1}", m.id == view.row.motor_id, amps[m.id]) for i, m in enumerate(motors)
    ]


def _last_amps(body: dict[str, object] | None) -> str:
    return "" if body is None else answer(Reading.model_validate(body))
