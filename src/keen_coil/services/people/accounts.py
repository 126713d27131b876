"""Accounts: who may sign in, as technician or manager; signing in, slowed after failures; signing out everywhere."""

from __future__ import annotations

import hashlib
import secrets
import threading
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from ipaddress import ip_address, ip_network

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, select, update
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session

from ...core.errors import KeenCoilError, NotFound, invalid
from ...core.vocabulary import AccountRole, words_of
from ...store import tables
from ...store.database import Database
from ...store.replica_tables import SyncToken
from ..acts import ActContext, record_act
from .people import LONGEST_NAME, technician_named

ROLES: tuple[AccountRole, ...] = words_of(AccountRole)
SHORTEST, LONGEST = 10, 200
IDLE, LONGEST_SIGNED_IN = timedelta(hours=12), timedelta(days=14)
SEEN_EVERY = timedelta(minutes=5)
FREE_FAILURES, FREE_OF_ADDRESS, FREE_OF_NAME = 4, 20, 10
"""Failures that cost nothing: of a name from one address or device, of an address, of a name from anywhere."""
LONGEST_WAIT_S, LONGEST_DELAY_S, FORGOTTEN = 900, 8.0, timedelta(hours=1)
"""After them each doubles the wait, up to a quarter of an hour, or a stranger's delay; forgotten after an hour."""
CLOCK_OFF = timedelta(minutes=5)
"""A sign-in dated further ahead than this is of a clock that was set back since: it is over."""
_HASHING = threading.BoundedSemaphore(2)
"""Passwords checked at once: each takes 64 MB and a core."""


class SignInRefused(KeenCoilError):
    """Name and password do not go together."""

    status, title = 403, "Not signed in"

    def __str__(self) -> str:
        return "Name and password do not go together."


class SignInSlowed(KeenCoilError):
    """Too many failures: so many seconds are to be waited."""

    status, title = 429, "Not signed in"

    def __init__(self, seconds: int) -> None:
        super().__init__(seconds)
        self.seconds = seconds

    def __str__(self) -> str:
        return f"Too many failures from here. Wait {self.seconds} seconds."


@dataclass(frozen=True)
class SignedIn:
    """Who is signed in, the technician that acts are noted under, and the token that a van came with."""

    name: str
    role: AccountRole
    technician: int | None
    token: str = ""

    @property
    def is_manager(self) -> bool:
        """Whether limits, catalog and people may be changed."""
        return self.role == "manager"


@lru_cache(maxsize=1)
def _hasher() -> PasswordHasher:
    return PasswordHasher()


@lru_cache(maxsize=1)
def _nobodys() -> str:
    """A hash that no password fits, so that an unknown name takes as long as a known one."""
    return _hasher().hash(secrets.token_hex(16))


def warm_up() -> None:
    """Make the hash that nobody's password fits, so that not even the first unknown name takes longer."""
    _nobodys()


def _checked(name: str, password: str, role: str) -> AccountRole:
    if not 1 <= len(name) <= LONGEST_NAME:
        raise invalid("name", name[:40] or "nothing", f"a name of 1 to {LONGEST_NAME} characters")
    if not SHORTEST <= len(password) <= LONGEST:
        raise invalid("password", f"{len(password)} characters", f"{SHORTEST} to {LONGEST} characters")
    if password.strip().lower() == name.lower():
        raise invalid("password", "the name", "something else than the name")
    found = next((known for known in ROLES if known == role), None)
    if found is None:
        raise invalid("role", role[:40] or "nothing", "technician or manager")
    return found


def add_account(db: Database, context: ActContext, name: str, password: str, role: str) -> None:
    """Make an account, or give an existing one another password and role; it is signed out everywhere then.

    Raises `InvalidField`; the last manager stays one.
    """
    name = name.strip()
    wanted = _checked(name, password, role)
    hashed = _hasher().hash(password)
    with db.writing() as session:
        act = record_act(session, context, "save_account", None)
        act.says = f"{name}, {wanted}"
        row = session.get(tables.Account, name)
        if row is not None and row.role == "manager" and wanted != "manager":
            _not_the_last(session, name)
        technician_named(session, name)
        if row is None:
            session.add(tables.Account(name=name, role=wanted, password=hashed, changed_at=context.now))
        else:
            row.role, row.password, row.changed_at = wanted, hashed, context.now
            _out_everywhere(session, name)


def change_password(db: Database, context: ActContext, name: str, old: str, new: str) -> None:
    """Change one's own password; every device is signed out. Raises `InvalidField`, and `Slowed` after wrong ones."""
    key = f"own:{name.lower()}"
    with db.writing() as session:
        failed = session.get(tables.SignInFailure, key)
        _settle(failed, context.now)
        wait = _wait(failed, context.now, FREE_FAILURES)
        if wait == 0:
            _count(session, key, failed, context.now)
        row = session.get(tables.Account, name)
        hashed, role = (row.password, row.role) if row else (_nobodys(), "")
    if wait > 0:
        raise SignInSlowed(wait)
    if not _fits(hashed, old[: LONGEST + 1]) or not role:
        raise invalid("old", "another password", "the password you sign in with")
    with db.writing() as session:
        _take_back(session, (key,))
    add_account(db, context, name, new, role)


