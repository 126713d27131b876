"""The van's stock (`van.csv`): part numbers and quantities, capacitors with their sections."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Annotated

from pydantic import AfterValidator

from ..core.capacitors.parts import sections_of
from ..core.plates import StrictModel
from ..core.units import Count, Inches, Text, Volts
from ..core.vocabulary import CapacitorShape, VanPartKind
from .csv_rows import Layout, all_or_none, rows_of, write_rows


def _sections(text: str) -> str:
    sections_of(text)
    return text


class VanPart(StrictModel):
    """A part on the van."""

    part_no: Text
    kind: VanPartKind
    sections_uf: Annotated[Text, AfterValidator(_sections)] | None = None
    volts_v: Volts | None = None
    shape: CapacitorShape | None = None
    height_in: Inches | None = None
    quantity: Count = 1


COLUMNS = tuple(VanPart.model_fields)
REQUIRED = ("part_no", "kind")
VAN = Layout(VanPart, COLUMNS, REQUIRED)
SEVERAL = Layout(VanPart, COLUMNS, REQUIRED, once=False)
"""A van file for an answer: a part number on two rows is counted together."""


def read_van(data: bytes) -> list[VanPart]:
    """The parts of a van file, all or none. Raises `InvalidField` naming `row N.column`."""
    return all_or_none(rows_of(data, SEVERAL))


def write_van(parts: Iterable[VanPart]) -> Iterator[str]:
    """The van as lines of CSV, formulas neutralised."""
    return write_rows(parts, COLUMNS)
