"""What this replica knows of each part of each row: who wrote it last, over what. Read and kept for merging."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from itertools import islice
from typing import Any, NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.replicas.clock import ClockCheck, Dot, Order
from ...core.replicas.merge import ROW, RULES, Address, Write, Writes, lead, seen_by_next, written_over
from ...store import replica_tables as kept
from ...store.touching import key_sql, travels_if
from .replica_values import CHUNK, Values, rows_told, where_keys

Entity = tuple[str, str]
"""A row: its table and its key."""


class Stored(NamedTuple):
    """A write as its table holds it: whose by number, its stamp, over which (JSON), its value (JSON) where kept."""

    replica_id: int
    stamp: int
    over: str | None
    value: str | None


def me(session: Session) -> kept.Replica:
    """This replica."""
    return session.get_one(kept.Replica, kept.THIS)


def clock_of(session: Session) -> int:
    """The stamp of the act under way, or of the last one."""
    return session.scalars(select(kept.ReplicaClock.stamp)).one()


def known(session: Session) -> dict[str, int]:
    """Each replica that was heard of, this one too, with the stamp of its last act that is known here."""
    rows = session.execute(select(kept.Replica.id, kept.Replica.uid, kept.Replica.knows)).all()
    found = {uid: clock_of(session) if number == kept.THIS else stamp for number, uid, stamp in rows}
    return {uid: stamp for uid, stamp in found.items() if stamp}


def order_of(session: Session) -> Order:
    """Which of two acts is the later, by the checks of clocks that are known."""
    checks = session.scalars(select(kept.ClockChecked)).all()
    shops = session.scalars(select(kept.Replica.uid).where(kept.Replica.is_shop)).all()
    return Order((ClockCheck(row.observer, row.origin, row.upto, row.ahead_ms) for row in checks), shops)


def chunks(items: Iterable[Any], size: int = CHUNK) -> Iterator[list[Any]]:
    """Items by so many at a time."""
    left = iter(items)
    while part := list(islice(left, size)):
        yield part


class Numbers:
    """Replicas by number and by identity; one that is new gets a number."""

    def __init__(self, session: Session) -> None:
        self._session = session
        rows = session.execute(select(kept.Replica.id, kept.Replica.uid)).all()
        self.uid = {number: uid for number, uid in rows}
        self._number = {uid: number for number, uid in rows}

    def number(self, uid: str) -> int:
        """The number of a replica."""
        if uid not in self._number:
            row = kept.Replica(uid=uid, name="", is_shop=False)
            self._session.add(row)
            self._session.flush()
            self._number[uid], self.uid[row.id] = row.id, uid
        return self._number[uid]

    def dots(self, over: str | None) -> frozenset[Dot]:
        """Acts as they are kept."""
        return frozenset(Dot(self.uid[number], stamp) for number, stamp in json.loads(over)) if over else frozenset()

    def text(self, over: Iterable[Dot]) -> str | None:
        """Acts as they are kept."""
        found = sorted([self.number(dot.origin), dot.stamp] for dot in over)
        return json.dumps(found, separators=(",", ":")) if found else None


def stored_writes(session: Session, table: str, keys: Iterable[str]) -> dict[Address, list[Stored]]:
    """The writes that are kept of some rows of a table, by part."""
    found: dict[Address, list[Stored]] = defaultdict(list)
    for part in chunks(keys):
        marks = ", ".join("?" * len(part))
        rows = session.connection().exec_driver_sql(
            "SELECT row_key, part, replica_id, stamp, over, value FROM part_write "
            f"WHERE in_table = ? AND row_key IN ({marks})",
            (table, *part),
        )
        for key, name, *cells in rows:
            found[Address(table, key, name)].append(Stored(*cells))
    return found


def state_of(session: Session, entities: Iterable[Entity], numbers: Numbers) -> dict[Address, Writes]:
    """The whole state of some rows: every part of each with its writes and their values."""
    by_table: dict[str, list[str]] = defaultdict(list)
    for table, key in entities:
        by_table[table].append(key)
    found: dict[Address, Writes] = {}
    for table, keys in by_table.items():
        stored, told = stored_writes(session, table, keys), rows_told(session, table, keys)
        for key in keys:
            found |= _of_row(table, key, stored, told.get(key), numbers)
    return found


def _of_row(
    table: str, key: str, stored: Mapping[Address, list[Stored]], told: Values | None, numbers: Numbers
) -> dict[Address, Writes]:
    of_row = stored.get(Address(table, key, ROW))
    if not of_row:
        return {}
    found: dict[Address, Writes] = {}
    with_row = _writes(of_row, None, numbers)
    for part in RULES[table].parts:
        address = Address(table, key, part)
        value = told.get(part) if told is not None else None
        rows = stored.get(address)
        if rows is not None:
            found[address] = _writes(rows, value, numbers)
        elif told is not None:
            found[address] = tuple(Write(dot, value, over) for dot, _, over in with_row)
    return found


def _writes(rows: list[Stored], value: Any, numbers: Numbers) -> Writes:
    """Writes as they are kept; `value` is what the row holds."""
    found = [
        Write(
            Dot(numbers.uid[row.replica_id], row.stamp),
            value if row.value is None else json.loads(row.value),
            numbers.dots(row.over),
        )
        for row in rows
    ]
    return tuple(sorted(found, key=lambda write: write.dot)) if len(found) > 1 else tuple(found)


def save_writes(
    session: Session, changed: Mapping[Address, Writes], numbers: Numbers, whole: Mapping[Address, Writes] | None = None
) -> None:
    """Keep the writes of some parts in the place of those that were kept.

    `whole` is the state of their rows: a part that was written with its row needs no write of its own.
    """
    for part in chunks(changed.items()):
        _forget(session, [address for address, _ in part])
        own = [(address, writes) for address, writes in part if not _with_row(address, writes, whole or {})]
        rows = [(*address, *_stored(write, len(writes), numbers)) for address, writes in own for write in writes]
        insert_writes(session, rows)


def _with_row(address: Address, writes: Writes, whole: Mapping[Address, Writes]) -> bool:
    of_row = whole.get(address._replace(part=ROW), ())
    same = len(writes) == len(of_row) == 1 and (writes[0].dot, writes[0].over) == (of_row[0].dot, of_row[0].over)
    return same and address.part != ROW


def _forget(session: Session, addresses: list[Address]) -> None:
    """Take the writes of some parts away, for others to take their place."""
    if addresses:
        session.connection().exec_driver_sql(
            "DELETE FROM part_write WHERE in_table = ? AND row_key = ? AND part = ?", [tuple(at) for at in addresses]
        )


def insert_writes(session: Session, rows: list[tuple[Any, ...]]) -> None:
    """Add writes: table, key, part, replica's number, stamp, over, value."""
    if rows:
        session.connection().exec_driver_sql(
            "INSERT INTO part_write (in_table, row_key, part, replica_id, stamp, over, value) VALUES (?,?,?,?,?,?,?)",
            rows,
        )


