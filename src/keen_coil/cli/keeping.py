"""Commands of upkeep: copies of the database, putting one back, and the doctor."""

from __future__ import annotations

import platform
import shutil
import sqlite3
from ctypes.util import find_library
from datetime import UTC, datetime
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Annotated

import typer

from .. import __version__
from ..core.errors import InvalidField
from .shared import database_path, refusing

Db = Annotated[Path | None, typer.Option(help="Database file")]
PACKAGES = ("fastapi", "sqlalchemy", "alembic", "pydantic", "numpy", "scipy", "weasyprint", "argon2-cffi", "websockets")
LEAST_FREE_MB = 200


def backup(out: Annotated[Path, typer.Argument(help="The copy")], db: Db = None) -> None:
    """Copy the database to a file while it is in use, and check the copy."""
    from ..store.copies import backup as copy

    with refusing(out):
        found = copy(database_path(db), out)
    typer.echo(f"{out}: {found.calls} calls, {found.megabytes:.1f} MB, {found.says}.")


def restore(file: Annotated[Path, typer.Argument(help="A copy made by backup")], db: Db = None) -> None:
    """Put a copy in the place of the database; what was there is kept beside it."""
    from ..store.copies import restore as put_back

    path = database_path(db)
    with refusing(file):
        done = put_back(file, path)
    was = f" The old one is in {done.kept}" if done.kept else ""
    typer.echo(f"{path}: {done.state.calls} calls are back.{was}")


def doctor(db: Db = None) -> None:
    """Say what runs here: versions, paths, the state of the database, free space. Exits 1 when something is wrong."""
    path, wrong = database_path(db), False
    typer.echo(f"Keen Coil {__version__}, Python {platform.python_version()}, SQLite {sqlite3.sqlite_version}")
    typer.echo(", ".join(f"{name} {_version(name)}" for name in PACKAGES))
    typer.echo(f"database: {path.resolve()}")
    try:
        from ..store.copies import state_of
        from ..store.opening import look_at

        look_at(path)
        found = state_of(path)
        wrong = not found.sound or found.schema > found.newest
        behind = "" if found.schema == found.newest else f" (newest {found.newest})"
        typer.echo(f"schema {found.schema}{behind}, {found.calls} calls, {found.megabytes:.1f} MB, {found.says}")
    except InvalidField as error:
        wrong = path.exists() or error.errors[0].value != "no such file"
        typer.echo(error.errors[0].line() if wrong else "no database yet: it is made when the server starts")
    wrong = _say_copies(path) or wrong
    folder = next(part for part in (path.parent, *path.parent.resolve().parents) if part.exists())
    free = shutil.disk_usage(folder).free / 1e6
    typer.echo(f"{free:.0f} MB free in {folder.resolve()}" + (", that is little" if free < LEAST_FREE_MB else ""))
    typer.echo("PDF: " + ("Pango is here" if find_library("pango-1.0") else "Pango is missing: only PDF fails"))
    raise typer.Exit(1 if wrong or free < LEAST_FREE_MB else 0)


def _say_copies(path: Path) -> bool:
    """Nightly copies and what restores kept; whether something is wrong with them."""
    from sqlalchemy.exc import DatabaseError

    from ..services.log.nightly import backup_state
    from ..store.copies import kept_before
    from ..store.database import Database
    from ..store.opening import look_at

    kept = kept_before(path)
    if kept:
        typer.echo(f"kept by restores: {', '.join(file.name for file in kept)}")
    try:
        look_at(path)
        if not path.exists():
            return False
        state = backup_state(Database.opened(path), datetime.now(UTC))
    except (InvalidField, DatabaseError):
        return False
    newest = f", the newest of {state.copies[0].made_at:%Y-%m-%d %H:%M}" if state.copies else ""
    planned = f"every night at {state.plan.at:%H:%M}, {state.plan.keep} kept" if state.plan.keep else "none is made"
    typer.echo(f"nightly backup: {planned}; {len(state.copies)} copies in {state.folder}{newest}")
    if state.wrong:
        typer.echo(state.wrong)
    return bool(state.wrong)


def _version(name: str) -> str:
    try:
        return version(name)
    except PackageNotFoundError:
        return "not installed"
