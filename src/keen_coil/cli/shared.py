"""What every command shares: files read, bad input refused with 2, answers as JSON."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.core import TyperGroup

from ..core.errors import InvalidField, KeenCoilError, invalid

Json = Annotated[bool, typer.Option("--json", help="Print the answer as JSON.")]


def read_file(path: Path) -> bytes:
    """The bytes of a file. Raises `InvalidField`."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise invalid("", error.strerror or "no file", "a file that can be read") from None


def database_path(db: Path | None) -> Path:
    """The database file: the one that is named, else the one of the settings."""
    from ..settings import Settings

    return (Settings(db=db) if db else Settings()).db


@contextmanager
def refusing(path: Path) -> Iterator[None]:
    """Bad input of this file ends with 2 and one line for each fault."""
    try:
        yield
    except InvalidField as error:
        for fault in error.errors:
            typer.echo(f"{path}: {fault.line()}", err=True)
        raise typer.Exit(2) from None


class PlainErrors(TyperGroup):
    """Commands of which any end in plain lines: 2 for bad input, 1 for a database that does not do what it is asked."""

    def invoke(self, ctx: Any) -> Any:
        """Run the command."""
        try:
            return super().invoke(ctx)
        except KeenCoilError as error:
            for line in error.lines:
                typer.echo(line, err=True)
            raise typer.Exit(2 if isinstance(error, InvalidField) else 1) from None
        except Exception as error:
            # told by its module's name, so that no command loads SQLAlchemy to ask
            if type(error).__module__ not in ("sqlalchemy.exc", "sqlite3"):
                raise
            from ..store.sqlite_errors import explain

            typer.echo(explain(error)[1], err=True)
            raise typer.Exit(1) from None


def print_json(answer: Any) -> None:
    """Print an answer of the core as JSON."""
    typer.echo(json.dumps(answer.model_dump(mode="json", by_alias=True), ensure_ascii=False, indent=2))
