"""The log over 20,000 calls: search, figures, a unit's history; the record as PDF; the whole log out and in."""

from __future__ import annotations

import io
import time

import pytest
from fastapi.testclient import TestClient
from tests.calls import make_call, reading
from tests.fixtures import stamp

from bench.many_calls import NOW, fill
from bench.test_speed import median_ms
from keen_coil.services.calls.call_files import import_call
from keen_coil.services.log.archive import export_log, import_log
from keen_coil.services.log.log import figures, search
from keen_coil.services.log.unit_history import unit_history
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.web.app import create_app

CALLS = 20_000


@pytest.fixture(scope="module")
def log(tmp_path_factory):
    db = Database(tmp_path_factory.mktemp("log") / "log.db")
    fill(db, CALLS)
    yield db
    db.close()


@pytest.mark.parametrize("words", ["creamery seized", "bw-12", "squeals", "no such word"])
def test_search(say, log, words):
    found = search(log, words)
    took = median_ms(lambda: search(log, words), 10)
    say(f"log search {words!r}: {found.found} of {found.total} calls, {took:.0f} ms (aim 100)")


def test_figures(say, log):
    say(f"figures over {CALLS} calls: {median_ms(lambda: figures(log), 3):.0f} ms")
    say(f"calls that came back within a year: {median_ms(lambda: search(log, '', 'came_back'), 3):.0f} ms")
    say(f"history of a unit: {median_ms(lambda: unit_history(log, 17), 5):.0f} ms")


def test_pdf(say, tmp_path):
    app = create_app(Settings(db=tmp_path / "full.db"))
    rows = [reading("supply_v", f"{236 + n / 10}", at="motor") for n in range(30)]
    rows += [reading("capacitance_uf", f"{4.9 + n / 100:.2f}", section="fan", note="steady") for n in range(30)]
    call_id = import_call(app.state.db, stamp(0), make_call(*rows), "full.call.json")
    client = TestClient(app, base_url="http://127.0.0.1")

    def made():
        assert client.get(f"/calls/{call_id}/record.pdf?for=shop").content.startswith(b"%PDF")

    made()
    say(f"PDF of a call with {len(rows)} readings: {median_ms(made, 4):.0f} ms (aim 2000)")


def test_out_and_in(say, log, tmp_path):
    out = io.BytesIO()
    begun = time.perf_counter()
    export_log(log, out, NOW)
    written = time.perf_counter()
    other = Database(tmp_path / "other.db")
    out.seek(0)
    calls = import_log(other, stamp(0), out)
    read = time.perf_counter() - written
    size = len(out.getvalue()) / 1e6
    say(f"the whole log of {calls} calls: {size:.1f} MB, written in {written - begun:.1f} s, read in {read:.1f} s")
    other.close()
