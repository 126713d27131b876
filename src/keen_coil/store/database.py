"""Opening the database: WAL, foreign keys, full sync, one immediate transaction per act, migrations."""

from __future__ import annotations

import os
import secrets
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from functools import cache, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, Self

from sqlalchemy import URL, Engine, QueuePool, Table, create_engine, event
from sqlalchemy.orm import ORMExecuteState, Session, sessionmaker, with_loader_criteria
from sqlalchemy.util import LRUCache

from . import replica_tables as replica_tables
from . import tables
from .columns import new_uid
from .opening import NEWEST, look_at
from .touching import tick, watch

if TYPE_CHECKING:
    from alembic.config import Config
    from sqlalchemy.engine import Dialect

MIGRATIONS = Path(__file__).parent / "migrations"
PRIVATE = 0o600
"""Whoever keeps the file reads it, nobody else: it holds customers, accounts, sessions."""
_PRAGMAS = ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL", "busy_timeout=5000")


_COMPILED: LRUCache[Any, Any] = LRUCache(1000)
"""What statements came to as SQL, for every file of a process: all are asked the same."""


@cache
def _dialect() -> Dialect:
    """One dialect for every file of a process, which has met this SQLite: what was compiled is kept by dialect."""
    first = create_engine("sqlite://")
    first.connect().close()
    return first.dialect


def engine_for(path: Path) -> Engine:
    """An engine on a database file, with the pragmas of every connection."""
    pool = QueuePool(partial(sqlite3.connect, path, check_same_thread=False), dialect=_dialect())
    options = {"compiled_cache": _COMPILED}
    engine = Engine(pool, _dialect(), URL.create("sqlite", database=str(path)), execution_options=options)
    event.listen(engine, "connect", _on_connect)
    event.listen(engine, "begin", _on_begin)
    return engine


def _on_connect(connection: sqlite3.Connection, record: Any) -> None:
    connection.isolation_level = None
    for pragma in _PRAGMAS:
        connection.execute(f"PRAGMA {pragma}")


def _attach(connection: sqlite3.Connection, path: Path) -> None:
    connection.execute("ATTACH DATABASE ? AS staged", (str(path),))


@cache
def dumped(version: str = NEWEST) -> tuple[str, ...]:
    """The statements that make a schema with its first rows, as its migration left them."""
    text = (MIGRATIONS / "schema" / f"{version}.sql").read_text(encoding="utf-8")
    return tuple(text.removeprefix("BEGIN TRANSACTION;\n").removesuffix("COMMIT;\n").split(";\n"))


def make_new(path: Path) -> None:
    """Make a database without a call where nothing is, with an identity of its own; no migration is run for it.

    Of two who begin at once, one makes it and the other waits.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    make_private(path)
    with closing(sqlite3.connect(path, isolation_level=None)) as made:
        made.execute("BEGIN IMMEDIATE")
        if not made.execute("SELECT 1 FROM sqlite_master").fetchone():
            for statement in dumped():
                made.execute(statement)
            made.execute("UPDATE replica SET uid = ?", (new_uid(),))
            made.execute("UPDATE replica_key SET secret = ?", (secrets.token_bytes(32),))
            made.execute("UPDATE replica_clock SET stamp = 0")
            tick(made)
        made.execute("COMMIT")


def upsert_staged(session: Session, table: Table, changing: tuple[str, ...] = ()) -> None:
    """Put the rows of a staged table into the one of its name; those there by key get the columns in `changing`."""
    names = ", ".join(f'"{column.name}"' for column in table.columns)
    keys = ", ".join(f'"{column.name}"' for column in table.primary_key)
    changed = ", ".join(f'"{name}" = excluded."{name}"' for name in changing)
    conflict = f" ON CONFLICT ({keys}) DO UPDATE SET {changed}" if changed else ""
    # names of our own tables only, nothing from outside
    into, source = f'main."{table.name}"', f'staged."{table.name}"'
    statement = f"INSERT INTO {into} ({names}) SELECT {names} FROM {source} WHERE true"  # noqa: S608
    session.connection().exec_driver_sql(statement + conflict)


def _on_begin(connection: Any) -> None:
    """A write takes its lock at once, so that two acts never half overlap; a look takes none."""
    reads = connection.get_execution_options().get("reads", False)
    connection.exec_driver_sql("BEGIN" if reads else "BEGIN IMMEDIATE")


def _before_act(connection: Any) -> None:
    """A connection notes what is written from its first act on; before its lock, as a rollback takes triggers too."""
    kept = connection.connection
    if not connection.get_execution_options().get("reads", False) and not kept.info.get("watched"):
        watch(kept.dbapi_connection)
        kept.info["watched"] = True


def _on_act(connection: Any) -> None:
    """An act takes its stamp with its lock."""
    if not connection.get_execution_options().get("reads", False):
        tick(connection.connection.dbapi_connection)


def _without_practice(state: ORMExecuteState) -> None:
    """Practice calls and units, and what was joined into another, are left out of every query that does not want them.

    `practice=True` says that one does.
    """
    if not state.is_select or state.is_column_load or state.is_relationship_load:
        return
    if not state.execution_options.get("practice"):
        state.statement = state.statement.options(*_REAL)


_REAL = tuple(
    with_loader_criteria(table, criterion, include_aliases=True, propagate_to_loaders=False)
    for table, criterion in (
        (tables.Call, tables.Call.practice.is_(False)),
        (tables.Unit, tables.Unit.practice.is_(False) & tables.Unit.joined_into.is_(None)),
        (tables.Motor, tables.Motor.joined_into.is_(None)),
    )
)


def alembic_config(path: Path) -> Config:
    """Alembic's configuration for a database file; no ini file is needed."""
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("file", str(path).replace("%", "%%"))
    return config


