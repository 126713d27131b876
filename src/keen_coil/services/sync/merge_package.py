"""A package that came, merged: a small one in one act, a large one tried on a copy first and then in slices.

So nobody waits for the file longer than a slice takes, and what a slice leaves is whole.
"""

from __future__ import annotations

import tempfile
import time
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import IO, Any, TypeVar

from sqlalchemy import select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...core.replicas.clock import TOLERATED_MS, heard, stamp_at
from ...core.replicas.merge import ROW, RULES, Address, Writes, merge
from ...formats.sync_package import Greeting, Package, open_package
from ...store import replica_tables as kept
from ...store.copies import copy_of
from ...store.database import Database
from ...store.sqlite_errors import explain
from ...store.touching import SEPARATOR
from ..acts import ActContext, ProgressCallback, no_progress, technician_of
from .authors import WHO_SITS_THERE, Authors, Bearer, meet, stamp_limit
from .lineage import check_lineage, note_clock, now_ms
from .package import OWN, Report, garbage_collection_paused
from .pictures import checked_picture, forget_pictures
from .replica_joins import as_merge
from .replica_rows import RowWriter
from .replica_state import (
    Entity,
    Numbers,
    chunks,
    clock_of,
    known,
    leading,
    me,
    note_own_writes,
    order_of,
    save_writes,
    state_of,
)
from .replica_values import rows_told

ORDERED = ("reading", "stock_movement")
"""Tables whose rows stand in the order of their acts."""
SAID_OF_ITSELF = ("replica", "mark", "clock_check")
"""Tables of the syncing itself whose rows are one laptop's own word."""
T = TypeVar("T")
_NOT_HERE: dict[str, dict[str, Any]] = {"": {}}
AT_ONCE, CALLS_AT_ONCE = 4000, 40
"""Rows of a package that is merged in one act; calls of a larger one that are put in words at once."""
SLICE_S, BREATH_S = 0.15, 0.12
"""How long a slice takes up rows; how long the file is left to others then: SQLite sleeps a tenth between two tries."""


def take_package(
    db: Database,
    context: ActContext,
    file: IO[bytes],
    way: str,
    bearer: Bearer = WHO_SITS_THERE,
    progress: ProgressCallback = no_progress,
) -> Report:
    """Merge a package into what is here; what came. The same package again changes nothing.

    `bearer`: who brings it. Raises `InvalidField` on anything about it that is not right, `OlderCopy` where acts of two
    could be taken for each other's, `LaptopToldOff`; then nothing is changed.
    """
    with open_package(file) as package, garbage_collection_paused():
        merging = _Merging(context, package, way, bearer, progress)
        try:
            if package.lines <= AT_ONCE:
                return merging.at_once(db)
            with _tried_on(db) as copy:
                _Merging(context, package, way, bearer, no_progress).at_once(copy)
            return merging.in_slices(db)
        except IntegrityError as error:
            raise invalid("", explain(error)[1], "rows that belong together") from None


@contextmanager
def _tried_on(db: Database) -> Iterator[Database]:
    """A copy of the file, gone afterwards."""
    with tempfile.TemporaryDirectory(dir=db.path.resolve().parent, prefix=".keen-coil-") as folder:
        copy = Database.opened(copy_of(db.path, Path(folder) / "tried.db"))
        try:
            yield copy
        finally:
            copy.close()


