"""Who this replica is to the others: what it knows, its marks, and what becomes of older copies and of twins."""

from __future__ import annotations

import json
import secrets
import time
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from ...core.errors import RefusedNow, invalid
from ...core.replicas.clock import ClockCheck, ahead_of, milliseconds_of, stamp_at
from ...core.replicas.signing import public_of, sign
from ...formats.sync_package import Greeting, after_text
from ...store import replica_tables as kept
from ...store import tables
from ...store.columns import new_uid
from ...store.database import Database
from ...store.touching import travels_if
from ..acts import ActContext, record_act
from ..people.settings import SHOP
from .replica_state import clock_of, known, me, note_own_writes

MARKS_TOLD, OWN_TOLD = 30, 400
"""How many marks are told of others, and of itself: so many packages it may make between two syncs with one other."""
NOBODYS = "The shop"
"""What a shop's computer is called that nobody named."""
FAR_AHEAD_MS = 20 * 365 * 86_400_000
"""A clock set wrong by a battery is years off and still syncs; a stamp beyond that is no clock's."""
LONGEST_NAME = 80


class OlderCopy(RefusedNow):
    """A replica that goes on from an older copy of itself, or a twin of it: its acts could be taken for others.

    `common` is the stamp of the last mark that both have; `mine` says whether it is this replica.
    """

    status, title = 409, "An older copy"

    def __init__(self, name: str, common: int, mine: bool) -> None:
        super().__init__(
            f"{name} was restored from an older copy, or is a twin of another: it does not know its own last sync",
            "an identity of its own, so that nothing is taken for done: on it, under Settings, Vans and syncing, go on "
            "as another laptop, or run keen-coil sync --new-identity",
        )
        self.name, self.common, self.mine = name, common, mine

    def __reduce__(self) -> tuple[type[OlderCopy], tuple[str, int, bool]]:
        """Pickle by what it was made of."""
        return type(self), (self.name, self.common, self.mine)


def now_ms() -> int:
    """The wall clock, ms since 1970."""
    return time.time_ns() // 1_000_000


def secret_of(session: Session) -> bytes:
    """The secret key of this replica, made where there is none yet."""
    row = session.get(kept.ReplicaKey, kept.THIS)
    if row is None:
        row = kept.ReplicaKey(id=kept.THIS, secret=secrets.token_bytes(32))
        session.add(row)
    mine = me(session)
    if mine.public_key is None:
        mine.public_key = public_of(row.secret)
    session.flush()
    return row.secret


def signed_greeting(session: Session) -> Greeting:
    """What this replica says of itself, signed: a greeting that travels by itself."""
    secret = secret_of(session)
    return greeting_of(session).signed(secret)


def greeting_of(session: Session) -> Greeting:
    """What this replica says of itself; it has its key."""
    row = me(session)
    mark = kept.Mark
    marks: dict[str, list[str]] = {}
    for origin, nonce in session.execute(select(mark.origin, mark.nonce).order_by(mark.stamp)):
        marks.setdefault(origin, []).append(nonce)
    last = max(now_ms(), milliseconds_of(clock_of(session)))
    return Greeting(
        uid=row.uid,
        name=name_of(session, row),
        key=row.public_key or "",
        after_uid=row.after_uid,
        after_proof=row.after_proof or "",
        is_shop=row.is_shop,
        now_ms=last,
        knows=known(session),
        marks={origin: of[-(OWN_TOLD if origin == row.uid else MARKS_TOLD) :] for origin, of in marks.items()},
    )


def name_of(session: Session, row: kept.Replica) -> str:
    """What a replica is called; the shop's own name where nobody named it."""
    if row.name or not row.is_shop:
        return row.name or "A van"
    shop = session.get(tables.Setting, SHOP)
    return str(shop.value.get("name") or "")[:LONGEST_NAME] if shop else NOBODYS


def called(session: Session) -> str:
    """What this computer is called, as it is told to others as well."""
    row = me(session)
    return f"The shop's computer ({name_of(session, row)})" if row.is_shop else name_of(session, row)


def make_mark(session: Session) -> None:
    """Leave a mark of this replica, which whoever syncs with it will know; none where nothing was done since."""
    mine, last = me(session).uid, "SELECT max(stamp) FROM mark WHERE origin = ?"
    stamp = session.connection().exec_driver_sql(last, (mine,)).scalar()
    newer = "SELECT 1 FROM part_write WHERE replica_id = ? AND stamp > ? AND in_table != 'mark' LIMIT 1"
    if stamp is not None and not session.connection().exec_driver_sql(newer, (kept.THIS, stamp)).scalar():
        return
    session.add(kept.Mark(nonce=secrets.token_hex(6), origin=me(session).uid, stamp=clock_of(session)))
    session.flush()


