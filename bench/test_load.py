"""Twenty technicians at once on a server with 20,000 calls in its file: no error, p95 beside one alone, memory."""

from __future__ import annotations

import os
import random
import re
import statistics
import threading
import time
from collections import Counter

import httpx
from tests.calls import make_call
from tests.fixtures import stamp

from bench.many_calls import fill
from bench.server import serving
from keen_coil.services.calls.call_files import import_call
from keen_coil.store.database import Database

PEOPLE, EVERY_S, CALLS = 20, 3.0, 20_000
LASTS_S = float(os.environ.get("KEEN_COIL_LOAD_S", "120"))
SETTLED_S = LASTS_S / 4
ALONE, PAUSE_S = 80, 0.4
"""The one alone acts half so often before the others and half after them: the machine's own pace drifts."""
READINGS = (
    ("supply", "supply_v", "unit", "236.4"),
    ("protection", "breaker", "", "closed"),
    ("disconnect", "disconnect", "", "closed"),
    ("disconnect", "supply_v", "switch_line", "236.1"),
    ("control", "control_call", "", "present"),
    ("switching", "switch_pulled_in", "", "yes"),
    ("switching", "supply_v", "switch_load", "235.9"),
    ("wiring", "supply_v", "motor", "235.7"),
    ("capacitor", "capacitor_look", "", "sound"),
    ("load", "load_look", "", "sound"),
    ("air", "air_path", "", "dirty"),
    ("running", "turns_way", "", "right"),
    ("running", "noise", "", "quiet"),
    ("running", "run_amps_a", "", "1.47"),
    ("running", "run_rpm", "", "1072"),
    ("running", "shell_c", "", "48"),
)
"""What a technician reads on a call, in the order of a visit; then it begins again, the same values read once more."""
ACTS = {"reading": 5, "path": 3, "finding": 2, "board": 2, "log": 1, "match": 1, "swap": 1}


def test_twenty_technicians(say, tmp_path):
    db = Database(tmp_path / "load.db")
    fill(db, CALLS)
    calls = [import_call(db, stamp(0), make_call(), f"call {n}.call.json") for n in range(PEOPLE + 1)]
    db.close()
    with serving(tmp_path / "load.db") as (address, pid):
        alone = Technician(address, calls[-1], random.Random(1))
        for _ in range(2):
            for act in ACTS:
                alone.do(act)
        alone.took.clear()
        alone.pause(ALONE // 2)
        everybody = [Technician(address, call, random.Random(n)) for n, call in enumerate(calls[:-1])]
        ends = time.monotonic() + LASTS_S
        threads = [threading.Thread(target=someone.work, args=(ends,)) for someone in everybody]
        for thread in threads:
            thread.start()
        time.sleep(SETTLED_S)
        settled = _memory_mb(pid)
        for thread in threads:
            thread.join()
        grown = 100 * (_memory_mb(pid) / settled - 1)
        alone.pause(ALONE // 2)
    one = statistics.median(took for _, took in alone.took)
    took = sorted(t for someone in everybody for _, t in someone.took)
    own = sorted(took for _, took in alone.took)
    own_p95 = own[int(0.95 * len(own))]
    errors = Counter(error for someone in everybody for error in someone.errors)
    p95 = took[int(0.95 * len(took))]
    say(
        f"load: {PEOPLE} technicians, {len(took)} answers in {LASTS_S:.0f} s over {CALLS} calls, errors {dict(errors) or 'none'}"
    )
    say(
        f"load: median {1000 * statistics.median(took):.0f} ms, p95 {1000 * p95:.0f} ms, one alone median {1000 * one:.0f} ms, p95 {1000 * own_p95:.0f} ms:"
        f" p95 is {p95 / own_p95:.1f} times the p95 alone (aim 3), {p95 / one:.1f} times the median alone"
    )
    for act in ACTS:
        mine = sorted(t for someone in everybody for name, t in someone.took if name == act)
        if mine:
            say(
                f"load, {act}: median {1000 * statistics.median(mine):.0f} ms, p95 {1000 * mine[int(0.95 * len(mine))]:.0f} ms of {len(mine)}"
            )
    say(f"load: memory {settled:.0f} MB after {SETTLED_S:.0f} s, {grown:+.1f} % at the end (aim under 10)")
    assert not errors


def _memory_mb(pid):
    with open(f"/proc/{pid}/status") as status:
        return int(re.search(r"VmRSS:\s+(\d+)", status.read())[1]) / 1000


class Technician:
    """Somebody with a browser and a call of their own."""

    def __init__(self, address, call, chance):
        self.client = httpx.Client(base_url=address, timeout=30, follow_redirects=True)
        self.call, self.chance = call, chance
        self.took, self.errors, self.read = [], [], 0

    def work(self, ends):
        """Act every three seconds on average until the end."""
        while (acts_at := time.monotonic() + self.chance.expovariate(1 / EVERY_S)) < ends:
            time.sleep(max(0.0, acts_at - time.monotonic()))
            self.act()

    def pause(self, acts):
        """That many acts with a pause before each: back to back, each would find all it needs still warm."""
        for _ in range(acts):
            time.sleep(PAUSE_S)
            self.act()

    def act(self):
        """One act by its weight."""
        self.do(self.chance.choices(list(ACTS), list(ACTS.values()))[0])

    def do(self, act):
        """One act of a kind."""
        if act == "reading":
            self._reading()
            return
        words = self.chance.choice(["creamery", "seized", "no such word"])
        pages = {
            "path": f"/calls/{self.call}/path",
            "finding": f"/calls/{self.call}/finding",
            "board": "/",
            "log": f"/log?find={words}",
            "match": f"/calls/{self.call}/match",
            "swap": f"/calls/{self.call}/swap",
        }
        self._timed(act, lambda: self.client.get(pages[act]))

    def _reading(self):
        link, kind, at, value = READINGS[self.read % len(READINGS)]
        self.read += 1
        page = self._timed("path", lambda: self.client.get(f"/calls/{self.call}/path?link={link}&kind={kind}&at={at}"))
        fields = dict(re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', page.text.split('id="pad-form"')[1]))
        body = {**fields, "kind": kind, "at": at, "value": value}
        self._timed("reading", lambda: self.client.post(f"/calls/{self.call}/readings", data=body))

    def _timed(self, act, ask):
        begun = time.monotonic()
        try:
            answer = ask()
        except httpx.HTTPError as error:
            self.errors.append(type(error).__name__)
            raise
        self.took.append((act, time.monotonic() - begun))
        if answer.status_code >= 400:
            self.errors.append(f"{act} {answer.status_code}")
        return answer
