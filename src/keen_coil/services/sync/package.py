"""A package of what another replica lacks, made; one that came, merged. All of it in one transaction, or nothing."""

from __future__ import annotations

import gc
from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime
from typing import IO, Any

from sqlalchemy import func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...core.replicas.clock import TOLERATED_MS, heard, stamp_at
from ...core.replicas.merge import ROW, RULES, Address, Writes, merge
from ...core.replicas.signing import SignedList, print_of, signed_lists
from ...formats.sync_package import Greeting, Package, open_package, write_package
from ...store import replica_tables as kept
from ...store import tables
from ...store.database import Database
from ...store.sqlite_errors import explain
from ...store.touching import SEPARATOR
from ..acts import ActContext, ProgressCallback, no_progress, technician_of
from .authors import WHO_SITS_THERE, Authors, Bearer, meet, stamp_limit
from .lineage import check_lineage, greeting_of, make_mark, note_clock, now_ms, secret_of
from .pictures import checked_picture, forget_pictures, hashes_of
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

QUIET_TRIES = 20
_NOT_HERE: dict[str, dict[str, Any]] = {"": {}}
ORDERED = ("reading", "stock_movement")
"""Tables whose rows stand in the order of their acts."""
OWN = ("replica", "laptop", "mark", "clock_check")
"""Tables of the syncing itself: they travel, and nobody counts them."""
SAID_OF_ITSELF = ("replica", "mark", "clock_check")
"""Those of them whose rows are one laptop's own word."""


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
        try:
            with db.writing() as session:
                maker = package.contents.maker
                check_lineage(session, maker)
                row = meet(session, maker, bearer, context.now)
                _nothing_between(session, package)
                for sha256, content in package.pictures():
                    checked_picture(sha256, content)
                    if session.get(kept.WaitingPicture, sha256) is None:
                        session.add(kept.WaitingPicture(sha256=sha256, content=content, came_at=context.now))
                note_own_writes(session)
                authors = Authors(session, package, row)
                return _take(session, context, package, way, authors, bearer, progress)
        except IntegrityError as error:
            raise invalid("", explain(error)[1], "rows that belong together") from None


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


def _take(
    session: Session,
    context: ActContext,
    package: Package,
    way: str,
    authors: Authors,
    bearer: Bearer,
    progress: ProgressCallback,
) -> Report:
    maker = package.contents.maker
    ahead = note_clock(session, maker, maker.knows.get(maker.uid, 0))
    note_own_writes(session)
    came, changed = Counter[str](), Counter[str]()
    writer = RowWriter(session)
    done, mine_uid = 0, me(session).uid
    authors.learn_keys(package, bearer.account, context.now)
    authors.read_lists(package)
    numbers = Numbers(session)
    session.flush()
    with as_merge(session):
        for table in RULES:
            order = order_of(session)
            for part in chunks(package.rows(table)):
                rows = [(key, row) for key, row in part if _may_come(table, key, row, authors, mine_uid)]
                mine = state_of(session, [(table, key) for key, _ in rows], numbers)
                taken = authors.left(table, rows, mine)
                theirs = {address: writes for _, row in taken for address, writes in row.items()}
                merged = merge(mine, theirs)
                news = {address: writes for address, writes in merged.items() if mine.get(address) != writes}
                touched: dict[Entity, None] = dict.fromkeys((at.table, at.key) for at in news)
                whole = {at: writes for at, writes in merged.items() if (at.table, at.key) in touched}
                save_writes(session, news, numbers, whole)
                before, after = leading(mine, order), leading(whole, order)
                # who else wrote the same changes no row, but it may be in another order then
                new = {at: of for at, of in after.items() if table in ORDERED or before.get(at, _NOT_HERE) != of}
                for at, values in new.items():
                    if not (values and table == "call" and values[ROW].get("practice")):
                        came[table] += at not in before
                        changed[table] += at in before and before[at] != values
                writer.write(new)
                done += len(part)
                progress(done, package.lines)
        if came["clock_check"] + changed["clock_check"] + came["replica"] + changed["replica"] or ahead:
            _lead_anew(session, writer, numbers)
        writer.finish(progress)
        _now_known(session, maker, numbers, authors.maker_is_shop)
        forget_pictures(session, context.now)
    report = Report(maker.name, _counted(came), _counted(changed), {}, ahead, authors.refused)
    note_exchange(session, context, maker, way, report)
    return report


def _lead_anew(session: Session, writer: RowWriter, numbers: Numbers) -> None:
    """Whose clock is right, or who is the shop, is known better now: what stands side by side may lead otherwise."""
    write, order = kept.PartWrite, order_of(session)
    beside = select(write.in_table, write.row_key).where(write.value.is_not(None)).distinct()
    rows = session.execute(beside).all()
    for table in RULES:
        for part in chunks((of, key) for of, key in rows if of == table):
            state = state_of(session, part, numbers)
            told = {key: rows_told(session, table, [key]).get(key) for _, key in part}
            writer.write({at: of for at, of in leading(state, order).items() if of is not None and of != told[at[1]]})
    writer.read_of |= set(session.connection().exec_driver_sql(_READ_BY_SEVERAL).scalars())
    moved = session.connection().exec_driver_sql("SELECT DISTINCT van, part_no FROM stock_movement")
    writer.shelves |= {(van, part_no) for van, part_no in moved}


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
