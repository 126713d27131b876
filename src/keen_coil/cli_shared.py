"""What every command shares: files read, bad input refused with 2, answers as JSON."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any

import typer

from .core.errors import BadInput, bad

Json = Annotated[bool, typer.Option("--json", help="Print the answer as JSON.")]


def read_file(path: Path) -> bytes:
    """The bytes of a file. Raises `BadInput`."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise bad("", error.strerror or "no file", "a file that can be read") from None


@contextmanager
def refusing(path: Path) -> Iterator[None]:
    """Bad input of this file ends with 2 and one line for each fault."""
    try:
        yield
    except BadInput as error:
        for fault in error.faults:
            typer.echo(f"{path}: {fault.line()}", err=True)
        raise typer.Exit(2) from None


def print_json(answer: Any) -> None:
    """Print an answer of the core as JSON."""
    typer.echo(json.dumps(answer.model_dump(mode="json", by_alias=True), ensure_ascii=False, indent=2))
