"""Accounts: who may sign in, as technician or manager; signing in, slowed after failures; signing out everywhere."""

from __future__ import annotations

import hashlib
import secrets
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from typing import Literal

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, select, update
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from ..core.errors import bad
from ..store import tables
from ..store.database import Database
from .acts import NotThere, Stamp, record_act
from .people import LONGEST_NAME, technician_named

Role = Literal["technician", "manager"]
ROLES: tuple[Role, ...] = ("technician", "manager")
SHORTEST, LONGEST = 10, 200
IDLE, LONGEST_SIGNED_IN = timedelta(hours=12), timedelta(days=14)
SEEN_EVERY = timedelta(minutes=5)
FREE_FAILURES, LONGEST_WAIT_S, FORGOTTEN = 4, 900, timedelta(hours=1)
"""Failures that cost nothing; after them each doubles the wait, up to a quarter of an hour; forgotten after an hour."""


class Refused(RuntimeError):
    """Name and password do not go together."""


class Slowed(RuntimeError):
    """Too many failures: so many seconds are to be waited."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"{seconds} seconds")
        self.seconds = seconds


@dataclass(frozen=True)
class SignedIn:
    """Who is signed in, and the technician that acts are noted under."""

    name: str
    role: Role
    technician: int | None

    @property
    def is_manager(self) -> bool:
        """Whether limits, catalogue and people may be changed."""
        return self.role == "manager"


@lru_cache(maxsize=1)
def _hasher() -> PasswordHasher:
    return PasswordHasher()


@lru_cache(maxsize=1)
def _nobodys() -> str:
    """A hash that no password fits, so that an unknown name takes as long as a known one."""
    return _hasher().hash(secrets.token_hex(16))


def _checked(name: str, password: str, role: str) -> Role:
    if not 1 <= len(name) <= LONGEST_NAME:
        raise bad("name", name[:40] or "nothing", f"a name of 1 to {LONGEST_NAME} characters")
    if not SHORTEST <= len(password) <= LONGEST:
        raise bad("password", f"{len(password)} characters", f"{SHORTEST} to {LONGEST} characters")
    if password.strip().lower() == name.lower():
        raise bad("password", "the name", "something else than the name")
    found = next((known for known in ROLES if known == role), None)
    if found is None:
        raise bad("role", role[:40] or "nothing", "technician or manager")
    return found


def add_account(db: Database, stamp: Stamp, name: str, password: str, role: str) -> None:
    """Make an account, or give an existing one another password and role; it is signed out everywhere then.

    Raises `BadInput`; the last manager stays one.
    """
    name = name.strip()
    wanted = _checked(name, password, role)
    hashed = _hasher().hash(password)
    with db.writing() as session:
        act = record_act(session, stamp, "save_account", None)
        act.says = f"{name}, {wanted}"
        row = session.get(tables.Account, name)
        if row is not None and row.role == "manager" and wanted != "manager":
            _not_the_last(session, name)
        technician_named(session, name)
        if row is None:
            session.add(tables.Account(name=name, role=wanted, password=hashed, changed_at=stamp.now))
        else:
            row.role, row.password, row.changed_at = wanted, hashed, stamp.now
            session.execute(delete(tables.SignIn).where(tables.SignIn.account == name))


def change_password(db: Database, stamp: Stamp, name: str, old: str, new: str) -> None:
    """Change one's own password; every device is signed out. Raises `BadInput`."""
    with db.reading() as session:
        row = session.get(tables.Account, name)
        if row is None or not _fits(row.password, old):
            raise bad("old", "another password", "the password you sign in with")
        role = row.role
    add_account(db, stamp, name, new, role)


def drop_account(db: Database, stamp: Stamp, name: str) -> None:
    """Take an account away; it is signed out everywhere, what it did stays. Raises `NotThere`, `BadInput`."""
    with db.writing() as session:
        act = record_act(session, stamp, "drop_account", None)
        act.says = name[:120]
        row = session.get(tables.Account, name)
        if row is None:
            raise NotThere(f"account {name[:60]}")
        if row.role == "manager":
            _not_the_last(session, name)
        session.execute(delete(tables.SignIn).where(tables.SignIn.account == name))
        session.delete(row)


