"""Alembic's environment: runs the migrations on the configured file."""

from alembic import context
from sqlalchemy import create_engine, text

from keen_coil.store.tables import Table

engine = create_engine(context.config.get_main_option("sqlalchemy.url") or "")
with engine.connect() as connection:
    connection.execute(text("PRAGMA journal_mode=WAL"))
    context.configure(connection=connection, target_metadata=Table.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
