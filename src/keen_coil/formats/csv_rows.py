"""Rows of a CSV file, each read or refused on its own: encoding, header, cells, duplicates, formulas.

UTF-8, commas, a decimal point. A cell that a spreadsheet would take for a formula is written with a `'` before it, and
read without.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Generic, TypeVar

from pydantic import BaseModel, ValidationError

from ..core.errors import FieldError, InvalidField, field_errors, invalid
from .dotted import get, nested

LARGEST = 64 * 1024 * 1024
MOST_ROWS = 200_000
MOST_FAULTS = 50
FORMULA = ("=", "+", "-", "@", "\t", "\r")
_DECIMAL_COMMA = re.compile(r"[+-]?\d+,\d+")
_PARTED = {";": "semicolons", "\t": "tabs", "|": "bars"}
T = TypeVar("T", bound=BaseModel)


@dataclass(frozen=True)
class RowRead(Generic[T]):
    """A row of the file: its number (the header is 1), its part number, and what it holds or why it is refused."""

    number: int
    key: str
    item: T | None
    faults: tuple[FieldError, ...] = ()


@dataclass(frozen=True)
class Layout(Generic[T]):
    """What a file must look like: the model of a row, its columns, those required, whether `key` may come once only."""

    model: type[T]
    columns: tuple[str, ...]
    required: tuple[str, ...]
    key: str = "part_no"
    once: bool = True


def text_of(data: bytes, largest: int = LARGEST) -> str:
    """The text of a CSV file. Raises `InvalidField` naming what is wrong with its size or encoding."""
    if len(data) > largest:
        raise invalid("", f"{len(data) / 1e6:.1f} MB", f"at most {largest / 1e6:.1f} MB")
    if data[:2] == b"PK":
        raise invalid("", "a zip file", "a CSV file in UTF-8")
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        raise invalid("", "text in UTF-16", "a CSV file in UTF-8")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise invalid("", f"a byte that is not UTF-8 at {error.start}", "a CSV file in UTF-8") from None


def header_of(text: str) -> list[str]:
    """The first row of a CSV file; empty when there is none."""
    try:
        return next(csv.reader(io.StringIO(text.partition("\n")[0], newline=""), strict=True), [])
    except csv.Error:
        return []


def rows_of(data: bytes, layout: Layout[T], largest: int = LARGEST) -> Iterator[RowRead[T]]:
    """Every row, read or refused.

    Raises `InvalidField` where the file as a whole cannot be read, its header included.
    """
    reader = csv.DictReader(io.StringIO(text_of(data, largest), newline=""), restkey="", strict=True)
    had: dict[str, int] = {}
    try:
        _check_header(list(reader.fieldnames or []), layout)
        for count, row in enumerate(reader, start=1):
            if count > MOST_ROWS:
                raise invalid(f"row {count + 1}", "one row more", f"at most {MOST_ROWS} rows")
            yield _row(count + 1, row, layout, had)
    except csv.Error as error:
        raise invalid(f"row {reader.line_num + 1}", str(error), "a row of comma separated values") from None


def _check_header(header: list[str], layout: Layout[T]) -> None:
    if len(header) == 1:
        parted = next((name for sign, name in _PARTED.items() if sign in header[0]), None)
        if parted:
            raise invalid(
                "header", f"columns parted by {parted}", "columns parted by commas, numbers with a decimal point"
            )
    faults = [
        FieldError(name, "no such column", "the column, it is required")
        for name in layout.required
        if name not in header
    ]
    faults += [
        FieldError(name or "header", "an unknown column", "one of " + ", ".join(layout.columns))
        for name in header
        if name not in layout.columns
    ]
    twice = sorted({name for name in header if header.count(name) > 1})
    faults += [FieldError(name, "the column twice", "each column once") for name in twice]
    if faults:
        raise InvalidField(faults)


def _row(number: int, row: dict[str, str], layout: Layout[T], had: dict[str, int]) -> RowRead[T]:
    path, key = f"row {number}", (row.get(layout.key) or "").strip()
    if "" in row or None in row.values():
        return RowRead(
            number, key, None, (FieldError(path, "more or fewer cells than columns", "a cell for each column"),)
        )
    blank = [
        FieldError(f"{path}.{name}", "nothing", "a value, the column is required")
        for name in layout.required
        if not row[name].strip()
    ]
    if blank:
        return RowRead(number, key, None, tuple(blank))
    try:
        item = layout.model.model_validate(nested({name: plain_cell(cell) for name, cell in row.items()}, layout.model))
    except ValidationError as error:
        return RowRead(number, key, None, tuple(_pointed(fault) for fault in field_errors(error, path)))
    key = str(getattr(item, layout.key))
    if layout.once and key in had:
        fault = FieldError(f"{path}.{layout.key}", key, f"a part number of its own; row {had[key]} has it")
        return RowRead(number, key, None, (fault,))
    had.setdefault(key, number)
    return RowRead(number, key, item)


def plain_cell(cell: str) -> str:
    """A cell without the sign that kept a spreadsheet from reading it as a formula."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(FORMULA) else cell


def _pointed(fault: FieldError) -> FieldError:
    """A fault that also says it where the decimal comma is at fault."""
    if not _DECIMAL_COMMA.fullmatch(fault.value):
        return fault
    return FieldError(fault.path, fault.value, fault.expected + ", with a decimal point")


def all_or_none(rows: Iterable[RowRead[T]]) -> list[T]:
    """Every row's item. Raises `InvalidField` with up to 50 faults when any row is refused."""
    items: list[T] = []
    faults: list[FieldError] = []
    for row in rows:
        faults += row.faults
        if row.item is not None:
            items.append(row.item)
        if len(faults) >= MOST_FAULTS:
            break
    if faults:
        raise InvalidField(faults)
    return items


def write_rows(items: Iterable[BaseModel], columns: tuple[str, ...]) -> Iterator[str]:
    """Items as lines of CSV, header first, formulas neutralised."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")

    def line(cells: Iterable[str]) -> str:
        out.seek(0)
        out.truncate()
        writer.writerow(cells)
        return out.getvalue()

    yield line(columns)
    for item in items:
        yield line(_cell(item, name) for name in columns)


def _cell(item: BaseModel, name: str) -> str:
    value = get(item, name)
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    text = "|".join(map(str, value)) if isinstance(value, list) else str(value)
    return "'" + text if text.startswith(FORMULA) and not is_number(text) else text


def is_number(text: str) -> bool:
    """Whether a text is a number as Python reads it."""
    try:
        float(text)
    except ValueError:
        return False
    return True
