"""The shelf: catalog and van as they are kept, searched, counted, given out again; the van of a call."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from sqlalchemy import ColumnElement, String, delete, func, or_, select, type_coerce
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from ...core.capacitors.parts import CapacitorPart
from ...core.match.catalogue import CatalogueMotor
from ...core.match.catalogue_filter import CatalogueFilter, filter_keys
from ...core.practice.job.engine import Shelf
from ...formats.catalogue_csv import read_catalogue
from ...formats.data_package import write_package
from ...formats.van_csv import VanPart, read_van
from ...store import tables
from ...store.database import Database
from ...store.tables import FIRST_VAN
from ..answers.answers import capacitors_of
from ..people.people import van_of_call

PAGE = 100
CACHED_ROWS = 20_000
CHUNK = 500
_WORDS = ("part_no", "maker", "kind", "role", "volts", "rpm", "mount", "frame")
PLATE = type_coerce(tables.CatalogueMotor.plate, String)
"""A motor's plate as the text in the file: parsed once, see `motor_of`."""


IS_THERE = func.max(tables.VanPart.quantity, 0)
"""How many of a part are there: below none means that a count is due, and that none is."""


@lru_cache(maxsize=CACHED_ROWS)
def motor_of(plate: str) -> CatalogueMotor:
    """A motor of the catalog from its plate's text; the same text is read once."""
    return CatalogueMotor.model_validate_json(plate)


