"""What a call may choose from: the shop's catalogue and its van; in practice the practice van, alike for everybody.

The practice van is the catalogue and the van of the demo world, which ship with the program.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.capacitors.parts import CapacitorPart
from ..core.match.catalogue import CatalogueMotor
from ..core.match.catalogue_filter import CatalogueFilter
from ..core.practice.job.engine import Shelf
from ..formats.catalogue_csv import read_catalogue
from ..formats.van_csv import read_van
from ..store import tables
from .capacitors import capacitors_of
from .people import van_of_call
from .shelf import PLATE, motor_of, motors_within, stock_in, van_in

DATA = Path(__file__).parent.parent / "demo"


@lru_cache(maxsize=1)
def practice_shelf() -> Shelf:
    """The practice van: motors with how many of each are on it, and its capacitors."""
    van = read_van((DATA / "van.csv").read_bytes())
    on_van = {row.part_no: row.quantity for row in van if row.kind == "motor"}
    motors = tuple(read_catalogue((DATA / "motors.csv").read_bytes()))
    return Shelf(motors, on_van, tuple(capacitors_of(van)))


def motors_of_call(session: Session, row: tables.Call, limit: CatalogueFilter | None) -> list[CatalogueMotor]:
    """The motors that a call is matched against, those within the bounds where any are given."""
    return list(practice_shelf().motors) if row.practice else motors_within(session, limit)


def motors_in_all(session: Session, row: tables.Call) -> int:
    """How many motors there are for a call."""
    if row.practice:
        return len(practice_shelf().motors)
    return session.scalar(select(func.count()).select_from(tables.CatalogueMotor)) or 0


def stock_of_call(session: Session, row: tables.Call) -> dict[str, int] | None:
    """Motors on the van of a call by part number; None while nothing is noted of it."""
    return dict(practice_shelf().on_van) if row.practice else stock_in(session, van_of_call(row))


def capacitors_of_call(session: Session, row: tables.Call) -> list[CapacitorPart]:
    """The capacitors on the van of a call."""
    if row.practice:
        return list(practice_shelf().capacitors)
    return capacitors_of(van_in(session, van_of_call(row), "capacitor"))


def find_motor(session: Session, row: tables.Call, part_no: str) -> CatalogueMotor | None:
    """A motor by its part number: typed by hand for this call, else of the catalogue."""
    typed = next((motor for motor in row.plan.by_hand if motor.part_no == part_no), None)
    if typed is not None or row.practice:
        return typed or practice_shelf().motor(part_no)
    plate = session.scalar(select(PLATE).where(tables.CatalogueMotor.part_no == part_no))
    return motor_of(plate) if plate else None
