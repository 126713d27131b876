"""While the worst request of each kind runs: another user's page beside one alone, what it takes in time and memory."""

from __future__ import annotations

import csv
import io
import json
import os
import random
import re
import socket
import statistics
import subprocess
import sys
import threading
import time
import zipfile
from datetime import UTC, datetime

import httpx
import pytest
from PIL import Image
from tests.calls import call_data
from tests.fixtures import stamp

from bench.many_calls import fill
from keen_coil.core.call import read_call
from keen_coil.services.calls.call_files import import_call
from keen_coil.services.demo.demo import build_demo
from keen_coil.services.log.archive import LAYOUTS, export_log
from keen_coil.store.database import Database

PAGE, EACH = "/calls/5/path", 40
chance = random.Random(3)


def readings(many):
    """Readings of all sorts that disagree."""
    kinds = [
        lambda: {"kind": "supply_v", "at": "unit", "value": f"{chance.uniform(200, 260):.1f}"},
        lambda: {"kind": "run_amps_a", "value": f"{chance.uniform(0.5, 3):.2f}"},
        lambda: {"kind": "capacitance_uf", "section": "fan", "value": f"{chance.uniform(1, 9):.2f}"},
        lambda: {"kind": "winding_ohm", "pair": chance.sample("ABC", 2), "value": f"{chance.uniform(5, 60):.1f}"},
    ]
    return [kinds[n % 4]() for n in range(many)]


def motors(many):
    return [
        dict(
            part_no=f"P{n}",
            kind="psc",
            hp=0.25,
            volts="208-230",
            amps_a=round(chance.uniform(1.3, 1.7), 2),
            phase=1,
            hz=60,
            rpm=chance.choice([1075, 1090, 825]),
        )
        for n in range(many)
    ]


def photograph():
    """59 megapixels."""
    out = io.BytesIO()
    Image.frombytes("RGB", (90, 66), random.Random(1).randbytes(90 * 66 * 3)).resize(
        (9000, 6555), Image.Resampling.NEAREST
    ).save(out, "PNG")
    assert out.tell() < 8 * 1024 * 1024
    return out.getvalue()


def catalogue(rows):
    out = io.StringIO()
    writer = csv.DictWriter(out, ["part_no", "kind", "hp", "volts", "amps_a", "phase", "hz", "rpm", "maker"])
    writer.writeheader()
    for row in motors(rows):
        writer.writerow(row | {"maker": "Bullwheel" + "l" * 180})
    return out.getvalue().encode()[: 63 * 1024 * 1024]


def long_lines():
    """A thousand lines of 10,000 cells."""
    return (b"part_no,kind,hp,volts,amps_a,phase,hz,rpm" + b",x" * 9_992 + b"\n") * 1000


def bomb():
    """A zip of 2 GB of zeros that says it is a log, every table listed as it would be."""
    out = io.BytesIO()
    listed = [{"path": layout.path, "bytes": 1_900_000_000, "hash": "sha256:0"} for layout in LAYOUTS.values()]
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as package:
        package.writestr(
            "datapackage.json",
            json.dumps({"keen_coil": {"format": "keen-coil/log", "version": 2}, "resources": listed}),
        )
        for number, layout in enumerate(LAYOUTS.values()):
            with package.open(layout.path, "w", force_zip64=True) as member:
                for _ in range(0 if number else 1900):
                    member.write(b"\0" * 1_000_000)
    return out.getvalue()


