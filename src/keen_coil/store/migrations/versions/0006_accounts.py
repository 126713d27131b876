"""accounts, devices that are signed in, failures to sign in"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "account",
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("role", sa.String(length=20), nullable=False),
        sa.Column("password", sa.String(length=300), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.CheckConstraint("role in ('technician', 'manager')", name="role_is_known"),
        sa.PrimaryKeyConstraint("name"),
    )
    op.create_table(
        "sign_in",
        sa.Column("id", sa.String(length=64), nullable=False),
        sa.Column("account", sa.String(length=200), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("seen_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["account"], ["account.name"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_sign_in_account", "sign_in", ["account"])
    op.create_table(
        "sign_in_failure",
        sa.Column("key", sa.String(length=200), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("last_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_index("ix_act_done_at", "act", ["done_at"])
