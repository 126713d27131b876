"""One request never holds up another: work beside the pages, its bounds, what ends it; the server stops when told."""

from __future__ import annotations

import io
import os
import signal
import socket
import subprocess
import sys
import threading
import time

import httpx
import pytest
from fastapi.testclient import TestClient

from keen_coil.core.errors import InvalidField
from keen_coil.settings import Settings
from keen_coil.web.app import create_app
from keen_coil.web.workers import ServerBusy, ServerStopping, TooMuchWork, Workers
from tests.calls import call_data, reading
from tests.demo_calls import GANNET_COTTAGE
from tests.fixtures import PATIENCE_S
from tests.work import answers_later, breaks, eats, refuses, stands, tells, vanishes


@pytest.fixture
def workers():
    found = Workers(most=1, waiting=2, seconds=PATIENCE_S, memory_mb=600)
    yield found
    found.stop()


def test_work_answers_tells_hands_over_and_raises_what_it_raises(workers):
    told, out = [], io.BytesIO()
    assert workers.run(tells, 3, progress=lambda *at: told.append(at), out=out) == 3
    assert told == [(1, 3), (2, 3), (3, 3)]
    assert out.getvalue() == b"0,1,2,"
    with pytest.raises(InvalidField, match="field: got x"):
        workers.run(refuses, "field")
    with pytest.raises(LookupError, match="a fault of the program"):
        workers.run(breaks)
    assert workers.run(os.getpid) != os.getpid()


def test_too_long_too_much_memory_and_too_many_are_refused_with_the_limit(workers, tmp_path):
    with pytest.raises(TooMuchWork, match="more than 600 MB"):
        workers.run(eats, 900)
    with pytest.raises(TooMuchWork):
        workers.run(vanishes)
    workers.seconds = 0.5
    with pytest.raises(TooMuchWork, match=r"more than 0\.5 s of work") as caught:
        workers.run(stands, str(tmp_path / "never"))
    assert caught.value.status == 422
    workers.seconds = PATIENCE_S
    waiting = [threading.Thread(target=workers.run, args=(stands, str(tmp_path / "later"))) for _ in range(2)]
    for each in waiting:
        each.start()
    while workers._asking < 2:
        time.sleep(0.01)
    with pytest.raises(ServerBusy, match="2 others waiting") as caught:
        workers.run(os.getpid)
    assert caught.value.status == 503
    (tmp_path / "later").touch()
    for each in waiting:
        each.join()
    assert workers.run(eats, 10) == 10_000_000  # and goes on after all of that


def test_who_hangs_up_or_stops_the_server_ends_the_work(workers, tmp_path):
    gone, found = threading.Event(), []

    def ask():
        try:
            workers.run(stands, str(tmp_path / "never"), gone=gone)
        except ServerStopping:
            found.append("stopped")

    for end in (gone.set, workers.stop):
        asking = threading.Thread(target=ask)
        asking.start()
        while not workers._running:
            time.sleep(0.01)
        end()
        asking.join(PATIENCE_S)
        assert not workers._running
        gone.clear()
    assert found == ["stopped"] * 2


@pytest.fixture
def standing_server(demo_path, monkeypatch, tmp_path):
    """The application, its answers to the API standing still until a file is there."""
    monkeypatch.setattr("keen_coil.web.routes.api.answer_json", answers_later)
    monkeypatch.setenv("KEEN_COIL_TEST_GO", str(tmp_path / "go"))
    app = create_app(Settings(db=demo_path))
    app.state.workers.seconds = PATIENCE_S
    with TestClient(app, base_url="http://127.0.0.1") as browser:
        yield browser, tmp_path / "go"
    app.state.workers.stop()
    app.state.db.close()


