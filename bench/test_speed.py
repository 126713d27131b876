"""Speed: assess and match in the core, the page after a reading against a bare page, the first visit's transfer."""

from __future__ import annotations

import random
import shutil
import socket
import statistics
import threading
import time

import uvicorn
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import sync_playwright
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import HTMLResponse
from tests.calls import FREE, GOOD_CAPACITOR, GOOD_WINDINGS, VOLTS_AT_MOTOR, call_data, make_call, reading
from tests.web.test_pages import hidden

from keen_coil.core.call import read_call
from keen_coil.core.capacitors.parts import CapacitorPart, Need, van_sections
from keen_coil.core.capacitors.substitute import substitutes
from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.match.rank import match
from keen_coil.formats.catalogue_csv import read_catalogue
from keen_coil.services.demo.demo import DATA, build_demo
from keen_coil.settings import Settings
from keen_coil.web.app import create_app
from keen_coil.web.middleware import BodyLimit, SecurityHeaders


def median_ms(act, rounds=60):
    """Median of so many runs, in milliseconds."""
    act()
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        act()
        times.append(1000 * (time.perf_counter() - start))
    return statistics.median(times)


def test_core(say):
    ten = [
        VOLTS_AT_MOTOR,
        *GOOD_CAPACITOR,
        *GOOD_WINDINGS,
        *FREE,
        reading("ground_ohm", "OL", lead="black"),
        reading("air_path", "dirty"),
    ]
    forty = [reading("run_amps_a", 1.3 + i / 100, note=str(i), speed=i + 1) for i in range(30)]
    say(f"read a call file of 40 readings: {median_ms(lambda: read_call(call_data(*ten, *forty))):.2f} ms")
    for name, rows in (("10", ten), ("40", ten + forty)):
        call = make_call(*rows)
        say(f"assess, {name} readings: {median_ms(lambda call=call: assess(call)):.2f} ms")
    shelf = read_catalogue((DATA / "motors.csv").read_bytes())
    call = make_call(*ten)
    say(f"match, {len(shelf)} motors: {median_ms(lambda: match(call, shelf)):.2f} ms")


def test_capacitors(say):
    chance = random.Random(2)
    singles = "2 2.5 3 4 5 6 7.5 10 12.5 15 20 25 30 35 40 45 50 60".split()
    parts = [
        CapacitorPart(
            part_no=f"P{i}",
            volts_v=chance.choice([370, 440]),
            quantity=chance.randint(1, 3),
            sections_uf=chance.choice(singles)
            if i % 2
            else f"{chance.choice([30, 35, 40, 45])}+{chance.choice([3, 5, 7.5])}",
        )
        for i in range(200)
    ]
    sections = van_sections(parts)
    for uf in (7.5, 17, 45):
        found = substitutes(Need(uf, 370), sections)
        took = median_ms(lambda uf=uf: substitutes(Need(uf, 370), sections), 8)
        say(
            f"capacitors for {uf:g} µF from 200 parts, up to three at a time: {took:.0f} ms, {len(found.answers) + found.more} ways (aim 100)"
        )


def test_page_after_a_reading(say, tmp_path):
    build_demo(tmp_path / "demo.db")
    app = create_app(Settings(db=tmp_path / "demo.db"))
    path, action = "/calls/5/path?link=air&kind=air_path", "/calls/5/readings"
    with TestClient(app, base_url="http://127.0.0.1") as client:
        text = client.get(path).text
        bare = _bare(text)
        with TestClient(bare, base_url="http://127.0.0.1") as plain:
            plain_get = median_ms(lambda: plain.get("/"))
            plain_post = median_ms(lambda: plain.post("/", data={"a": "b"}))
        page_get = median_ms(lambda: client.get(path), 40)
        posted, answered = [], []
        for i in range(12):
            fields = {
                **hidden(client.get(path).text, action),
                "value": "clear" if i % 2 else "dirty",
                "replaces": str(i - 1) if i else "",
            }
            start = time.perf_counter()
            answer = client.post(action, data=fields, follow_redirects=False)
            middle = time.perf_counter()
            client.get(answer.headers["location"])
            posted.append(1000 * (middle - start))
            answered.append(1000 * (time.perf_counter() - middle))
            assert answer.status_code == 303
    app.state.db.close()
    post, get = statistics.median(posted), statistics.median(answered)
    say(f"bare page of {len(text) / 1000:.0f} kB, same stack: get {plain_get:.1f} ms, post {plain_post:.1f} ms")
    say(f"path page: get {page_get:.1f} ms, {page_get / plain_get:.1f} times the bare page")
    say(f"after a reading: post {post:.1f} ms + page {get:.1f} ms, {get / plain_get:.1f} times the bare page, aim 3")


def _bare(text: str) -> FastAPI:
    """The very same page as fixed text, with the same middleware and nothing behind it."""
    app = FastAPI()
    app.add_middleware(GZipMiddleware, minimum_size=600, compresslevel=6)
    app.add_middleware(BodyLimit)
    app.add_middleware(SecurityHeaders)

    @app.get("/")
    def page() -> HTMLResponse:
        return HTMLResponse(text)

    @app.post("/")
    def posted() -> HTMLResponse:
        return HTMLResponse(text)

    return app


def test_first_visit(say, tmp_path):
    build_demo(tmp_path / "demo.db")
    app = create_app(Settings(db=tmp_path / "demo.db"))
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error"))
    threading.Thread(target=server.run, daemon=True).start()
    while not server.started:
        time.sleep(0.01)
    sizes = {}
    with sync_playwright() as play:
        shell = shutil.which("chromium-headless-shell")
        browser = play.chromium.launch(executable_path=shell, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page()
        client = page.context.new_cdp_session(page)
        client.send("Network.enable")
        names = {}
        client.on("Network.responseReceived", lambda e: names.__setitem__(e["requestId"], e["response"]["url"]))
        client.on(
            "Network.loadingFinished",
            lambda e: sizes.__setitem__(names.get(e["requestId"], ""), e["encodedDataLength"]),
        )
        page.goto(f"http://127.0.0.1:{port}/calls/1/path", wait_until="networkidle")
        browser.close()
    server.should_exit = True
    total = sum(sizes.values())
    largest = sorted(sizes.items(), key=lambda item: -item[1])[:4]
    say(f"first visit of the path page: {total / 1000:.0f} kB in {len(sizes)} answers, aim 400 kB")
    say(
        "  largest: "
        + ", ".join(f"{url.rsplit('/', 1)[-1].split('?')[0]} {size / 1000:.0f} kB" for url, size in largest)
    )