def _stored(write: Write, many: int, numbers: Numbers) -> Stored:
    value = json.dumps(write.value, ensure_ascii=False) if many > 1 or write.value is None else None
    return Stored(numbers.number(write.dot.origin), write.dot.stamp, numbers.text(write.over), value)


def note_own_writes(session: Session) -> None:
    """Note every act since the last sync as the write it was, under its own stamp. Takes no act as its own twice."""
    clock = session.get_one(kept.ReplicaClock, kept.THIS, populate_existing=True)
    numbers, order = Numbers(session), order_of(session)
    if clock.is_new:
        _take_up(session, clock)
    touched: dict[str, dict[str, dict[str, int]]] = defaultdict(lambda: defaultdict(dict))
    rows = session.connection().exec_driver_sql("SELECT in_table, row_key, part, stamp FROM part_touched")
    for table, key, part, stamp in rows:
        touched[table][key][part] = stamp
    for table, of_keys in touched.items():
        for keys in chunks(of_keys):
            _settle_rows(session, table, {key: of_keys[key] for key in keys}, numbers, order)
    session.connection().exec_driver_sql("DELETE FROM part_touched")


def _take_up(session: Session, clock: kept.ReplicaClock) -> None:
    """Rows that came with a file of an earlier version, or with an archive: all as of one act."""
    for table in RULES:
        session.connection().exec_driver_sql(
            "INSERT INTO part_write (in_table, row_key, part, replica_id, stamp) "
            f"SELECT '{table}', {key_sql(table, table)}, '{ROW}', 1, {clock.stamp} FROM \"{table}\" WHERE "
            f"{travels_if(table) or 'true'} AND NOT EXISTS (SELECT 1 FROM part_write w "
            f"WHERE w.in_table = '{table}' AND w.row_key = {key_sql(table, table)} AND w.part = '{ROW}') "
            "AND NOT EXISTS (SELECT 1 FROM part_touched w "
            f"WHERE w.in_table = '{table}' AND w.row_key = {key_sql(table, table)} AND w.part = '{ROW}')"
        )
    clock.is_new = False
    session.flush()


