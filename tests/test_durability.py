"""What was acknowledged stays: kill -9, full disk, read-only folder, a clock that steps back, copies put back."""

from __future__ import annotations

import contextlib
import json
import multiprocessing
import os
import random
import re
import select
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pytest
from sqlalchemy import text
from sqlalchemy.exc import DatabaseError, OperationalError
from typer.testing import CliRunner

from keen_coil.cli.commands import app as command_line
from keen_coil.core.errors import InvalidField
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.readings import take_reading
from keen_coil.services.people.settings import save_shop_name, shop_name
from keen_coil.store.copies import backup, kept_before, restore, state_of
from keen_coil.store.database import Database
from keen_coil.store.sqlite_errors import explain
from tests.demo_calls import GANNET_COTTAGE
from tests.fixtures import NOW, PATIENCE_S, stamp

KILLS, SERVER_KILLS = 12, 1
CALL = GANNET_COTTAGE


def writer(path: Path, first: int, out: int) -> None:
    """Take readings as fast as they go; each index is told only after it was saved."""
    db = Database.__new__(Database)
    db.reopen(path)
    version = open_call_view(db, CALL).row.version
    for number in range(first, first + 400):
        index = take_reading(
            db,
            CALL,
            stamp(version, datetime.now(UTC), f"kill-{number:08d}"),
            {"kind": "supply_v", "at": "unit", "value": f"{200 + number % 50}.{number % 10}"},
        )
        version += 1
        os.write(out, f"{index}:{number}\n".encode())


def acts_and_readings(path):
    """Readings of the call in order, and how many acts took one: the two are written together or not at all."""
    with sqlite3.connect(path) as found:
        assert found.execute("pragma integrity_check").fetchone() == ("ok",)
        assert found.execute("pragma foreign_key_check").fetchall() == []
        rows = found.execute(
            "select position, body from reading where call_id = ? order by position", (CALL,)
        ).fetchall()
        acts = found.execute(
            "select count(*) from act where call_id = ? and name = 'take_reading'", (CALL,)
        ).fetchone()[0]
        version = found.execute("select version from call where id = ?", (CALL,)).fetchone()[0]
    return [json.loads(body)["value"] for _, body in rows], acts, version


def test_killed_again_and_again_while_writing(demo_path):
    """Forked after the imports, killed with -9 at a random moment: every acknowledged reading is there, no half act."""
    chance, fork = random.Random(7), multiprocessing.get_context("fork")
    warmed = Database(demo_path)  # what is compiled once is compiled before the forks
    take_reading(
        warmed,
        CALL,
        stamp(open_call_view(warmed, CALL).row.version),
        {"kind": "supply_v", "at": "unit", "value": "231"},
    )
    warmed.close()
    begun, acts_before, version_before = acts_and_readings(demo_path)
    told: dict[int, int] = {}
    number = 0
    for _ in range(KILLS):
        into, out = os.pipe()
        child = fork.Process(target=writer, args=(demo_path, number, out))
        child.start()
        os.close(out)
        # most are killed after they told of something, however slow this machine is; some before, opening the file
        select.select([into], [], [], chance.choice((0.03, 30, 30, 30)))
        time.sleep(chance.uniform(0, 0.09))
        os.kill(child.pid, signal.SIGKILL)
        child.join()
        with os.fdopen(into, "rb") as pipe:
            lines = pipe.read().decode().splitlines()
        told |= {
            int(index): int(number)
            for index, number in (line.split(":") for line in lines if re.fullmatch(r"\d+:\d+", line))
        }
        number += len(lines) + 5
    values, acts, version = acts_and_readings(demo_path)
    assert len(told) > KILLS // 5
    assert all(values[index] == f"{200 + number % 50}.{number % 10}" for index, number in told.items())
    assert acts - acts_before == len(values) - len(begun) == version - version_before