class _Merging:
    """A merge under way: who made the package, what came so far."""

    def __init__(
        self, context: ActContext, package: Package, way: str, bearer: Bearer, progress: ProgressCallback
    ) -> None:
        self.context, self.package, self.way, self.bearer, self.progress = context, package, way, bearer, progress
        self.maker = package.contents.maker
        self.came, self.changed, self.done = Counter[str](), Counter[str](), 0

    def at_once(self, db: Database) -> Report:
        """All of it in one transaction, or nothing."""
        with db.writing() as session:
            self._begin(session)
            writer = RowWriter(session)
            with as_merge(session):
                for table in RULES:
                    for part in self.package.parts(table):
                        self._rows(session, writer, table, part)
                self._lead_anew(session, writer)
                writer.finish(self.progress)
                self._end(session)
            return self._report(session)

    def in_slices(self, db: Database) -> Report:
        """In many transactions, each whole; what was known of the maker grows with the last one only."""
        with db.writing() as session:
            self._begin(session)
        calls, acts = set[str](), set[str]()
        parts = ((table, part) for table in RULES for part in self.package.parts(table))
        for some in self._for_a_moment(parts):
            with self._slice(db) as (session, writer):
                for table, part in some:
                    self._rows(session, writer, table, part)
                writer.put_straight()
                calls, acts = calls | writer.calls_touched(), acts | writer.acts
        with self._slice(db) as (session, writer):
            self._lead_anew(session, writer)
            writer.put_straight()
            blank = "SELECT uid FROM call WHERE search_text = ''"  # of a merge that was cut
            calls |= writer.calls_touched() | set(session.connection().exec_driver_sql(blank).scalars())
        for groups in self._for_a_moment(chunks(sorted(calls), CALLS_AT_ONCE)):
            with self._slice(db) as (_, writer):
                for uids in groups:
                    writer.touch(uids)
        for ids in chunks(sorted(acts), AT_ONCE):
            with self._slice(db) as (_, writer):
                writer.note_versions(ids)
        with db.writing() as session:
            with as_merge(session):
                self._end(session)
            return self._report(session)

    @staticmethod
    def _for_a_moment(items: Iterable[T]) -> Iterator[Iterator[T]]:
        """Items by as many as are done in a moment, each group as it is asked for."""
        left = iter(items)

        def group(first: T) -> Iterator[T]:
            ends = time.monotonic() + SLICE_S
            yield first
            while time.monotonic() < ends and (item := next(left, None)) is not None:
                yield item

        while (first := next(left, None)) is not None:
            yield group(first)

    @contextmanager
    def _slice(self, db: Database) -> Iterator[tuple[Session, RowWriter]]:
        with db.writing() as session:
            note_own_writes(session)
            self.authors.session = session
            self.numbers = Numbers(session)
            writer = RowWriter(session)
            with as_merge(session):
                yield session, writer
        time.sleep(BREATH_S)

    def _begin(self, session: Session) -> None:
        row = meet(session, self.maker, self.bearer, self.context.now, self.way == "file")
        check_lineage(session, self.maker)
        _nothing_between(session, self.package)
        for sha256, content in self.package.pictures():
            checked_picture(sha256, content)
            if session.get(kept.WaitingPicture, sha256) is None:
                session.add(kept.WaitingPicture(sha256=sha256, content=content, came_at=self.context.now))
        note_own_writes(session)
        self.authors = Authors(session, self.package, row)
        self.ahead = note_clock(session, self.maker, self.maker.knows.get(self.maker.uid, 0))
        note_own_writes(session)
        self.mine = me(session).uid
        self.authors.learn_keys(self.package, self.bearer.account, self.context.now)
        self.authors.read_lists(self.package)
        self.numbers = Numbers(session)
        session.flush()

    def _rows(
        self, session: Session, writer: RowWriter, table: str, part: list[tuple[str, dict[Address, Writes]]]
    ) -> None:
        order = order_of(session)
        rows = [(key, row) for key, row in part if _may_come(table, key, row, self.authors, self.mine)]
        mine = state_of(session, [(table, key) for key, _ in rows], self.numbers)
        taken = self.authors.left(table, rows, mine)
        theirs = {address: writes for _, row in taken for address, writes in row.items()}
        merged = merge(mine, theirs)
        news = {address: writes for address, writes in merged.items() if mine.get(address) != writes}
        touched: dict[Entity, None] = dict.fromkeys((at.table, at.key) for at in news)
        whole = {at: writes for at, writes in merged.items() if (at.table, at.key) in touched}
        save_writes(session, news, self.numbers, whole)
        before, after = leading(mine, order), leading(whole, order)
        # who else wrote the same changes no row, but it may be in another order then
        new = {at: of for at, of in after.items() if table in ORDERED or before.get(at, _NOT_HERE) != of}
        for at, values in new.items():
            if not (values and table == "call" and values[ROW].get("practice")):
                self.came[table] += at not in before
                self.changed[table] += at in before and before[at] != values
        writer.write(new)
        self.done += len(part)
        self.progress(self.done, self.package.lines)

    def _lead_anew(self, session: Session, writer: RowWriter) -> None:
        """Whose clock is right, or who is the shop, is known better now: what stands beside may lead otherwise."""
        if not (self.ahead or any(self.came[of] + self.changed[of] for of in ("clock_check", "replica"))):
            return
        write, order = kept.PartWrite, order_of(session)
        beside = select(write.in_table, write.row_key).where(write.value.is_not(None)).distinct()
        rows = session.execute(beside).all()
        for table in RULES:
            for part in chunks((of, key) for of, key in rows if of == table):
                state = state_of(session, part, self.numbers)
                told = {key: rows_told(session, table, [key]).get(key) for _, key in part}
                other = {at: of for at, of in leading(state, order).items() if of is not None and of != told[at[1]]}
                writer.write(other)
        writer.read_of |= set(session.connection().exec_driver_sql(_READ_BY_SEVERAL).scalars())
        moved = session.connection().exec_driver_sql("SELECT DISTINCT van, part_no FROM stock_movement")
        writer.shelves |= {(van, part_no) for van, part_no in moved}

    def _end(self, session: Session) -> None:
        _now_known(session, self.maker, Numbers(session), self.authors.maker_is_shop)
        forget_pictures(session, self.context.now)

    def _report(self, session: Session) -> Report:
        came, changed = _counted(self.came), _counted(self.changed)
        report = Report(self.maker.name, came, changed, {}, self.ahead, self.authors.refused)
        note_exchange(session, self.context, self.maker, self.way, report)
        return report


