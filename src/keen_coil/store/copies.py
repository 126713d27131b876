"""Copies of the database file while it is in use, and putting one back: checked first, never a newer one."""

from __future__ import annotations

import itertools
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path

from ..core.errors import invalid
from .database import PRIVATE, make_private, migrate
from .opening import NEWEST
from .sqlite_errors import DAMAGED, errorname

PAGES_AT_A_TIME = 512
BUSY_S = 10


@dataclass(frozen=True)
class State:
    """What a database file says of itself: its schema, whether it is sound, its size and calls."""

    schema: str
    newest: str
    sound: bool
    says: str
    megabytes: float
    calls: int


def state_of(path: Path) -> State:
    """Look at a database file without changing it. Raises `InvalidField` when it is none of ours."""
    if not path.exists():
        raise invalid("", "no such file", "a database of Keen Coil")
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=5)) as found:
            (schema,) = found.execute("select version_num from alembic_version").fetchone() or ("",)
            says = [row[0] for row in found.execute("pragma integrity_check(5)")]
            dangling = found.execute("pragma foreign_key_check").fetchmany(5)
            (calls,) = found.execute("select count(*) from call").fetchone()
    except sqlite3.Error as error:
        raise invalid("", str(error), "a database of Keen Coil") from None
    wrong = [text for text in says if text != "ok"] + [f"{row[0]} row {row[1]} hangs in the air" for row in dangling]
    size = path.stat().st_size / 1e6
    return State(str(schema), NEWEST, not wrong, "; ".join(wrong) or "sound", size, int(calls))


def copy_of(path: Path, out: Path) -> Path:
    """A plain copy of a file that may be in use, for work that is thrown away."""
    _copy(path, out)
    return out


def backup(path: Path, out: Path) -> State:
    """Copy a database file that may be in use to another, whole and checked. Raises `InvalidField`."""
    if out.resolve() == path.resolve():
        raise invalid("", str(out), "another file than the database itself")
    with _openable(path, out.parent) as source:
        return _backup(source, out)


@contextmanager
def _openable(path: Path, folder: Path) -> Iterator[Path]:
    """The file itself, or where nothing can be written beside it a copy of it with what was not yet taken up."""
    if not path.exists() or os.access(path.parent, os.W_OK):
        yield path
        return
    try:
        beside = tempfile.TemporaryDirectory(dir=folder, prefix=".keen-coil-")
    except OSError as error:
        raise invalid("", error.strerror or "nothing", "a folder that can be written") from None
    with beside as made:
        for file in (path, path.with_name(f"{path.name}-wal")):
            if file.exists():
                shutil.copyfile(file, Path(made) / file.name)
        yield Path(made) / path.name


def _backup(path: Path, out: Path) -> State:
    state_of(path)
    try:
        # made by us alone and readable by us alone, then put in place in one move
        with tempfile.NamedTemporaryFile(dir=out.parent, prefix=".keen-coil-", delete=False) as made:
            copy = Path(made.name)
    except OSError as error:
        raise invalid("", error.strerror or "nothing", "a folder that can be written") from None
    try:
        _copy(path, copy)
        found = state_of(copy)
        if not found.sound:
            raise invalid("", found.says, "a sound database")
        os.replace(copy, out)
    except (sqlite3.Error, OSError) as error:
        raise invalid("", str(error), "room for the copy") from None
    finally:
        copy.unlink(missing_ok=True)
    return found


def _copy(source: Path, target: Path) -> None:
    with closing(sqlite3.connect(source, timeout=BUSY_S)) as here, closing(sqlite3.connect(target)) as there:
        here.backup(there, pages=PAGES_AT_A_TIME)
        there.execute("pragma journal_mode=delete")


@dataclass(frozen=True)
class Restored:
    """What was put back, and where the database that it took the place of is kept; None when there was none."""

    state: State
    kept: Path | None


def restore(file: Path, path: Path) -> Restored:
    """Put a copy in the place of the database; what was there is kept beside it, numbered, never overwritten.

    Nobody else writes from the moment the kept copy is made until the new content is in: what was acknowledged before
    is in the kept copy, what comes after goes to what was put back. Raises `InvalidField`, and changes nothing, when
    the copy is damaged or was made by a newer program. A copy of an earlier schema is brought up first. A server that
    is running goes on with what was put back.
    """
    found = state_of(file)
    if found.schema > found.newest:
        raise invalid("", f"schema {found.schema}", f"at most {found.newest}: it was made by a newer program")
    if not found.sound:
        raise invalid("", found.says, "a sound database")
    path.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=path.parent, prefix=".keen-coil-") as folder:
        ready = Path(folder) / "ready.db"
        shutil.copy(file, ready)
        migrate(ready)
        found = state_of(ready)
        try:
            if path.exists():
                make_private(path)
            kept = _replace(ready, path) if path.exists() and path.stat().st_size else None
            if kept is None:
                make_private(path)
                _put_in_new(ready, path)
        except (sqlite3.Error, OSError) as error:
            raise invalid("", str(error), "a database that nobody else is writing, with room for two copies") from None
    return Restored(found, kept)


def _replace(ready: Path, path: Path) -> Path:
    """Put new content in the place of what is there; where that is kept.

    A file so broken that SQLite does not open it holds nothing anybody could still write to: it is moved aside whole.
    """
    try:
        return _put_in(ready, path)
    except sqlite3.DatabaseError as error:
        if not errorname(error).startswith(DAMAGED):
            raise
        kept = _numbered(path)
        for ending in ("", "-wal", "-shm"):
            if path.with_name(path.name + ending).exists():
                os.replace(path.with_name(path.name + ending), kept.with_name(kept.name + ending))
        make_private(path)
        _put_in_new(ready, path)
        return kept


def _put_in_new(ready: Path, path: Path) -> None:
    with closing(sqlite3.connect(ready)) as here, closing(sqlite3.connect(path)) as there:
        here.backup(there)


def _put_in(ready: Path, path: Path) -> Path:
    """Copy into a database that may be in use; where its content is kept.

    SQLite holds the write lock of the target from the first page to the last. The old content is copied once the lock
    is there; whoever reads still sees it. Any failure leaves the target as it was.
    """
    kept = _numbered(path)
    done = False

    def keep(status: int, remaining: int, total: int) -> None:
        nonlocal done
        if not done:
            _copy(path, kept)
            done = True

    try:
        with closing(sqlite3.connect(ready)) as here, closing(sqlite3.connect(path, timeout=BUSY_S)) as there:
            pages = here.execute("pragma page_count").fetchone()[0]
            here.backup(there, pages=min(PAGES_AT_A_TIME, max(1, pages - 1)), progress=keep)
    except BaseException:
        kept.unlink(missing_ok=True)
        raise
    return kept


def _numbered(path: Path) -> Path:
    """An empty file of ours beside the database for what was there: the next number that is free."""
    for number in itertools.count(1):
        kept = path.with_name(f"{path.name}.before-restore-{number}")
        try:
            os.close(os.open(kept, os.O_CREAT | os.O_EXCL | os.O_WRONLY, PRIVATE))
        except FileExistsError:
            continue
        return kept
    raise AssertionError("there is always another number")


def kept_before(path: Path) -> list[Path]:
    """What earlier restores kept of this database, oldest first."""
    return sorted(path.parent.glob(path.name + ".before-restore*"), key=lambda kept: kept.stat().st_mtime)
