"""The catalogue: brought in from CSV, all rows or none; cut by the core's bounds; matched for a call."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import Select, delete, func, select
from sqlalchemy.orm import Session

from ..core.errors import bad
from ..core.match.catalogue import CatalogueMotor
from ..core.match.expected_run import expected_run
from ..core.match.rank import Bounds, Candidate, Match, bounds, match
from ..core.match.schools import SCHOOLS, School
from ..core.plates import Motor
from ..formats.catalogue_csv import read_catalogue
from ..store import tables
from ..store.database import Database
from .acts import Stamp, act_on, record_act
from .sheet import Sheet, sheet_of


@dataclass(frozen=True)
class Brought:
    """What an import did."""

    added: int
    changed: int
    same: int


def import_catalogue(db: Database, stamp: Stamp, data: bytes) -> Brought:
    """Add or change the motors of a CSV file. Raises `BadInput` with every fault; then nothing is changed."""
    motors = read_catalogue(data)
    with db.writing() as session:
        record_act(session, stamp, "import_catalogue", None)
        return _store(session, motors)


def _store(session: Session, motors: list[CatalogueMotor]) -> Brought:
    had = {row.part_no: row for row in session.scalars(select(tables.CatalogueMotor))}
    added = changed = 0
    for motor in motors:
        new = _row(motor)
        old = had.get(new.part_no)
        added += old is None
        changed += old is not None and old.plate != new.plate
        session.merge(new)
    return Brought(added, changed, len(motors) - added - changed)


def _row(motor: CatalogueMotor) -> tables.CatalogueMotor:
    plate = motor.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return tables.CatalogueMotor(
        part_no=motor.part_no, kind=motor.kind, phase=motor.phase, hz=motor.hz, rpm=float(motor.rpm or 0),
        rpm_low=float(motor.rpm_min or motor.rpm or 0), rpm_high=float(motor.rpm_max or motor.rpm or 0), plate=plate,
    )  # fmt: skip


def clear_catalogue(db: Database) -> None:
    """Empty the catalogue; for building the demo anew."""
    with db.writing() as session:
        session.execute(delete(tables.CatalogueMotor))


def all_motors(db: Database) -> list[CatalogueMotor]:
    """The whole catalogue, by part number."""
    with db.reading() as session:
        rows = session.scalars(select(tables.CatalogueMotor).order_by(tables.CatalogueMotor.part_no))
        return [CatalogueMotor.model_validate(row.plate) for row in rows]


@dataclass(frozen=True)
class MatchView:
    """The match of a call: candidates within the bounds, how many lie outside, what is looked at."""

    answer: Match
    total: int
    outside: int
    looked_at: Candidate | None

    @property
    def can_serve(self) -> int:
        """How many fit, as they are or with work."""
        return sum(candidate.result != "refused" for candidate in self.answer.candidates)


def match_call(db: Database, sheet: Sheet, school: str, part_no: str | None, everything: bool) -> MatchView:
    """Match a call against the catalogue under a school. Raises `BadInput` on a school that is none.

    Only motors within the core's bounds are judged unless `everything` is asked for.
    """
    if school not in SCHOOLS:
        raise bad("school", school, "one of " + ", ".join(SCHOOLS))
    chosen: School = school
    with db.reading() as session:
        total = session.scalar(select(func.count()).select_from(tables.CatalogueMotor)) or 0
        query = _all() if everything else _cut(_all(), bounds(sheet.call, chosen))
        motors = [CatalogueMotor.model_validate(row.plate) for row in session.scalars(query)]
    answer = match(sheet.call, motors, chosen, expect=0)
    looked_at = next((c for c in answer.candidates if c.part_no == part_no), None) if part_no else None
    shown = looked_at or next(iter(answer.candidates), None)
    if shown is not None:
        motor = next(motor for motor in motors if motor.part_no == shown.part_no)
        shown.expected = expected_run(sheet.call, motor)
    return MatchView(answer, total, total - len(motors), shown)


def _all() -> Select[tables.CatalogueMotor]:
    return select(tables.CatalogueMotor)


def _cut(query: Select[tables.CatalogueMotor], limit: Bounds) -> Select[tables.CatalogueMotor]:
    """Leave out what the core's bounds refuse for certain."""
    row = tables.CatalogueMotor
    if limit.phase is not None:
        query = query.where(row.phase == limit.phase)
    if limit.hz is not None:
        query = query.where(row.hz == limit.hz)
    if limit.rpm is not None:
        query = query.where(row.rpm_low <= limit.rpm[1], row.rpm_high >= limit.rpm[0])
    return query


def pick_motor(db: Database, call_id: int, stamp: Stamp, part_no: str) -> None:
    """Choose a motor of the catalogue for a call; empty takes the choice back.

    Raises `BadInput` when there is no such motor, or the call's school refuses it.
    """
    with act_on(db, call_id, stamp, "pick_motor") as (session, row):
        if not part_no:
            row.chosen = None
            return
        found = session.get(tables.CatalogueMotor, part_no)
        if found is None:
            raise bad("part_no", part_no, "a part number of the catalogue")
        motor = CatalogueMotor.model_validate(found.plate)
        school: School = row.school  # type: ignore[assignment]
        candidate = match(sheet_of(row).call, [motor], school, expect=0).candidates[0]
        if candidate.result == "refused":
            raise bad("part_no", part_no, "a motor that fits: " + candidate.refusals[0].because)
        row.chosen = motor_fields(found.plate)


def motor_fields(plate: dict[str, Any]) -> dict[str, Any]:
    """The motor's plate in a catalogue row, without maker, price and stock."""
    return {key: value for key, value in plate.items() if key in Motor.model_fields}


def set_school(db: Database, call_id: int, stamp: Stamp, school: str) -> None:
    """Choose how a call sizes power. Raises `BadInput`."""
    if school not in SCHOOLS:
        raise bad("school", school, "one of " + ", ".join(SCHOOLS))
    with act_on(db, call_id, stamp, "set_school") as (_, row):
        row.school = school
