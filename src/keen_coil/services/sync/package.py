"""A package of what another replica lacks, made; one that came, merged. All of it in one transaction, or nothing."""

from __future__ import annotations

import gc
from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import IO, Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.replicas.merge import ROW, RULES, Address, Writes
from ...core.replicas.signing import SignedList, print_of, signed_lists
from ...formats.sync_package import write_package
from ...store import replica_tables as kept
from ...store import tables
from ...store.database import Database
from ..acts import ProgressCallback, no_progress
from .lineage import greeting_of, make_mark, secret_of
from .pictures import hashes_of
from .replica_state import (
    Numbers,
    chunks,
    note_own_writes,
    state_of,
)

QUIET_TRIES = 20
_NOT_HERE: dict[str, dict[str, Any]] = {"": {}}
ORDERED = ("reading", "stock_movement")
"""Tables whose rows stand in the order of their acts."""
OWN = ("replica", "laptop", "mark", "clock_check")
"""Tables of the syncing itself: they travel, and nobody counts them."""


@contextmanager
def garbage_collection_paused() -> Iterator[None]:
    """Rows by the hundred thousand are no garbage: to search them again and again takes as long as the merge."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


@dataclass(frozen=True)
class Report:
    """What came with a package, rows by table: new here, changed here; `refused`: writes that were left out, by why."""

    maker: str
    came: dict[str, int] = field(default_factory=dict)
    changed: dict[str, int] = field(default_factory=dict)
    went: dict[str, int] = field(default_factory=dict)
    ahead_ms: int = 0
    refused: dict[str, int] = field(default_factory=dict)

    @property
    def both(self) -> dict[str, int]:
        """Rows that came or were changed, by table."""
        return dict(Counter(self.came) + Counter(self.changed))


def make_package(
    db: Database,
    out: IO[bytes],
    since: Mapping[str, int],
    pictures: bool,
    progress: ProgressCallback = no_progress,
) -> dict[str, int]:
    """Write what a replica lacks that knows so much; with the pictures, or rows alone. How many rows, by table."""
    with garbage_collection_paused():
        return _make(db, out, since, pictures, progress)


def _make(
    db: Database, out: IO[bytes], since: Mapping[str, int], pictures: bool, progress: ProgressCallback
) -> dict[str, int]:
    made: list[SignedList] = []
    try:
        return _made(db, out, since, pictures, progress, made)
    finally:
        with db.writing() as session:
            have = set(session.scalars(select(kept.SignedWrites.signature)))
            session.add_all(
                kept.SignedWrites(replica_id=kept.THIS, upto=one.upto, prints=one.prints, signature=one.signature)
                for one in made
                if one.signature not in have
            )


def _made(
    db: Database,
    out: IO[bytes],
    since: Mapping[str, int],
    pictures: bool,
    progress: ProgressCallback,
    made: list[SignedList],
) -> dict[str, int]:
    with db.writing() as session:
        secret = secret_of(session)
        note_own_writes(session)
        make_mark(session)
    for _ in range(QUIET_TRIES):
        with db.writing() as session:
            note_own_writes(session)
        with db.reading() as session:
            if session.connection().exec_driver_sql("SELECT 1 FROM part_touched LIMIT 1").first() is None:
                return _write(session, out, since, pictures, progress, secret, made)
    with db.writing() as session:  # somebody writes all the time: they wait
        note_own_writes(session)
        return _write(session, out, since, pictures, progress, secret, made)


def _write(
    session: Session,
    out: IO[bytes],
    since: Mapping[str, int],
    pictures: bool,
    progress: ProgressCallback,
    secret: bytes,
    made: list[SignedList],
) -> dict[str, int]:
    maker, numbers = greeting_of(session), Numbers(session)
    signed = kept.SignedWrites
    signed_upto = session.scalar(select(func.max(signed.upto)).where(signed.replica_id == kept.THIS)) or 0
    prints: list[bytes] = []
    lacking = _lacking(session, since, numbers)
    of, went, done = sum(map(len, lacking.values())), Counter[str](), 0
    shops = frozenset(session.scalars(select(kept.Replica.uid).where(kept.Replica.is_shop)))
    hashes: dict[str, None] = {}

    def rows(table: str) -> Iterator[tuple[str, Mapping[str, Writes]]]:
        nonlocal done
        for keys in chunks(lacking[table]):
            state = state_of(session, [(table, key) for key in keys], numbers)
            for key in keys:
                parts = {part: state[at] for part in RULES[table].parts if (at := Address(table, key, part)) in state}
                parts = {part: writes for part, of in parts.items() if (writes := _decided(table, of, shops))}
                if parts:
                    prints.extend(
                        print_of(Address(table, key, part), write)
                        for part, of_part in parts.items()
                        for write in of_part
                        if write.dot.origin == maker.uid and write.dot.stamp > signed_upto
                    )
                    went[table] += not _is_practice(table, parts)
                    hashes.update(dict.fromkeys(hashes_of(table, parts)))
                    yield key, parts
            done += len(keys)
            progress(done, of)

    def contents() -> Iterator[tuple[str, bytes]]:
        row = tables.Photograph
        for sha256 in hashes if pictures else ():
            yield sha256, session.scalar(select(row.content).where(row.sha256 == sha256).limit(1)) or b""

    def lists() -> Iterator[SignedList]:
        """Those of others that the rows need, then those of what nobody has yet."""
        query = select(signed.replica_id, signed.upto, signed.prints, signed.signature)
        for number, upto, of, signature in session.execute(query):
            if upto > since.get(numbers.uid[number], 0):
                yield SignedList(numbers.uid[number], upto, of, signature)
        made.extend(signed_lists(secret, maker.uid, maker.knows.get(maker.uid, 0), prints))
        yield from made

    of_tables = ((table, rows(table)) for table in lacking)
    write_package(out, maker, since, of_tables, contents(), lists(), secret)
    return {table: many for table, many in went.items() if table not in OWN}


def _lacking(session: Session, since: Mapping[str, int], numbers: Numbers) -> dict[str, list[str]]:
    """The rows that somebody lacks who knows so much, by table in the order in which they refer to each other."""
    found: dict[str, dict[str, None]] = {table: {} for table in RULES}
    for number, uid in numbers.uid.items():
        rows = session.connection().exec_driver_sql(
            "SELECT in_table, row_key FROM part_write WHERE replica_id = ? AND stamp > ? ORDER BY id",
            (number, since.get(uid, 0)),
        )
        for table, key in rows:
            found[table][key] = None
    return {table: list(keys) for table, keys in found.items() if keys}


def _decided(table: str, writes: Writes, shops: frozenset[str]) -> Writes:
    """Of what the shop decides only what the shop wrote."""
    if RULES[table].parts[ROW].rule != "shop_decides":
        return writes
    return tuple(write for write in writes if write.dot.origin in shops)


def _is_practice(table: str, parts: Mapping[str, Writes]) -> bool:
    """A practice call travels, and is no call that somebody would count."""
    return table == "call" and any(write.value and write.value.get("practice") for write in parts[ROW])
