"""Tables of a replica: who it is, what it knows of the others, and which act last wrote each part of each row."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Index, LargeBinary, String, Text, text
from sqlalchemy.orm import Mapped, mapped_column

from ..core.vocabulary import AccountRole
from .columns import Table, one_of

THIS = 1
"""The number of this replica among all it knows, and of the one row that says who it is."""


class Replica(Table):
    """A laptop or server that keeps this shop: this one (number 1) and those that were heard of.

    `knows`: the stamp of its last act that is known here. `heard_at`: when it was last synced with, `their_knows` what
    it knew then of each, by identity. `public_key` proves what it signed; `after_uid` is the identity it had before,
    `after_proof` the word of that one's key for it.
    """

    __tablename__ = "replica"
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    is_shop: Mapped[bool]
    knows: Mapped[int] = mapped_column(BigInteger, default=0)
    heard_at: Mapped[datetime | None]
    their_knows: Mapped[dict[str, Any] | None]
    public_key: Mapped[str | None] = mapped_column(String(64))
    after_uid: Mapped[str | None] = mapped_column(String(36))
    after_proof: Mapped[str | None] = mapped_column(String(128))


class ReplicaKey(Table):
    """The secret key of this replica (Ed25519, 32 bytes), made with its first sync. It never travels."""

    __tablename__ = "replica_key"
    id: Mapped[int] = mapped_column(primary_key=True)
    secret: Mapped[bytes] = mapped_column(LargeBinary)


class PairedLaptop(Table):
    """A laptop that was paired with the shop: under whose account and role, and since when it is told off."""

    __tablename__ = "laptop"
    __table_args__ = (one_of("role", AccountRole, "laptop_role_is_known"),)
    uid: Mapped[str] = mapped_column(String(36), primary_key=True)
    role: Mapped[str] = mapped_column(String(20))
    account: Mapped[str | None] = mapped_column(String(200))
    paired_at: Mapped[datetime]
    told_off_at: Mapped[datetime | None]


class SignedWrites(Table):
    """Prints of writes of a replica up to a stamp, with its signature: what lets others pass its writes on."""

    __tablename__ = "signed_writes"
    id: Mapped[int] = mapped_column(primary_key=True)
    replica_id: Mapped[int] = mapped_column(ForeignKey("replica.id"), index=True)
    upto: Mapped[int] = mapped_column(BigInteger)
    prints: Mapped[bytes] = mapped_column(LargeBinary)
    signature: Mapped[str] = mapped_column(String(128), unique=True)


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
    """A token of an account with which a van syncs; `id` is its hash.

    `bytes_today`: how much came with it on the day `counted_on`.
    """

    __tablename__ = "sync_token"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    account: Mapped[str] = mapped_column(ForeignKey("account.name"), index=True)
    made_at: Mapped[datetime]
    used_at: Mapped[datetime | None]
    name: Mapped[str] = mapped_column(String(80), default="", server_default=text("''"))
    expires_at: Mapped[datetime | None]
    counted_on: Mapped[date | None]
    bytes_today: Mapped[int] = mapped_column(BigInteger, default=0, server_default=text("0"))


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
    ReplicaKey,
    PairedLaptop,
    SignedWrites,
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
