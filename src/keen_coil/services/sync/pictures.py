"""Photographs of a sync: they go ahead of their rows by the hash of their content, each once."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Mapping
from datetime import datetime, timedelta
from typing import IO

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...core.replicas.merge import ROW, Writes
from ...formats.sync_package import open_package
from ...store import replica_tables as kept
from ...store import tables
from ...store.database import Database
from ..calls.photographs import checked_jpeg
from .replica_state import chunks

PICTURES_WAIT, MOST_WAITING_BYTES = timedelta(hours=6), 500_000_000
"""How long a photograph waits for the row it belongs to, and how much of them waits at most."""


def hashes_of(table: str, parts: Mapping[str, Writes]) -> Iterator[str]:
    """The hashes of the photographs that a row is about."""
    if table == "photograph":
        yield from (str(write.value["sha256"]) for write in parts[ROW] if write.value)


def pictures_of(file: IO[bytes]) -> list[str]:
    """The hashes of the photographs that a package's rows are about. Raises `InvalidField`."""
    with open_package(file) as package:
        found = (
            hashes_of("photograph", {at.part: of for at, of in row.items()}) for _, row in package.rows("photograph")
        )
        return list(dict.fromkeys(sha256 for of in found for sha256 in of))


def missing_pictures(db: Database, hashes: Iterable[str]) -> list[str]:
    """Those photographs, by hash, that are neither here nor came ahead."""
    wanted = list(dict.fromkeys(hashes))
    there: set[str] = set()
    with db.reading() as session:
        for part in chunks(wanted):
            for table in (tables.Photograph, kept.WaitingPicture):
                there |= set(session.scalars(select(table.sha256).where(table.sha256.in_(part))))
    return [sha256 for sha256 in wanted if sha256 not in there]


def keep_picture(db: Database, sha256: str, content: bytes, now: datetime) -> None:
    """Keep a photograph that came ahead of its row. Raises `InvalidField` on one that is not what it says."""
    checked_picture(sha256, content)
    with db.writing() as session:
        forget_pictures(session, now)
        waiting = session.scalar(select(func.sum(func.length(kept.WaitingPicture.content)))) or 0
        if waiting + len(content) > MOST_WAITING_BYTES:
            raise invalid("photograph", f"{waiting / 1e6:.0f} MB waiting", "fewer that no call is known of")
        if session.get(kept.WaitingPicture, sha256) is None:
            session.add(kept.WaitingPicture(sha256=sha256, content=content, came_at=now))


def checked_picture(sha256: str, content: bytes) -> bytes:
    """A photograph that has its hash and is a JPEG. Raises `InvalidField`."""
    if hashlib.sha256(content).hexdigest() != sha256:
        raise invalid(f"photograph {sha256[:12]}", "another checksum", "the photograph as it was taken")
    return checked_jpeg(content, f"photograph {sha256[:12]}")


def picture(db: Database, sha256: str) -> bytes | None:
    """The content of a photograph by its hash; None when there is none."""
    row = tables.Photograph
    with db.reading() as session:
        return session.scalar(select(row.content).where(row.sha256 == sha256).limit(1))


def forget_pictures(session: Session, now: datetime) -> None:
    """Pictures that came ahead and have their row now, or never got one."""
    waiting, here = kept.WaitingPicture, select(tables.Photograph.sha256)
    over = (waiting.sha256.in_(here)) | (waiting.came_at < now - PICTURES_WAIT)
    session.execute(delete(waiting).where(over))
