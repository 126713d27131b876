"""Who made a package, whose writes are in it, and what each of them may say."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Any, NamedTuple

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from ...core.errors import NotFound, RefusedNow, invalid
from ...core.replicas.authority import Author, Role, RowHere, may_come, whose_call
from ...core.replicas.clock import Dot, milliseconds_of, stamp_at
from ...core.replicas.merge import ROW, RULES, Address, Write, Writes
from ...core.replicas.signing import list_is_signed, print_of, prints_in
from ...core.vocabulary import AccountRole
from ...formats.sync_package import Greeting, Package
from ...store import replica_tables as kept
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, record_act
from .lineage import FAR_AHEAD_MS, NOBODYS, now_ms
from .replica_state import chunks, me


class Bearer(NamedTuple):
    """Who brings a package or greets: the role of the account, and its name; on loopback whoever sits there."""

    role: AccountRole = "manager"
    account: str | None = None


WHO_SITS_THERE = Bearer()


class LaptopToldOff(RefusedNow):
    """A laptop that the shop told off: nothing is taken of it, nothing given to it."""

    status, title = 403, "Told off"

    def __init__(self, name: str) -> None:
        super().__init__(
            f"{name}, which the shop told off", "a laptop of this shop: a manager takes it back under Settings, Vans"
        )
        self.name = name

    def __reduce__(self) -> tuple[type[LaptopToldOff], tuple[str]]:
        """Pickle by what it was made of."""
        return type(self), (self.name,)


def meet(session: Session, other: Greeting, bearer: Bearer, now: datetime, by_file: bool = False) -> kept.Replica:
    """The laptop that greets or made a package, known by its key; paired here where this is the shop.

    A file that a manager brings makes its laptop no manager's: whose it is only its token says.

    Raises `InvalidField` on another key than it had, or a clock that is none; `LaptopToldOff`.
    """
    if other.uid == me(session).uid:
        return me(session)
    _check_clock(other)
    row = session.scalar(select(kept.Replica).where(kept.Replica.uid == other.uid))
    before = _before(session, other)
    _is_itself(session, other, row, before)
    if row is None:
        row = kept.Replica(uid=other.uid, name=other.name, is_shop=False)
        session.add(row)
    row.public_key = other.key
    if before is not None and before.is_shop:
        row.is_shop = True
    mine = me(session)
    if other.is_shop and by_file and bearer.role == "manager" and not _shops(session):
        if mine.is_shop and not mine.name and other.name != NOBODYS and not _calls(session):
            mine.is_shop = False  # a laptop on which nothing was done yet is a van's
        row.is_shop = not mine.is_shop
    session.flush()
    if mine.is_shop and not row.is_shop:
        if by_file and session.scalar(select(tables.Account.name).limit(1)) is not None:
            bearer = bearer._replace(role="technician")
        _pair(session, other.uid, bearer, now)
    return row


def _is_itself(session: Session, other: Greeting, row: kept.Replica | None, before: kept.Replica | None) -> None:
    """Raise `InvalidField` on another key than a laptop had, `LaptopToldOff` on one that the shop told off."""
    name = (row.name if row is not None else "") or other.name or other.uid
    if row is not None and row.public_key not in (None, other.key):
        raise invalid(f"{name}: key", "another key than it had", f"the key that {name} was paired with")
    for uid in (other.uid, before.uid if before is not None else ""):
        paired = session.get(kept.PairedLaptop, uid)
        if paired is not None and paired.told_off_at is not None:
            raise LaptopToldOff(name)


def _calls(session: Session) -> int:
    return session.scalar(select(func.count()).select_from(tables.Call)) or 0


def _before(session: Session, other: Greeting) -> kept.Replica | None:
    """The identity that a laptop had before, where that one's key vouches for it."""
    if other.after_uid is None:
        return None
    found = session.scalar(select(kept.Replica).where(kept.Replica.uid == other.after_uid))
    return found if found is not None and other.follows(found.uid, found.public_key) else None


def _shops(session: Session) -> list[str]:
    query = select(kept.Replica.uid).where(kept.Replica.is_shop, kept.Replica.id != kept.THIS)
    return list(session.scalars(query))


def _pair(session: Session, uid: str, bearer: Bearer, now: datetime) -> None:
    """A laptop that comes for the first time has the role of who brings it; a manager's token makes it a manager's."""
    had = session.get(kept.PairedLaptop, uid)
    if had is None:
        session.add(kept.PairedLaptop(uid=uid, role=bearer.role, account=bearer.account, paired_at=now))
    elif had.role != "manager" and bearer.role == "manager":
        had.role, had.account = bearer.role, bearer.account
    session.flush()


