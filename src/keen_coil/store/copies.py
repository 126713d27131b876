"""Copies of the database file while it is in use, and putting one back: checked first, never a newer one."""

from __future__ import annotations

import os
import shutil
import sqlite3
import tempfile
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from alembic.script import ScriptDirectory

from ..core.errors import bad
from .database import alembic_config, migrate

PAGES_AT_A_TIME = 512


@dataclass(frozen=True)
class State:
    """What a database file says of itself: its schema, whether it is sound, its size and calls."""

    schema: str
    newest: str
    sound: bool
    says: str
    megabytes: float
    calls: int


def newest_schema() -> str:
    """The newest schema this program knows."""
    return str(ScriptDirectory.from_config(alembic_config(Path("x"))).get_current_head())


def state_of(path: Path) -> State:
    """Look at a database file without changing it. Raises `BadInput` when it is none of ours."""
    if not path.exists():
        raise bad("", "no such file", "a database of Keen Coil")
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=5)) as found:
            (schema,) = found.execute("select version_num from alembic_version").fetchone() or ("",)
            says = [row[0] for row in found.execute("pragma integrity_check(5)")]
            dangling = found.execute("pragma foreign_key_check").fetchmany(5)
            (calls,) = found.execute("select count(*) from call").fetchone()
    except sqlite3.Error as error:
        raise bad("", str(error), "a database of Keen Coil") from None
    wrong = [text for text in says if text != "ok"] + [f"{row[0]} row {row[1]} hangs in the air" for row in dangling]
    size = path.stat().st_size / 1e6
    return State(str(schema), newest_schema(), not wrong, "; ".join(wrong) or "sound", size, int(calls))


def backup(path: Path, out: Path) -> State:
    """Copy a database file that may be in use to another, whole and checked. Raises `BadInput`."""
    state_of(path)
    if out.resolve() == path.resolve():
        raise bad("", str(out), "another file than the database itself")
    try:
        with tempfile.NamedTemporaryFile(dir=out.parent, prefix=".keen-coil-", delete=False) as made:
            copy = Path(made.name)
    except OSError as error:
        raise bad("", error.strerror or "nothing", "a folder that can be written") from None
    try:
        _copy(path, copy)
        found = state_of(copy)
        if not found.sound:
            raise bad("", found.says, "a sound database")
        os.replace(copy, out)
    except (sqlite3.Error, OSError) as error:
        raise bad("", str(error), "room for the copy") from None
    finally:
        copy.unlink(missing_ok=True)
    return found


def _copy(source: Path, target: Path) -> None:
    with closing(sqlite3.connect(source, timeout=5)) as here, closing(sqlite3.connect(target, timeout=5)) as there:
        here.backup(there, pages=PAGES_AT_A_TIME)
        there.execute("pragma journal_mode=delete")


def restore(file: Path, path: Path) -> State:
    """Put a copy in the place of the database; what was there is kept beside it as `.before-restore`.

    Raises `BadInput`, and changes nothing, when the copy is damaged or was made by a newer program. A copy of an
    earlier schema is brought up first. A server that is running goes on with what was put back.
    """
    found = state_of(file)
    if found.schema > found.newest:
        raise bad("", f"schema {found.schema}", f"at most {found.newest}: it was made by a newer program")
    if not found.sound:
        raise bad("", found.says, "a sound database")
    with tempfile.TemporaryDirectory() as folder:
        ready = Path(folder) / "ready.db"
        shutil.copy(file, ready)
        migrate(ready)
        found = state_of(ready)
        try:
            if path.exists():
                _copy(path, path.with_name(path.name + ".before-restore"))
            path.parent.mkdir(parents=True, exist_ok=True)
            with closing(sqlite3.connect(ready)) as here, closing(sqlite3.connect(path, timeout=10)) as there:
                here.backup(there)
        except (sqlite3.Error, OSError) as error:
            raise bad("", str(error), "a folder that can be written, with room for two copies") from None
    return found
