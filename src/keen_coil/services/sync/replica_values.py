"""Rows in words that travel, and back: references by identity or name, moments in ISO 8601, structures as JSON."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, date, datetime
from functools import cache
from math import isfinite
from typing import Any, NamedTuple

from pydantic import BaseModel, ValidationError
from sqlalchemy import JSON, Boolean, Date, Float, Integer
from sqlalchemy.orm import Session

from ...core.errors import InvalidField, field_errors, invalid
from ...core.limits import tightened
from ...core.match.catalogue import CatalogueMotor
from ...core.moments import FIRST_YEAR, LAST_YEAR
from ...core.plates import Motor, Unit
from ...core.practice.case import Case
from ...core.practice.kept import KeptDone, KeptLeads
from ...core.practice.score import Score
from ...core.replicas.merge import RULES
from ...core.units import CONTROL, texts_in
from ...formats.van_csv import VanPart
from ...store.columns import Typed, UtcTime
from ...store.touching import SEPARATOR, key_sql, metadata_of, target
from ..calls.photographs import MEDIA_TYPE, SUBJECTS
from ..people.settings import LIMITS

HELD: dict[str, dict[str, type[BaseModel]]] = {
    "unit": {"plate": Unit},
    "motor": {"plate": Motor},
    "catalogue_motor": {"plate": CatalogueMotor},
    "practice": {"case": Case, "done": KeptDone, "leads": KeptLeads, "score": Score},
    "practice_file": {"case": Case},
}


def validated(model: type[BaseModel], value: Any, path: str) -> BaseModel:
    """A value as its model. Raises `InvalidField` naming the path."""
    try:
        return model.model_validate(value)
    except ValidationError as error:
        raise InvalidField(field_errors(error, path)) from None


def check_setting(name: str, value: Any, path: str) -> None:
    """A shop's limits are such as it may tighten. Raises `InvalidField`."""
    if name != LIMITS:
        return
    try:
        tightened(value)
    except (ValueError, TypeError, KeyError) as error:
        raise invalid(f"{path}.value", value, str(error) or "limits that were tightened") from None


CHUNK = 400
UID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}")
LONGEST_KEY, MOST_ENTRIES = 400, 100
Values = dict[str, dict[str, Any]]
"""The values of a row by part."""


class Column(NamedTuple):
    """A column that travels: how it is read from the file, how its value is told, how a told one is read.

    longest: characters of a text that is bounded. is_needed: it holds a value that nothing else gives it.
    """

    sql: str
    tell: Callable[[Any], Any]
    read: Callable[[Any], Any]
    type: Any
    is_nullable: bool
    is_needed: bool
    longest: int


def _same(value: Any) -> Any:
    return value


def _told_moment(text: str) -> str:
    return text.replace(" ", "T") + "Z"


def _moment(told: Any) -> datetime:
    found = datetime.fromisoformat(told)
    if found.tzinfo is None:
        raise ValueError
    return found.astimezone(UTC)


def _of(kind: type, *more: type) -> Callable[[Any], Any]:
    def read(told: Any) -> Any:
        if not isinstance(told, kind | more[0] if more else kind) or (isinstance(told, bool) and kind is not bool):
            raise ValueError
        return told

    return read


_KINDS: tuple[tuple[type[Any], Callable[[Any], Any], Callable[[Any], Any]], ...] = (
    (JSON, json.loads, _of(dict)),
    (Typed, json.loads, _of(dict)),
    (Boolean, bool, _of(bool)),
    (Integer, _same, _of(int)),
    (Float, _same, _of(float, int)),
    (UtcTime, _told_moment, _moment),
    (Date, _same, date.fromisoformat),
)


@cache
def _column(table: str, name: str) -> Column:
    to, column = target(table, name), metadata_of(table).columns[name]
    kind = column.type
    tell: Callable[[Any], Any] = _same
    sql, read, longest = f'"{table}"."{name}"', _of(str), getattr(kind, "length", None) or 0
    if to is not None:
        sql, longest = f'(SELECT "{to[1]}" FROM "{to[0]}" WHERE id = "{table}"."{name}")', 0
    else:
        tell, read = next(((tell, read) for of, tell, read in _KINDS if isinstance(kind, of)), (tell, read))
    needed = not column.nullable and column.default is None and column.server_default is None
    return Column(sql, tell, read, kind, bool(column.nullable), needed, longest)