def check_lineage(session: Session, other: Greeting) -> None:
    """Raise `OlderCopy` where one of both goes on from an older copy of itself. Raises `InvalidField` on oneself."""
    mine = me(session).uid
    if other.uid == mine:
        told = other.marks.get(mine, [])
        if set(told[-1:]) - _marks(session, mine).keys():
            raise OlderCopy(called(session), _common(session, mine, told), mine=True)
        raise invalid("", "a package that this very laptop made", "one from another laptop")
    known_of_it, told = _marks(session, other.uid), other.marks.get(other.uid, [])
    if known_of_it and not (set(told[-1:]) & known_of_it.keys() or list(known_of_it)[-1] in told):
        raise OlderCopy(other.name or "That laptop", _common(session, other.uid, told), mine=False)
    of_me, of_mine = other.marks.get(mine, []), _marks(session, mine)
    if of_me and of_me[-1] not in of_mine:
        raise OlderCopy(called(session), _common(session, mine, of_me), mine=True)


def _marks(session: Session, origin: str) -> dict[str, int]:
    """The marks of a replica that are known here with their stamps, oldest first."""
    row = kept.Mark
    found = session.execute(select(row.nonce, row.stamp).where(row.origin == origin).order_by(row.stamp))
    return {nonce: stamp for nonce, stamp in found}


def _common(session: Session, origin: str, told: Any) -> int:
    found = _marks(session, origin)
    return max((found[nonce] for nonce in told if nonce in found), default=0)


def renew_identity(session: Session, common: int) -> str:
    """Go on as another replica: acts after the stamp `common` become its acts, those before stay what they were.

    Gives the new identity.
    """
    note_own_writes(session)
    secret = secret_of(session)
    row, connection = me(session), session.connection()
    was = kept.Replica(uid=f"{row.uid}-", name=row.name, is_shop=row.is_shop, knows=common, public_key=row.public_key)
    session.add(was)
    session.flush()
    old, row.uid = row.uid, new_uid()
    session.flush()
    was.uid = old
    session.delete(session.get_one(kept.ReplicaKey, kept.THIS))
    row.public_key = None
    session.flush()
    secret_of(session)
    row.after_uid, row.after_proof = old, sign(secret, after_text(old, row.uid, row.public_key or ""))
    session.execute(
        delete(kept.SignedWrites).where(kept.SignedWrites.replica_id == kept.THIS, kept.SignedWrites.upto > common)
    )
    session.execute(
        update(kept.SignedWrites).where(kept.SignedWrites.replica_id == kept.THIS).values(replica_id=was.id)
    )
    session.flush()
    _forget_marks(session, old, common)
    connection.exec_driver_sql(
        "UPDATE part_write SET replica_id = ? WHERE replica_id = ? AND stamp <= ?", (was.id, kept.THIS, common)
    )
    rows = connection.exec_driver_sql("SELECT id, over FROM part_write WHERE over LIKE '%[1,%'").all()
    changed = [(_renumbered(over, was.id, common), number) for number, over in rows]
    if changed:
        connection.exec_driver_sql("UPDATE part_write SET over = ? WHERE id = ?", changed)
    return row.uid


def heal(db: Database, context: ActContext) -> list[str]:
    """Put straight what a damaged or hostile package left: stamps that no clock gives. What was done.

    Of others no more counts as known than is here; where this laptop's own clock was dragged ahead it goes on as
    another laptop, whose clock is right, with everything it has.
    """
    limit, told = stamp_at(now_ms() + FAR_AHEAD_MS), list[str]()
    with db.writing() as session:
        record_act(session, context, "heal_sync", None)
        connection, row = session.connection(), kept.Replica
        for other in session.scalars(select(row).where(row.id != kept.THIS)):
            seen = connection.exec_driver_sql(
                "SELECT max(stamp) FROM part_write WHERE replica_id = ?", (other.id,)
            ).scalar()
            if other.knows > limit or any(int(stamp) > limit for stamp in (other.their_knows or {}).values()):
                other.knows = min(other.knows, int(seen or 0), limit)
                other.their_knows = {uid: at for uid, at in (other.their_knows or {}).items() if int(at) <= limit}
                told.append(f"What is known of {name_of(session, other)} is counted again.")
        if clock_of(session) > limit:
            note_own_writes(session)
            connection.exec_driver_sql("UPDATE replica_clock SET stamp = ?", (stamp_at(now_ms()),))
            own_ahead = "DELETE FROM part_write WHERE replica_id = ? AND stamp > ?"
            connection.exec_driver_sql(own_ahead, (kept.THIS, limit))
            session.execute(update(kept.ReplicaClock).values(is_new=True))
            session.expire_all()
            signed = select(func.max(kept.SignedWrites.upto))
            signed = signed.where(kept.SignedWrites.replica_id == kept.THIS, kept.SignedWrites.upto <= limit)
            renew_identity(session, session.scalar(signed) or 0)
            told.append("The clock of this laptop is right again; it goes on under a new identity.")
    return told or ["Nothing was damaged."]