def served(path, port):
    """The whole server as it is started on site."""
    command = [sys.executable, "-m", "keen_coil", "serve", "--port", str(port), "--db", str(path)]
    return subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def test_the_whole_server_is_killed(demo_path):
    """Killed with -9 while it answers: what it acknowledged is there in order; the one on its way is there whole or not."""
    chance = random.Random(3)
    begun, acts_before, version_before = acts_and_readings(demo_path)
    sent: list[str] = []
    told: set[str] = set()
    for turn in range(SERVER_KILLS):
        with socket.socket() as found:
            found.bind(("127.0.0.1", 0))
            port = found.getsockname()[1]
        server = served(demo_path, port)
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=PATIENCE_S) as client:
            page = first_page(client)
            killer, last = threading.Timer(chance.uniform(0, 0.08), server.kill), len(sent) + chance.randint(1, 5)
            with contextlib.suppress(httpx.TransportError):
                while True:
                    if len(sent) == last:  # so many were acknowledged: somewhere in the answer to the next it dies
                        killer.start()
                    fields = dict(
                        re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', page.text.split('id="pad-form"')[1])
                    )
                    sent.append(f"{200 + turn}.{len(sent)}")
                    answer = client.post(
                        f"/calls/{CALL}/readings", data={**fields, "kind": "supply_v", "at": "unit", "value": sent[-1]}
                    )
                    assert answer.status_code == 303, answer.text
                    told.add(sent[-1])
                    page = client.get(answer.headers["location"])
            killer.join()
        server.wait()
    values, acts, version = acts_and_readings(demo_path)
    kept = values[len(begun) :]
    assert len(told) >= SERVER_KILLS
    assert kept == [value for value in sent if value in kept]
    assert told <= set(kept)
    assert acts - acts_before == len(kept) == version - version_before


def first_page(client):
    """The pad, once the server is up."""
    ends = time.monotonic() + PATIENCE_S
    while True:
        try:
            return client.get(f"/calls/{CALL}/path?link=supply&kind=supply_v&at=unit")
        except httpx.ConnectError:
            assert time.monotonic() < ends, "the server did not start"
            time.sleep(0.05)


def test_a_copy_made_while_it_is_in_use_is_whole_and_goes_back(demo_path, tmp_path):
    db = Database(demo_path)
    with db.writing() as session:
        session.execute(text("update setting set value = '{\"name\": \"half written\"}' where name = 'shop'"))
        session.flush()
        found = backup(demo_path, tmp_path / "copy.db")
    assert found.sound
    assert shop_name(db) == "half written"
    before = len(open_call_view(db, CALL).call.readings)
    take_reading(
        db, CALL, stamp(open_call_view(db, CALL).row.version), {"kind": "supply_v", "at": "unit", "value": "236"}
    )
    restore(tmp_path / "copy.db", demo_path)
    assert shop_name(db) == "Pellow Mechanical"  # the open server goes on with what was put back
    assert len(open_call_view(db, CALL).call.readings) == before
    kept = Database(Path(f"{demo_path}.before-restore-1"))
    assert len(open_call_view(kept, CALL).call.readings) == before + 1
    kept.close()
    db.close()


def test_every_restore_keeps_what_was_there_and_only_its_owner_reads_any_of_it(demo_path, tmp_path):
    os.chmod(demo_path, 0o644)
    db = Database(demo_path)
    backup(demo_path, tmp_path / "copy.db")
    for number in (1, 2, 3):
        save_shop_name(db, stamp(), f"Name {number}")
        assert restore(tmp_path / "copy.db", demo_path).kept == Path(f"{demo_path}.before-restore-{number}")
    for number, kept in enumerate(kept_before(demo_path), start=1):
        with sqlite3.connect(kept) as found:
            assert f"Name {number}" in found.execute("select value from setting where name = 'shop'").fetchone()[0]
    with db.writing() as session:  # the log beside the file is there now
        session.execute(text("update setting set value = '{}' where name = 'shop'"))
        session.flush()
        files = [file for file in tmp_path.rglob("*") if file.is_file() and ".db" in file.name]
        assert {Path(demo_path), Path(f"{demo_path}-wal"), Path(f"{demo_path}-shm"), tmp_path / "copy.db"} < set(files)
        assert {file.name: oct(file.stat().st_mode & 0o777) for file in files} == {file.name: "0o600" for file in files}
    db.close()


def keeps_writing(path, out, prefix):
    """Acts as fast as they go, each told once it is saved."""
    db = Database.__new__(Database)
    db.reopen(path)
    for number in range(100_000):
        act_id = f"{prefix}-{number:08d}"
        with contextlib.suppress(OperationalError):
            save_shop_name(db, stamp(act_id=act_id), f"{prefix} {number}")
            os.write(out, f"{act_id}\n".encode())