@cache
def columns_of(table: str) -> tuple[str, ...]:
    """The columns that a table's parts are made of, each once."""
    parts = RULES[table].parts.values()
    return tuple(dict.fromkeys(name.partition(".")[0] for part in parts for name in part.columns))


@cache
def _query(table: str) -> str:
    """SQL for the rows of a table: key, what else is needed, the columns."""
    extra = _EXTRA.get(table, "NULL")
    columns = ", ".join(_column(table, name).sql for name in columns_of(table))
    return f'SELECT {key_sql(table, table)}, {extra}{", " if columns else ""}{columns} FROM "{table}"'


_EXTRA = {
    "reading": (
        "(SELECT r.uid FROM reading r WHERE r.call_id = reading.call_id "
        "AND r.position = json_extract(reading.body, '$.replaces'))"
    ),
    "motor": "(SELECT uid FROM call WHERE id = json_extract(motor.found_good, '$.call'))",
}


def rows_told(session: Session, table: str, keys: Iterable[str]) -> dict[str, Values]:
    """The rows of a table as they travel, by key; those that are not there are left out."""
    found: dict[str, Values] = {}
    wanted = list(keys)
    names = columns_of(table)
    for start in range(0, len(wanted), CHUNK):
        part = wanted[start : start + CHUNK]
        where, given = where_keys(table, part)
        for key, other, *cells in session.connection().exec_driver_sql(f"{_query(table)} {where}", given):
            if key is not None:
                found[key] = _parts(table, dict(zip(names, cells, strict=True)), other)
    return {key: found[key] for key in wanted if key in found}


def where_keys(table: str, keys: list[str]) -> tuple[str, tuple[Any, ...]]:
    """SQL for the rows of these keys; of a row that is known by its call, the rows of these calls."""
    columns = RULES[table].key
    if columns == ("call_id",) or columns[0] == "call_id":
        calls = {key.partition(SEPARATOR)[0] for key in keys}
        marks = ", ".join("?" * len(calls))
        return f'WHERE "{table}".call_id IN (SELECT id FROM call WHERE uid IN ({marks}))', tuple(calls)
    if len(columns) == 1:
        return f'WHERE "{table}"."{columns[0]}" IN ({", ".join("?" * len(keys))})', tuple(keys)
    cells = [tuple(key.split(SEPARATOR)) for key in keys]
    one = f"({', '.join('?' * len(columns))})"
    names = ", ".join(f'"{table}"."{name}"' for name in columns)
    return f"WHERE ({names}) IN (VALUES {', '.join([one] * len(cells))})", tuple(cell for row in cells for cell in row)


def _parts(table: str, cells: dict[str, Any], other: str | None) -> Values:
    values: dict[str, Any] = {name: _column(table, name).tell(cell) for name, cell in cells.items() if cell is not None}
    if table == "reading":
        values["body"] = {name: value for name, value in values["body"].items() if name != "replaces"}
        values["body"] |= {"replaces": other} if other else {}
    if table == "motor" and "found_good" in values:
        values["found_good"] = {k: v for k, v in values["found_good"].items() if k != "call"}
        values["found_good"] |= {"call": other} if other else {}
    found: Values = {}
    for name, part in RULES[table].parts.items():
        found[name] = {column: value for column in part.columns if (value := _at(values, column)) is not None}
    return found


def _at(values: Mapping[str, Any], column: str) -> Any:
    name, _, field = column.partition(".")
    value = values.get(name)
    return value.get(field) if field and isinstance(value, dict) else value


class RowRead(NamedTuple):
    """A row that was told, read: its columns as the database takes them, the identities it refers to by column."""

    cells: dict[str, Any]
    refers: dict[str, str]
    more: dict[str, Any]


def read_row(table: str, key: str, parts: Mapping[str, Any]) -> RowRead:
    """A row from the values of its parts, held to what its columns hold. Raises `InvalidField` naming the column."""
    path = f"{table} {key.replace(SEPARATOR, ' ')[:60]}"
    cells: dict[str, Any] = dict.fromkeys(columns_of(table))
    more: dict[str, Any] = {}
    for name, part in RULES[table].parts.items():
        value = parts.get(name)
        _into(cells, value or {}, part.columns, path)
    _keyed(table, key, cells, path)
    if table == "reading" and isinstance(cells["body"], dict) and "replaces" in cells["body"]:
        more["replaces"] = cells["body"].pop("replaces")
    if table == "motor" and isinstance(cells["found_good"], dict):
        more["good_call"] = cells["found_good"].pop("call", None)
    _check_row(table, key, cells, path)
    refers = {name: str(cells[name]) for name in cells if cells[name] is not None and target(table, name)}
    for name, cell in list(cells.items()):
        cells[name] = _read(table, name, cell, f"{path}.{name}")
    return RowRead(cells, refers, more)


