"""Bringing catalog and van in: a file is read row by row and shown before anything is written.

A draft keeps the file as it was sent. Looking through it says for each row what would be added, changed, left or
refused; only the confirmation writes, in one transaction, and only if the shelf is still as the look found it.
"""

from __future__ import annotations

import hashlib
import itertools
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from pydantic import BaseModel
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from ...core.errors import FieldError, InvalidField, KeenCoilError, NotFound
from ...formats.catalogue_csv import MOTORS
from ...formats.csv_rows import MOST_FAULTS, RowRead, header_of, rows_of, text_of
from ...formats.data_package import read_package
from ...formats.van_csv import VAN
from ...store import tables
from ...store.database import Database, upsert_staged
from ...store.tables import FIRST_VAN
from ..acts import ActContext, ProgressCallback, no_progress, record_act
from ..field_messages import file_message
from ..people.people import van_of
from .shelf import PLATE, clear_van, motor_row, part_row, put
from .stock import count_in

DRAFT_LIFETIME = timedelta(days=1)
LARGE = 400_000
"""Bytes above which a file is looked through beside the page, with a progress bar."""
TELL_EACH = 500
FAULTS_SHOWN = 3
FIELDS_SHOWN = 6
STATES = ("added", "changed", "same", "refused")


class ShelfChanged(KeenCoilError):
    """The shelf was changed since the file was looked through."""

    status, title = 409, "Somebody else changed this"

    def __str__(self) -> str:
        return "The shelf was changed since this file was looked through."


@dataclass(frozen=True)
class FileKind:
    """A kind of file: its layout, its table, how an item becomes a row, what a row keeps of it."""

    name: str
    layout: Any
    table: Any
    row: Callable[[Any], dict[str, Any]]


Rows = list[tuple[FileKind, dict[str, Any]]]
Shelf = dict[str, dict[str, Any]]
MOTOR_FILE = FileKind("motors.csv", MOTORS, tables.CatalogueMotor, motor_row)
VAN_FILE = FileKind("van.csv", VAN, tables.VanPart, part_row)


@dataclass(frozen=True)
class ImportCounts:
    """What an import did."""

    added: int
    changed: int
    same: int
    refused: int = 0
    taken_off: int = 0


@dataclass(frozen=True)
class SentFile:
    """A file as it was sent, what it holds, and the van it is for."""

    content: bytes
    what: str
    van: str


@dataclass(frozen=True)
class Draft:
    """A file that was sent, and what looking through it found; `report` is None while nobody has."""

    id: str
    name: str
    what: str
    size: int
    report: dict[str, Any] | None


def receive(db: Database, context: ActContext, name: str, data: bytes, van: str | None = None) -> str:
    """Keep a file to be looked through, for a van; the draft's id.

    Raises `InvalidField` when it is no catalog, van or package.
    """
    what = _what(data)
    with db.writing() as session:
        record_act(session, context, "receive_file", None)
        session.execute(delete(tables.ImportDraft).where(tables.ImportDraft.made_at < context.now - DRAFT_LIFETIME))
        session.add(
            tables.ImportDraft(
                id=context.act_id,
                what=what,
                name=name[:200],
                content=data,
                made_at=context.now,
                van=van or van_of(session, context),
            )
        )
    return context.act_id


def _what(data: bytes) -> str:
    """Catalog, van or data package, by what the file holds."""
    if data[:2] == b"PK":
        read_package(data)
        return "package"
    header = set(header_of(text_of(data)))
    return "van" if "quantity" in header or "sections_uf" in header or header == {"part_no", "kind"} else "motors"


def draft(db: Database, draft_id: str) -> Draft:
    """A draft by its id. Raises `NotFound`."""
    row = tables.ImportDraft
    with db.reading() as session:
        columns = (row.name, row.what, func.length(row.content).label("size"), row.report)
        found = session.execute(select(*columns).where(row.id == draft_id)).first()
    if found is None:
        raise NotFound("this file. It was imported, canceled, or is more than a day old")
    return Draft(draft_id, found.name, found.what, found.size, found.report)


def look_through(db: Database, draft_id: str, progress: ProgressCallback = no_progress) -> None:
    """Read every row of a draft and note what it would do. A file that cannot be read at all notes why."""
    sent = _sent(db, draft_id)
    try:
        with db.reading() as session:
            report = _report(session, sent, progress)
    except InvalidField as error:
        report = {"faults": [file_message(fault) for fault in error.errors], "rows": []}
    with db.writing() as session:
        row = session.get(tables.ImportDraft, draft_id)
        if row is not None:
            row.report = report


def _sent(db: Database, draft_id: str) -> SentFile:
    with db.reading() as session:
        row = session.get(tables.ImportDraft, draft_id)
        if row is None:
            raise NotFound("this file")
        return SentFile(row.content, row.what, row.van)


