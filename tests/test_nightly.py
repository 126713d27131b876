"""The nightly backup: when it is due, how many generations stay, what is said of it on Settings and by the doctor."""

from __future__ import annotations

import html
import shutil
from datetime import UTC, datetime, time, timedelta
from pathlib import Path

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app as command_line
from keen_coil.core.errors import InvalidField
from keen_coil.services.log.nightly import (
    BackupPlan,
    Copy,
    back_up_when_due,
    backup_plan,
    backup_state,
    copies_of,
    folder_of,
    is_due,
    save_backup_plan,
)
from keen_coil.services.people.settings import save_shop_name, shop_name
from keen_coil.store.copies import restore, state_of
from keen_coil.store.database import Database
from keen_coil.web.nightly import try_backup
from tests.fixtures import stamp
from tests.web.test_pages import hidden

NIGHT = datetime(2026, 7, 1, 2, 30).astimezone()


def copy_of(moment):
    return Copy(Path("x"), moment, 1.0)


@pytest.mark.parametrize(
    ("keep", "at", "made", "now", "due"),
    [
        (14, time(2), [], NIGHT, True),
        (0, time(2), [], NIGHT, False),
        (14, time(2), [NIGHT - timedelta(minutes=20)], NIGHT, False),
        (14, time(2), [NIGHT - timedelta(minutes=40)], NIGHT, True),
        (14, time(2), [NIGHT], NIGHT + timedelta(hours=20), False),
        (14, time(2), [NIGHT], NIGHT + timedelta(days=1), True),
        (14, time(23), [NIGHT - timedelta(hours=5)], NIGHT, True),
        (14, time(23), [NIGHT - timedelta(hours=3)], NIGHT, False),
        (14, time(2), [NIGHT + timedelta(days=400)], NIGHT, True),  # made while the clock ran ahead
    ],
)
def test_a_copy_is_due_once_the_hour_has_passed_without_one(keep, at, made, now, due):
    assert is_due(BackupPlan(keep, at), [copy_of(moment) for moment in made], now) is due


def test_generations_are_kept_as_set_and_nothing_else_is_touched(demo_path):
    db = Database(demo_path)
    save_backup_plan(db, stamp(), {"keep": "3", "at": "02:00"})
    assert backup_plan(db) == BackupPlan(3, time(2))
    for day in range(6):
        save_shop_name(db, stamp(), f"Day {day}")
        made = back_up_when_due(db, NIGHT + timedelta(days=day))
        assert back_up_when_due(db, NIGHT + timedelta(days=day, hours=1)) is None
        if day == 0:
            (folder_of(db.path) / "demo-by hand.db").write_text("kept")
            shutil.copy(made, folder_of(db.path) / "another.db")
    assert [copy.made_at.day for copy in copies_of(db.path)] == [6, 5, 4]
    assert {"demo-by hand.db", "another.db"} < {file.name for file in folder_of(db.path).iterdir()}
    assert folder_of(db.path).stat().st_mode & 0o777 == 0o700
    oldest = copies_of(db.path)[-1].path
    assert oldest.stat().st_mode & 0o777 == 0o600
    assert state_of(oldest).sound
    restore(oldest, db.path)
    assert shop_name(db) == "Day 3"
    db.close()


@pytest.mark.parametrize(
    ("keep", "at", "field"),
    [
        ("", "02:00", "keep"),
        ("-1", "02:00", "keep"),
        ("366", "02:00", "keep"),
        ("٣", "02:00", "keep"),
        ("7", "24:00", "at"),
        ("7", "2", "at"),
        ("7", "", "at"),
    ],
)
def test_a_plan_that_cannot_be_is_refused_by_its_field(db, keep, at, field):
    with pytest.raises(InvalidField) as caught:
        save_backup_plan(db, stamp(), {"keep": keep, "at": at})
    assert [fault.path for fault in caught.value.errors] == [field]
    assert backup_plan(db) == BackupPlan()


def test_settings_and_the_doctor_say_how_it_stands(client):
    db = client.app.state.db
    doctor = lambda: CliRunner().invoke(command_line, ["doctor", "--db", str(db.path)])  # noqa: E731
    assert "None yet" in client.get("/settings").text
    assert try_backup(client.app.state, datetime.now(UTC)) == ""
    assert "Last copy" in client.get("/settings").text
    assert "1 copies" in doctor().output
    answer = client.post(
        "/settings/backup",
        data={**hidden(client.get("/settings").text, "/settings/backup"), "keep": "0", "at": "02:00"},
    )
    assert "Nightly backup is off" in answer.text
    answer = client.post(
        "/settings/backup", data={**hidden(answer.text, "/settings/backup"), "keep": "x", "at": "99:00"}
    )
    assert answer.status_code == 422
    assert "a time of the day" in html.unescape(answer.text)


def test_a_copy_that_cannot_be_made_is_said_and_tried_again(client):
    db = client.app.state.db
    folder_of(db.path).write_text("in the way")
    assert try_backup(client.app.state, NIGHT) != ""
    assert "The last try failed" in client.get("/settings").text
    folder_of(db.path).unlink()
    assert try_backup(client.app.state, NIGHT) == ""
    assert "The last try failed" not in client.get("/settings").text


def test_a_night_that_was_missed_is_said(demo_path):
    db = Database(demo_path)
    back_up_when_due(db, NIGHT)
    assert backup_state(db, NIGHT + timedelta(hours=30)).wrong == ""
    assert "The newest copy is of" in backup_state(db, NIGHT + timedelta(days=3)).wrong
    db.close()
