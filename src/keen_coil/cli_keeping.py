"""Commands of upkeep: copies of the database, putting one back, and the doctor."""

from __future__ import annotations

import platform
import shutil
import sqlite3
from ctypes.util import find_library
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Annotated

import typer

from . import __version__
from .cli_shared import refusing
from .core.errors import BadInput
from .settings import Settings

Db = Annotated[Path | None, typer.Option(help="Database file")]
PACKAGES = ("fastapi", "sqlalchemy", "alembic", "pydantic", "numpy", "scipy", "weasyprint", "argon2-cffi", "websockets")
LEAST_FREE_MB = 200


def _path(db: Path | None) -> Path:
    return (Settings(db=db) if db else Settings()).db


def backup(out: Annotated[Path, typer.Argument(help="The copy")], db: Db = None) -> None:
    """Copy the database to a file while it is in use, and check the copy."""
    from .store.copies import backup as copy

    with refusing(out):
        found = copy(_path(db), out)
    typer.echo(f"{out}: {found.calls} calls, {found.megabytes:.1f} MB, {found.says}.")


def restore(file: Annotated[Path, typer.Argument(help="A copy made by backup")], db: Db = None) -> None:
    """Put a copy in the place of the database; what was there is kept beside it."""
    from .store.copies import restore as put_back

    path = _path(db)
    with refusing(file):
        found = put_back(file, path)
    kept = path.with_name(path.name + ".before-restore")
    typer.echo(f"{path}: {found.calls} calls are back." + (f" What was there: {kept}" if kept.exists() else ""))


def doctor(db: Db = None) -> None:
    """Say what runs here: versions, paths, the state of the database, free space. Exits 1 when something is wrong."""
    path, wrong = _path(db), False
    typer.echo(f"Keen Coil {__version__}, Python {platform.python_version()}, SQLite {sqlite3.sqlite_version}")
    typer.echo(", ".join(f"{name} {_version(name)}" for name in PACKAGES))
    typer.echo(f"database: {path.resolve()}")
    try:
        from .store.copies import state_of

        found = state_of(path)
        wrong = not found.sound or found.schema > found.newest
        behind = "" if found.schema == found.newest else f" (newest {found.newest})"
        typer.echo(f"schema {found.schema}{behind}, {found.calls} calls, {found.megabytes:.1f} MB, {found.says}")
    except BadInput as error:
        wrong = path.exists()
        typer.echo(error.faults[0].line() if wrong else "no database yet: it is made when the server starts")
    folder = next(part for part in (path.parent, *path.parent.resolve().parents) if part.exists())
    free = shutil.disk_usage(folder).free / 1e6
    typer.echo(f"{free:.0f} MB free in {folder.resolve()}" + (", that is little" if free < LEAST_FREE_MB else ""))
    typer.echo("PDF: " + ("Pango is here" if find_library("pango-1.0") else "Pango is missing: only PDF fails"))
    raise typer.Exit(1 if wrong or free < LEAST_FREE_MB else 0)


def _version(name: str) -> str:
    try:
        return version(name)
    except PackageNotFoundError:
        return "not installed"
