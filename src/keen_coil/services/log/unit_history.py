"""A unit over its visits: its motors, its calls, the readings of one motor side by side."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.diagnosis.case import answer
from ...core.errors import NotFound, invalid
from ...core.judge.insulation import at_40_c
from ...core.plates import Motor
from ...core.readings import Reading
from ...core.record import KeptGood, KeptSound
from ...core.units import horsepower_text
from ...core.voltage import plate_amps
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView
from ..people.settings import limits_in
from ..stations.listening import role_of, sounds_of
from .log import Line, calls_as_lines, line_of

KINDS = ("run_amps_a", "capacitance_uf", "insulation_mohm", "run_rpm")


@dataclass(frozen=True)
class Point:
    """A reading of a visit: when, its value (infinite over range), on which motor, as found or as left."""

    at: datetime
    value: float
    motor: int
    left: bool


@dataclass(frozen=True)
class Trend:
    """Readings of one quantity over the visits with its limits: value, words."""

    quantity: str
    title: str
    unit: str
    points: list[Point]
    limits: list[tuple[float, str]]


@dataclass(frozen=True)
class MotorLine:
    """A motor that is or was in the unit."""

    id: int
    says: str
    place: str
    installed_at: datetime | None
    removed_at: datetime | None
    found_good: KeptGood | None


@dataclass(frozen=True)
class UnitHistory:
    """A unit with everything that the log knows of it."""

    id: int
    site: str
    name: str
    plate: dict[str, Any]
    motors: list[MotorLine]
    lines: list[Line]
    trends: dict[str, list[Trend]]
    sounds: dict[str, list[KeptSound]]


def unit_history(db: Database, unit_id: int) -> UnitHistory:
    """The history of a unit. Raises `NotFound`."""
    with db.reading() as session:
        unit = session.get(tables.Unit, unit_id)
        if unit is None:
            raise NotFound(f"unit {unit_id}")
        calls = session.execute(
            calls_as_lines()
            .where(tables.Unit.id == unit_id)
            .order_by(tables.Call.opened_at.desc(), tables.Call.id.desc())
        ).all()
        roles = sorted({role_of(motor.plate) for motor in unit.motors})
        trends = {role: _trends(session, unit, role) for role in roles}
        return UnitHistory(
            unit.id,
            unit.site.name,
            unit.name,
            unit.plate,
            [_motor(motor) for motor in unit.motors],
            [line_of(*row) for row in calls],
            {role: found for role, found in trends.items() if found},
            {role: found for role in roles if (found := sounds_of(session, unit_id, role))},
        )


def _motor(row: tables.Motor) -> MotorLine:
    plate = row.plate
    words = [plate.get("part_no") or "no part number noted", str(plate.get("role") or "motor").replace("_", " ")]
    words += [f"{plate['amps_a']} A" if plate.get("amps_a") else "", f"{plate['rpm']} rpm" if plate.get("rpm") else ""]
    return MotorLine(
        row.id,
        ", ".join(word for word in words if word),
        row.place or "",
        row.installed_at,
        row.removed_at,
        row.found_good,
    )


def _trends(session: Session, unit: tables.Unit, role: str) -> list[Trend]:
    """What was read of the motors of a role, oldest first; quantities read on fewer than two visits left out."""
    mine = {motor.id: motor for motor in unit.motors if role_of(motor.plate) == role}
    rows = session.execute(
        select(
            tables.Call.motor_id, tables.Call.opened_at, tables.Reading.kind, tables.Reading.body, tables.Call.chosen
        )
        .join(tables.Reading.call)
        .where(tables.Call.motor_id.in_(mine), tables.Reading.kind.in_(KINDS))
        .order_by(tables.Call.opened_at, tables.Reading.position)
    ).all()
    found: dict[str, list[Point]] = {kind: [] for kind in KINDS}
    for motor_id, opened, kind, body, chosen in rows:
        reading = Reading.model_validate(body)
        value = _value(reading)
        if value is not None:
            left = reading.is_proof
            found[kind].append(Point(opened, value, -motor_id if left and chosen else motor_id, left))
    latest = next((motor for motor in reversed(list(mine.values())) if motor.removed_at is None), None)
    plate = Motor.model_validate(latest.plate) if latest else Motor()
    limits = _limits(session, plate, unit.plate.get("supply_v"))
    trends = [Trend(kind, *TITLES[kind], found[kind], limits[kind]) for kind in KINDS]
    return [trend for trend in trends if len({point.at for point in trend.points}) > 1]


TITLES = {
    "run_amps_a": ("Amps", "A"),
    "capacitance_uf": ("Capacitance", "µF"),
    "insulation_mohm": ("Insulation at 40 C", "Mohm"),
    "run_rpm": ("Speed", "rpm"),
}


def _value(reading: Reading) -> float | None:
    """The figure that is followed over the visits: whole-current amps, µF of the fan's section, the lowest Mohm."""
    if reading.kind == "insulation_mohm":
        if reading.value == "OL":
            return float("inf")
        return at_40_c(min(reading.numbers), float(reading.temperature_c or 40)) if reading.numbers else None
    if reading.section == "herm" or (reading.leg or "whole") != "whole" or not reading.numbers:
        return None
    return max(reading.numbers) / (reading.turns or 1)


def _limits(session: Session, plate: Motor, supply_v: Any) -> dict[str, list[tuple[float, str]]]:
    """The limits of each quantity for the motor that is in now."""
    limits = limits_in(session)
    amps = plate_amps(plate.volts, plate.amps_a, plate.amps_high_a, float(supply_v) if supply_v else None)
    uf, share = plate.capacitor_uf, limits.capacitor_tolerance_pct / 100
    return {
        "run_amps_a": [] if amps is None else [(amps, "plate"), (amps * (1 + limits.amps_over_pct / 100), "limit")],
        "capacitance_uf": [] if uf is None else [(uf * (1 - share), "lowest"), (uf * (1 + share), "highest")],
        "run_rpm": [] if plate.rpm is None else [(float(plate.rpm), "plate")],
        "insulation_mohm": [(limits.insulation_floor_mohm, "floor"), (limits.insulation_good_mohm, "good")],
    }


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
