"""where a part came from that was not on the van"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """Apply."""
    with op.batch_alter_table("part_used") as table:
        table.add_column(sa.Column("source", sa.String(60), nullable=False, server_default=sa.text("''")))