def migrate(path: Path) -> None:
    """Bring a database file to the newest schema, from nothing or from any earlier one."""
    from alembic import command

    path.parent.mkdir(parents=True, exist_ok=True)
    make_private(path)
    command.upgrade(alembic_config(path), "head")


def make_private(path: Path) -> None:
    """Make a database file, and what SQLite puts beside it, readable by its owner only."""
    if not path.exists():
        path.touch(mode=PRIVATE)
    for file in (path, *(path.with_name(path.name + ending) for ending in ("-wal", "-shm"))):
        if file.exists() and file.stat().st_mode & 0o077 and file.stat().st_uid == os.geteuid():
            file.chmod(PRIVATE)


class Database:
    """A database file, opened: `reading()` and `writing()` give a session each."""

    def __init__(self, path: Path) -> None:
        """Open a file, made when it is missing.

        Raises `InvalidField` on one that cannot be a database of this program.
        """
        found = look_at(path)
        if not found:
            make_new(path)
            found = look_at(path)
        if found == NEWEST:
            make_private(path)
        else:
            migrate(path)
        self.reopen(path)

    @classmethod
    def opened(cls, path: Path) -> Self:
        """A file whose schema is known to be the newest."""
        self = cls.__new__(cls)
        self.reopen(path)
        return self

    def reopen(self, path: Path) -> None:
        """Open a file whose schema is known to be the newest."""
        self.path = path
        self.engine = engine_for(path)
        event.listen(self.engine, "begin", _before_act, insert=True)
        event.listen(self.engine, "begin", _on_act)
        self._write = sessionmaker(self.engine, expire_on_commit=False)
        self._read = sessionmaker(self.engine.execution_options(reads=True), expire_on_commit=False)
        for sessions in (self._write, self._read):
            event.listen(sessions, "do_orm_execute", _without_practice)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session for looking; takes no write lock."""
        with self._read() as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session for one act: all of it is saved at the end, or nothing."""
        with self._write.begin() as session:
            yield session

    @contextmanager
    def staging(self) -> Iterator[Self]:
        """An empty database of the same schema beside this one, gone afterwards: what takes long is written there."""
        with tempfile.TemporaryDirectory(dir=self.path.parent, prefix=".keen-coil-") as folder:
            path = Path(folder) / "staged.db"
            with closing(sqlite3.connect(path)) as fresh, fresh:
                for statement in dumped():
                    if statement.startswith("CREATE"):
                        fresh.execute(statement)
            stage = type(self).opened(path)
            try:
                yield stage
            finally:
                stage.close()

    @contextmanager
    def writing_from(self, stage: Database) -> Iterator[Session]:
        """A session for one act to which the tables of another file are `staged.NAME`: what was prepared goes over."""
        beside = type(self).opened(self.path)
        event.listen(beside.engine, "connect", lambda connection, record: _attach(connection, stage.path))
        try:
            with beside.writing() as session:
                yield session
        finally:
            beside.close()

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()