def test_pages_are_answered_while_the_heaviest_answers_are_worked_out(standing_server):
    browser, go = standing_server
    answers: list[httpx.Response] = []
    asking = [
        threading.Thread(target=lambda: answers.append(browser.post("/api/assess", json=str(go)))) for _ in range(4)
    ]
    for each in asking:
        each.start()
    while len(browser.app.state.workers._running) < 2:
        time.sleep(0.01)
    for path in ("/help", "/", f"/calls/{GANNET_COTTAGE}/path"):
        assert browser.get(path).status_code in (200, 404), path
    assert answers == []  # all of them still wait
    go.touch()
    for each in asking:
        each.join()
    assert [answer.text for answer in answers] == ['"late"'] * 4


def test_an_answer_that_takes_too_long_says_so(standing_server):
    browser, go = standing_server
    browser.app.state.workers.seconds = 0.5
    answer = browser.post("/api/assess", json=str(go))
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["value"] == "more than 0.5 s of work"


def test_sizes_are_said_in_the_error_before_any_work(client):
    small = {"part_no": "C", "sections_uf": "5", "volts_v": 370}
    answer = client.post("/api/capacitor", json={"need": "7.5@370", "van": [small] * 2001})
    assert "at most 2000 entries" in answer.text
    motor = {"part_no": "M"}
    assert (
        "at most 50000 entries"
        in client.post("/api/match", json={"call": call_data(), "catalogue": [motor] * 50_001}).text
    )
    many = call_data(*[reading("supply_v", 230, at="unit")] * 2001)
    assert "at most 2000" in client.post("/api/assess", json=many).text
    answer = client.post(
        "/calls", content=b"a=" + b"x" * 2_000_000, headers={"content-type": "application/x-www-form-urlencoded"}
    )
    assert (answer.status_code, "at most" in answer.text) == (413, True)


def test_a_match_answer_lists_two_hundred_and_counts_the_rest():
    from keen_coil.core.call import read_call
    from keen_coil.core.match.catalogue import CatalogueMotor
    from keen_coil.core.match.rank import match

    motors = [
        CatalogueMotor(
            part_no=f"P{n:04}",
            kind="psc",
            hp=0.25,
            volts="208-230",
            amps_a=1.5,
            phase=1,
            hz=60,
            rpm=1090,
            price=float(n),
        )
        for n in range(700)
    ]
    whole = match(read_call(call_data()), motors, expect=0)
    assert len(whole.candidates) == 200
    assert whole.more == 500
    assert [one.part_no for one in whole.candidates[:3]] == ["P0000", "P0001", "P0002"]


def test_told_to_stop_the_server_is_gone_in_five_seconds(demo_path):
    """Whatever it does: an answer that takes long, a page whose thread does not come back."""
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    script = (
        "import time, keen_coil.web.routes.board as board, keen_coil.web.routes.api as api\n"
        "from tests.work import answers_later\n"
        "api.answer_json = answers_later\n"
        "board.board = lambda *args, **more: time.sleep(600)\n"
        "from pathlib import Path\nfrom keen_coil.serving import run_server\n"
        f"run_server('127.0.0.1', {port}, Path({str(demo_path)!r}), [], None, None)\n"
    )
    env = {**os.environ, "PYTHONPATH": os.getcwd()}
    server = subprocess.Popen(
        [sys.executable, "-c", script], env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    try:
        page, answer = (connected(port, time.monotonic() + PATIENCE_S) for _ in range(2))
        with page, answer:
            page.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
            answer.sendall(
                b"POST /api/assess HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\n"
                b'Content-Length: 8\r\n\r\n"/never"'
            )
            time.sleep(1.5)
            server.send_signal(signal.SIGTERM)
            server.wait(PATIENCE_S / 4)
    finally:
        server.kill()
        server.wait()


def connected(port, ends):
    """A connection to a server that is starting."""
    while True:
        try:
            return socket.create_connection(("127.0.0.1", port))
        except ConnectionRefusedError:
            assert time.monotonic() < ends, "the server did not start"
            time.sleep(0.05)
