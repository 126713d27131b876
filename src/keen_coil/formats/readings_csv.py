"""Readings as CSV: where each was taken, then its fields as in the call file; lists with `|`, formulas neutralised.

Reading it back gives the same readings; the columns of the place (`call` to `who`) are for people and are passed over.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from pydantic import ValidationError

from ..core.errors import FieldError, InvalidField, field_errors, invalid
from ..core.readings import KINDS, Reading
from .csv_rows import FORMULA, MOST_FAULTS, is_number, plain_cell, text_of

PLACE = ("call", "site", "unit", "role", "motor", "who")
FIELDS = tuple(field.alias or name for name, field in Reading.model_fields.items())
COLUMNS = (*PLACE, *FIELDS)
MOST_ROWS = 2000


PIECE = 1 << 16
"""Characters that are written at once."""


def write_readings(rows: Iterable[tuple[Mapping[str, Any], Mapping[str, Any]]]) -> Iterator[str]:
    """Readings as CSV in pieces of many lines, header first; a row is its place and the reading as in a call file."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for place, body in rows:
        writer.writerow([_cell(place.get(name)) for name in PLACE] + [_cell(body.get(name)) for name in FIELDS])
        if out.tell() >= PIECE:
            yield out.getvalue()
            out.seek(0)
            out.truncate()
    if out.getvalue():
        yield out.getvalue()


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return json.dumps(value)
    text = "|".join(map(str, value)) if isinstance(value, list) else str(value)
    return "'" + text if text.startswith(FORMULA) and not is_number(text) else text


def read_readings(data: bytes) -> list[dict[str, Any]]:
    """The readings of a CSV file as a call file has them, all or none. Raises `InvalidField` naming `row N.column`."""
    reader = csv.DictReader(io.StringIO(text_of(data), newline=""), restkey="", strict=True)
    found: list[dict[str, Any]] = []
    faults: list[FieldError] = []
    try:
        _check_header(list(reader.fieldnames or []))
        for number, row in enumerate(reader, start=2):
            if number - 1 > MOST_ROWS:
                raise invalid(f"row {number}", "one row more", f"at most {MOST_ROWS} rows")
            if "" in row or None in row.values():
                faults.append(FieldError(f"row {number}", "more or fewer cells than columns", "a cell for each column"))
                continue
            try:
                item = Reading.model_validate(_body(row))
            except ValidationError as error:
                faults += field_errors(error, f"row {number}")
                continue
            found.append(item.model_dump(mode="json", by_alias=True, exclude_none=True))
            if len(faults) >= MOST_FAULTS:
                break
    except csv.Error as error:
        raise invalid(f"row {reader.line_num + 1}", str(error), "a row of comma separated values") from None
    if faults:
        raise InvalidField(faults[:MOST_FAULTS])
    return found


def _check_header(header: list[str]) -> None:
    missing = [
        FieldError(name, "no such column", "the column, it is required")
        for name in ("kind", "value")
        if name not in header
    ]
    unknown = [
        FieldError(name or "header", "an unknown column", "one of " + ", ".join(COLUMNS))
        for name in header
        if name not in COLUMNS
    ]
    twice = [
        FieldError(n, "the column twice", "each column once")
        for n in sorted({n for n in header if header.count(n) > 1})
    ]
    if missing or unknown or twice:
        raise InvalidField([*missing, *unknown, *twice])


def _body(row: Mapping[str, str]) -> dict[str, Any]:
    cells = {name: plain_cell(row[name].strip()) for name in FIELDS if row.get(name, "").strip()}
    body: dict[str, Any] = dict(cells)
    body["value"] = _value(cells.get("kind", ""), cells.get("value", ""))
    if "pair" in cells:
        body["pair"] = cells["pair"].split("|")
    for name in ("isolated", "dried"):
        if cells.get(name) in ("true", "false"):
            body[name] = cells[name] == "true"
    return body


def _value(name: str, text: str) -> Any:
    kind = KINDS.get(name)
    if kind is None:
        return text
    if kind.yes_no and text in ("true", "false"):
        return text == "true"
    if kind.name == "capacitor_load":
        try:
            return json.loads(text)
        except ValueError:
            return text
    return text.split("|") if kind.many or "|" in text else text