def drop_account(db: Database, context: ActContext, name: str) -> None:
    """Take an account away; it is signed out everywhere, what it did stays. Raises `NotFound`, `InvalidField`."""
    with db.writing() as session:
        act = record_act(session, context, "drop_account", None)
        act.says = name[:120]
        row = session.get(tables.Account, name)
        if row is None:
            raise NotFound(f"account {name[:60]}")
        if row.role == "manager":
            _not_the_last(session, name)
        _out_everywhere(session, name)
        session.delete(row)


def _out_everywhere(session: Session, name: str) -> None:
    """No device and no van of an account is let in any longer."""
    for table in (tables.SignIn, SyncToken):
        session.execute(delete(table).where(table.account == name))


def _not_the_last(session: Session, name: str) -> None:
    others = select(func.count()).select_from(tables.Account)
    others = others.where(tables.Account.role == "manager", tables.Account.name != name)
    if not session.scalar(others):
        raise invalid("role", name[:60], "another manager first: the last one stays")


def accounts(db: Database) -> list[tuple[str, AccountRole, datetime]]:
    """Every account with its role and when it was changed."""
    with db.reading() as session:
        rows = session.scalars(select(tables.Account).order_by(tables.Account.name))
        return [(row.name, "manager" if row.role == "manager" else "technician", row.changed_at) for row in rows]


def has_manager(db: Database) -> bool:
    """Whether there is a manager to sign in."""
    return any(role == "manager" for _, role, _ in accounts(db))


@dataclass(frozen=True)
class Attempt:
    """A try to sign in that is counted already: under which keys, and how long a stranger is kept waiting, seconds."""

    name: str
    address: str
    keys: tuple[str, ...]
    delay_s: float


def begin_attempt(db: Database, now: datetime, name: str, address: str, device: str = "") -> Attempt:
    """Count a try before it is checked, so that many at once count as many. Raises `Slowed`.

    Who is refused: this address with this name, and an address that failed with many. `device` is known: it signed in
    under this name before, and its own failures alone count. By the name alone a stranger is kept waiting and nobody
    refused: wrong passwords from elsewhere lock no one out.
    """
    name = name.strip()[:LONGEST_NAME]
    where = _network(address)
    low = name.lower()
    keys = (f"device:{low}|{device[:40]}",) if device else (f"pair:{low}|{where}", f"from:{where}", f"name:{low}")
    with db.writing() as session:
        failures = tables.SignInFailure
        session.execute(delete(failures).where(failures.last_at < now - FORGOTTEN))
        rows = {key: session.get(failures, key) for key in keys}
        for row in rows.values():
            _settle(row, now)
        wait = max(_wait(row, now, _free(key)) for key, row in rows.items() if not key.startswith("name:"))
        delay = _delay(rows.get(keys[-1])) if not device else 0.0
        if wait == 0:
            for key, row in rows.items():
                _count(session, key, row, now)
    if wait > 0:
        raise SignInSlowed(wait)
    return Attempt(name, address[:60], keys, delay)


def finish_attempt(db: Database, context: ActContext, attempt: Attempt, password: str) -> str:
    """Check the password of a counted try; the token for the cookie. Raises `Refused`."""
    with db.reading() as session:
        row = session.get(tables.Account, attempt.name)
        hashed = row.password if row else _nobodys()
    right = _fits(hashed, password[: LONGEST + 1]) and row is not None
    token = secrets.token_urlsafe(32)
    with db.writing() as session:
        act = record_act(session, context, "sign_in" if right else "sign_in_failed", None)
        act.who, act.says = (attempt.name if right else None), f"{attempt.name} from {attempt.address}"
        if right:
            _take_back(session, attempt.keys)
            session.execute(delete(tables.SignIn).where(tables.SignIn.made_at < context.now - LONGEST_SIGNED_IN))
            session.add(tables.SignIn(id=_id(token), account=attempt.name, made_at=context.now, seen_at=context.now))
    if not right:
        raise SignInRefused
    return token


def sign_in(db: Database, context: ActContext, name: str, password: str, address: str, device: str = "") -> str:
    """Count a try, check it; the token for the cookie. Raises `Refused`, and `Slowed` after failures."""
    return finish_attempt(db, context, begin_attempt(db, context.now, name, address, device), password)


