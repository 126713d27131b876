"""Technicians and their vans: who is chosen on this device, whose van a call draws on, what vans there are."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...store import tables
from ...store.database import Database
from ...store.tables import FIRST_VAN
from ..acts import ActContext, record_act, technician_of

LONGEST_NAME, LONGEST_VAN = 120, 60


@dataclass(frozen=True)
class Person:
    """A technician with the van driven."""

    id: int
    name: str
    van: str


def people(db: Database) -> list[Person]:
    """The technicians of the shop, by name."""
    with db.reading() as session:
        rows = session.scalars(select(tables.Technician).order_by(tables.Technician.name))
        return [Person(row.id, row.name, row.van or FIRST_VAN) for row in rows]


def van_names(session: Session) -> list[str]:
    """The vans of the shop: those that somebody drives or that something is on; the first where there is none."""
    driven = session.scalars(select(tables.Technician.van).where(tables.Technician.van.is_not(None)))
    stocked = session.scalars(select(tables.VanPart.van).distinct())
    return sorted({str(name) for name in (*driven, *stocked)}) or [FIRST_VAN]


def vans(db: Database) -> list[str]:
    """The vans of the shop by name."""
    with db.reading() as session:
        return van_names(session)


def van_of_call(row: tables.Call) -> str:
    """The van that a call draws on: as noted when it was opened, else its technician's, else the first."""
    return row.van or (row.technician.van if row.technician else None) or FIRST_VAN


def van_of(session: Session, context: ActContext) -> str:
    """The van of whoever does an act."""
    technician = technician_of(session, context)
    return (technician.van if technician else None) or FIRST_VAN


def save_person(db: Database, context: ActContext, fields: Mapping[str, str]) -> int:
    """Add a technician, or set which van one drives; the id. Raises `InvalidField`."""
    name, van = fields.get("name", "").strip(), fields.get("van", "").strip()
    if not 1 <= len(name) <= LONGEST_NAME:
        raise invalid("name", name[:40] or "nothing", f"a name of 1 to {LONGEST_NAME} characters")
    if len(van) > LONGEST_VAN:
        raise invalid("van", van[:40], f"a name of at most {LONGEST_VAN} characters")
    with db.writing() as session:
        record_act(session, context, "save_person", None)
        row = session.scalar(select(tables.Technician).where(tables.Technician.name == name))
        if row is None:
            row = tables.Technician(name=name)
            session.add(row)
        row.van = van or None
        session.flush()
        return row.id


def person_named(db: Database, person_id: int) -> Person | None:
    """A technician by id; None when there is none."""
    return next((person for person in people(db) if person.id == person_id), None)


def technician_named(session: Session, name: str | None) -> tables.Technician | None:
    """A technician by name, made when new; None without a name. Raises `InvalidField` on one that is too long."""
    if not name:
        return None
    if len(name) > LONGEST_NAME:
        raise invalid("technician", name[:40], f"a name of at most {LONGEST_NAME} characters")
    found = session.scalar(select(tables.Technician).where(tables.Technician.name == name))
    if found is None:
        found = tables.Technician(name=name)
        session.add(found)
    return found