def _check_row(table: str, key: str, cells: dict[str, Any], path: str) -> None:
    """What rows as wholes are held to."""
    if table == "van_part":
        validated(VanPart, {name: cell for name, cell in cells.items() if name != "van" and cell is not None}, path)
    if table == "photograph" and (cells["media_type"] != MEDIA_TYPE or cells["subject"] not in SUBJECTS):
        raise invalid(f"{path}.media_type", cells["media_type"], f"{MEDIA_TYPE}, of {', '.join(SUBJECTS)}")
    if table == "setting":
        check_setting(key, cells["value"], path)
    older = cells.get("joined_into")
    if older is not None and (not isinstance(older, str) or older >= key):
        raise invalid(f"{path}.joined_into", older, "one that was entered before it")


def _into(cells: dict[str, Any], value: Mapping[str, Any], columns: tuple[str, ...], path: str) -> None:
    for column in columns:
        name, _, field = column.partition(".")
        if field:
            cells[name] = cells[name] or {}
            cells[name] |= {field: value[column]} if column in value else {}
        else:
            cells[name] = value.get(column)
    odd = set(value) - set(columns)
    if odd:
        raise invalid(
            path, ", ".join(sorted(map(str, odd)))[:80], "columns of this program: it was made by a newer one"
        )


def _keyed(table: str, key: str, cells: dict[str, Any], path: str) -> None:
    """The columns of the key, from the key itself."""
    if CONTROL.search(key.replace(SEPARATOR, "")):
        raise invalid(path, key, "a key without control characters")
    names = RULES[table].key
    told = key.split(SEPARATOR)
    if len(told) != len(names) or not 1 <= len(key) <= LONGEST_KEY:
        raise invalid(path, key[:60], f"a key of {len(names)} parts")
    for name, text in zip(names, told, strict=True):
        if name == "uid" and not UID.fullmatch(text):
            raise invalid(path, text[:40], "an identity (UUID version 7)")
        cells[name] = int(text) if name == "upto" and text.isdecimal() and len(text) < 20 else text


def _read(table: str, name: str, cell: Any, path: str) -> Any:
    column = _column(table, name)
    typed = isinstance(column.type, Typed)
    if cell is None:
        if column.is_needed:
            raise invalid(path, "nothing", "a value")
        return column.type.process_result_value({}, None) if typed and not column.is_nullable else None
    try:
        value = column.read(cell)
    except (ValueError, TypeError, OverflowError):
        raise invalid(path, cell, "a value of this column") from None
    _check_cell(column, value, path)
    if name in HELD.get(table, _NONE):
        validated(HELD[table][name], value, path)
    if not typed:
        return value
    if not value:  # nothing in it is what it begins with
        return column.type.process_result_value(value, None)
    return validated(column.type.model, _capped(table, name, value), path)


def _check_cell(column: Column, value: Any, path: str) -> None:
    """What a form would not save is not taken from a package either. Raises `InvalidField`."""
    for at, text in texts_in(value, path):
        if CONTROL.search(text):
            raise invalid(at, text, "text without control characters")
    if isinstance(value, date) and not FIRST_YEAR <= value.year <= LAST_YEAR:
        raise invalid(path, value, f"a year from {FIRST_YEAR} to {LAST_YEAR}")
    if isinstance(value, float) and not isfinite(value):
        raise invalid(path, value, "a number")
    if column.longest and len(value) > column.longest:
        raise invalid(path, value[:40], f"at most {column.longest} characters")
    if isinstance(value, int) and abs(value) >= 2**63:
        raise invalid(path, value, "a number that can be kept")


_NONE: dict[str, Any] = {}


def _capped(table: str, name: str, value: Any) -> Any:
    """Lists that two joined, cut to what a call may hold: the newest."""
    from ...core.record import MOST_SOUNDS

    if (table, name) == ("call", "plan") and len(value.get("sounds") or []) > MOST_SOUNDS:
        return {**value, "sounds": value["sounds"][-MOST_SOUNDS:]}
    if (table, name) == ("call", "changes") and len(value.get("made") or []) > MOST_ENTRIES:
        return {"made": value["made"][-MOST_ENTRIES:]}
    return value
