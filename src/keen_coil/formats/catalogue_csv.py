"""Motor catalogues (`motors.csv`): every row checked, every fault named by row and column."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator

from pydantic import ValidationError

from ..core.errors import BadInput, Fault, bad, faults_of
from ..core.match.catalogue import REQUIRED, CatalogueMotor
from .dotted import columns_of, nested

LARGEST = 16 * 1024 * 1024
MOST_FAULTS = 50
COLUMNS = tuple(columns_of(CatalogueMotor))


def read_catalogue(data: bytes, largest: int = LARGEST) -> list[CatalogueMotor]:
    """The motors of a catalogue, all or none. Raises `BadInput` naming `row N.column` for each fault."""
    reader = csv.DictReader(io.StringIO(_text(data, largest), newline=""), restkey="", strict=True)
    try:
        header = list(reader.fieldnames or [])
        _check_header(header)
        return _rows(reader)
    except csv.Error as error:
        raise bad(f"row {reader.line_num + 1}", str(error), "a row of comma separated values") from None


def _text(data: bytes, largest: int) -> str:
    if len(data) > largest:
        raise bad("", f"{len(data) / 1e6:.1f} MB", f"at most {largest / 1e6:.1f} MB")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise bad("", f"a byte that is not UTF-8 at {error.start}", "a CSV file in UTF-8") from None


def _check_header(header: list[str]) -> None:
    faults = [Fault(name, "no such column", "the column, it is required") for name in REQUIRED if name not in header]
    faults += [
        Fault(name or "header", "an unknown column", "columns of the catalogue")
        for name in header
        if name not in COLUMNS
    ]
    faults += [
        Fault(name, "the column twice", "each column once")
        for name in sorted({n for n in header if header.count(n) > 1})
    ]
    if faults:
        raise BadInput(faults)


def _rows(reader: csv.DictReader[str]) -> list[CatalogueMotor]:
    found: dict[str, CatalogueMotor] = {}
    rows: dict[str, int] = {}
    faults: list[Fault] = []
    for number, row in enumerate(reader, start=2):
        try:
            motor = _motor(number, row)
            if motor.part_no in rows:
                raise bad(
                    f"row {number}.part_no",
                    motor.part_no,
                    f"a part number of its own; row {rows[motor.part_no]} has it",
                )
            rows[str(motor.part_no)], found[str(motor.part_no)] = number, motor
        except BadInput as error:
            faults += error.faults
        if len(faults) >= MOST_FAULTS:
            break
    if faults:
        raise BadInput(faults)
    return list(found.values())


def _motor(number: int, row: dict[str, str]) -> CatalogueMotor:
    path = f"row {number}"
    if "" in row or None in row.values():
        raise bad(path, "more or fewer cells than columns", "a cell for each column")
    blank = [
        Fault(f"{path}.{name}", "nothing", "a value, the column is required")
        for name in REQUIRED
        if not row[name].strip()
    ]
    if blank:
        raise BadInput(blank)
    try:
        return CatalogueMotor.model_validate(nested(row, CatalogueMotor))
    except ValidationError as error:
        raise BadInput(faults_of(error, path)) from None


def write_catalogue(motors: list[CatalogueMotor]) -> Iterator[str]:
    """A catalogue as lines of CSV, columns in the contract's order, formulas neutralised."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    for row in [list(COLUMNS), *([_cell(motor, name) for name in COLUMNS] for motor in motors)]:
        writer.writerow(row)
        yield out.getvalue()
        out.seek(0)
        out.truncate()


def _cell(motor: CatalogueMotor, name: str) -> str:
    value: object = motor
    for part in name.split("."):
        value = getattr(value, part, None)
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    text = "|".join(map(str, value)) if isinstance(value, list) else str(value)
    return "'" + text if text.startswith(("=", "+", "-", "@", "\t", "\r")) and not _is_number(text) else text


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