def _not_the_last(session: Session, name: str) -> None:
    others = select(func.count()).select_from(tables.Account)
    others = others.where(tables.Account.role == "manager", tables.Account.name != name)
    if not session.scalar(others):
        raise bad("role", name[:60], "another manager first: the last one stays")


def accounts(db: Database) -> list[tuple[str, Role, datetime]]:
    """Every account with its role and when it was changed."""
    with db.reading() as session:
        rows = session.scalars(select(tables.Account).order_by(tables.Account.name))
        return [(row.name, "manager" if row.role == "manager" else "technician", row.changed_at) for row in rows]


def has_manager(db: Database) -> bool:
    """Whether there is a manager to sign in."""
    return any(role == "manager" for _, role, _ in accounts(db))


def sign_in(db: Database, stamp: Stamp, name: str, password: str, address: str) -> str:
    """Sign in; the token for the cookie. Raises `Refused`, and `Slowed` after failures of this name or address."""
    name = name.strip()[:LONGEST_NAME]
    keys = (f"name:{name.lower()}", f"from:{address[:60]}")
    with db.reading() as session:
        wait = max(_wait(session.get(tables.SignInFailure, key), stamp.now) for key in keys)
        row = session.get(tables.Account, name)
        hashed = row.password if row else _nobodys()
    if wait > 0:
        raise Slowed(wait)
    right = _fits(hashed, password[: LONGEST + 1]) and row is not None
    token = secrets.token_urlsafe(32)
    with db.writing() as session:
        act = record_act(session, stamp, "sign_in" if right else "sign_in_failed", None)
        act.who, act.says = (name if right else None), f"{name} from {address[:60]}"
        for key in keys:
            _note(session, key, stamp.now, right)
        if right:
            session.execute(delete(tables.SignIn).where(tables.SignIn.made_at < stamp.now - LONGEST_SIGNED_IN))
            session.add(tables.SignIn(id=_id(token), account=name, made_at=stamp.now, seen_at=stamp.now))
    if not right:
        raise Refused
    return token


def _fits(hashed: str, password: str) -> bool:
    try:
        return _hasher().verify(hashed, password)
    except (VerificationError, InvalidHashError):
        return False


def _wait(failures: tables.SignInFailure | None, now: datetime) -> int:
    """Seconds still to wait after the failures noted."""
    if failures is None or failures.count <= FREE_FAILURES or now - failures.last_at > FORGOTTEN:
        return 0
    wait = min(2 ** (failures.count - FREE_FAILURES), LONGEST_WAIT_S)
    return max(0, int(wait - (now - failures.last_at).total_seconds() + 0.999))


def _note(session: Session, key: str, now: datetime, right: bool) -> None:
    """Count a failure; a success clears those of the name and leaves those of the address."""
    row = session.get(tables.SignInFailure, key)
    if right:
        if row is not None and key.startswith("name:"):
            session.delete(row)
        return
    if row is None:
        session.add(tables.SignInFailure(key=key, count=1, last_at=now))
        return
    row.count = 1 if now - row.last_at > FORGOTTEN else row.count + 1
    row.last_at = now


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
    if now - row.seen_at > SEEN_EVERY:
        # a disk that is full or a file that is locked keeps nobody from looking
        with suppress(OperationalError), db.writing() as session:
            session.execute(update(tables.SignIn).where(tables.SignIn.id == row.id).values(seen_at=now))
    return SignedIn(row.account, "manager" if role == "manager" else "technician", technician)


def sign_out(db: Database, stamp: Stamp, token: str, everywhere: bool = False) -> None:
    """Sign out this device, or every device of the account."""
    with db.writing() as session:
        record_act(session, stamp, "sign_out_everywhere" if everywhere else "sign_out", None)
        row = session.get(tables.SignIn, _id(token))
        if row is None:
            return
        gone = tables.SignIn.account == row.account if everywhere else tables.SignIn.id == row.id
        session.execute(delete(tables.SignIn).where(gone))