def _forget_marks(session: Session, origin: str, common: int) -> None:
    """Marks that an older identity made after the last one that others have: nobody is ever asked for them."""
    mark, connection = kept.Mark, session.connection()
    own = list(session.scalars(select(mark.nonce).where(mark.origin == origin, mark.stamp > common)))
    session.execute(delete(mark).where(mark.nonce.in_(own)))
    for table in ("part_write", "part_touched") if own else ():
        connection.exec_driver_sql(
            f"DELETE FROM {table} WHERE in_table = 'mark' AND row_key = ?", [(one,) for one in own]
        )


def _renumbered(over: str, number: int, common: int) -> str:
    dots = [[number if of == kept.THIS and stamp <= common else of, stamp] for of, stamp in json.loads(over)]
    return json.dumps(sorted(dots), separators=(",", ":"))


def start_anew(session: Session) -> None:
    """What is here now came in the place of everything: a replica that has heard of nobody."""
    for table in (
        *(kept.PartTouched, kept.PartWrite, kept.Mark, kept.ClockChecked, kept.Exchange),
        *(kept.SignedWrites, kept.PairedLaptop, kept.ReplicaKey),
    ):
        session.execute(delete(table))
    session.execute(delete(kept.Replica).where(kept.Replica.id != kept.THIS))
    anew = {"public_key": None, "after_uid": None, "after_proof": None}
    session.execute(update(kept.Replica).values(uid=new_uid(), knows=0, **anew))
    session.execute(update(kept.ReplicaClock).values(is_new=True))


def note_clock(session: Session, other: Greeting, their_last: int) -> int:
    """Note how far another's clock is ahead of this one, for its acts so far; ms. Only where they differ, or did."""
    mine, row = me(session).uid, kept.ClockChecked
    ahead = ahead_of(other.now_ms, now_ms())
    had = session.scalars(
        select(row).where(row.observer == mine, row.origin == other.uid).order_by(row.upto.desc()).limit(1)
    ).first()
    if ahead == (had.ahead_ms if had else 0) or not their_last:
        return ahead
    check = ClockCheck(mine, other.uid, their_last, ahead)
    if session.get(row, check[:3]) is None:
        session.add(row(observer=mine, origin=other.uid, upto=check.upto, ahead_ms=check.ahead_ms))
    session.flush()
    return ahead


def name_replica(db: Database, context: ActContext, name: str, is_shop: bool) -> None:
    """Say what this computer is called, and whether it is the shop's or a van's. Raises `InvalidField`."""
    name = name.strip()
    if not 1 <= len(name) <= LONGEST_NAME:
        raise invalid("name", name[:40] or "nothing", f"a name of 1 to {LONGEST_NAME} characters")
    with db.writing() as session:
        record_act(session, context, "name_replica", None)
        row = me(session)
        became = is_shop and not row.is_shop
        row.name, row.is_shop = name, is_shop
        session.flush()
        if became:
            _decide_anew(session)


def _decide_anew(session: Session) -> None:
    """What only the shop decides counts as decided here and now."""
    stamp = clock_of(session)
    for table, key in (("setting", "name"), ("catalogue_motor", "part_no")):
        session.connection().exec_driver_sql(
            "INSERT INTO part_touched (in_table, row_key, part, stamp) "
            f"SELECT '{table}', {key}, 'row', ? FROM {table} WHERE {travels_if(table) or 'true'} "
            "ON CONFLICT (in_table, row_key, part) DO UPDATE SET stamp = excluded.stamp",
            (stamp,),
        )
