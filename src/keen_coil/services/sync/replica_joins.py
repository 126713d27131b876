"""Units entered twice: found, joined by somebody or said to be two; what hung on the second then hangs on the first."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...core.replicas.clock import Dot
from ...core.replicas.merge import Address, written_over
from ...core.replicas.twice import Twice, UnitSeen, entered_twice, fuller
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, record_act
from .replica_state import Numbers, clock_of, me, note_own_writes, save_writes, state_of

TWO = "two_units"
"""Setting: pairs of units that somebody said are two."""


@contextmanager
def as_merge(session: Session) -> Iterator[None]:
    """What is written inside follows from acts that are noted already, and is no act of this replica."""
    session.flush()
    connection = session.connection()
    connection.exec_driver_sql("UPDATE replica_clock SET is_merging = 1 WHERE id = 1")
    yield
    session.flush()
    connection.exec_driver_sql("UPDATE replica_clock SET is_merging = 0 WHERE id = 1")


def put_joined(session: Session) -> set[str]:
    """Hang what belongs to a unit or motor that was joined on the one it was joined into; the calls that moved."""
    moved: set[str] = set()
    connection = session.connection()
    for table, child, column in (("motor", "call", "motor_id"), ("unit", "motor", "unit_id")):
        rows = connection.exec_driver_sql(
            f"SELECT id, uid, joined_into FROM {table} WHERE joined_into IS NOT NULL ORDER BY uid"
        ).all()
        into = {uid: to for _, uid, to in rows}
        for number, uid, _ in rows:
            end = uid
            while end in into:  # an older one each time, so there is an end
                end = into[end]
            kept = connection.exec_driver_sql(f"SELECT id FROM {table} WHERE uid = ?", (end,)).scalar()
            if kept is None:
                raise invalid(f"{table}.joined_into", end, f"a {table} that is here or comes with it")
            if child == "call":
                moved |= set(connection.exec_driver_sql("SELECT uid FROM call WHERE motor_id = ?", (number,)).scalars())
            connection.exec_driver_sql(f"UPDATE {child} SET {column} = ? WHERE {column} = ?", (kept, number))
    return moved


def units_entered_twice(session: Session) -> list[Twice]:
    """Units that look like one and that nobody has said are two."""
    unit, site = tables.Unit, tables.Site
    rows = session.execute(select(unit.uid, site.name, unit.name, unit.plate["serial"].as_string()).join(unit.site))
    said = session.get(tables.Setting, TWO)
    apart = {tuple(pair) for pair in (said.value.get("pairs", []) if said else [])}
    found = entered_twice(UnitSeen(uid, place, name, serial or "") for uid, place, name, serial in rows)
    return [twice for twice in found if (twice.first.uid, twice.second.uid) not in apart]


def settle_twice(db: Database, context: ActContext, first: str, second: str, join: bool) -> int:
    """Join two units into the one entered first, or say that they are two; the number of the first.

    Raises `InvalidField` on units that do not look like one.
    """
    with db.writing() as session:
        act = record_act(session, context, "join_units" if join else "keep_two_units", None)
        pairs = {(twice.first.uid, twice.second.uid): twice for twice in units_entered_twice(session)}
        twice = pairs.get((first, second))
        if twice is None:
            raise invalid("second", second[:40] or "nothing", "two units that look like one")
        act.says = f"{twice.first.site}, {twice.first.name}: " + ("one unit" if join else "two units")
        if join:
            _join(session, first, second)
        else:
            _keep_two(session, context, first, second)
        return session.scalars(select(tables.Unit.id).where(tables.Unit.uid == first)).one()


def _keep_two(session: Session, context: ActContext, first: str, second: str) -> None:
    row = session.get(tables.Setting, TWO) or tables.Setting(name=TWO, value={"pairs": []})
    row.value = {"pairs": [*row.value["pairs"], [first, second]]}
    row.changed_at = context.now
    session.add(row)


def _join(session: Session, first: str, second: str) -> None:
    kept, other = (session.scalars(select(tables.Unit).where(tables.Unit.uid == uid)).one() for uid in (first, second))
    pairs = [(a, b) for a in _running(kept) for b in _running(other) if a.plate.get("role") == b.plate.get("role")]
    twins = [sorted(pair, key=lambda motor: motor.uid) for pair in pairs if _only(kept, pair) and _only(other, pair)]
    other.joined_into = kept.uid
    for old, new in twins:
        new.joined_into = old.uid
    session.flush()
    note_own_writes(session)
    for table, one, two in (("unit", kept, other), *(("motor", old, new) for old, new in twins)):
        _join_plates(session, table, one, two)
    with as_merge(session):
        for old, _ in twins:
            old.unit_id = kept.id
        session.flush()
        put_joined(session)
    session.expire_all()


def _running(unit: tables.Unit) -> list[tables.Motor]:
    return [motor for motor in unit.motors if motor.removed_at is None and motor.joined_into is None]


def _only(unit: tables.Unit, pair: tuple[tables.Motor, tables.Motor]) -> bool:
    """Whether a unit has one motor of this use: of sisters nobody can tell which is which."""
    return len([one for one in _running(unit) if one.plate.get("role") == pair[0].plate.get("role")]) == 1


def _join_plates(session: Session, table: str, one: Any, two: Any) -> None:
    """The plate of the second beside that of the first: as one where they do not contradict each other."""
    both = fuller(one.plate, two.plate)
    numbers = Numbers(session)
    address = Address(table, one.uid, "plate")
    had = state_of(session, [(table, one.uid)], numbers)[address]
    dot = Dot(me(session).uid, clock_of(session))
    write = written_over(dot, {"plate": both or two.plate}, had if both else ())
    save_writes(session, {address: (write,) if both else (*had, write)}, numbers)
    with as_merge(session):
        one.plate = both or two.plate
