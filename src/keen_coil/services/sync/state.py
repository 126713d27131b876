"""How the laptops of a shop stand: which synced when, what waits here, what each lacks, what needs a decision."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.replicas.signing import shown_key
from ...core.replicas.twice import Twice
from ...store import replica_tables as kept
from ...store import tables
from ...store.database import Database
from .lineage import name_of
from .package import OWN
from .replica_joins import units_entered_twice
from .replica_state import known, me
from .sync import in_words
from .two_versions import Question, all_questions

EXCHANGES_SHOWN = 12


@dataclass(frozen=True)
class Laptop:
    """Another laptop or the shop: when it was last heard of, how many rows here it lacks, by what is known of it.

    key: of its key so much as can be read out. account, role: whose token it was paired with. told_off: since when.
    """

    uid: str
    name: str
    is_shop: bool
    heard_at: datetime | None
    lacks: int
    clock_minutes: int
    key: str
    role: str
    account: str
    told_off: datetime | None


@dataclass(frozen=True)
class ExchangeLine:
    """A sync that was: when, with whom, how, what came and what went in words."""

    at: datetime
    name: str
    way: str
    who: str
    came: str
    went: str


@dataclass(frozen=True)
class SyncState:
    """This laptop, the others, what waits, what needs a decision."""

    uid: str
    name: str
    is_named: bool
    is_shop: bool
    waiting: int
    laptops: list[Laptop]
    exchanges: list[ExchangeLine]
    questions: list[Question]
    twice: list[Twice]
    counts_due: list[tuple[str, str, int]]
    address: str
    has_token: bool

    @property
    def decisions(self) -> int:
        """How many things somebody has to decide."""
        return len(self.questions) + len(self.twice) + len(self.counts_due)


def sync_state(db: Database) -> SyncState:
    """How the laptops of this shop stand."""
    questions = all_questions(db)
    with db.reading() as session:
        row, partner = me(session), session.get(kept.SyncPartner, kept.THIS)
        others = session.scalars(select(kept.Replica).where(kept.Replica.id != kept.THIS)).all()
        heard = [_laptop(session, one) for one in others if one.heard_at is not None]
        part = tables.VanPart
        due = session.execute(select(part.van, part.part_no, part.quantity).where(part.quantity < 0))
        return SyncState(
            row.uid,
            name_of(session, row),
            bool(row.name),
            row.is_shop,
            _waiting(session, others),
            sorted(heard, key=lambda one: (not one.is_shop, one.name)),
            _exchanges(session),
            questions,
            units_entered_twice(session),
            [(van, part_no, many) for van, part_no, many in due],
            partner.address if partner else "",
            bool(partner and partner.token),
        )


def known_by(db: Database, uid: str) -> dict[str, int]:
    """What another laptop knew when it was last heard of; nothing where it never was."""
    with db.reading() as session:
        row = session.scalar(select(kept.Replica).where(kept.Replica.uid == uid))
        return dict(row.their_knows or {}) if row else {}


def _laptop(session: Session, row: kept.Replica) -> Laptop:
    check = kept.ClockChecked
    ahead = session.scalar(select(check.ahead_ms).where(check.origin == row.uid).order_by(check.upto.desc()).limit(1))
    lacks = _rows_lacking(session, row.their_knows or {}) + _touched(session)
    minutes = round((ahead or 0) / 60_000)
    paired, key = session.get(kept.PairedLaptop, row.uid), shown_key(row.public_key) if row.public_key else ""
    role, account, told_off = (paired.role, paired.account, paired.told_off_at) if paired else ("", None, None)
    name = name_of(session, row)
    return Laptop(row.uid, name, row.is_shop, row.heard_at, lacks, minutes, key, role, account or "", told_off)


def _rows_lacking(session: Session, knows: dict[str, Any]) -> int:
    """How many rows are here that somebody lacks who knows so much."""
    write, replica = kept.PartWrite, kept.Replica
    total = 0
    for number, uid in session.execute(select(replica.id, replica.uid)).all():
        query = select(func.count(func.distinct(write.in_table + write.row_key)))
        query = query.where(write.replica_id == number, write.stamp > knows.get(uid, 0), write.in_table.not_in(OWN))
        total += session.scalar(query) or 0
    return total


def _touched(session: Session) -> int:
    """How many rows were written here since the last sync."""
    row = kept.PartTouched
    rows = select(func.count(func.distinct(row.in_table + row.row_key))).where(row.in_table.not_in(OWN))
    return session.scalar(rows) or 0


def _waiting(session: Session, others: Any) -> int:
    """How many rows here nobody else has, as far as is known."""
    best: dict[str, int] = {}
    for other in others:
        for uid, stamp in (other.their_knows or {}).items():
            best[uid] = max(best.get(uid, 0), stamp)
    return _rows_lacking(session, best) + _touched(session) if known(session) else 0


def _exchanges(session: Session) -> list[ExchangeLine]:
    row = kept.Exchange
    rows = session.scalars(select(row).order_by(row.id.desc()).limit(EXCHANGES_SHOWN)).all()
    names = {one.id: name_of(session, one) for one in session.scalars(select(kept.Replica))}
    return [
        ExchangeLine(one.at, names[one.replica_id], one.way, one.who or "", _came(one.came), in_words(one.went))
        for one in rows
    ]


def _came(told: dict[str, Any]) -> str:
    rows = dict(told.get("new", {}))
    for table, many in told.get("changed", {}).items():
        rows[table] = rows.get(table, 0) + many
    return in_words(rows)