def test_what_others_wrote_while_a_copy_went_back_is_in_the_database_or_in_what_was_kept(demo_path, tmp_path):
    backup(demo_path, tmp_path / "copy.db")
    fork, pipes = multiprocessing.get_context("fork"), [os.pipe() for _ in range(2)]
    writers = [
        fork.Process(target=keeps_writing, args=(demo_path, out, f"writer{n}")) for n, (_, out) in enumerate(pipes)
    ]
    for each in writers:
        each.start()
    told, kept = b"", []
    for _ in range(6):
        select.select([into for into, _ in pipes], [], [], 30)
        time.sleep(0.05)
        kept.append(restore(tmp_path / "copy.db", Path(demo_path)).kept)
        for into in select.select([into for into, _ in pipes], [], [], 0)[0]:
            told += os.read(into, 1 << 20)
    for each in writers:
        each.kill()
        each.join()
    for into, out in pipes:
        os.close(out)
        with os.fdopen(into, "rb") as pipe:
            told += pipe.read()
    there: set[str] = set()
    for path in (demo_path, *kept):
        with sqlite3.connect(path) as found:
            there |= {row[0] for row in found.execute("select id from act")}
    acknowledged = set(told.decode().split())
    assert len(acknowledged) > 20
    assert acknowledged <= there
    assert len(set(kept)) == 6


@pytest.mark.parametrize("how", ["torn", "text"])
def test_a_copy_goes_back_over_a_damaged_database_which_is_kept(demo_path, tmp_path, how):
    backup(demo_path, tmp_path / "copy.db")
    spoilt(Path(demo_path), how)
    damaged = Path(demo_path).read_bytes()
    done = restore(tmp_path / "copy.db", Path(demo_path))
    assert state_of(Path(demo_path)).sound
    assert len(done.kept.read_bytes()) == len(damaged)


BAD_PATHS = {
    "a folder": ("a folder", lambda path: path.mkdir()),
    "text": ("no database", lambda path: path.write_bytes(b"no database at all" * 100)),
    "another's": ("another program", lambda path: spoilt(path, "another program's")),
    "torn": ("damaged", lambda path: spoilt(path, "torn")),
    "newer": ("newer program", lambda path: spoilt(path, "newer")),
    "under a file": ("a file", lambda path: path.write_text("x")),
}


@pytest.mark.parametrize(("says", "spoil"), BAD_PATHS.values(), ids=BAD_PATHS)
def test_serving_what_is_no_database_says_what_it_is_and_what_to_do(demo_master, tmp_path, says, spoil):
    path = tmp_path / "x.db"
    if spoil is not BAD_PATHS["a folder"][1]:
        shutil.copy(demo_master, path)
    spoil(path)
    shown = path / "y.db" if spoil is BAD_PATHS["under a file"][1] else path
    for command in (["serve", "--port", "0"], ["doctor"], ["export", str(tmp_path / "out.csv")], ["account", "list"]):
        done = CliRunner().invoke(command_line, [*command, "--db", str(shown)])
        assert done.exit_code in (1, 2), (command, done.output)
        assert done.exception is None or isinstance(done.exception, SystemExit), (command, done.exception)
    assert says in CliRunner().invoke(command_line, ["serve", "--port", "0", "--db", str(shown)]).output


def spoilt(path, how):
    if how == "newer":
        with sqlite3.connect(path) as found:
            found.execute("update alembic_version set version_num = '9999'")
    elif how == "torn":
        data = bytearray(path.read_bytes())
        data[8192:12288] = os.urandom(4096)
        path.write_bytes(bytes(data))
    elif how == "another program's":
        path.unlink()
        with sqlite3.connect(path) as found:
            found.execute("create table notes (id integer)")
    else:
        path.write_bytes(b"no database at all" * 100)


@pytest.mark.parametrize(
    ("how", "says"),
    [
        ("newer", "newer program"),
        ("torn", "expected a sound database|database of Keen Coil"),
        ("another program's", "database of Keen Coil"),
        ("text", "database of Keen Coil"),
    ],
)
def test_a_copy_that_is_damaged_newer_or_none_is_refused_and_changes_nothing(demo_path, tmp_path, how, says):
    copy = tmp_path / "copy.db"
    backup(Path(demo_path), copy)
    spoilt(copy, how)
    before = Path(demo_path).read_bytes()
    with pytest.raises(InvalidField, match=says):
        restore(copy, Path(demo_path))
    assert Path(demo_path).read_bytes() == before


def test_the_commands_say_what_they_did_and_what_they_cannot(demo_path, tmp_path):
    run = CliRunner()
    out, db = str(tmp_path / "copy.db"), str(demo_path)
    assert "calls" in run.invoke(command_line, ["backup", out, "--db", db]).stdout
    assert "are back" in run.invoke(command_line, ["restore", out, "--db", db]).stdout
    told = run.invoke(command_line, ["doctor", "--db", db])
    assert "sound" in told.stdout
    assert "MB free" in told.stdout
    assert run.invoke(command_line, ["backup", "/nowhere/x.db", "--db", db]).exit_code == 2
    assert run.invoke(command_line, ["restore", str(tmp_path / "none.db"), "--db", db]).exit_code == 2


