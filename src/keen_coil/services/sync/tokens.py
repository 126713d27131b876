"""Tokens of an account with which its vans sync: named, shown once, kept as their hash.

Each ends after half a year, or when somebody ends it; all of an account end with its password, with "Sign out
everywhere" and with the account.
"""

from __future__ import annotations

import hashlib
import secrets
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, select, update
from sqlalchemy.exc import DatabaseError

from ...core.errors import NotFound, RefusedNow, invalid
from ...store import tables
from ...store.database import Database
from ...store.replica_tables import SyncToken
from ..acts import ActContext, record_act
from ..people.accounts import SEEN_EVERY, SignedIn

MOST_OF_ACCOUNT = 20
LASTS = timedelta(days=180)
LONGEST_NAME = 80
BYTES_A_DAY = 2_000_000_000
"""What one token may send in a day: more than a first sync with its photographs."""


class TooMuchToday(RefusedNow):
    """A token that sent as much as one may in a day."""

    status, title = 429, "Too much for one day"


@dataclass(frozen=True)
class TokenLine:
    """A token as its owner sees it: never the token itself."""

    id: str
    account: str
    name: str
    made_at: datetime
    used_at: datetime | None
    ends_at: datetime


def _id(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _ends(row: SyncToken) -> datetime:
    return row.expires_at or row.made_at + LASTS


def make_token(db: Database, context: ActContext, account: str, name: str = "") -> str:
    """A new token of an account, told this once. Raises `NotFound` on an account that is none, `InvalidField`."""
    token, name = secrets.token_urlsafe(32), " ".join(name.split())
    if len(name) > LONGEST_NAME:
        raise invalid("token_name", name[:40], f"a name of at most {LONGEST_NAME} characters")
    with db.writing() as session:
        act = record_act(session, context, "make_token", None)
        act.who, act.says = account, f"a sync token for {account}"
        if session.get(tables.Account, account) is None:
            raise NotFound(f"account {account[:60]}")
        had = session.scalars(
            select(SyncToken.id).where(SyncToken.account == account).order_by(SyncToken.made_at.desc())
        ).all()
        session.execute(delete(SyncToken).where(SyncToken.id.in_(had[MOST_OF_ACCOUNT - 1 :])))
        ends = context.now + LASTS
        session.add(SyncToken(id=_id(token), account=account, made_at=context.now, name=name, expires_at=ends))
    return token


def tokens(db: Database, account: str | None) -> list[TokenLine]:
    """The tokens of an account, or of all: the newest first."""
    with db.reading() as session:
        query = select(SyncToken).order_by(SyncToken.made_at.desc())
        rows = session.scalars(query if account is None else query.where(SyncToken.account == account))
        return [TokenLine(row.id[:16], row.account, row.name, row.made_at, row.used_at, _ends(row)) for row in rows]


def end_token(db: Database, context: ActContext, account: str | None, number: str) -> None:
    """End a token, of this account or of any. Raises `NotFound`."""
    with db.writing() as session:
        act = record_act(session, context, "end_token", None)
        query = select(SyncToken).where(SyncToken.id.startswith(number, autoescape=True))
        row = session.scalar(query if account is None else query.where(SyncToken.account == account))
        if row is None or len(number) != 16:
            raise NotFound("this token")
        act.says = f"a sync token of {row.account}"
        session.delete(row)


def account_of_token(db: Database, token: str, now: datetime) -> SignedIn | None:
    """Whose token it is; None when it is nobody's, or over."""
    with db.reading() as session:
        found = session.execute(
            select(SyncToken, tables.Account.role, tables.Technician.id)
            .join(tables.Account, tables.Account.name == SyncToken.account)
            .outerjoin(tables.Technician, tables.Technician.name == SyncToken.account)
            .where(SyncToken.id == _id(token))
        ).one_or_none()
    if found is None or _ends(found[0]) < now:
        return None
    row, role, technician = found
    if row.used_at is None or now - row.used_at > SEEN_EVERY:
        # a file that is locked while another van's package is merged keeps nobody out
        with suppress(DatabaseError), db.writing() as session:
            session.execute(update(SyncToken).where(SyncToken.id == row.id).values(used_at=now))
    return SignedIn(row.account, "manager" if role == "manager" else "technician", technician, row.id)


def count_bytes(db: Database, token: str, many: int, now: datetime) -> None:
    """Count what came with a token today. Raises `TooMuchToday`."""
    with db.writing() as session:
        row = session.get(SyncToken, token)
        if row is None:
            return
        had = row.bytes_today if row.counted_on == now.date() else 0
        if had + many > BYTES_A_DAY:
            limit = f"at most {BYTES_A_DAY / 1e9:.0f} GB a day"
            raise TooMuchToday(f"{(had + many) / 1e9:.1f} GB with this token today", f"{limit}: sync again tomorrow")
        row.counted_on, row.bytes_today = now.date(), had + many
