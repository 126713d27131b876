"""Tables of a replica: who it is, what it knows of the others, and which act last wrote each part of each row."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Index, LargeBinary, String, Text, text
from sqlalchemy.orm import Mapped, mapped_column

from .columns import Table

THIS = 1
"""The number of this replica among all it knows, and of the one row that says who it is."""


class Replica(Table):
    """A laptop or server that keeps this shop: this one (number 1) and those that were heard of.

    `knows`: the stamp of its last act that is known here. `heard_at`: when it was last synced with, `their_knows` what
    it knew then of each, by identity.
    """

    __tablename__ = "replica"
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    is_shop: Mapped[bool]
    knows: Mapped[int] = mapped_column(BigInteger, default=0)
    heard_at: Mapped[datetime | None]
    their_knows: Mapped[dict[str, Any] | None]


class ReplicaClock(Table):
    """The clock of this replica: the stamp of its last act. `is_merging`: what is written now was done elsewhere.

    `is_new`: rows may be here that no act of this replica is known for; they are taken up at the next sync.
    """

    __tablename__ = "replica_clock"
    id: Mapped[int] = mapped_column(primary_key=True)
    stamp: Mapped[int] = mapped_column(BigInteger)
    is_merging: Mapped[bool] = mapped_column(default=False, server_default=text("0"))
    is_new: Mapped[bool] = mapped_column(default=True, server_default=text("1"))


class PartTouched(Table):
    """A part of a row that was written here since the last sync, with the stamp of the last act that did."""

    __tablename__ = "part_touched"
    in_table: Mapped[str] = mapped_column(String(40), primary_key=True)
    row_key: Mapped[str] = mapped_column(String(400), primary_key=True)
    part: Mapped[str] = mapped_column(String(40), primary_key=True)
    stamp: Mapped[int] = mapped_column(BigInteger)


class PartWrite(Table):
    """A write to a part of a row that nothing known was written over: whose act, over which others.

    A part without one was written with its row. `value` (JSON) is kept where several writes stand beside each other,
    and of rows that are gone; else it is what the row holds.
    """

    __tablename__ = "part_write"
    __table_args__ = (
        Index("ix_part_write_address", "in_table", "row_key", "part"),
        Index("ix_part_write_act", "replica_id", "stamp"),
        Index("ix_part_write_beside", "in_table", "row_key", sqlite_where=text("value IS NOT NULL")),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    in_table: Mapped[str] = mapped_column(String(40))
    row_key: Mapped[str] = mapped_column(String(400))
    part: Mapped[str] = mapped_column(String(40))
    replica_id: Mapped[int] = mapped_column(ForeignKey("replica.id"))
    stamp: Mapped[int] = mapped_column(BigInteger)
    over: Mapped[str | None] = mapped_column(Text)
    value: Mapped[str | None] = mapped_column(Text)


class Mark(Table):
    """A mark that a replica made at a sync: one that lacks it later is an older copy of it, or a twin."""

    __tablename__ = "mark"
    nonce: Mapped[str] = mapped_column(String(36), primary_key=True)
    origin: Mapped[str] = mapped_column(String(36), index=True)
    stamp: Mapped[int] = mapped_column(BigInteger)


class ClockChecked(Table):
    """How far ahead a replica's clock was of the one it synced with, for its stamps up to one; milliseconds."""

    __tablename__ = "clock_check"
    observer: Mapped[str] = mapped_column(String(36), primary_key=True)
    origin: Mapped[str] = mapped_column(String(36), primary_key=True)
    upto: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    ahead_ms: Mapped[int] = mapped_column(BigInteger)


class Exchange(Table):
    """A sync of this replica with another: when, how, what came and what went, rows by table."""

    __tablename__ = "exchange"
    id: Mapped[int] = mapped_column(primary_key=True)
    replica_id: Mapped[int] = mapped_column(ForeignKey("replica.id"), index=True)
    at: Mapped[datetime]
    way: Mapped[str] = mapped_column(String(10))
    who: Mapped[str | None] = mapped_column(String(200))
    came: Mapped[dict[str, Any]]
    went: Mapped[dict[str, Any]]


class WaitingPicture(Table):
    """A photograph that came ahead of the rows it belongs to, by the hash of its content."""

    __tablename__ = "waiting_picture"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)
    came_at: Mapped[datetime]


class SyncToken(Table):
    """A token of an account with which a van syncs; `id` is its hash."""

    __tablename__ = "sync_token"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    account: Mapped[str] = mapped_column(ForeignKey("account.name"), index=True)
    made_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


class SyncPartner(Table):
    """The shop's server that this laptop syncs with: its address, the token, the certificate it is known by (PEM)."""

    __tablename__ = "sync_partner"
    id: Mapped[int] = mapped_column(primary_key=True)
    address: Mapped[str] = mapped_column(String(300))
    token: Mapped[str] = mapped_column(String(100))
    certificate: Mapped[str | None] = mapped_column(Text)


REPLICA_TABLES: tuple[type[Table], ...] = (
    Replica,
    ReplicaClock,
    PartTouched,
    PartWrite,
    Mark,
    ClockChecked,
    Exchange,
    WaitingPicture,
    SyncToken,
    SyncPartner,
)
"""What only this database is about: no part of the log."""
