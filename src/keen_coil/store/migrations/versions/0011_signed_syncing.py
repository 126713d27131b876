"""laptops sign what they write: keys, pairings, signed lists; tokens have a name, an end and a day's count"""

import secrets

import sqlalchemy as sa
from alembic import op

from keen_coil.store.columns import UtcTime

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "replica_key",
        sa.Column("id", sa.Integer(), primary_key=True, nullable=False),
        sa.Column("secret", sa.LargeBinary(), nullable=False),
    )
    key = sa.text("INSERT INTO replica_key (id, secret) VALUES (1, :secret)")
    op.execute(key.bindparams(sa.bindparam("secret", secrets.token_bytes(32), sa.LargeBinary())))
    op.create_table(
        "laptop",
        sa.Column("uid", sa.String(36), primary_key=True, nullable=False),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("account", sa.String(200)),
        sa.Column("paired_at", UtcTime(), nullable=False),
        sa.Column("told_off_at", UtcTime()),
        sa.CheckConstraint("role in ('technician', 'manager')", name="laptop_role_is_known"),
    )
    op.create_table(
        "signed_writes",
        sa.Column("id", sa.Integer(), primary_key=True, nullable=False),
        sa.Column("replica_id", sa.Integer(), sa.ForeignKey("replica.id"), nullable=False),
        sa.Column("upto", sa.BigInteger(), nullable=False),
        sa.Column("prints", sa.LargeBinary(), nullable=False),
        sa.Column("signature", sa.String(128), nullable=False, unique=True),
    )
    op.create_index("ix_signed_writes_replica_id", "signed_writes", ["replica_id"])
    for name, kind in (("public_key", 64), ("after_uid", 36), ("after_proof", 128)):
        op.add_column("replica", sa.Column(name, sa.String(kind)))
    op.add_column("sync_token", sa.Column("name", sa.String(80), nullable=False, server_default=sa.text("''")))
    op.add_column("sync_token", sa.Column("expires_at", UtcTime()))
    op.add_column("sync_token", sa.Column("counted_on", sa.Date()))
    op.add_column("sync_token", sa.Column("bytes_today", sa.BigInteger(), nullable=False, server_default=sa.text("0")))
