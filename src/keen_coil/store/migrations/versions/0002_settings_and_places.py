"""settings of the shop, where a motor sits in its unit"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "setting",
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("value", sa.JSON(), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("name"),
    )
    with op.batch_alter_table("motor", schema=None) as batch_op:
        batch_op.add_column(sa.Column("place", sa.String(length=120), nullable=True))
