"""The command that reads a plate: a photograph or a line of text."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..core.errors import invalid
from .shared import Json, print_json, read_file, refusing

if TYPE_CHECKING:
    from ..core.plate.answer import PlateKind, PlateReading


def plate(
    photo: Annotated[Path | None, typer.Argument(help="A photograph: JPEG, PNG or WebP")] = None,
    text: Annotated[str | None, typer.Option(help='Text instead: "1/4 HP 1075 RPM 208-230 V 1.4 A"')] = None,
    kind: Annotated[str | None, typer.Option(help="motor, unit or capacitor; found out without")] = None,
    as_json: Json = False,
) -> None:
    """Read a motor's or unit's plate or a capacitor's label, from a photograph or a line of text."""
    with refusing(photo or Path("--text")):
        answer = _reading(photo, text, _kind(kind))
        if not answer.fields:
            raise invalid(
                "plate", text[:60] if text else "a picture", f"words of a plate, such as 1/4 HP. {answer.says}"
            )
    if as_json:
        print_json(answer)
    else:
        _print(answer)


def _kind(kind: str | None) -> PlateKind | None:
    from ..core.plate.answer import PLATE_KINDS

    if kind is None:
        return None
    found = next((known for known in PLATE_KINDS if known == kind), None)
    if found is None:
        raise invalid("kind", kind, "one of " + ", ".join(PLATE_KINDS))
    return found


def _reading(photo: Path | None, text: str | None, kind: PlateKind | None) -> PlateReading:
    from ..core.plate.read import read_text

    if (photo is None) == (text is None):
        raise invalid("plate", "both" if photo else "neither", "a photograph, or --text")
    if photo is None:
        return read_text(text or "", kind)
    from ..services.calls.photographs import drawn_anew
    from ..services.stations.plate_photograph import plate_of_photograph, text_in_photograph

    return plate_of_photograph(text_in_photograph(drawn_anew(read_file(photo), photo.name)), kind)


def _print(answer: PlateReading) -> None:
    from rich.console import Console
    from rich.table import Table

    table = Table("field", "value", "read from", "sure", "why", title=f"{answer.kind} plate")
    for row in answer.fields:
        table.add_row(row.field, str(row.value), row.typed, f"{row.sure} {row.confidence:.2f}", row.why)
    console = Console()
    console.print(table)
    if answer.unread:
        console.print("Not understood: " + " · ".join(answer.unread), markup=False)
