"""What was read off a plate: the answer of the contract, the same for a photograph and for a line of text."""

from __future__ import annotations

from typing import Literal, get_args

from ..plates import StrictModel

PlateKind = Literal["motor", "unit", "capacitor"]
PLATE_KINDS: tuple[PlateKind, ...] = get_args(PlateKind)
Sure = Literal["sure", "doubtful", "repaired"]
Value = float | int | str | list[float] | list[str]
DECIDING = ("volts", "hp", "amps_a", "rpm", "capacitor_uf", "rotation.sense", "speeds")
"""The seven that decide a motor (practice, Read the plates)."""


class PlateField(StrictModel):
    """A field that was read: its dotted name, its value as the call file holds it, the text it was read from.

    `box` is where it stands in the photograph in pixels (x, y, width, height), None for text; `why` says what is
    doubtful or what was repaired.
    """

    field: str
    value: Value
    typed: str
    sure: Sure
    confidence: float
    box: tuple[int, int, int, int] | None = None
    why: str = ""


class PlateReading(StrictModel):
    """What a plate says. `says` tells, where nothing could be read, why; then there are no fields."""

    kind: PlateKind
    fields: list[PlateField] = []
    unread: list[str] = []
    text: list[str] = []
    says: str = ""

    def field(self, name: str) -> PlateField | None:
        """The field of this name, if it was read."""
        return next((row for row in self.fields if row.field == name), None)