def tell_off(db: Database, context: ActContext, uid: str, back: bool) -> None:
    """Take nothing more of a laptop that was lost, nor give it anything; or take it back. Raises `NotFound`.

    The tokens of its account end: one of them is on it.
    """
    with db.writing() as session:
        row = _paired(session, context, "take_laptop_back" if back else "tell_laptop_off", uid)
        row.told_off_at = None if back else context.now
        if not back:
            session.execute(delete(kept.SyncToken).where(kept.SyncToken.account == row.account))


def make_managers(db: Database, context: ActContext, uid: str) -> None:
    """Take from a laptop what a manager says, as if it had been paired with a manager's token. Raises `NotFound`."""
    with db.writing() as session:
        _paired(session, context, "make_laptop_managers", uid).role = "manager"


def _paired(session: Session, context: ActContext, act: str, uid: str) -> kept.PairedLaptop:
    """A paired laptop on which an act is done, which is noted with its name. Raises `NotFound`."""
    noted, row = record_act(session, context, act, None), session.get(kept.PairedLaptop, uid)
    if row is None:
        raise NotFound(f"laptop {uid[:40]}")
    noted.says = session.scalar(select(kept.Replica.name).where(kept.Replica.uid == uid)) or uid
    return row


def forget_key(db: Database, context: ActContext, uid: str) -> None:
    """Let a laptop pair again with the key that it comes with next: somebody else's was taken for it."""
    with db.writing() as session:
        act = record_act(session, context, "forget_laptop_key", None)
        row = session.scalar(select(kept.Replica).where(kept.Replica.uid == uid, kept.Replica.id != kept.THIS))
        if row is None:
            raise NotFound(f"laptop {uid[:40]}")
        act.says, row.public_key = row.name or uid, None
        session.execute(delete(kept.SignedWrites).where(kept.SignedWrites.replica_id == row.id))


def _check_clock(other: Greeting) -> None:
    """Raise `InvalidField` on stamps that no clock gives: far ahead of now, or ahead of the laptop's own clock."""
    if other.now_ms > now_ms() + FAR_AHEAD_MS:
        raise invalid("now_ms", other.now_ms, "a clock that is at most 20 years ahead: set the clock of that laptop")
    if milliseconds_of(other.knows.get(other.uid, 0)) > other.now_ms:
        raise invalid("knows", other.knows[other.uid], "acts up to now by its own clock, no later ones")


