"""A unit over its visits: its motors, its calls, and what was read of amps, capacitance and insulation."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...core.judge.insulation import at_40_c
from ...core.plates import Motor
from ...core.readings import Reading
from ...core.record import KeptGood, KeptSound
from ...core.voltage import plate_amps
from ...store import tables
from ...store.database import Database
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
