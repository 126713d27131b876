"""Motor catalogs (`motors.csv`): every row checked, every fault named by row and column."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ..core.match.catalogue import REQUIRED, CatalogueMotor
from .csv_rows import LARGEST, Layout, all_or_none, rows_of, write_rows
from .dotted import columns_of

COLUMNS = tuple(columns_of(CatalogueMotor))
MOTORS = Layout(CatalogueMotor, COLUMNS, REQUIRED)


def read_catalogue(data: bytes, largest: int = LARGEST) -> list[CatalogueMotor]:
    """The motors of a catalog, all or none. Raises `InvalidField` naming `row N.column` for each fault."""
    return all_or_none(rows_of(data, MOTORS, largest))


def write_catalogue(motors: Iterable[CatalogueMotor]) -> Iterator[str]:
    """A catalog as lines of CSV, columns in the contract's order, formulas neutralised."""
    return write_rows(motors, COLUMNS)
