"""The stock of the vans as a ledger: every change is a movement, the quantity on the shelf is their sum."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, tuple_, update
from sqlalchemy.orm import Session

from ...core.errors import FieldError, InvalidField, invalid
from ...core.replicas.clock import Dot, Order
from ...core.units import whole_number
from ...core.van.stock import Balance, Movement, balances, quantity
from ...core.vocabulary import StockMovementKind
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, record_act, technician_of
from ..people.people import LONGEST_VAN, van_names
from ..sync.replica_state import order_of

CHUNK, MOST, SHOWN = 200, 10_000, 60
MOVES: tuple[StockMovementKind, ...] = ("restocked", "counted", "moved")
"""What somebody notes by hand; parts of a call are booked when it is handed over."""
Shelf = tuple[str, str]
"""A part on a van: the van, the part number."""


@dataclass(frozen=True)
class MovementLine:
    """A movement as a page lists it."""

    kind: StockMovementKind
    part_no: str
    balance: Balance
    other_van: str
    who: str
    call_id: int | None
    at: datetime


def note_movements(session: Session, context: ActContext, rows: Iterable[tables.StockMovement]) -> None:
    """Keep movements under who does the act, and renew the quantities that they change."""
    technician = technician_of(session, context)
    shelves = set()
    for row in rows:
        row.who, row.moved_at = technician.name if technician else None, context.now
        session.add(row)
        shelves.add((row.van, row.part_no))
    session.flush()
    renew_quantities(session, shelves)


def renew_quantities(session: Session, shelves: Iterable[Shelf]) -> None:
    """Set the quantity of parts on vans to the sum of their movements."""
    row, wanted = tables.VanPart, sorted(set(shelves))
    for start in range(0, len(wanted), CHUNK):
        some = wanted[start : start + CHUNK]
        kept = movements_of(session, some)
        for van, part_no in some:
            if not kept[van, part_no]:
                continue
            there = quantity(Movement(one.kind, one.quantity) for one in kept[van, part_no])  # type: ignore[arg-type]
            session.execute(update(row).where(row.van == van, row.part_no == part_no).values(quantity=there))


def movements_of(session: Session, shelves: Iterable[Shelf]) -> dict[Shelf, list[tables.StockMovement]]:
    """The movements of parts on vans, in the order in which they were made."""
    row = tables.StockMovement
    found = session.scalars(select(row).where(tuple_(row.van, row.part_no).in_(list(shelves)))).all()
    order, dots = order_of(session), _dots(session, [one.uid for one in found])
    kept: dict[Shelf, list[tables.StockMovement]] = defaultdict(list)
    for one in sorted(found, key=lambda one: _made(one, dots, order)):
        kept[one.van, one.part_no].append(one)
    return kept


def _made(row: tables.StockMovement, dots: Mapping[str, Dot], order: Order) -> tuple[int, int, str, str]:
    """When a movement was made, by the clocks of the replicas; of one not synced yet, after all that are."""
    dot = dots.get(row.uid)
    return (*(order.later(dot) if dot else (2**62, row.id, "")), row.uid)


def _dots(session: Session, uids: list[str]) -> dict[str, Dot]:
    found: dict[str, Dot] = {}
    for start in range(0, len(uids), CHUNK):
        some = uids[start : start + CHUNK]
        marks = ", ".join("?" * len(some))
        rows = session.connection().exec_driver_sql(
            "SELECT w.row_key, r.uid, min(w.stamp) FROM part_write w JOIN replica r ON r.id = w.replica_id "
            f"WHERE w.in_table = 'stock_movement' AND w.row_key IN ({marks}) GROUP BY w.row_key",
            tuple(some),
        )
        found |= {key: Dot(uid, stamp) for key, uid, stamp in rows}
    return found


def counted(van: str, quantities: Mapping[str, int], there: Mapping[str, int]) -> list[tables.StockMovement]:
    """Counts of the parts whose number is another than what was there."""
    return [
        tables.StockMovement(van=van, part_no=part, kind="counted", quantity=many)
        for part, many in quantities.items()
        if there.get(part) != many
    ]


def count_in(session: Session, context: ActContext, van: str, there: Mapping[str, int]) -> None:
    """Note as counted what a file set on a van, where it is another number than was there before."""
    rows = session.execute(select(tables.VanPart.part_no, tables.VanPart.quantity).where(tables.VanPart.van == van))
    now = {part: many for part, many in rows}
    gone = {part: 0 for part, many in there.items() if part not in now and many}
    note_movements(session, context, counted(van, now | gone, there))


def count_uncounted(session: Session, context: ActContext) -> None:
    """Note as counted what is on a van without any movement: it came from a file that has none."""
    row, moved = tables.VanPart, tables.StockMovement
    of_part = select(moved.id).where(moved.van == row.van, moved.part_no == row.part_no)
    rows = session.execute(select(row.van, row.part_no, row.quantity).where(~of_part.exists()))
    note_movements(
        session, context, [moved(van=van, part_no=part, kind="counted", quantity=many) for van, part, many in rows]
    )


def move_stock(db: Database, context: ActContext, fields: Mapping[str, str]) -> None:
    """Note by hand that a part was restocked, counted, or moved to another van. Raises `InvalidField` by field."""
    van, part_no = fields.get("van", "").strip(), fields.get("part_no", "").strip()
    kind, to = fields.get("kind", ""), fields.get("to_van", "").strip()
    many = whole_number(fields.get("many", ""), MOST + 1)
    faults = []
    if kind not in MOVES:
        faults.append(FieldError("kind", kind[:20] or "nothing", "one of " + ", ".join(MOVES)))
    if many is None or (many == 0 and kind != "counted"):
        faults.append(FieldError("many", fields.get("many", "")[:20] or "nothing", f"how many, 1 to {MOST}"))
    if kind == "moved" and (not 1 <= len(to) <= LONGEST_VAN or to == van):
        faults.append(FieldError("to_van", to[:40] or "nothing", "the van that they go to"))
    if faults:
        raise InvalidField(faults)
    with db.writing() as session:
        act = record_act(session, context, "move_stock", None)
        row = session.get(tables.VanPart, (van, part_no))
        if row is None:
            raise invalid("part_no", part_no[:60] or "nothing", f"a part of {van or 'the van'}")
        if kind == "moved" and to not in van_names(session):
            raise invalid("to_van", to[:40], "a van of the shop")
        act.says = f"{part_no} on {van}: {kind} {many}" + (f" to {to}" if kind == "moved" else "")
        note_movements(session, context, _moved(session, row, kind, many or 0, to))


def _moved(session: Session, part: tables.VanPart, kind: str, many: int, to: str) -> list[tables.StockMovement]:
    """The movements of an act: of parts that go to another van, one on each."""
    if kind != "moved":
        return [tables.StockMovement(van=part.van, part_no=part.part_no, kind=kind, quantity=many)]
    if part.quantity < many:
        raise invalid("many", str(many), f"at most {max(0, part.quantity)}: that is what {part.van} has")
    if session.get(tables.VanPart, (to, part.part_no)) is None:
        names = ("part_no", "kind", "sections_uf", "volts_v", "shape", "height_in")
        session.add(tables.VanPart(van=to, quantity=0, **{name: getattr(part, name) for name in names}))
    row = tables.StockMovement
    return [
        row(van=part.van, part_no=part.part_no, kind="moved", quantity=-many, other_van=to),
        row(van=to, part_no=part.part_no, kind="moved", quantity=many, other_van=part.van),
    ]


def last_movements(db: Database, van: str) -> list[MovementLine]:
    """What came and went on a van lately, newest first."""
    row = tables.StockMovement
    with db.reading() as session:
        latest = session.scalars(select(row).where(row.van == van).order_by(row.id.desc()).limit(SHOWN)).all()
        found: dict[int, Balance] = {}
        for rows in movements_of(session, {(one.van, one.part_no) for one in latest}).values():
            of = [Movement(one.kind, one.quantity) for one in rows]  # type: ignore[arg-type]
            found |= {one.id: balance for one, balance in zip(rows, balances(of), strict=True)}
        return [
            MovementLine(
                one.kind,  # type: ignore[arg-type]
                one.part_no,
                found[one.id],
                one.other_van or "",
                one.who or "",
                one.call_id,
                one.moved_at,
            )
            for one in latest
        ]
