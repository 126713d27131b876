"""columns called by what they hold: a motor's installation, the text that calls and motors are found by"""

from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Apply."""
    op.execute("ALTER TABLE motor RENAME COLUMN around TO installation")
    op.execute("ALTER TABLE call RENAME COLUMN words TO search_text")
    op.execute("ALTER TABLE catalogue_motor RENAME COLUMN words TO search_text")
