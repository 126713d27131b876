"""The database: schema by migration, constraints in the file, one act at a time."""

import re
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy.exc import IntegrityError, OperationalError

from keen_coil.desk.call_view import open_call_view
from keen_coil.store import tables
from keen_coil.store.database import MIGRATIONS, Database, migrate


def dumped(path):
    """All of a file in words, but for who it is and when it was made; what stands in a table is in no certain order."""
    with closing(sqlite3.connect(path)) as file:
        lines = "\n".join(file.iterdump()).splitlines()
    return sorted(re.sub(r"'[0-9a-f-]{36}'|\b\d{15,}\b", "…", line).strip("\t ,") for line in lines)


def identity(path):
    with closing(sqlite3.connect(path)) as file:
        return file.execute("select uid, stamp from replica, replica_clock").fetchone()


def test_a_new_file_is_what_all_migrations_make_of_nothing_and_is_itself(tmp_path):
    migrate(tmp_path / "migrated.db")
    for name in ("one", "two"):
        Database(tmp_path / f"{name}.db").close()
        assert dumped(tmp_path / f"{name}.db") == dumped(tmp_path / "migrated.db")
    (one, stamp), (two, _), (_, before) = (identity(tmp_path / f"{name}.db") for name in ("one", "two", "migrated"))
    assert one != two
    assert before < stamp < before + (3_600_000 << 16)
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


def test_a_failed_migration_leaves_the_file_as_it_was(tmp_path):
    path = tmp_path / "odd.db"
    with sqlite3.connect(path) as connection:
        connection.executescript(SCHEMAS[0].read_text(encoding="utf-8"))
        connection.execute("create table setting (id integer)")  # in the way of the second migration
        before = set(connection.execute("select name, sql from sqlite_master"))
    with pytest.raises(OperationalError):
        Database(path)
    with sqlite3.connect(path) as connection:
        assert set(connection.execute("select name, sql from sqlite_master")) == before
        assert connection.execute("select version_num from alembic_version").fetchall() == [("0001",)]


SCHEMAS = sorted((MIGRATIONS / "schema").glob("*.sql"))


def test_each_migration_left_a_dump_of_its_schema():
    versions = sorted(path.name[:4] for path in (MIGRATIONS / "versions").glob("0*.py"))
    assert [path.stem for path in SCHEMAS] == versions


@pytest.mark.parametrize("dump", SCHEMAS[::3], ids=lambda path: path.stem)
def test_a_file_of_any_earlier_version_is_brought_up_with_its_data(tmp_path, dump):
    path = tmp_path / "old.db"
    with sqlite3.connect(path) as old:
        old.executescript(dump.read_text(encoding="utf-8"))
        old.execute("insert into site (id, name) values (1, 'Rope works')")
        names, values = (", uid", ", 'known'") if dump.stem >= "0010" else ("", "")
        around = "around" if dump.stem < "0008" else "installation"
        for table, columns, row in (
            ("unit", "id, site_id, name, plate", "1, 1, 'north', '{}'"),
            ("motor", f"id, unit_id, plate, {around}", """1, 1, '{"rpm": 1090}', '{}'"""),
            (
                "call",
                "id, motor_id, opened_at, version, complaint, meters",
                "1, 1, '2026-01-01 10:00:00', 1, '{}', '{}'",
            ),
            ("reading", "call_id, position, kind, body", """1, 0, 'spin', '{"kind": "spin", "value": "free"}'"""),
        ):
            old.execute(f"insert into {table} ({columns}{names}) values ({row}{values})")  # noqa: S608
    db = Database(path)
    sheet = open_call_view(db, 1)
    assert sheet.call.motor.rpm == 1090
    assert [reading.value for reading in sheet.call.readings] == ["free"]
    with db.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), tables.Table.metadata) == []
    db.close()
