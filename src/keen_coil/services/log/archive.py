"""The whole log out and in: every table of the database but the drafts, photographs as files beside them."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from datetime import UTC, date, datetime
from typing import IO, Any

from pydantic import BaseModel
from sqlalchemy import JSON, Boolean, Date, Float, Integer, LargeBinary, delete, func, insert, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.errors import InvalidField, KeenCoilError, invalid
from ...formats.archive import Archive, Column, Table, open_archive, write_archive
from ...formats.van_csv import VanPart
from ...store import tables
from ...store.columns import check_values, uid_of
from ...store.database import Database, upsert_staged
from ...store.replica_tables import REPLICA_TABLES
from ...store.sqlite_errors import explain
from ..acts import WITH_PRACTICE, ActContext, ProgressCallback, no_progress, record_act
from ..calls.call_view import call_view_of, whole_calls
from ..calls.photographs import MEDIA_TYPE, checked_jpeg
from ..catalog.stock import count_uncounted
from ..sync.lineage import start_anew
from ..sync.replica_values import HELD, UID, check_setting, validated

CHUNK = 400
FIRST_UIDS_MS = 1_767_225_600_000
"""What identities say of when they were made that an archive without any is given: the start of 2026."""
LEFT_OUT = (
    "import_draft",
    "account",
    "sign_in",
    "sign_in_failure",
    *(table.__tablename__ for table in REPLICA_TABLES),
)
"""No part of the log: files that are looked at before they are brought in, who may sign in, what this replica knows."""
_STORED = [table for table in tables.Table.metadata.sorted_tables if table.name not in LEFT_OUT]
_TYPES: tuple[tuple[type[Any], str], ...] = (
    (JSON, "object"),
    (tables.Typed, "object"),
    (Boolean, "boolean"),
    (Integer, "integer"),
    (Float, "number"),
    (tables.UtcTime, "datetime"),
    (Date, "date"),
)


class LogNotEmpty(KeenCoilError):
    """There are calls here; a log takes their place only when that is asked for. `calls` counts them."""

    status, title = 409, "Not empty"

    def __init__(self, calls: int) -> None:
        super().__init__(calls)
        self.calls = calls

    def __str__(self) -> str:
        return f"{self.calls} calls are here"


def _type_of(column: Any) -> str:
    return next((name for kind, name in _TYPES if isinstance(column.type, kind)), "string")


SINCE: dict[str, int] = {"practice": 2, "practice_file": 2, "stock_movement": 6}
"""Tables that came after the first version of the format."""
SINCE_COLUMN: dict[tuple[str, str], tuple[int, str]] = {
    ("unit", "practice"): (2, "false"),
    ("call", "practice"): (2, "false"),
    ("call", "changes"): (3, "{}"),
    ("part_used", "source"): (5, ""),
    ("unit", "joined_into"): (6, ""),
    ("motor", "joined_into"): (6, ""),
    **{(name, "uid"): (6, "") for name in ("unit", "motor", "call", "reading", "follow_up", "part_used", "photograph")},
}
"""Columns that came later: the version, and what rows of earlier archives have in them."""


NAME_IN_FILE: dict[tuple[str, str], str] = {
    ("motor", "installation"): "around",
    ("call", "search_text"): "words",
    ("catalogue_motor", "search_text"): "words",
}
"""Columns that the format calls by another name than the database."""


def _in_file(table: Any) -> list[Any]:
    """The columns of a table that stand in its file; pictures are files of their own."""
    return [column for column in table.columns if not isinstance(column.type, LargeBinary)]


def _layout(table: Any) -> Table:
    columns = tuple(
        Column(
            NAME_IN_FILE.get((table.name, column.name), column.name),
            _type_of(column),
            not column.nullable and _type_of(column) != "string",
            *SINCE_COLUMN.get((table.name, column.name), ()),
        )
        for column in _in_file(table)
    )
    return Table(table.name, columns, tuple(column.name for column in table.primary_key), SINCE.get(table.name, 1))


LAYOUTS: dict[str, Table] = {table.name: _layout(table) for table in _STORED}


def export_log(db: Database, out: IO[bytes], now: datetime, progress: ProgressCallback = no_progress) -> None:
    """Write the whole log to a file that is open for writing."""
    with db.reading() as session:
        of = sum(session.scalar(select(func.count()).select_from(table)) or 0 for table in _STORED)
        done = 0

        def rows(table: Any) -> Iterator[list[str]]:
            nonlocal done
            found = session.execute(
                select(*_in_file(table)).order_by(*table.primary_key).execution_options(yield_per=CHUNK)
            )
            for row in found:
                done += 1
                if done % CHUNK == 0:
                    progress(done, of)
                yield [_cell(value) for value in row]

        picture = tables.Photograph
        pictures = (
            (f"photographs/{number}.jpg", session.scalar(select(picture.content).where(picture.id == number)) or b"")
            for number in session.scalars(select(tables.Photograph.id).order_by(tables.Photograph.id)).all()
        )
        write_archive(out, ((LAYOUTS[table.name], rows(table)) for table in _STORED), pictures, now)
    progress(of, of)


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat().replace("+00:00", "Z")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, BaseModel):
        value = value.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False)
    return repr(value) if isinstance(value, float) else str(value)


def import_log(
    db: Database, context: ActContext, file: IO[bytes], replace: bool = False, progress: ProgressCallback = no_progress
) -> int:
    """Bring a log in, in the place of everything that is here; how many calls it has.

    All of it or nothing. Raises `LogNotEmpty` when there are calls here and `replace` is not set, `InvalidField` on
    anything about the archive that is not right.
    """
    with open_archive(file, list(LAYOUTS.values())) as archive, db.staging() as stage:
        with db.reading() as session:
            _not_over_calls(session, replace)
        with stage.writing() as session:
            try:
                _fill(session, archive, progress)
                _check_calls(session, progress)
            except IntegrityError as error:
                raise invalid("", explain(error)[1], "rows that belong together") from None
            if session.get(tables.Act, context.act_id) is None:
                record_act(session, context, "import_log", None)
            calls = session.scalar(select(func.count()).select_from(tables.Call)) or 0
        with db.writing_from(stage) as session:  # others wait for this alone
            _not_over_calls(session, replace)
            for table in reversed(_STORED):
                session.execute(delete(table))
            for table in _STORED:
                upsert_staged(session, table)
            start_anew(session)
            count_uncounted(session, context)
        return calls


def _not_over_calls(session: Session, replace: bool) -> None:
    counted = select(func.count()).select_from(tables.Call)
    here = session.scalar(counted, execution_options=WITH_PRACTICE) or 0
    if here and not replace:
        raise LogNotEmpty(here)


def _fill(session: Session, archive: Archive, progress: ProgressCallback) -> None:
    done = 0
    for table in _STORED:
        waiting: list[dict[str, Any]] = []
        for number, cells in archive.rows(LAYOUTS[table.name]):
            waiting.append(_row(table, number, cells, archive))
            done += 1
            if len(waiting) == CHUNK:
                session.execute(insert(table), waiting)
                waiting = []
                progress(done, archive.lines)
        if waiting:
            session.execute(insert(table), waiting)


def _row(table: Any, number: int, cells: list[str], archive: Archive) -> dict[str, Any]:
    """A row of a table from its cells, held to what the table may hold.

    Raises `InvalidField` naming file and column.
    """
    row: dict[str, Any] = {}
    path = f"{table.name}.csv: row {number}"
    for stored, column, text in zip(_in_file(table), LAYOUTS[table.name].columns, cells, strict=True):
        row[stored.name] = _value(column, text, stored.nullable, f"{path}.{column.name}")
    for name, model in HELD.get(table.name, {}).items():
        if row[name] is not None:
            validated(model, row[name], f"{path}.{name}")
    for column in table.columns:
        if isinstance(column.type, tables.Typed) and row[column.name] is not None:
            row[column.name] = validated(column.type.model, row[column.name], f"{path}.{column.name}")
    if "uid" in row:
        row["uid"] = _identity(row["uid"], archive, table.name, row["id"], path)
    if table is tables.Photograph.__table__:
        row["content"] = _picture(archive, row, path)
    if table is tables.Setting.__table__:
        check_setting(row["name"], row["value"], path)
    if table is tables.VanPart.__table__:
        told = {key: value for key, value in row.items() if key not in ("van", "quantity") and value is not None}
        validated(VanPart, told, path)
    return row


def _identity(uid: str, archive: Archive, table: str, number: int, path: str) -> str:
    """The identity of a row; of an archive that has none one that is the same whenever it comes, in the same order."""
    if uid == "":
        return uid_of(FIRST_UIDS_MS + number, f"{archive.digest} {table} {number}")
    if not UID.fullmatch(uid):
        raise invalid(f"{path}.uid", uid[:40], "an identity (UUID version 7)")
    return uid


def _value(column: Column, text: str, nullable: bool, path: str) -> Any:
    if text == "" and (nullable or column.type != "string"):
        if not nullable:
            raise invalid(path, "nothing", f"a value: {column.type}")
        return None
    try:
        value = _READ[column.type](text)
    except (ValueError, OverflowError, RecursionError):
        raise invalid(path, text[:60], column.type) from None
    try:
        check_values({path: value})
    except InvalidField as error:
        raise invalid(path, text[:60], error.errors[0].expected) from None
    return value


def _object(text: str) -> Any:
    found = json.loads(text)
    if not isinstance(found, dict):
        raise ValueError
    return found


def _moment(text: str) -> datetime:
    found = datetime.fromisoformat(text)
    if found.tzinfo is None:
        raise ValueError
    return found.astimezone(UTC)


def _boolean(text: str) -> bool:
    if text not in ("true", "false"):
        raise ValueError
    return text == "true"


_READ: dict[str, Callable[[str], Any]] = {
    "string": str,
    "integer": int,
    "number": float,
    "object": _object,
    "datetime": _moment,
    "date": date.fromisoformat,
    "boolean": _boolean,
}


def _picture(archive: Archive, row: dict[str, Any], path: str) -> bytes:
    """The bytes of a photograph's file, which must be a JPEG. Raises `InvalidField`."""
    name = f"photographs/{row['id']}.jpg"
    if name not in archive.pictures or row["media_type"] != MEDIA_TYPE:
        raise invalid(path, row["media_type"], f"{MEDIA_TYPE} in {name}")
    return checked_jpeg(archive.picture(name), name)


def _check_calls(session: Session, progress: ProgressCallback) -> None:
    """Every call must be one that its pages can show. Raises `InvalidField` naming it."""
    of = session.scalar(select(func.count()).select_from(tables.Call)) or 0
    found = session.scalars(whole_calls().order_by(tables.Call.id).execution_options(yield_per=200, **WITH_PRACTICE))
    for done, row in enumerate(found, start=1):
        try:
            call_view_of(row)
        except InvalidField as error:
            fault = error.errors[0]
            raise invalid(f"call {row.id}: {fault.path}", fault.value, fault.expected) from None
        if done % CHUNK == 0:
            progress(done, of)
