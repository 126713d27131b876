"""what was changed on a unit in the middle of a call"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Apply."""
    with op.batch_alter_table("call") as table:
        table.add_column(sa.Column("changes", sa.JSON(), nullable=False, server_default=sa.text("'{}'")))
