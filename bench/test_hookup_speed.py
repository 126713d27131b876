"""Speed: the check of a hook-up, a plan with its check, the page drawn anew."""

from __future__ import annotations

from fastapi.testclient import TestClient
from tests.calls import make_call
from tests.wirings import FOUR, OLD, RIGHT, THREE, UNIT, wires

from bench.test_speed import median_ms
from keen_coil.core.hookup.check import check_call
from keen_coil.core.hookup.plan import plan
from keen_coil.services.demo.demo import build_demo
from keen_coil.settings import Settings
from keen_coil.web.app import create_app


def test_hookup(say, tmp_path):
    planned = make_call(hookup={"leads": THREE, "planned": wires([*UNIT, *RIGHT])})
    say(f"check of a hook-up: {median_ms(lambda: check_call(planned)):.1f} ms (aim 50)")
    call = make_call(hookup={"leads": THREE, "new_leads": FOUR, "found": wires(OLD)})
    say(f"plan of a hook-up with its check: {median_ms(lambda: plan(call, call.motor, 'dual')):.1f} ms")
    build_demo(tmp_path / "demo.db")
    app = create_app(Settings(db=tmp_path / "demo.db"))
    with TestClient(app, base_url="http://127.0.0.1") as browser:
        took = median_ms(lambda: browser.get("/calls/2/hook-up?view=try&wire.black=switch.t1"), 30)
    say(f"page of a tried hook-up, drawn anew: {took:.1f} ms")
    app.state.db.close()