def _files(sent: SentFile) -> list[tuple[FileKind, bytes]]:
    if sent.what == "package":
        kinds = {kind.name: kind for kind in (MOTOR_FILE, VAN_FILE)}
        return [(kinds[name], data) for name, data in read_package(sent.content).items()]
    return [(MOTOR_FILE if sent.what == "motors" else VAN_FILE, sent.content)]


def _report(session: Session, sent: SentFile, progress: ProgressCallback) -> dict[str, Any]:
    """Every row as [file, row, part number, state, detail], and how many there are of each state."""
    rows: list[list[Any]] = []
    gone = 0
    for kind, had, reads in _against_shelf(session, sent, progress):
        seen = set()
        for read, row in reads:
            state, detail = _outcome(read, row, had)
            seen.add(read.key)
            rows.append([kind.name, read.number, read.key, state, detail])
        gone += len(set(had) - seen) if kind is VAN_FILE else 0
    counts = {state: sum(row[3] == state for row in rows) for state in STATES}
    return {"rows": rows, "counts": counts, "not_in_file": gone, "faults": [], "shelf": _shelf_as_it_is(session)}


def _against_shelf(
    session: Session, sent: SentFile, progress: ProgressCallback
) -> Iterator[tuple[FileKind, Shelf, Iterator[tuple[RowRead[Any], dict[str, Any] | None]]]]:
    """Each file: its kind, what the shelf has, and its rows one by one, as read and as they would stand there."""
    files = _files(sent)
    of = sum(data.count(b"\n") for _, data in files)
    count = itertools.count(1)

    def reads(kind: FileKind, data: bytes, had: Shelf) -> Iterator[tuple[RowRead[Any], dict[str, Any] | None]]:
        named = frozenset(header_of(text_of(data)))
        for read in rows_of(data, kind.layout):
            yield read, None if read.item is None else _row(read, kind, named, had)
            done = next(count)
            if done % TELL_EACH == 0:
                progress(done, max(of, done))

    for kind, data in files:
        had = _had(session, kind, sent.van)
        yield kind, had, reads(kind, data, had)


def _had(session: Session, kind: FileKind, van: str) -> Shelf:
    """What is on the shelf, by part number, as far as a file can change it."""
    if kind is MOTOR_FILE:
        found = session.execute(select(tables.CatalogueMotor.part_no, tables.CatalogueMotor.plate))
        return {part: plate for part, plate in found}
    table = tables.VanPart.__table__
    rows = session.execute(select(table).where(table.c.van == van)).mappings()
    kept = [{name: value for name, value in row.items() if value is not None and name != "van"} for row in rows]
    return {row["part_no"]: row for row in kept}


def _row(read: RowRead[Any], kind: FileKind, named: frozenset[str], had: Shelf) -> dict[str, Any]:
    """A file's row as a row of the shelf. A column that the file does not have leaves what is there as it is."""
    old, item = had.get(read.key), read.item
    if item is None or old is None or len(named) == len(kind.layout.columns):
        return kind.row(item)
    new = item.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return kind.row(kind.layout.model.model_validate(_kept(old, named) | _deep(new, old, named)))


def _kept(old: dict[str, Any], named: frozenset[str]) -> dict[str, Any]:
    """What is there in fields that no column of the file is about."""
    return {name: value for name, value in old.items() if name not in named and not _parts(name, named)}


def _parts(name: str, named: frozenset[str]) -> set[str]:
    """The parts of a nested field that the file has columns for."""
    return {column.partition(".")[2] for column in named if column.startswith(name + ".")}


def _deep(new: dict[str, Any], old: dict[str, Any], named: frozenset[str]) -> dict[str, Any]:
    """The file's fields, nested ones completed by the parts that it has no columns for."""
    found = dict(new)
    for name, value in old.items():
        parts = _parts(name, named)
        if parts and isinstance(value, dict):
            found[name] = {part: at for part, at in value.items() if part not in parts} | found.get(name, {})
    return found


def _outcome(read: RowRead[BaseModel], row: dict[str, Any] | None, had: Shelf) -> tuple[str, str]:
    if row is None:
        return "refused", "; ".join(file_message(fault) for fault in read.faults[:FAULTS_SHOWN])
    old = had.get(read.key)
    if old is None:
        return "added", ""
    changes = _changes(old, row.get("plate", row))
    return ("changed", changes) if changes else ("same", "")


def _changes(old: dict[str, Any], new: dict[str, Any]) -> str:
    """What changes, field by field, in words."""
    names = [name for name in sorted({*old, *new}) if not _equal(old.get(name), new.get(name))]
    shown = [f"{name} {_said(old.get(name))} to {_said(new.get(name))}" for name in names[:FIELDS_SHOWN]]
    return ", ".join(shown) + (f" and {len(names) - FIELDS_SHOWN} more" if len(names) > FIELDS_SHOWN else "")


def _equal(one: Any, other: Any) -> bool:
    """The same value, whether it was typed as text or as a number."""
    try:
        return one == other or float(one) == float(other)
    except (TypeError, ValueError):
        return False


