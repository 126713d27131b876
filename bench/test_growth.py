"""The van plan on logs of 1,000, 10,000 and 100,000 calls: the first is worked out, then it is shown at once."""

from __future__ import annotations

import os
import time

import pytest
from fastapi.testclient import TestClient

from bench.many_calls import fill
from keen_coil.services.catalog.van_plan import Wish
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.web.app import create_app

SIZES = [int(text) for text in os.environ.get("KEEN_COIL_GROWTH", "1000,10000,100000").split(",")]
PATIENCE_S = 120.0


def shown_in(browser: TestClient) -> tuple[float, str]:
    begun = time.perf_counter()
    text = browser.get("/shelf/plan").text
    return time.perf_counter() - begun, text


@pytest.mark.parametrize("many", SIZES)
def test_the_plan_of_a_long_log(say, tmp_path, many):
    db = Database(tmp_path / "long.db")
    fill(db, many, readings=1)
    db.close()
    app = create_app(Settings(db=tmp_path / "long.db"))
    with TestClient(app, base_url="http://127.0.0.1") as browser:
        browser.get("/shelf")
        begun = time.perf_counter()
        first, text = shown_in(browser)
        while "Working the plan out" in text and time.perf_counter() - begun < PATIENCE_S:
            time.sleep(0.1)
            _, text = shown_in(browser)
        ready = time.perf_counter() - begun
        again = sorted(shown_in(browser)[0] for _ in range(5))[2]
        say(
            f"van plan, {many} calls: first page {1000 * first:.0f} ms, plan ready after {ready:.2f} s, "
            f"then shown in {1000 * again:.0f} ms (aim 200), {Wish().days:g} days"
        )
    app.state.workers.stop()
