"""the schema of 0.1, as its dump has it: nothing before it was released, so no file of an earlier one is anywhere"""

from alembic import op

from keen_coil.store.database import dumped

revision = "0010"
down_revision = None


def upgrade() -> None:
    """Apply."""
    for statement in dumped("0010"):
        if "alembic_version" not in statement:
            op.execute(statement)
