"""Tokens of an account with which its vans sync: shown once, kept as their hash, gone with a changed password."""

from __future__ import annotations

import hashlib
import secrets
from contextlib import suppress
from datetime import datetime

from sqlalchemy import delete, select, update
from sqlalchemy.exc import DatabaseError

from ...core.errors import NotFound
from ...store import tables
from ...store.database import Database
from ...store.replica_tables import SyncToken
from ..acts import ActContext, record_act
from ..people.accounts import SEEN_EVERY, SignedIn

MOST_OF_ACCOUNT = 20


def _id(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def make_token(db: Database, context: ActContext, account: str) -> str:
    """A new token of an account, told this once. Raises `NotFound` on an account that is none."""
    token = secrets.token_urlsafe(32)
    with db.writing() as session:
        act = record_act(session, context, "make_token", None)
        act.who, act.says = account, f"a sync token for {account}"
        if session.get(tables.Account, account) is None:
            raise NotFound(f"account {account[:60]}")
        had = session.scalars(
            select(SyncToken.id).where(SyncToken.account == account).order_by(SyncToken.made_at.desc())
        ).all()
        session.execute(delete(SyncToken).where(SyncToken.id.in_(had[MOST_OF_ACCOUNT - 1 :])))
        session.add(SyncToken(id=_id(token), account=account, made_at=context.now))
    return token


def account_of_token(db: Database, token: str, now: datetime) -> SignedIn | None:
    """Whose token it is; None when it is nobody's."""
    with db.reading() as session:
        row = session.execute(
            select(SyncToken.id, tables.Account.name, tables.Account.role, tables.Technician.id, SyncToken.used_at)
            .join(tables.Account, tables.Account.name == SyncToken.account)
            .outerjoin(tables.Technician, tables.Technician.name == SyncToken.account)
            .where(SyncToken.id == _id(token))
        ).one_or_none()
    if row is None:
        return None
    if row[4] is None or now - row[4] > SEEN_EVERY:
        # a file that is locked while another van's package is merged keeps nobody out
        with suppress(DatabaseError), db.writing() as session:
            session.execute(update(SyncToken).where(SyncToken.id == row[0]).values(used_at=now))
    return SignedIn(row[1], "manager" if row[2] == "manager" else "technician", row[3])
