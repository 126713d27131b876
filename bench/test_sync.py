"""Syncing at the size of a shop: a van's week into 20,000 calls, a first sync, an evening on which nothing happened."""

from __future__ import annotations

import io
import os
import resource
import threading
import time

from tests import replicas

from bench.many_calls import fill
from keen_coil.services.sync.merge_package import take_package
from keen_coil.services.sync.package import make_package
from keen_coil.services.sync.replica_state import known, note_own_writes
from keen_coil.store.database import Database

CALLS, WEEK = int(os.environ.get("KEEN_COIL_SYNC_CALLS", "20000")), 60
AIM_MERGE_S, AIM_FIRST_S, AIM_FIRST_MB, AIM_QUIET_KB = 1.0, 60.0, 300, 10


class Peak:
    """The most memory that this process had while it was watched, MB above what it began with."""

    def __enter__(self):
        self._begin, self.mb, self._over = _mb(), 0.0, threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()
        return self

    def __exit__(self, *error):
        self._over.set()
        self._thread.join()

    def _watch(self):
        while not self._over.wait(0.02):
            self.mb = max(self.mb, _mb() - self._begin)


def _mb():
    with open("/proc/self/statm", encoding="ascii") as file:
        return int(file.read().split()[1]) * resource.getpagesize() / 1e6


def sent(sender, receiver):
    with receiver.writing() as session:
        note_own_writes(session)
        knows = known(session)
    out = io.BytesIO()
    make_package(sender, out, knows, False)
    out.seek(0)
    return out


def test_sync(say, tmp_path):
    shop, van = Database(tmp_path / "shop.db"), Database(tmp_path / "van.db")
    fill(shop, CALLS)
    begun = time.perf_counter()
    with Peak() as made:
        first = sent(shop, van)
    making = time.perf_counter() - begun
    with Peak() as taken:
        take_package(van, replicas.context(), first, "https")
    whole = time.perf_counter() - begun
    size = first.getbuffer().nbytes
    say(
        f"sync: first of {CALLS} calls {whole:.1f} s (making {making:.1f}), {size / 1e6:.1f} MB sent, "
        f"memory {made.mb:.0f} and {taken.mb:.0f} MB; aims {AIM_FIRST_S:.0f} s, {AIM_FIRST_MB} MB"
    )
    take_package(shop, replicas.context(), sent(van, shop), "https")
    for number in range(WEEK):
        replicas.ACTS["open"](van, number)
    mine = replicas.real_calls(van)[-WEEK:]
    for call_id in mine:
        for value in range(12):
            view = replicas.open_call_view(van, call_id)
            fields = {"kind": "run_amps_a", "value": f"1.{value}", "anyway": "yes", "sure": "yes"}
            replicas.readings.take_reading(van, call_id, replicas.context(view.row.version), fields)
    week = sent(van, shop)
    begun = time.perf_counter()
    report = take_package(shop, replicas.context(), week, "https")
    merging = time.perf_counter() - begun
    say(
        f"sync: a week of {report.came.get('call')} calls, {report.came.get('reading')} readings into {CALLS} in "
        f"{merging:.2f} s ({week.getbuffer().nbytes / 1e3:.0f} kB); aim {AIM_MERGE_S:.0f} s"
    )
    take_package(van, replicas.context(), sent(shop, van), "https")
    quiet = sum(sent(*pair).getbuffer().nbytes for pair in ((shop, van), (van, shop)))
    say(f"sync: an unchanged shop {quiet / 1e3:.1f} kB both ways, greetings aside; aim {AIM_QUIET_KB} kB")
    shop.close()
    van.close()
