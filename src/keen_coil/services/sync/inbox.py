"""The shop's side of a sync: packages that come in pieces, packages made for a van; kept a day beside the database."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
import time
from collections.abc import Mapping
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import update

from ...core.errors import NotFound, invalid
from ...formats.sync_package import Greeting
from ...store import replica_tables as kept
from ...store.database import Database
from ..acts import ActContext, ProgressCallback, no_progress
from .authors import Bearer, meet
from .lineage import check_lineage, note_clock, signed_greeting
from .merge_package import note_heard, take_package
from .package import Report, make_package
from .replica_state import me

KEPT_S = 24 * 3600
LARGEST, MOST_FILES = 1_000_000_000, 4
"""Bytes of one package without its photographs, and packages of one account that wait at once."""
_DIGEST = re.compile(r"[0-9a-f]{64}")


def folder_of(db: Database, name: str) -> Path:
    """The folder beside the database where packages wait; what is older than a day is gone."""
    folder = db.path.resolve().parent / f".{db.path.stem}-sync" / name
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    for file in folder.iterdir():
        if time.time() - file.stat().st_mtime > KEPT_S:
            file.unlink(missing_ok=True)
    return folder


def answer_greeting(db: Database, other: Greeting, bearer: Bearer, now: datetime) -> Greeting:
    """The shop's greeting to a replica that greets. Raises `OlderCopy` where one of both is one, and as `meet` does."""
    with db.writing() as session:
        meet(session, other, bearer, now)
        check_lineage(session, other)
        note_clock(session, other, other.knows.get(other.uid, 0))
        note_heard(session, other, now)
        return signed_greeting(session)


def _file(db: Database, name: str, digest: str) -> Path:
    """A package by its checksum. Raises `NotFound`."""
    if not _DIGEST.fullmatch(digest):
        raise NotFound("this package")
    return folder_of(db, name) / digest


def _inbox(bearer: Bearer) -> str:
    """Where the packages of an account wait: nobody takes another's room."""
    return f"inbox-{hashlib.sha256((bearer.account or '').encode()).hexdigest()[:16]}"


def size_here(db: Database, bearer: Bearer, digest: str) -> int:
    """How much of a package has come."""
    path = _file(db, _inbox(bearer), digest)
    return path.stat().st_size if path.exists() else 0


def take_piece(db: Database, bearer: Bearer, digest: str, at: int, data: bytes) -> int:
    """Add a piece of a package where the last one ended; how much there is. Raises `InvalidField`."""
    path = _file(db, _inbox(bearer), digest)
    there = path.stat().st_size if path.exists() else 0
    if not path.exists() and sum(1 for _ in path.parent.iterdir()) >= MOST_FILES:
        raise invalid("", f"{MOST_FILES} packages waiting", "fewer: sync again later")
    if there + len(data) > LARGEST:
        raise invalid("", f"more than {LARGEST / 1e6:.0f} MB", f"a package of at most {LARGEST / 1e6:.0f} MB")
    if at != there:
        return there
    with path.open("ab") as out:
        out.write(data)
        out.flush()
        os.fsync(out.fileno())
    return there + len(data)


def merge_from_inbox(
    db: Database, context: ActContext, digest: str, bearer: Bearer, progress: ProgressCallback = no_progress
) -> dict[str, Any]:
    """Merge a package that came whole; what came, by table. Raises `InvalidField`; it is gone from the inbox then."""
    path = _file(db, _inbox(bearer), digest)
    if not path.exists():
        raise NotFound("this package")
    with path.open("rb") as file:
        found = hashlib.file_digest(file, "sha256").hexdigest()
        if found != digest:
            path.unlink()
            raise invalid("", "another checksum than it was sent with", "the package as it was made: sync again")
        report = take_package(db, context, file, "https", bearer, progress)
    path.unlink(missing_ok=True)
    return told(report)


def told(report: Report) -> dict[str, Any]:
    """A report as it is told to the van."""
    return {"came": report.came, "changed": report.changed, "ahead_ms": report.ahead_ms, "refused": report.refused}


def package_for(db: Database, knows: Mapping[str, int], progress: ProgressCallback = no_progress) -> dict[str, Any]:
    """Make a package for a van that knows so much: its checksum, its size, rows by table."""
    folder = folder_of(db, "outbox")
    number, name = tempfile.mkstemp(dir=folder, prefix="making-")
    with os.fdopen(number, "w+b") as out:
        went = make_package(db, out, knows, False, progress)
        out.flush()
        out.seek(0)
        digest = hashlib.file_digest(out, "sha256").hexdigest()
        size = out.seek(0, os.SEEK_END)
    os.replace(name, folder / digest)
    return {"sha256": digest, "bytes": size, "went": went}


def package_made(db: Database, digest: str) -> Path:
    """A package that was made for a van. Raises `NotFound`."""
    path = _file(db, "outbox", digest)
    if not path.exists():
        raise NotFound("this package. Sync again")
    return path


def size_made(db: Database, digest: str) -> int | None:
    """The size of a package that was made for a van; None when it is no longer there."""
    path = _file(db, "outbox", digest)
    return path.stat().st_size if path.exists() else None


def note_done(db: Database, other: Greeting, bearer: Bearer, now: datetime) -> None:
    """A van has taken everything: what it knows now. Raises as `meet` does."""
    with db.writing() as session:
        meet(session, other, bearer, now)
        note_heard(session, other, now)
        row = me(session)
        if not row.is_shop:  # whom vans come to is the shop
            session.execute(update(kept.Replica).where(kept.Replica.id == kept.THIS).values(is_shop=True))
