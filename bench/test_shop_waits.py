"""A shop under attack: who waits for whom, rows spoilt at random, laptops killed in the middle of everything."""

from __future__ import annotations

import io
import os
import random
import re
import socket
import threading
import time
import zipfile
from contextlib import suppress

import httpx
from tests import replicas
from tests.test_sync import act, amps, killed, merge_process, resealed

from bench.many_calls import fill
from bench.server import serving
from keen_coil.core.errors import KeenCoilError
from keen_coil.exchange.shop_server import MARK
from keen_coil.services.calls import readings
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.stations.follow_ups import as_calendar, open_follow_ups
from keen_coil.services.sync.merge_package import take_package
from keen_coil.store.database import Database

CALLS = int(os.environ.get("KEEN_COIL_SYNC_CALLS", "20000"))
ROWS = int(os.environ.get("KEEN_COIL_MUTATED_ROWS", "10000"))
KILLS = int(os.environ.get("KEEN_COIL_KILLS", "100"))
AIM_S, EACH = 1.0, 20


class Somebody:
    """Somebody who takes readings on a call of the server."""

    def __init__(self, address: str) -> None:
        self.client = httpx.Client(base_url=address, timeout=60, follow_redirects=True)
        page = self.client.get("/").text
        self.call = re.search(r'href="/calls/(\d+)', page).group(1)
        self.took: list[float] = []

    def read(self) -> None:
        """One reading from its page to the answer; what was refused counts as what it took and more."""
        page = self.client.get(f"/calls/{self.call}/path?link=supply").text.split('id="pad-form"', 1)[1]
        hidden = dict(re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', page)[:3])
        given = {
            "kind": "supply_v",
            "at": "unit",
            "value": str(random.randint(225, 245)),
            "anyway": "yes",
            "sure": "yes",
        }
        began = time.perf_counter()
        answer = self.client.post(f"/calls/{self.call}/readings", data={**hidden, **given})
        took = time.perf_counter() - began
        self.took.append(took if answer.status_code == 200 else 99.0)


def put_in(address, package):
    """A package as a van sends it: in pieces, then merged."""
    import hashlib

    data = package.getvalue()
    digest = hashlib.sha256(data).hexdigest()
    with httpx.Client(base_url=address, headers=MARK, timeout=900) as van:
        at = 0
        while at < len(data):
            piece = data[at : at + (2 << 20)]
            at = van.put(f"/api/sync/inbox/{digest}", params={"at": at}, content=piece).json()["has"]
        return van.post(f"/api/sync/inbox/{digest}/merge", json={}).status_code


def sign_ins(address):
    def once():
        with httpx.Client(base_url=address, timeout=60) as stranger:
            page = stranger.get("/sign-in").text
            csrf = re.search(r'name="csrf" value="([^"]*)"', page).group(1)
            act_id = re.search(r'name="act_id" value="([^"]*)"', page).group(1)
            fields = {
                "csrf": csrf,
                "act_id": act_id,
                "version": "0",
                "name": f"x{random.random()}",
                "password": "y" * 12,
            }
            return stranger.post("/sign-in", data=fields).status_code

    return at_once(30, once)


def at_once(many, do):
    threads = [threading.Thread(target=lambda: suppress(httpx.HTTPError).__enter__() or do()) for _ in range(many)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def half_open(address):
    port = int(address.rpartition(":")[2])
    sockets = [socket.create_connection(("127.0.0.1", port)) for _ in range(300)]
    for one in sockets:
        one.sendall(b"GET / HTTP/1.1\r\nhost: ")
    time.sleep(20)
    left = 0
    for one in sockets:
        one.settimeout(0.01)
        try:
            left += one.recv(1) != b""
        except TimeoutError:
            left += 1
        one.close()
    return left


def test_who_waits(say, tmp_path):
    """Another's reading while the worst goes on, on a shop of many calls."""
    shop, van = Database(tmp_path / "shop.db"), Database(tmp_path / "van.db")
    fill(van, CALLS)
    replicas.ACTS["open"](shop, 0)
    first = replicas.package(van)
    shop.close()
    get = lambda path: lambda address: httpx.get(address + path, timeout=900).status_code  # noqa: E731
    with serving(tmp_path / "shop.db") as (address, _):
        somebody = Somebody(address)
        rows = {
            "nothing else": lambda address: time.sleep(1),
            f"a first merge of {CALLS} calls, {len(first.getvalue()) / 1e6:.0f} MB": lambda address: put_in(
                address, first
            ),
            "readings.csv of all, six at once": lambda address: at_once(6, lambda: get("/log/readings.csv")(address)),
            "log?find= ten at once": lambda address: at_once(10, lambda: get("/log?find=fan+motor+1")(address)),
            "30 sign-ins at once": sign_ins,
            "300 half-open requests": half_open,
        }
        for name, worst in rows.items():
            somebody.took.clear()
            came: list[object] = []
            going = threading.Thread(target=lambda worst=worst, came=came: came.append(worst(address)))
            began = time.perf_counter()
            going.start()
            while going.is_alive() or len(somebody.took) < 3:
                somebody.read()
                time.sleep(0.05)
            took = sorted(somebody.took)
            say(
                f"{name}: {time.perf_counter() - began:.1f} s ({came[0]}); another's reading meanwhile, {len(took)}: "
                f"median {took[len(took) // 2]:.2f} s, worst {took[-1]:.2f} s; aim {AIM_S:.0f} s"
            )
    van.close()


HOSTILE = (
    None,
    "",
    "\ud800",
    "a\x00b",
    "9999-12-31",
    "0001-01-01T00:00:00Z",
    -1,
    2**70,
    1e308,
    [],
    {},
    {"x": [1]},
    True,
)
HOSTILE += ("<script>", "x" * 5000, "01a22b0f-7a8d-7209-8453-21e695272e28", "2026-13-45", [[[[]]]])


def spoil(chance, rows):
    """One value somewhere in the package is another."""
    of = rows[chance.choice([table for table in rows if rows[table]])]
    at = chance.choice(of)
    for _ in range(12):
        key = chance.choice(list(at)) if isinstance(at, dict) else chance.randrange(len(at))
        inner = at[key]
        if isinstance(inner, dict | list) and inner and chance.random() < 0.85:
            at = inner
            continue
        at[key] = chance.choice(HOSTILE)
        return


def test_rows_spoilt_at_random(say, tmp_path):
    """Every package taken or refused in words, and every page there afterwards."""
    replicas.three(tmp_path)
    shop, van, _ = replicas.opened_in_place(tmp_path)
    for number, name in enumerate(
        ("open", "open", "read", "plate", "wire", "watch", "photo", "stock", "change", "practice")
    ):
        with suppress(KeenCoilError):
            replicas.ACTS[name](van, number)
    good, chance, counts = replicas.package(van).getvalue(), random.Random(7), {"taken": 0, "refused": 0, "crashed": 0}
    for number in range(ROWS):
        try:
            made = resealed(io.BytesIO(good), lambda rows: spoil(chance, rows))
        except (ValueError, KeyError, TypeError, AttributeError, UnicodeEncodeError, zipfile.BadZipFile):
            continue
        try:
            take_package(shop, replicas.context(), made, "file")
            counts["taken"] += 1
        except KeenCoilError:
            counts["refused"] += 1
        except Exception as error:
            counts["crashed"] += 1
            say(f"spoilt row {number}: {type(error).__name__}: {str(error)[:200]}")
        if number % 500 == 0:
            for call_id in replicas.real_calls(shop):
                open_call_view(shop, call_id)
            as_calendar(open_follow_ups(shop), replicas.NOW)
    shop.close()
    van.close()
    paths = ["/", "/log", "/shelf", "/settings", "/settings/vans", "/log/follow-ups.ics", "/log/readings.csv"]
    paths += [f"/calls/{n}/{page}" for n in (1, 2) for page in ("path", "plates", "swap", "record", "versions")]
    with serving(tmp_path / "shop.db") as (address, _), httpx.Client(base_url=address, timeout=60) as client:
        pages = sum(client.get(path, follow_redirects=True).status_code == 200 for path in paths)
    say(f"rows spoilt at random: {counts}; pages that open afterwards {pages} of {len(paths)}")
    assert counts["crashed"] == 0
    assert pages == len(paths)


def test_three_laptops_killed_again_and_again(say, tmp_path):
    """What was acknowledged is written down outside of the databases, and is there on all three at the end."""
    replicas.three(tmp_path)
    shop, *vans = dbs = replicas.opened_in_place(tmp_path)
    replicas.ACTS["open"](shop, 0)
    for van in vans:
        replicas.bring(shop, van)
    ledger, chance, cut = [], random.Random(5), 0
    for number in range(KILLS):
        for at, db in enumerate(dbs):
            value = f"{at + 1}.{number + 100}"
            act(db, readings.take_reading, amps(value))
            ledger.append(value)
        sender, receiver = chance.sample(dbs, 2)
        data = replicas.package(sender, replicas.knows(receiver)).getvalue()
        for db in dbs:
            db.engine.dispose()
        cut += not killed(merge_process, (receiver.path, data), chance.uniform(0, 0.3))
    for _ in range(3):
        for van in vans:
            replicas.bring(van, shop)
            replicas.bring(shop, van)
    for db in dbs:
        there = [str(one.body["value"]) for one in open_call_view(db, replicas.real_calls(db)[0]).row.readings]
        missing = set(ledger) - set(there)
        assert not missing, missing
        assert len(there) == len(ledger)
    assert replicas.content(shop) == replicas.content(vans[0]) == replicas.content(vans[1])
    say(
        f"{KILLS} kills on three laptops ({cut} in the middle): {len(ledger)} acknowledged readings, none missing, none twice"
    )
    for db in dbs:
        db.close()