@dataclass(frozen=True)
class ShelfPage:
    """A page of what was asked for: the rows, how many there are in all, how many match."""

    rows: list[Any]
    total: int
    found: int
    page: int

    @property
    def pages(self) -> int:
        """How many pages there are, at least one."""
        return max(1, -(-self.found // PAGE))


def find_motors(db: Database, words: str = "", kind: str = "", role: str = "", page: int = 1) -> ShelfPage:
    """Motors whose part number, maker, kind, use, volts or rpm hold every word, by part number."""
    row = tables.CatalogueMotor
    wanted = [row.search_text.contains(word, autoescape=True) for word in words.lower().split()[:8]]
    wanted += [column == value for column, value in ((row.kind, kind), (row.role, role)) if value]
    with db.reading() as session:
        total, found = _counts(session, row, wanted)
        query = select(PLATE).where(*wanted).order_by(row.part_no).limit(PAGE).offset(PAGE * (page - 1))
        return ShelfPage([motor_of(plate) for plate in session.scalars(query)], total, found, page)


def find_parts(db: Database, van: str, words: str = "", kind: str = "", page: int = 1) -> ShelfPage:
    """Parts on a van whose number, sections or shape hold every word, by kind and part number."""
    row = tables.VanPart
    text = row.part_no + " " + func.coalesce(row.sections_uf, "") + " " + func.coalesce(row.shape, "")
    wanted = [func.lower(text).contains(word, autoescape=True) for word in words.lower().split()[:8]]
    wanted += [row.kind == kind] if kind else []
    here = [row.van == van]
    with db.reading() as session:
        total, found = _counts(session, row, wanted, here)
        query = select(row).where(*here, *wanted).order_by(row.kind, row.part_no).limit(PAGE).offset(PAGE * (page - 1))
        return ShelfPage([part_of(part) for part in session.scalars(query)], total, found, page)


def _counts(
    session: Session, row: Any, wanted: list[ColumnElement[bool]], here: Sequence[ColumnElement[bool]] = ()
) -> tuple[int, int]:
    counted = select(func.count()).select_from(row).where(*here)
    return session.scalar(counted) or 0, session.scalar(counted.where(*wanted)) or 0


def motors_within(session: Session, limit: CatalogueFilter | None) -> list[CatalogueMotor]:
    """The motors of the catalog within the bounds, all of them without."""
    query = select(PLATE).select_from(tables.CatalogueMotor)
    return [motor_of(plate) for plate in session.scalars(query.where(*cut(limit)) if limit else query)]


def cut(limit: CatalogueFilter) -> list[ColumnElement[bool]]:
    """The core's bounds as conditions on the catalog; what is not known of a motor cuts nothing."""
    row = tables.CatalogueMotor
    same = [(row.phase, limit.phase), (row.hz, limit.hz)]
    found: list[ColumnElement[bool]] = [column == value for column, value in same if value is not None]
    if limit.kinds is not None:
        found.append(row.kind.in_(limit.kinds))
    if limit.rpm is not None:
        found += [row.rpm_low <= limit.rpm[1], row.rpm_high >= limit.rpm[0]]
    if limit.supply_v is not None:
        found.append(or_(row.volts_low.is_(None), row.volts_low <= limit.supply_v))
        found.append(or_(row.volts_high.is_(None), row.volts_high >= limit.supply_v))
    if limit.amps_a is not None:
        begins, ends = limit.same_volts_v
        other = or_(row.amps_a.is_(None), row.kind != limit.kind, row.volts_low > begins, row.volts_high < ends)
        found.append(or_(other, row.amps_a.between(*limit.amps_a)))
    if limit.hp is not None:
        found.append(or_(row.hp.is_(None), row.kind != limit.kind, row.hp.between(*limit.hp)))
    if limit.shaft_in_most is not None:
        found.append(or_(row.shaft_in.is_(None), row.shaft_in <= limit.shaft_in_most))
    if limit.ambient_c_least is not None:
        found.append(or_(row.ambient_c.is_(None), row.ambient_c >= limit.ambient_c_least))
    return found


def part_of(row: tables.VanPart) -> VanPart:
    """A part of the van from its row."""
    cells = {name: getattr(row, name) for name in VanPart.model_fields}
    return VanPart.model_validate({**cells, "quantity": max(0, row.quantity)})


def stock_in(session: Session, van: str) -> dict[str, int] | None:
    """Motors on a van by part number; None while nothing at all is noted of it."""
    row = tables.VanPart
    rows = session.execute(select(row.part_no, row.kind, IS_THERE).where(row.van == van)).all()
    return {part: quantity for part, kind, quantity in rows if kind == "motor"} if rows else None


def van_in(session: Session, van: str, kind: str = "") -> list[VanPart]:
    """The parts on a van, of one kind or all."""
    query = (
        select(tables.VanPart).where(tables.VanPart.van == van).order_by(tables.VanPart.kind, tables.VanPart.part_no)
    )
    return [part_of(row) for row in session.scalars(query.where(tables.VanPart.kind == kind) if kind else query)]


def all_motors(db: Database) -> Iterator[CatalogueMotor]:
    """The whole catalog, by part number."""
    with db.reading() as session:
        plates = session.scalars(select(PLATE).order_by(tables.CatalogueMotor.part_no))
        yield from (CatalogueMotor.model_validate_json(plate) for plate in plates)


def all_parts(db: Database, van: str = FIRST_VAN) -> list[VanPart]:
    """A whole van."""
    with db.reading() as session:
        return van_in(session, van)


def package(db: Database, van: str = FIRST_VAN) -> bytes:
    """Catalog and a van as a zipped data package."""
    return write_package(all_motors(db), all_parts(db, van))


def motor_row(motor: CatalogueMotor) -> dict[str, Any]:
    """A motor as a row of the catalog: its plate, what it is cut by, what it is found by."""
    plate = motor.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    cut = filter_keys(motor)
    words = " ".join(str(plate.get(name, "")) for name in _WORDS).lower()
    return {
        "part_no": motor.part_no,
        "kind": motor.kind,
        "phase": motor.phase,
        "hz": motor.hz,
        "rpm": float(motor.rpm or 0),
        "rpm_low": cut.rpm[0],
        "rpm_high": min(cut.rpm[1], 1e6),
        "volts_low": cut.volts_v[0],
        "volts_high": cut.volts_v[1],
        "amps_a": cut.amps_a,
        "hp": cut.hp,
        "shaft_in": cut.shaft_in,
        "ambient_c": cut.ambient_c,
        "role": motor.role,
        "search_text": words[:800],
        "plate": plate,
    }


def part_row(part: VanPart) -> dict[str, Any]:
    """A part as a row of a van; which van is added where it is written."""
    return part.model_dump(mode="json")


def put(session: Session, table: type[tables.Table], rows: Iterable[dict[str, Any]]) -> Iterator[int]:
    """Add rows or change those that are there, by part number; tells how many are done after each chunk."""
    waiting: list[dict[str, Any]] = []
    done = 0
    for row in rows:
        waiting.append(row)
        if len(waiting) == CHUNK:
            _put(session, table, waiting)
            done, waiting = done + len(waiting), []
            yield done
    if waiting:
        _put(session, table, waiting)
        yield done + len(waiting)


def _put(session: Session, table: type[tables.Table], rows: list[dict[str, Any]]) -> None:
    statement = insert(table)
    keys = [column.name for column in table.__table__.primary_key]
    changed = {name: statement.excluded[name] for name in rows[0] if name not in keys}
    session.execute(statement.on_conflict_do_update(index_elements=keys, set_=changed), rows)


def clear_van(session: Session, but: set[str], van: str) -> int:
    """Take off a van what is not among these part numbers; how many were taken off."""
    row = tables.VanPart
    gone = [part for part in session.scalars(select(row.part_no).where(row.van == van)) if part not in but]
    for start in range(0, len(gone), CHUNK):
        session.execute(delete(row).where(row.van == van, row.part_no.in_(gone[start : start + CHUNK])))
    return len(gone)


DATA = Path(__file__).parent.parent.parent / "demo"


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
    """A motor by its part number: typed by hand for this call, else of the catalog."""
    typed = next((motor for motor in row.plan.by_hand if motor.part_no == part_no), None)
    if typed is not None or row.practice:
        return typed or practice_shelf().motor(part_no)
    plate = session.scalar(select(PLATE).where(tables.CatalogueMotor.part_no == part_no))
    return motor_of(plate) if plate else None