def test_a_full_disk_is_said_and_nothing_is_lost(client):
    db = client.app.state.db
    with db.engine.connect() as connection:  # one left open would hold the file until it is collected
        pages = connection.exec_driver_sql("pragma page_count").scalar()
    from sqlalchemy import event

    event.listen(db.engine, "begin", lambda connection: connection.exec_driver_sql(f"pragma max_page_count = {pages}"))
    db.engine.dispose()
    before = len(open_call_view(db, CALL).call.readings)
    page = client.get(f"/calls/{CALL}/path?link=supply&kind=supply_v&at=unit")
    status = 200
    for _ in range(400):
        fields = dict(re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', page.text.split('id="pad-form"')[1]))
        answer = client.post(
            f"/calls/{CALL}/readings",
            data={**fields, "kind": "supply_v", "at": "unit", "value": "236", "note": "x" * 900},
        )
        status = answer.status_code
        if status != 200:
            break
        page = answer
        before += 1
    assert status == 507
    assert "The disk is full" in answer.text
    assert "Nothing was saved" in answer.text
    assert len(open_call_view(db, CALL).call.readings) == before
    assert client.get(f"/calls/{CALL}/path").status_code == 200


def as_nobody(path, out):
    """Become an ordinary user, then open the file and change the shop's name; what came of it is told."""
    os.setgid(65534)
    os.setuid(65534)
    try:
        db = Database.__new__(Database)
        db.reopen(path)
        save_shop_name(db, stamp(), "Another")
        told = "saved"
    except Exception as error:
        told = explain(error)[1]
    with contextlib.suppress(InvalidField):
        Database(path)
        told += " and opened"
    os.write(out, told.encode())


@pytest.mark.skipif(os.getuid() != 0, reason="takes another user's place, which only root can")
def test_a_read_only_folder_is_said_as_an_ordinary_user(demo_path, tmp_path):
    folder = tmp_path / "readonly"
    folder.mkdir()
    Database(demo_path).close()
    with sqlite3.connect(demo_path) as found:
        found.execute("pragma journal_mode=delete")
    shutil.copy(demo_path, folder / "demo.db")
    for path, mode in ((folder / "demo.db", 0o444), (folder, 0o555)):
        path.chmod(mode)
    for parent in tmp_path.parents:
        if parent.stat().st_uid == 0 and parent.name:
            parent.chmod(parent.stat().st_mode | 0o055)
    tmp_path.chmod(0o755)
    warmed = Database(demo_path)
    save_shop_name(warmed, stamp(), "Warm")
    warmed.close()
    into, out = os.pipe()
    child = multiprocessing.get_context("fork").Process(target=as_nobody, args=(folder / "demo.db", out))
    child.start()
    child.join()
    os.close(out)
    with os.fdopen(into, "rb") as pipe:
        told = pipe.read().decode()
    assert re.search("may not be written", told), told
    assert "opened" not in told.replace("may not be opened", "")


def test_what_the_file_refuses_is_told_in_words(client, monkeypatch):
    for name, status, says in (
        ("SQLITE_READONLY_DIRECTORY", 503, "read-only"),
        ("SQLITE_BUSY", 503, "Somebody else is saving"),
        ("SQLITE_CORRUPT", 503, "damaged"),
        ("SQLITE_FULL", 507, "full"),
        ("SQLITE_IOERR_READ", 503, "disk does not read"),
    ):
        error = sqlite3.DatabaseError("whatever its text")
        error.sqlite_errorname = name

        def refuse(*args, error=error, **kwargs):
            raise DatabaseError("x", {}, error)

        monkeypatch.setattr("keen_coil.web.routes.board.board", refuse)
        answer = client.get("/")
        assert (answer.status_code, says in answer.text) == (status, True)


def test_a_clock_that_steps_back_keeps_the_order_and_says_so(demo_path):
    db = Database(demo_path)
    later, earlier = NOW + timedelta(hours=3), NOW
    for moment, value in ((later, "236"), (earlier, "238")):
        take_reading(
            db,
            CALL,
            stamp(open_call_view(db, CALL).row.version, moment),
            {"kind": "supply_v", "at": "unit", "value": value},
        )
    first, second = open_call_view(db, CALL).call.readings[-2:]
    assert second.taken_at >= first.taken_at
    assert "stepped back" in second.note
    assert str(second.value) == "238"
    db.close()
