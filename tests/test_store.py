"""The database: schema by migration, constraints in the file, one act at a time."""

import re
import shutil
import sqlite3
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy.exc import IntegrityError, OperationalError

from keen_coil.core.errors import InvalidField
from keen_coil.store import database, tables
from keen_coil.store.database import Database, migrate
from keen_coil.store.opening import VERSIONS


def dumped(path):
    """All of a file in words, but for who it is and when it was made; what stands in a table is in no certain order."""
    with closing(sqlite3.connect(path)) as file:
        lines = "\n".join(file.iterdump()).splitlines()
    return sorted(re.sub(r"X'[0-9A-F]{64}'|'[0-9a-f-]{36}'|\b\d{15,}\b", "…", line).strip("\t ,") for line in lines)


def identity(path):
    with closing(sqlite3.connect(path)) as file:
        return file.execute("select uid, stamp from replica, replica_clock").fetchone()


def test_a_new_file_is_what_all_migrations_make_of_nothing_and_is_itself(tmp_path):
    migrate(tmp_path / "migrated.db")
    for name in ("one", "two"):
        Database(tmp_path / f"{name}.db").close()
        assert dumped(tmp_path / f"{name}.db") == dumped(tmp_path / "migrated.db")
    (one, stamp), (two, _) = (identity(tmp_path / f"{name}.db") for name in ("one", "two"))
    assert one != two
    assert 0 <= (int(time.time() * 1000) - (stamp >> 16)) < 3_600_000, "made now, not when the dump was"
    with Database(tmp_path / "one.db").engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, tables.Table.metadata) == []


def test_of_two_who_make_a_new_file_at_once_one_makes_it(tmp_path):
    with ThreadPoolExecutor(4) as several:
        made = list(several.map(Database, [tmp_path / "new.db"] * 4))
    assert len({identity(db.path) for db in made}) == 1
    for db in made:
        db.close()


def test_migrating_twice_changes_nothing(tmp_path):
    path = tmp_path / "a.db"
    migrate(path)
    before = path.read_bytes()
    migrate(path)
    assert path.read_bytes() == before


def test_pragmas_of_every_connection(db):
    with db.reading() as session:
        asked = {
            name: session.connection().exec_driver_sql(f"PRAGMA {name}").scalar()
            for name in ("journal_mode", "foreign_keys", "synchronous", "busy_timeout")
        }
    assert asked == {"journal_mode": "wal", "foreign_keys": 1, "synchronous": 2, "busy_timeout": 5000}


@pytest.mark.parametrize(
    "statement",
    [
        "insert into unit (site_id, name, plate) values (99, 'x', '{}')",
        "insert into call (motor_id, opened_at, version, complaint, meters) values (99, '2026-01-01', 1, '{}', '{}')",
        "insert into reading (call_id, position, kind, body) values (99, 0, 'spin', '{}')",
    ],
)
def test_nothing_hangs_in_the_air(db, statement):
    with pytest.raises(IntegrityError), db.writing() as session:
        session.connection().exec_driver_sql(statement)


def test_an_act_that_fails_leaves_nothing(db):
    with pytest.raises(RuntimeError), db.writing() as session:
        session.add(tables.Site(name="half"))
        session.flush()
        raise RuntimeError
    with db.reading() as session:
        assert session.query(tables.Site).count() == 0


def test_a_second_writer_waits_for_the_first(db):
    with db.writing() as session:
        session.add(tables.Site(name="first"))
        session.flush()
        other = sqlite3.connect(db.path, isolation_level=None, timeout=0.05)
        with pytest.raises(sqlite3.OperationalError, match="locked"):
            other.execute("BEGIN IMMEDIATE")
        other.close()


NEXT = """
from alembic import op

revision, down_revision = "0012", "0011"


def upgrade():
    op.execute("create table beside (id integer)")
    op.execute("create table site (id integer)")
"""


def test_a_failed_migration_leaves_the_file_as_it_was(tmp_path, monkeypatch):
    """The next one stumbles over a table that is there: what it did before is undone."""
    Database(tmp_path / "odd.db").close()
    shutil.copytree(database.MIGRATIONS, tmp_path / "migrations")
    (tmp_path / "migrations/versions/0012_stumbles.py").write_text(NEXT)
    monkeypatch.setattr(database, "MIGRATIONS", tmp_path / "migrations")
    monkeypatch.setattr(database, "NEWEST", "0012")
    before = dumped(tmp_path / "odd.db")
    with pytest.raises(OperationalError):
        Database(tmp_path / "odd.db")
    assert dumped(tmp_path / "odd.db") == before


def test_each_migration_left_a_dump_of_its_schema():
    assert sorted(path.stem for path in (database.MIGRATIONS / "schema").glob("*.sql")) == VERSIONS


def test_a_file_from_before_the_first_release_is_refused_by_name(tmp_path):
    Database(tmp_path / "old.db").close()
    with sqlite3.connect(tmp_path / "old.db") as old:
        old.execute("update alembic_version set version_num = '0007'")
    with pytest.raises(InvalidField, match=r"schema 0007, from before 0\.1"):
        Database(tmp_path / "old.db")
