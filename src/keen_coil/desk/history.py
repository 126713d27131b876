"""What earlier visits read on the same motor: insulation at 40 C over time; and what is known of its sisters."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from ..core.diagnosis.case import answer
from ..core.judge.insulation import at_40_c
from ..core.readings import Reading
from ..store import tables
from ..store.database import Database
from .call_view import CallView
from .motors import motors_in


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
