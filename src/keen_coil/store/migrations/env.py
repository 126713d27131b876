"""Alembic's environment: runs the migrations on the configured file, all of them or none."""

from pathlib import Path

from alembic import context

from keen_coil.store.database import engine_for
from keen_coil.store.tables import Table

engine = engine_for(Path(context.config.get_main_option("file") or ""))
with engine.begin() as connection:
    context.configure(
        connection=connection, target_metadata=Table.metadata, render_as_batch=True, transactional_ddl=True
    )
    context.run_migrations()
engine.dispose()