def _said(value: Any) -> str:
    if isinstance(value, dict):
        return " ".join(str(part) for part in value.values())
    if value in (None, "", []):
        return "nothing"
    return "|".join(map(str, value)) if isinstance(value, list) else str(value)


def confirm(
    db: Database, context: ActContext, draft_id: str, only_file: bool = False, progress: ProgressCallback = no_progress
) -> ImportCounts:
    """Write what was looked at: every good row, in one transaction; refused rows are left out.

    With `only_file` the van is emptied of what its file does not name. Raises `NotFound`, or `Changed` when the shelf
    was changed since: then nothing is written and the draft is looked through anew.
    """
    sent = _sent(db, draft_id)
    with db.reading() as session:
        good = _good_rows(session, sent, progress)
    with db.staging() as stage:
        with stage.writing() as session:
            _write(session, good, sent.van, progress)
        with db.writing_from(stage) as session:  # others wait for this alone
            record_act(session, context, "import_file", None)
            row = session.get(tables.ImportDraft, draft_id)
            if row is None or row.report is None or row.report["faults"]:
                raise NotFound("this file")
            if row.report["shelf"] == _shelf_as_it_is(session):
                there = _quantities(session, sent.van)
                gone = _take_over(session, good, sent.van, only_file)
                count_in(session, context, sent.van, there)
                session.delete(row)
                return ImportCounts(**row.report["counts"], taken_off=gone)
    look_through(db, draft_id, progress)
    raise ShelfChanged


def _good_rows(session: Session, sent: SentFile, progress: ProgressCallback) -> Rows:
    """The rows of a file that can be written; read before the write lock is taken, since that takes long."""
    files = _against_shelf(session, sent, progress)
    return [(kind, row) for kind, _, reads in files for _, row in reads if row is not None]


def _shelf_as_it_is(session: Session) -> str:
    """A fingerprint of catalog and van: another one means that something was changed since."""
    found = hashlib.sha256()
    motors = session.execute(select(tables.CatalogueMotor.part_no, PLATE).order_by(tables.CatalogueMotor.part_no))
    for part, plate in motors:
        found.update(f"{part}\0{plate}\0".encode())
    for row in session.execute(select(tables.VanPart.__table__).order_by(tables.VanPart.van, tables.VanPart.part_no)):
        found.update(repr(tuple(row)).encode())
    return found.hexdigest()


def _write(session: Session, good: Rows, van: str, progress: ProgressCallback = no_progress) -> None:
    """Write rows, added or changed by part number."""
    for kind in (MOTOR_FILE, VAN_FILE):
        rows = [row if kind is MOTOR_FILE else {"van": van, **row} for of, row in good if of is kind]
        for done in put(session, kind.table, rows):
            progress(done, len(rows))


def _take_over(session: Session, good: Rows, van: str, only_file: bool) -> int:
    """The staged rows into catalog and van; how many parts were taken off the van because its file names them not."""
    gone = 0
    for kind in (MOTOR_FILE, VAN_FILE):
        rows = [row for of, row in good if of is kind]
        if rows:
            table = kind.table.__table__
            upsert_staged(session, table, tuple(name for name in rows[0] if name not in table.primary_key.columns))
        if only_file and rows and kind is VAN_FILE:
            gone = clear_van(session, {row["part_no"] for row in rows}, van)
    return gone


def _quantities(session: Session, van: str) -> dict[str, int]:
    """How many there are of each part on a van."""
    row = tables.VanPart
    return {part: many for part, many in session.execute(select(row.part_no, row.quantity).where(row.van == van))}


def discard(db: Database, context: ActContext, draft_id: str) -> None:
    """Throw a draft away; nothing of it was written."""
    with db.writing() as session:
        record_act(session, context, "leave_file", None)
        session.execute(delete(tables.ImportDraft).where(tables.ImportDraft.id == draft_id))


def import_all(db: Database, context: ActContext, data: bytes, van: str = FIRST_VAN) -> ImportCounts:
    """A catalog, a van file or a package at once, all rows or none, as the command line brings it in.

    Raises `InvalidField` with up to 50 faults; then nothing is changed.
    """
    sent = SentFile(data, _what(data), van)
    with db.writing() as session:
        record_act(session, context, "import_file", None)
        good: Rows = []
        states: Counter[str] = Counter()
        for kind, had, reads in _against_shelf(session, sent, no_progress):
            faults: list[FieldError] = []
            for read, row in reads:
                faults += read.faults
                if row is not None:
                    good.append((kind, row))
                    states[_outcome(read, row, had)[0]] += 1
                if len(faults) >= MOST_FAULTS:
                    break
            if faults:
                raise InvalidField(faults)
        there = _quantities(session, van)
        _write(session, good, van)
        count_in(session, context, van, there)
        return ImportCounts(states["added"], states["changed"], states["same"])
