"""What two people wrote apart: the versions side by side, who wrote each and when, and the one decided on."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.call import SYMPTOMS
from ...core.diagnosis.sentence import headline
from ...core.errors import invalid
from ...core.replicas.clock import Dot, Order
from ...core.replicas.merge import ASKED, RULES, Address, Write, Writes, lead, written_over
from ...store import replica_tables as kept
from ...store import tables
from ...store.database import Database
from ..acts import WITH_PRACTICE, ActContext, call_row, record_act
from ..stations.plate_fields import FIELDS
from .lineage import name_of
from .replica_joins import as_merge
from .replica_rows import RowWriter
from .replica_state import Numbers, clock_of, leading, me, note_own_writes, order_of, save_writes, state_of

MOST_SHOWN, LONGEST_SHOWN, NOTHING = 8, 120, "nothing"
PLAN = ("chosen.part_no", "plan.capacitor.says", "plan.hookup.school", "plan.hub.part_no", "plan.swap.hub", "school")
"""What of a plan is shown first: the rest follows from it."""
LABELS = {
    "chosen.part_no": "new motor",
    "plan.capacitor.says": "capacitor",
    "plan.hookup.school": "wiring",
    "plan.hub.part_no": "hub",
    "plan.swap.hub": "how the hub sits",
    "school": "sized by",
    "closed_at": "handed over",
    "outcome.verdict": "finding",
    "complaint.says": "complaint",
}
IN_WORDS = {"dual": "one dual capacitor", "own": "a capacitor of its own", "hp_amps": "hp and amps"}


@dataclass(frozen=True)
class Version:
    """A version of something: the act that wrote it, on which laptop, when, by whom; what it says where they differ."""

    dot: Dot
    laptop: str
    at: datetime
    who: str
    says: list[tuple[str, str]]


@dataclass(frozen=True)
class Question:
    """Something that several wrote apart: whose it is, what it is called, the version in use, the others."""

    address: Address
    say: str
    call_id: int | None
    place: str
    used: Version
    others: list[Version]


def questions_of_call(db: Database, call_id: int) -> list[Question]:
    """What somebody has to decide about a call, its motor and its unit. Raises `NotFound`."""
    with db.reading() as session:
        row = call_row(session, call_id)
        entities = [("call", row.uid), ("motor", row.motor.uid), ("unit", row.motor.unit.uid)]
        return list(_questions(session, entities))


def all_questions(db: Database) -> list[Question]:
    """What somebody has to decide, of every call."""
    with db.reading() as session:
        write = kept.PartWrite
        rows = session.execute(
            select(write.in_table, write.row_key).where(write.value.is_not(None), write.part != "row").distinct()
        )
        return list(_questions(session, [(table, key) for table, key in rows]))


def _questions(session: Session, entities: list[tuple[str, str]]) -> Iterator[Question]:
    numbers, order = Numbers(session), order_of(session)
    for address, writes in state_of(session, entities, numbers).items():
        part = RULES[address.table].parts[address.part]
        if part.rule not in ASKED or len(writes) < 2:
            continue
        found = lead(address, writes, order)
        if not found.is_open:
            continue
        call_id, place = _where(session, address)
        values = [found.value, *(write.value for write in found.others)]
        names = _differing(address, [value or {} for value in values])
        yield Question(
            address,
            part.say,
            call_id,
            place,
            _version(session, address, found.write._replace(value=found.value), names, order, numbers),
            [_version(session, address, one, names, order, numbers) for one in _latest(found.others, order)],
        )


def _latest(writes: Writes, order: Order) -> list[Write]:
    return sorted(writes, key=lambda write: order.later(write.dot), reverse=True)


def _where(session: Session, address: Address) -> tuple[int | None, str]:
    """A call that shows it, open ones first, and the place in words."""
    call, motor, unit = tables.Call, tables.Motor, tables.Unit
    of = {"call": call.uid, "motor": motor.uid, "unit": unit.uid}[address.table]
    query = select(call.id, tables.Site.name, unit.name).select_from(unit).join(unit.site)
    query = query.join(unit.motors, isouter=True).join(call, call.motor_id == motor.id, isouter=True)
    row = session.execute(
        query.where(of == address.key).order_by(call.closed_at.is_not(None), call.opened_at.desc()).limit(1),
        execution_options=WITH_PRACTICE,
    ).first()
    return (None, "") if row is None else (row[0], f"{row[1]}, {row[2]}")


def _version(
    session: Session, address: Address, write: Write, names: list[str], order: Order, numbers: Numbers
) -> Version:
    row = session.get(kept.Replica, numbers.number(write.dot.origin))
    flat = _flat(write.value or {})
    says = [_said(address, name, flat.get(name)) for name in names]
    at = datetime.fromtimestamp(order.true_ms(write.dot) / 1000, UTC)
    return Version(write.dot, name_of(session, row) if row else "", at, _who(session, write.dot, numbers), says)


def _who(session: Session, dot: Dot, numbers: Numbers) -> str:
    """Who did the act that wrote it."""
    act, write = tables.Act, kept.PartWrite
    return (
        session.scalar(
            select(act.who)
            .join(write, (write.in_table == "act") & (write.row_key == act.id))
            .where(write.replica_id == numbers.number(dot.origin), write.stamp == dot.stamp)
            .limit(1)
        )
        or ""
    )


def _differing(address: Address, values: list[Mapping[str, Any]]) -> list[str]:
    """The fields in which versions differ, those that say most first."""
    flat = [_flat(value) for value in values]
    names = [name for name in dict.fromkeys(name for one in flat for name in one)]
    differ = [name for name in names if any(one.get(name) != flat[0].get(name) for one in flat)]
    if address.part == "plan":
        differ = [name for name in PLAN if name in differ] or differ
    return differ[:MOST_SHOWN]


def _flat(value: Mapping[str, Any], before: str = "") -> dict[str, Any]:
    """A structured value as fields by path; lists count."""
    found: dict[str, Any] = {}
    for name, cell in value.items():
        path = f"{before}{name}"
        if isinstance(cell, dict):
            found |= _flat(cell, f"{path}.")
        elif isinstance(cell, list) and any(isinstance(one, dict) for one in cell):
            found[path] = f"{len(cell)} noted"
        else:
            found[path] = cell
    return found


def _said(address: Address, name: str, value: Any) -> tuple[str, str]:
    """A field as its page calls it, and what it says."""
    field = FIELDS.get(name.replace("plate.", f"{address.table}.", 1))
    label = LABELS.get(name) or (field.label if field else name.rpartition(".")[2].replace("_", " "))
    text = _text(name, value)
    unit = {"C": "°C"}.get(field.unit, field.unit) if field and text != NOTHING else ""
    return label, f"{text} {unit}".strip()


def _text(name: str, value: Any) -> str:
    if value in (None, "", []):
        return NOTHING
    if name == "complaint.symptom":
        return SYMPTOMS.get(str(value), NOTHING)
    if name == "outcome.verdict":
        return headline(value)
    if name.endswith("_at"):
        at = datetime.fromisoformat(str(value)).astimezone()
        return f"{at:%b} {at.day}, {at:%H:%M}"
    if isinstance(value, bool):
        return "yes" if value else "no"
    text = ", ".join(map(str, value)) if isinstance(value, list) else str(value)
    return IN_WORDS.get(text, text.replace("_", " "))[:LONGEST_SHOWN]


def decide(
    db: Database, context: ActContext, table: str, key: str, part: str, origin: str, stamp: int, is_manager: bool = True
) -> int | None:
    """Use a version from now on, whichever it is; the call it is about. The others are set aside for good.

    A closed call stays closed, and is decided about at the shop where there is one. Raises `InvalidField` on a version
    that is none.
    """
    if table not in RULES or part not in RULES[table].parts:
        raise invalid("table", table[:40] or "nothing", "something that two wrote apart")
    address = Address(table, key, part)
    with db.writing() as session:
        act = record_act(session, context, "decide_version", None)
        note_own_writes(session)
        numbers, order = Numbers(session), order_of(session)
        state = state_of(session, [(table, key)], numbers)
        writes = state.get(address, ())
        chosen = next((write for write in writes if write.dot == Dot(origin, stamp)), None)
        if chosen is None or RULES[table].parts[part].rule not in ASKED:
            raise invalid("version", f"{stamp}", "one of the versions that are there")
        found = lead(address, writes, order)
        value = found.value if chosen.dot == found.write.dot else chosen.value
        if (found.value or {}).get("closed_at") and not (value or {}).get("closed_at"):
            raise invalid("version", "one on which the call is open", "one on which it is closed: it stays so")
        now = (written_over(Dot(me(session).uid, clock_of(session)), value, writes),)
        call_id, place = _where(session, address)
        elsewhere = not me(session).is_shop and bool(order.shops)
        closed = table == "call" and call_id is not None and call_row(session, call_id).closed_at is not None
        if closed and (elsewhere or not is_manager):
            raise invalid("version", "a closed call", "one that is open: at the shop a manager decides about it")
        say = RULES[table].parts[part].say
        act.call_id, act.says = call_id, f"{place}: {say}, as {_of(session, chosen, numbers)} has it"[:300]
        with as_merge(session):
            save_writes(session, {address: now}, numbers)
            writer = RowWriter(session)
            writer.write(leading({**state, address: now}, order))
            writer.acts.add(act.id)
            writer.finish()
        return call_id


def _of(session: Session, write: Write, numbers: Numbers) -> str:
    row = session.get(kept.Replica, numbers.number(write.dot.origin))
    return name_of(session, row) if row else "another laptop"
