"""Alembic's environment: runs the migrations on the configured file, all of them or none.

Foreign keys are off while tables are rebuilt, as SQLite asks for, and every one is checked before anything is kept.
"""

from pathlib import Path

from alembic import context
from sqlalchemy import event
from sqlalchemy.exc import IntegrityError

from keen_coil.store.database import engine_for
from keen_coil.store.tables import Table

engine = engine_for(Path(context.config.get_main_option("file") or ""))
event.listen(engine, "connect", lambda connection, record: connection.execute("PRAGMA foreign_keys=OFF"))
with engine.begin() as connection:
    context.configure(
        connection=connection, target_metadata=Table.metadata, render_as_batch=True, transactional_ddl=True
    )
    context.run_migrations()
    hanging = connection.exec_driver_sql("PRAGMA foreign_key_check").fetchmany(3)
    if hanging:
        raise IntegrityError("migration", {}, ValueError(f"rows that hang in the air: {hanging}"))
engine.dispose()