def polyglot():
    """A picture that is a zip as well."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        package.writestr("motors.csv", "part_no,kind\nA,psc\n")
    picture = io.BytesIO()
    Image.new("RGB", (60, 60)).save(picture, "PNG")
    return picture.getvalue() + out.getvalue()


def log_of(path, calls):
    db = Database(path)
    fill(db, calls)
    out = io.BytesIO()
    export_log(db, out, datetime.now(UTC))
    db.close()
    return out.getvalue()


class Asker:
    """Somebody with a browser on the server."""

    def __init__(self, address: str) -> None:
        self.client = httpx.Client(base_url=address, timeout=900, follow_redirects=True)

    def form(
        self, page: str, action: str, fields: dict[str, str], file: tuple[str, str, bytes] | None = None
    ) -> httpx.Response:
        text = self.client.get(page).text.split(f'action="{action}"', 1)[1]
        hidden = dict(re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', text)[:3])
        files = {file[0]: (file[1], file[2])} if file else None
        answer = self.client.post(action, data={**hidden, **fields}, files=files)
        while (
            'http-equiv="refresh"' in answer.text
            or 'data-hx-trigger="load' in answer.text
            or "<progress" in answer.text
        ):
            time.sleep(0.2)
            answer = self.client.get(answer.url)
        return answer


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    folder = tmp_path_factory.mktemp("waits")
    path = folder / "demo.db"
    build_demo(path)
    db = Database(path)
    many = import_call(db, stamp(0), read_call(call_data(*readings(2000))), "many readings")
    db.close()
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    running = subprocess.Popen(
        [sys.executable, "-m", "keen_coil", "serve", "--port", str(port), "--db", str(path)], stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    ends = time.monotonic() + 60
    while True:
        try:
            httpx.get(address + PAGE)
            break
        except httpx.ConnectError:
            assert time.monotonic() < ends
            time.sleep(0.1)
    Asker(address).client.post("/api/assess", json=call_data())  # the process that others are forked from is up
    yield address, running.pid, folder, many
    began = time.monotonic()
    running.terminate()
    running.wait(20)
    assert time.monotonic() - began < 6


def resident_mb(pid: int) -> float:
    """Memory of a process and all below it."""
    found, total = [pid], 0.0
    children: dict[int, list[int]] = {}
    for name in filter(str.isdecimal, os.listdir("/proc")):
        try:
            with open(f"/proc/{name}/stat") as file:
                children.setdefault(int(file.read().rsplit(")", 1)[1].split()[1]), []).append(int(name))
        except OSError:
            continue
    while found:
        one = found.pop()
        found += children.get(one, [])
        try:
            with open(f"/proc/{one}/smaps_rollup") as file:
                total += next(int(line.split()[1]) for line in file if line.startswith("Pss:")) / 1000
        except (OSError, StopIteration):
            continue
    return total


def kinds_of(address, folder, many):
    log = log_of(folder / "log.db", 20_000)
    api = lambda path, body: (  # noqa: E731
        lambda asker: asker.client.post(
            f"/api/{path}", content=json.dumps(body).encode(), headers={"content-type": "application/json"}
        )
    )
    parts = [
        {"part_no": f"C{n}", "sections_uf": str(round(chance.uniform(1, 30), 2)), "volts_v": 440, "quantity": 3}
        for n in range(2000)
    ]
    picture, rows, lines, zipped, both = photograph(), catalogue(200_000), long_lines(), bomb(), polyglot()
    shelf = lambda name, data: lambda asker: asker.form("/shelf", "/shelf/import", {}, ("file", name, data))  # noqa: E731
    return {
        "assess, 2,000 readings": api("assess", call_data(*readings(2000))),
        "match, 20,000 motors": api("match", {"call": call_data(), "catalogue": motors(20_000)}),
        "capacitor, 2,000 parts": api("capacitor", {"need": "7.5@370", "van": parts}),
        "model": api("model", call_data()),
        "photograph, 59 megapixels": lambda asker: asker.form(
            "/calls/5/plates", "/calls/5/photographs", {"subject": "plate"}, ("photo", "x.png", picture)
        ),
        "polyglot as a photograph": lambda asker: asker.form(
            "/calls/5/plates", "/calls/5/photographs", {"subject": "plate"}, ("photo", "x.png", both)
        ),
        "polyglot as a package": shelf("x.zip", both),
        f"catalog, {len(rows) / 1e6:.0f} MB, {rows.count(bytes([10])) - 1:,} rows": shelf("motors.csv", rows),
        "lines of 10,000 cells": shelf("x.csv", lines),
        "zip bomb, 2 GB": lambda asker: asker.form(
            "/log/archive", "/log/archive/import", {"replace": "yes"}, ("file", "x.zip", zipped)
        ),
        "log out": lambda asker: asker.form("/log/archive", "/log/archive/export", {}),
        f"log in, 20,000 calls, {len(log) / 1e6:.0f} MB, not asked to replace": lambda asker: asker.form(
            "/log/archive", "/log/archive/import", {}, ("file", "x.zip", log)
        ),
        "call of 2,000 readings as PDF": lambda asker: asker.client.get(f"/calls/{many}/record.pdf"),
        "plan of a van": lambda asker: asker.client.get("/shelf/plan"),
        "page of a call of 2,000 readings": lambda asker: asker.client.get(f"/calls/{many}/path"),
    }


def test_while_the_worst_of_each_kind_runs(say, server):
    address, pid, folder, many = server
    other = Asker(address)

    def median() -> float:
        took = []
        for _ in range(EACH):
            began = time.perf_counter()
            assert other.client.get(PAGE).status_code == 200
            took.append(time.perf_counter() - began)
            time.sleep(0.02)
        return statistics.median(took)

    median()
    alone = median()
    say(f"a page alone: median {1e3 * alone:.0f} ms, {resident_mb(pid):.0f} MB")
    for name, ask in kinds_of(address, folder, many).items():
        took, statuses, stop, peak = [], [], threading.Event(), [0.0]

        def keep_asking(ask=ask, took=took, statuses=statuses, stop=stop):
            asker = Asker(address)
            while not stop.is_set():
                began = time.perf_counter()
                statuses.append(ask(asker).status_code)
                took.append(time.perf_counter() - began)

        def look(stop=stop, peak=peak):
            while not stop.wait(0.1):
                peak[0] = max(peak[0], resident_mb(pid))

        beside = [threading.Thread(target=keep_asking), threading.Thread(target=look)]
        for each in beside:
            each.start()
        time.sleep(0.3)
        during = median()
        stop.set()
        for each in beside:
            each.join()
        say(
            f"{name}: {statistics.median(took):.2f} s ({statuses[0]}), a page meanwhile {1e3 * during:.0f} ms, {during / alone:.1f} times, at most {peak[0]:.0f} MB"
        )