class Authors:
    """The authors of the writes in a package: what is proved to be theirs, what they may say."""

    def __init__(self, session: Session, package: Package, maker: kept.Replica) -> None:
        self.session, self._maker = session, maker
        self.maker_is_shop = maker.is_shop and not me(session).is_shop
        rows = session.scalars(select(kept.Replica)).all()
        self._rows = {row.uid: row for row in rows}
        self._paired = {row.uid: row for row in session.scalars(select(kept.PairedLaptop))}
        self._prints: dict[str, set[bytes]] = {}
        self._latest = stamp_limit(package.contents.maker)
        names = select(tables.Account.name).where(tables.Account.role == "manager")
        self._managers = frozenset(session.scalars(names))
        self.refused: dict[str, int] = {}

    def read_lists(self, package: Package) -> None:
        """Take up the signed lists of a package; one that its laptop did not sign proves nothing."""
        for one in package.signed_lists():
            row = self._rows.get(one.origin)
            if row is None or not row.public_key or not list_is_signed(row.public_key, one):
                continue
            self._prints.setdefault(one.origin, set()).update(prints_in(one.prints))
            had = select(kept.SignedWrites.id).where(kept.SignedWrites.signature == one.signature)
            if row.id != kept.THIS and self.session.scalar(had) is None:
                self.session.add(
                    kept.SignedWrites(replica_id=row.id, upto=one.upto, prints=one.prints, signature=one.signature)
                )
        self.session.flush()

    def learn_keys(self, package: Package, account: str | None, now: datetime) -> None:
        """Keys of others that come along: the shop says whose they are, elsewhere the first one counts.

        Where this is the shop they are paired as a technician's.
        """
        for key, row in package.rows("replica"):
            value = row[Address("replica", key, ROW)][-1].value or {}
            known, told = self._rows.get(key), value.get("public_key")
            if key == self._maker.uid or not isinstance(told, str) or (known and known.public_key):
                continue
            if known is None:
                known = self._rows[key] = kept.Replica(uid=key, name="", is_shop=False)
                self.session.add(known)
            known.public_key = told
            if me(self.session).is_shop and self.session.get(kept.PairedLaptop, key) is None:
                self._paired[key] = kept.PairedLaptop(uid=key, role="technician", account=account, paired_at=now)
                self.session.add(self._paired[key])
        self.session.flush()

    def says_of_itself(self, key: str, value: Mapping[str, Any]) -> bool:
        """Whether a laptop may say this of itself: its key is the known one, and it is no shop by its own word."""
        row = self._rows.get(key)
        same = row is not None and value.get("public_key") in (None, row.public_key)
        return same and (not value.get("is_shop") or (row is not None and row.is_shop))

    def author(self, uid: str) -> Author:
        """Whose act it is, with the role it was paired in."""
        row, paired = self._rows.get(uid), self._paired.get(uid)
        role: Role = "manager"
        if row is not None and (row.is_shop or (row.id == kept.THIS and me(self.session).is_shop)):
            role = "shop"
        elif paired is not None:
            role = "manager" if paired.role == "manager" else "technician"
        elif me(self.session).is_shop and uid != self._maker.uid:
            role = "technician"
        knew = (row.their_knows or {}) if row is not None else {}
        return Author(uid, (row.name if row else "") or uid, role, knew)

    def is_proved(self, address: Address, write: Write) -> bool:
        """Whether a write is of whom it names: the maker's own, on the shop's word, or in a signed list."""
        uid = write.dot.origin
        if uid == self._maker.uid or self.maker_is_shop:
            return True
        paired = self._paired.get(uid)
        if paired is not None and paired.told_off_at is not None:
            return False
        return print_of(address, write) in self._prints.get(uid, ())

    def left(
        self, table: str, rows: Iterable[tuple[str, Mapping[Address, Writes]]], mine: Mapping[Address, Writes]
    ) -> Iterable[tuple[str, dict[Address, Writes]]]:
        """The rows of a package as far as they are taken. Raises `InvalidField` on what no page does."""
        given = list(rows)
        closings = _closings(self.session, table, given)
        for key, row in given:
            taken: dict[Address, Writes] = {}
            for address, writes in row.items():
                here = RowHere(mine.get(address, ()), mine.get(Address(table, key, ROW), ()), closings.get(key))
                good = tuple(write for write in writes if self._takes(address, write, here))
                if good:
                    taken[address] = good
            if Address(table, key, ROW) in taken or mine.get(Address(table, key, ROW)):
                yield key, taken

    def _takes(self, address: Address, write: Write, here: RowHere) -> bool:
        if any(one.dot == write.dot or write.dot in one.over for one in here.part):
            return False  # known, whatever it is said to be
        if write.dot.stamp > self._latest:
            raise invalid(f"{address.table} {address.key[:40]}", write.dot.stamp, "a stamp that a clock gives")
        author = self.author(write.dot.origin)
        if not self.is_proved(address, write):
            name = f"{author.name} did not sign"
        elif may_come(address, write, here, author, self._managers):
            return True
        elif RULES[address.table].parts[address.part].who == "manager":
            name = f"only a manager may make, not {author.name}"
        else:
            return False
        self.refused[name] = self.refused.get(name, 0) + 1
        return False


def stamp_limit(maker: Greeting) -> int:
    """No act of a package is later than this."""
    return stamp_at(max(maker.now_ms, now_ms()) + FAR_AHEAD_MS)


_CLOSED = (
    "SELECT c.uid, r.uid, w.stamp FROM call c JOIN part_write w ON w.in_table = 'call' AND w.row_key = c.uid "
    "AND w.part IN ('outcome', 'row') JOIN replica r ON r.id = w.replica_id "
    "WHERE c.closed_at IS NOT NULL AND NOT c.practice AND c.uid IN ({marks}) ORDER BY w.part = 'outcome', w.stamp"
)


def _closings(session: Session, table: str, rows: list[tuple[str, Mapping[Address, Writes]]]) -> dict[str, Dot]:
    """For each of these rows that hang on a closed call, the act that closed it."""
    if not any(part.frozen for part in RULES[table].parts.values()):
        return {}
    calls = {key: _call_of(session, table, key, row) for key, row in rows}
    found: dict[str, Dot] = {}
    for part in chunks(sorted({uid for uid in calls.values() if uid})):
        statement = _CLOSED.format(marks=", ".join("?" * len(part)))
        found |= {uid: Dot(of, at) for uid, of, at in session.connection().exec_driver_sql(statement, tuple(part))}
    return {key: found[uid] for key, uid in calls.items() if uid in found}


def _call_of(session: Session, table: str, key: str, row: Mapping[Address, Writes]) -> str:
    values: list[Any] = [write.value for write in row.get(Address(table, key, ROW), ())]
    found = next((uid for uid in (whose_call(Address(table, key, ROW), value) for value in values) if uid), "")
    if not found and RULES[table].key == ("uid",):  # one that is taken away names no call
        statement = f'SELECT c.uid FROM call c JOIN "{table}" t ON t.call_id = c.id WHERE t.uid = ?'
        found = session.connection().exec_driver_sql(statement, (key,)).scalar() or ""
    return found