def _settle_rows(
    session: Session, table: str, touched: Mapping[str, Mapping[str, int]], numbers: Numbers, order: Order
) -> None:
    stored = stored_writes(session, table, touched)
    where, given = where_keys(table, list(touched))
    found = session.connection().exec_driver_sql(f'SELECT {key_sql(table, table)} FROM "{table}" {where}', given)
    there = {key for (key,) in found}
    changed: dict[Address, list[Stored]] = {}
    beside: list[tuple[Address, int]] = []
    for key, parts in touched.items():
        of_row = stored.get(Address(table, key, ROW), [])
        if not of_row and key not in there:
            continue
        if ROW in parts:
            gone = None if key in there else "null"
            changed[Address(table, key, ROW)] = [Stored(kept.THIS, parts[ROW], _over(of_row, parts[ROW]), gone)]
        for part, stamp in parts.items():
            address = Address(table, key, part)
            had = stored.get(address) or of_row
            if not of_row and RULES[table].parts[part].rule == "stays_closed" and stamp != parts.get(ROW, stamp):
                had = [Stored(kept.THIS, parts[ROW], None, None)]  # when a call was closed is told apart
            if part == ROW or not had or key not in there:
                continue
            if len(had) > 1:
                beside.append((address, stamp))
            else:
                changed[address] = [Stored(kept.THIS, stamp, _over(had, stamp), None)]
    _replace(session, changed)
    _settle_beside(session, beside, numbers, order)


def _over(had: list[Stored], stamp: int) -> str | None:
    """The acts of these writes and all that they were made over, as they are kept; but for the act itself."""
    dots = {(row.replica_id, row.stamp) for row in had}
    dots |= {(number, at) for row in had if row.over for number, at in json.loads(row.over)}
    dots.discard((kept.THIS, stamp))
    return json.dumps(sorted(dots), separators=(",", ":")) if dots else None


def _replace(session: Session, changed: Mapping[Address, list[Stored]]) -> None:
    _forget(session, list(changed))
    insert_writes(session, [(*address, *row) for address, rows in changed.items() for row in rows])


def _settle_beside(session: Session, beside: list[tuple[Address, int]], numbers: Numbers, order: Order) -> None:
    """A part was written where several writes stand beside each other: over what was seen, the rest stays."""
    if not beside:
        return
    state = state_of(session, {(address.table, address.key) for address, _ in beside}, numbers)
    mine = numbers.uid[kept.THIS]
    now: dict[Address, Writes] = {}
    for address, stamp in beside:
        writes = state[address]
        seen = seen_by_next(address, writes, order)
        told = rows_told(session, address.table, [address.key])[address.key][address.part]
        left = tuple(write for write in writes if write not in seen)
        now[address] = (*left, written_over(Dot(mine, stamp), told, seen))
    save_writes(session, now, numbers)


def leading(state: Mapping[Address, Writes], order: Order) -> dict[Entity, Values | None]:
    """The rows that a state makes: the values of their parts, None for one that is gone."""
    found: dict[Entity, Values | None] = {}
    for address, writes in state.items():
        entity = (address.table, address.key)
        value = lead(address, writes, order).value
        if address.part == ROW and value is None:
            found[entity] = None
        elif found.setdefault(entity, {}) is not None:
            values = found[entity]
            if values is not None:
                values[address.part] = value or {}
    return found
