"""A fresh database for each test that asks for one, and the application on it; what a technician does, in few words."""

from __future__ import annotations

import itertools
import shutil
from datetime import UTC, datetime
from functools import cache
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from jinja2 import FileSystemBytecodeCache

from keen_coil.services.acts import ActContext
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.catalog.shelf_import import import_all
from keen_coil.services.demo.demo import DATA
from keen_coil.services.stations import hand_over, swap
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.web import workers
from keen_coil.web.app import create_app
from keen_coil.web.page import environment
from tests.demo_world import SHARED, demo_world

workers.NICE = 0  # the tests keep both cores busy: work that gives way to them would never be done
environment().bytecode_cache = FileSystemBytecodeCache(str(SHARED))  # one process compiles a template


PATIENCE_S = 240
"""Seconds that a test waits for a process it started: a busy machine is slow, and nothing waits when all is well."""
NOW = datetime(2026, 7, 1, 10, 0, tzinfo=UTC)
_numbers = itertools.count()


def stamp(version: int = 1, now: datetime = NOW, act_id: str | None = None) -> ActContext:
    """A stamp as a page would send it."""
    return ActContext(act_id or f"act-{next(_numbers):06d}", version, now)


MARKED = {"turns": "clockwise", "leads_at": "6", "belt_size": "A42"}


def every_step(db, call_id: int) -> None:
    """Every step of the swap ticked: those that go alone one by one, marks with figures, the rest all at once."""
    while True:
        view = open_call_view(db, call_id)
        steps = [one for _, steps in swap.swap_view(view, NOW).phases for one in steps if one.state in ("todo", "next")]
        if not steps:
            return
        alone = [one.step for one in steps if one.step.alone]
        for version, step in enumerate(alone or [steps[-1].step], start=view.row.version):
            marks = {name: MARKED.get(name, "2.5") for name in step.marks}
            swap.do_step(db, call_id, stamp(version), step.key, marks, through=not alone)


def closed(db, call_id: int, **fields: str) -> None:
    """The call closed without a passed run, and nobody's judgment asked."""
    context = stamp(open_call_view(db, call_id).row.version)
    hand_over.close_call(db, call_id, context, {"exception": "Run proof tomorrow.", "no_judgement": "yes", **fields})


@pytest.fixture(scope="session")
def empty_master(tmp_path_factory):
    """An empty database, brought to the newest schema once."""
    path = tmp_path_factory.mktemp("empty") / "empty.db"
    Database(path).close()
    return path


@pytest.fixture(scope="session")
def stocked_master(empty_master, tmp_path_factory):
    """The demo's catalog and van and nothing else, imported once."""
    path = Path(shutil.copy(empty_master, tmp_path_factory.mktemp("stocked") / "stocked.db"))
    database = Database.opened(path)
    for name in ("motors.csv", "van.csv"):
        import_all(database, stamp(0), (DATA / name).read_bytes())
    database.close()
    return path


@pytest.fixture
def db(empty_master, tmp_path):
    """An empty database."""
    database = Database.opened(Path(shutil.copy(empty_master, tmp_path / "empty.db")))
    yield database
    database.close()


@pytest.fixture
def stocked(stocked_master, tmp_path):
    """A database with the demo's catalog and van and nothing else."""
    database = Database.opened(Path(shutil.copy(stocked_master, tmp_path / "stocked.db")))
    yield database
    database.close()


@pytest.fixture(scope="session")
def demo_master():
    """The demo world, built once."""
    return demo_world()


@pytest.fixture
def demo_path(demo_master, tmp_path):
    """The demo world in a file of its own."""
    return shutil.copy(demo_master, tmp_path / "demo.db")


@pytest.fixture
def client(demo_path):
    """A browser without script, on the demo world."""
    app = create_app(Settings(db=demo_path))
    with TestClient(app, base_url="http://127.0.0.1", follow_redirects=True) as browser:
        yield browser
    app.state.db.close()


@pytest.fixture(scope="session")
def reader(demo_master, tmp_path_factory):
    """A browser without script on a demo world of its own, for tests that only look."""
    path = shutil.copy(demo_master, tmp_path_factory.mktemp("reader") / "demo.db")
    app = create_app(Settings(db=path))
    with TestClient(app, base_url="http://127.0.0.1", follow_redirects=True) as browser:
        ask, plain = browser.get, cache(browser.get)
        # nothing changes there, and several tests look at the same pages
        browser.get = lambda path, **more: ask(path, **more) if more else plain(path)
        yield browser
    app.state.db.close()