def _nothing_between(session: Session, package: Package) -> None:
    """A package begins where what is here ends, or before."""
    here = known(session)
    for uid, stamp in package.contents.since.items():
        if stamp > here.get(uid, 0):
            raise invalid(
                "since",
                "a package that begins after what is here: it was made for another laptop",
                "one made for this one, or a whole one: keen-coil sync FILE --whole",
            )


_READ_BY_SEVERAL = (
    "SELECT c.uid FROM call c JOIN reading g ON g.call_id = c.id JOIN part_write w ON w.in_table = 'reading' "
    "AND w.row_key = g.uid GROUP BY c.uid HAVING count(DISTINCT w.replica_id) > 1"
)


def _may_come(table: str, key: str, row: Mapping[Address, Writes], authors: Authors, mine: str) -> bool:
    """What a replica says of itself, its marks and what it saw of others' clocks is taken as its own word alone.

    What this one said of that is known here.
    """
    if table not in SAID_OF_ITSELF:
        return True
    writes = row[Address(table, key, ROW)]
    own = all(_said_by(table, key, write.value or {}) == write.dot.origin != mine for write in writes)
    return own and (table != "replica" or all(authors.says_of_itself(key, write.value or {}) for write in writes))


def _said_by(table: str, key: str, value: Mapping[str, Any]) -> Any:
    """The replica whose word a row is."""
    return value.get("origin") if table == "mark" else key.partition(SEPARATOR)[0]


def _counted(rows: Mapping[str, int]) -> dict[str, int]:
    return {table: many for table, many in rows.items() if many and table not in OWN}


def _now_known(session: Session, maker: Greeting, numbers: Numbers, is_shop: bool) -> None:
    """All that the maker did is known here now; of others only the shop says how far they are known."""
    for uid, stamp in maker.knows.items():
        number = numbers.number(uid) if is_shop or uid == maker.uid else kept.THIS
        if number != kept.THIS:
            row = kept.Replica
            session.execute(update(row).where(row.id == number, row.knows < stamp).values(knows=stamp))
    last = heard(clock_of(session), maker.knows.values(), now_ms())
    given = maker.knows.get(me(session).uid, 0)  # never again a stamp that was given once
    if is_shop or given <= stamp_at(now_ms() + TOLERATED_MS):
        last = max(last, min(given, stamp_limit(maker)))
    session.execute(update(kept.ReplicaClock).values(stamp=last))


def note_heard(session: Session, other: Greeting, now: datetime) -> kept.Replica:
    """Remember what a replica knew when it was last heard of."""
    number = Numbers(session).number(other.uid)
    row = session.get_one(kept.Replica, number, populate_existing=True)
    row.heard_at, row.their_knows = now, dict(other.knows)
    row.name = row.name or other.name
    session.flush()
    return row


def note_exchange(session: Session, context: ActContext, other: Greeting, way: str, report: Report) -> None:
    """Note that something came from a replica."""
    row, technician = note_heard(session, other, context.now), technician_of(session, context)
    told: dict[str, Any] = {"new": report.came, "changed": report.changed}
    session.add(
        kept.Exchange(
            replica_id=row.id,
            at=context.now,
            way=way,
            who=technician.name if technician else None,
            came=told,
            went=report.went,
        )
    )
