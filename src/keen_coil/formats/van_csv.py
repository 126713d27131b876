"""The van's stock (`van.csv`): part numbers and quantities, capacitors with their sections."""

from __future__ import annotations

import csv
import io
from typing import Annotated, Literal

from pydantic import AfterValidator, ValidationError

from ..core.capacitors.parts import sections_of
from ..core.errors import BadInput, Fault, bad, faults_of
from ..core.plates import Plate
from ..core.units import Count, Inches, Text, Volts


def _sections(text: str) -> str:
    sections_of(text)
    return text


class VanPart(Plate):
    """A part on the van."""

    part_no: Text
    kind: Literal["motor", "capacitor", "part"]
    sections_uf: Annotated[Text, AfterValidator(_sections)] | None = None
    volts_v: Volts | None = None
    shape: Literal["round", "oval", "box"] | None = None
    height_in: Inches | None = None
    quantity: Count = 1


def read_van(data: bytes) -> list[VanPart]:
    """The parts of a van file, all or none. Raises `BadInput` naming `row N.column`."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise bad("", f"a byte that is not UTF-8 at {error.start}", "a CSV file in UTF-8") from None
    reader = csv.DictReader(io.StringIO(text, newline=""), restkey="", strict=True)
    header = list(reader.fieldnames or [])
    columns = list(VanPart.model_fields)
    faults = [
        Fault(name, "no such column", "the column, it is required")
        for name in ("part_no", "kind")
        if name not in header
    ]
    faults += [
        Fault(name, "an unknown column", "one of " + ", ".join(columns)) for name in header if name not in columns
    ]
    if faults:
        raise BadInput(faults)
    found, wrong = [], list[Fault]()
    for number, row in enumerate(reader, start=2):
        filled = {key: value for key, value in row.items() if value}
        try:
            found.append(VanPart.model_validate(filled))
        except ValidationError as error:
            wrong += faults_of(error, f"row {number}")
    if wrong:
        raise BadInput(wrong)
    return found