def sign_in_phone(db: Database, context: ActContext, name: str, address: str) -> str:
    """Sign a phone in by a link of the laptop: the token for its cookie. Raises `InvalidField` on an unknown name.

    A technician without an account gets one that no password fits: a link alone signs it in.
    """
    token = secrets.token_urlsafe(32)
    unfit = _hasher().hash(secrets.token_urlsafe(32))
    with db.writing() as session:
        act = record_act(session, context, "sign_in_phone", None)
        act.who, act.says = name, f"{name} by a link, from {address[:60]}"
        if session.scalar(select(tables.Technician.id).where(tables.Technician.name == name)) is None:
            raise invalid("technician", name[:40], "a technician of the shop")
        if session.get(tables.Account, name) is None:
            session.add(tables.Account(name=name, role="technician", password=unfit, changed_at=context.now))
            session.flush()
        session.add(tables.SignIn(id=_id(token), account=name, made_at=context.now, seen_at=context.now))
    return token


def _network(address: str) -> str:
    """What counts as one address: itself, of IPv6 the network of 64 bits that one household has."""
    try:
        found = ip_address(address)
    except ValueError:
        return address[:60]
    return str(ip_network((found, 64), strict=False)) if found.version == 6 else str(found)


def _fits(hashed: str, password: str) -> bool:
    with _HASHING:
        try:
            return _hasher().verify(hashed, password)
        except (VerificationError, InvalidHashError):
            return False


def _settle(failures: tables.SignInFailure | None, now: datetime) -> None:
    """Failures long ago count no more, nor do those dated far ahead; nobody waits for a clock that was set back."""
    if failures is None:
        return
    if abs(now - failures.last_at) > FORGOTTEN:
        failures.count = 0
    if failures.count == 0 or failures.last_at > now:
        failures.last_at = now


def _free(key: str) -> int:
    return FREE_OF_ADDRESS if key.startswith("from:") else FREE_FAILURES


def _wait(failures: tables.SignInFailure | None, now: datetime, free: int) -> int:
    """Seconds still to wait after the failures noted."""
    if failures is None or failures.count <= free:
        return 0
    wait = min(2 ** min(failures.count - free, 20), LONGEST_WAIT_S)
    return max(0, int(wait - (now - failures.last_at).total_seconds() + 0.999))


def _delay(failures: tables.SignInFailure | None) -> float:
    """Seconds that a stranger's try under this name is kept waiting."""
    over = 0 if failures is None else failures.count - FREE_OF_NAME
    return 0.0 if over <= 0 else min(0.5 * 2 ** min(over, 10), LONGEST_DELAY_S)


def _count(session: Session, key: str, row: tables.SignInFailure | None, now: datetime) -> None:
    if row is None:
        session.add(tables.SignInFailure(key=key, count=1, last_at=now))
    else:
        row.count, row.last_at = row.count + 1, now


def _take_back(session: Session, keys: tuple[str, ...]) -> None:
    """After a success: this device or pair begins anew, of address and name only this try is taken back."""
    for key in keys:
        row = session.get(tables.SignInFailure, key)
        if row is None:
            continue
        row.count -= 1
        if row.count < 1 or key.startswith(("device:", "pair:", "own:")):
            session.delete(row)


def _id(token: str) -> str:
    """What is kept of a token: not the token, so that a copy of the file signs nobody in."""
    return hashlib.sha256(token.encode()).hexdigest()


def signed_in(db: Database, token: str, now: datetime) -> SignedIn | None:
    """Who a token stands for; None when it is over, unknown or signed out."""
    with db.reading() as session:
        query = (
            select(tables.SignIn, tables.Account.role, tables.Technician.id)
            .join(tables.Account, tables.Account.name == tables.SignIn.account)
            .outerjoin(tables.Technician, tables.Technician.name == tables.SignIn.account)
            .where(tables.SignIn.id == _id(token))
        )
        found = session.execute(query).one_or_none()
    if found is None:
        return None
    row, role, technician = found
    if now - row.seen_at > IDLE or now - row.made_at > LONGEST_SIGNED_IN:
        return None
    if max(row.seen_at, row.made_at) - now > CLOCK_OFF:
        return None
    if now - row.seen_at > SEEN_EVERY:
        # a disk that is full or a file that is locked keeps nobody from looking
        with suppress(DatabaseError), db.writing() as session:
            session.execute(update(tables.SignIn).where(tables.SignIn.id == row.id).values(seen_at=now))
    return SignedIn(row.account, "manager" if role == "manager" else "technician", technician)


def sign_out(db: Database, context: ActContext, token: str, everywhere: bool = False) -> None:
    """Sign out this device, or every device of the account and every van with a token of it."""
    with db.writing() as session:
        record_act(session, context, "sign_out_everywhere" if everywhere else "sign_out", None)
        row = session.get(tables.SignIn, _id(token))
        if row is None:
            return
        if everywhere:
            _out_everywhere(session, row.account)
        else:
            session.delete(row)
