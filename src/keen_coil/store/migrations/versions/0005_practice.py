"""practice calls, kept apart from the shop's own, and case files"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Apply."""
    for table in ("unit", "call"):
        op.add_column(table, sa.Column("practice", sa.Boolean(), server_default=sa.text("0"), nullable=False))
    op.drop_index("ix_call_found_by", "call")
    op.create_index("ix_call_found_by", "call", ["opened_at", "words", "practice"])
    op.create_table(
        "practice",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("call_id", sa.Integer(), nullable=False),
        sa.Column("technician_id", sa.Integer(), nullable=True),
        sa.Column("begun_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        sa.Column("case", sa.JSON(), nullable=False),
        sa.Column("family", sa.String(length=20), nullable=False),
        sa.Column("rung", sa.String(length=40), nullable=True),
        sa.Column("day", sa.Date(), nullable=True),
        sa.Column("advice", sa.Boolean(), nullable=False),
        sa.Column("done", sa.JSON(), nullable=False),
        sa.Column("leads", sa.JSON(), nullable=True),
        sa.Column("score", sa.JSON(), nullable=True),
        sa.Column("is_right", sa.Boolean(), nullable=True),
        sa.ForeignKeyConstraint(["call_id"], ["call.id"]),
        sa.ForeignKeyConstraint(["technician_id"], ["technician.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("call_id"),
    )
    op.create_index("ix_practice_ended_at", "practice", ["ended_at"])
    op.create_table(
        "practice_file",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(length=200), nullable=False),
        sa.Column("added_at", sa.DateTime(), nullable=False),
        sa.Column("case", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("title"),
    )
