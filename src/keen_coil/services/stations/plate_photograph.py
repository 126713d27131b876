"""The photograph of a plate read: its text, its codes, the fields they speak for."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.plate.answer import PlateKind, PlateReading
from ...core.plate.pieces import Piece
from ...core.plate.read import read_pieces
from ...formats.plate_photograph import codes_in, read_photograph
from ..acts import ProgressCallback, no_progress


@dataclass(frozen=True)
class PhotographText:
    """What stands in a photograph: pieces of text with their places, the texts of barcodes and QR codes."""

    pieces: tuple[Piece, ...]
    codes: tuple[str, ...] = ()


def text_in_photograph(picture: bytes, progress: ProgressCallback = no_progress) -> PhotographText:
    """The text of an upright photograph, JPEG or PNG. Raises `EngineMissing`."""
    return PhotographText(tuple(read_photograph(picture, progress)), tuple(codes_in(picture)))


def plate_of_photograph(text: PhotographText, kind: PlateKind | None = None, role: str | None = None) -> PlateReading:
    """What the text of a photographed plate says; a code says what the plate's words do not.

    Args: kind of plate, found out when None; role of the motor whose row counts.
    """
    reading = read_pieces(text.pieces, kind, role)
    if not text.codes:
        return reading
    told = read_pieces([Piece("\n".join(text.codes))], reading.kind, role)
    had = {row.field for row in reading.fields}
    extra = [row for row in told.fields if row.field not in had]
    unread = [*reading.unread, *(code for code in text.codes if not told.fields)]
    return reading.model_copy(
        update={"fields": [*reading.fields, *extra], "unread": unread, "says": "" if extra else reading.says}
    )
