"""What a path holds before it is opened as the database: said in words, with what to do, before anything is touched."""

from __future__ import annotations

import getpass
import os
import sqlite3
from contextlib import closing
from pathlib import Path

from ..core.errors import invalid
from .sqlite_errors import DAMAGED, errorname, explain

HEADER = b"SQLite format 3\x00"
OURS = frozenset({"alembic_version", "site", "unit", "motor", "call", "reading", "act"})
VERSIONS = sorted(file.name[:4] for file in (Path(__file__).parent / "migrations" / "versions").glob("[0-9]*.py"))
OLDEST, NEWEST = VERSIONS[0], VERSIONS[-1]
"""The schemas this program opens: from that of 0.1, the first that was released, to its own."""
RESTORE = "Put the last copy back: keen-coil restore COPY --db {}"


def look_at(path: Path) -> str:
    """The schema of a database file, nothing where none is yet: an empty file and a free path are taken.

    Raises `InvalidField` on what cannot be opened as a database of this program, naming what it is and what to do.
    """
    if path.is_dir():
        raise invalid(str(path), "a folder", f"a file in it, such as {path / 'keen-coil.db'}")
    folder = path.parent
    while not folder.exists():
        folder = folder.parent
    if not folder.is_dir():
        raise invalid(str(folder), "a file", f"a folder for {path.name}")
    if not os.access(folder, os.W_OK | os.X_OK):
        raise invalid(str(folder), f"a folder that is read-only for user {_me()}", "one this user may write")
    if not path.exists() or path.stat().st_size == 0:
        return ""
    if not os.access(path, os.R_OK | os.W_OK):
        raise invalid(str(path), f"a file that is read-only for user {_me()}", "one this user may write")
    return _look_inside(path)


def _look_inside(path: Path) -> str:
    with path.open("rb") as file:
        if file.read(len(HEADER)) != HEADER:
            raise invalid(
                str(path), "a file that is no database", "a database of Keen Coil, or a path where nothing is"
            )
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, timeout=5)) as found:
            names = {row[0] for row in found.execute("select name from sqlite_master where type = 'table'")}
            version = found.execute("select version_num from alembic_version").fetchone() if names >= OURS else None
            damage = [row[0] for row in found.execute(f"pragma {_check_of(path)}(1)") if row[0] != "ok"]
    except sqlite3.DatabaseError as error:
        if not errorname(error).startswith(DAMAGED):
            raise invalid(str(path), explain(error)[1], "a database that can be read") from None
        names, version, damage = set(OURS), None, [str(error)]
    if names and not names >= OURS:
        raise invalid(str(path), "a database of another program", "a database of Keen Coil, or a path where nothing is")
    if version and version[0] > NEWEST:
        raise invalid(str(path), f"schema {version[0]}", f"at most {NEWEST}: a newer program made it, take that one")
    if version and version[0] < OLDEST:
        raise invalid(str(path), f"schema {version[0]}, from before 0.1", f"{OLDEST} or newer: its log as an archive")
    if damage:
        found_wrong = damage[0].splitlines()[-1]
        raise invalid(str(path), f"a damaged database: {found_wrong}", f"a sound one. {RESTORE.format(path)}")
    return version[0] if version else ""


def _check_of(path: Path) -> str:
    """After an end that was not clean every row is held against every index, which a quick check does not."""
    wal = path.with_name(f"{path.name}-wal")
    return "integrity_check" if wal.exists() and wal.stat().st_size else "quick_check"


def _me() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return str(os.geteuid())
