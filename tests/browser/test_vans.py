"""A van and the shop in the browser: a call begun on one is finished at the other, a conflict is shown and decided."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.calls import open_call
from keen_coil.services.calls.photographs import add_photograph
from keen_coil.services.stations.plates import save_plates
from keen_coil.services.sync.lineage import name_replica
from keen_coil.store.database import Database
from tests.fixtures import stamp
from tests.replicas import JPEGS, context, serving

from .conftest import PATIENCE
from .test_call import new_call
from .test_live import read_volts

pytestmark = pytest.mark.browser


@pytest.fixture
def laptops(tmp_path):
    """Two servers, a van's and the shop's, each with its own database."""
    for name, is_shop in (("Van 1", False), ("Pellow shop", True)):
        db = Database(tmp_path / f"{name}.db")
        name_replica(db, stamp(0), name, is_shop)
        db.close()
    with serving(tmp_path / "Van 1.db") as van, serving(tmp_path / "Pellow shop.db") as shop:
        yield van, shop


@pytest.fixture
def tabs(browser):
    """A page for each laptop; nothing is said in their consoles."""
    problems: list[str] = []
    pages = []
    for _ in range(2):
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        context.on("console", lambda message: problems.append(message.text) if message.type == "error" else None)
        context.on("weberror", lambda error: problems.append(str(error.error)))
        pages.append(context.new_page())
        pages[-1].set_default_timeout(PATIENCE)
    yield pages
    for page in pages:
        page.context.close()
    assert problems == []


def sync(page, van, shop):
    """Tap Sync now on the van; what its page says came of it."""
    page.goto(f"{van}/settings/vans")
    page.get_by_label("The shop's address").fill(shop)
    page.get_by_role("button", name="Sync now").click()
    expect(page.locator(".next-done")).to_contain_text("Synced with Pellow shop.", timeout=2 * PATIENCE)
    return page.locator(".next-done")


def complain(page, call, says):
    page.goto(f"{call}/arrive")
    page.locator('[name="says"]').fill(says)
    page.get_by_role("button", name=re.compile("^Save, go to")).click()
    expect(page.locator("h1")).not_to_have_text("Arrive")
    page.goto(f"{call}/arrive")
    expect(page.locator('[name="says"]')).to_have_value(says)


def test_a_call_begun_on_a_van_is_finished_at_the_shop_and_a_conflict_is_decided(laptops, tabs):
    (van, shop), (at_van, at_shop) = laptops, tabs
    new_call(at_van, van)
    call = at_van.url.rsplit("/", 1)[0]
    read_volts(at_van, call, "231.4")
    expect(sync(at_van, van, shop)).to_contain_text("Went: 1 call, 1 reading")
    at_shop.goto(f"{shop}/settings/vans")
    row = at_shop.get_by_role("row", name=re.compile("Van 1")).first
    expect(row).to_contain_text("Lacks nothing")
    at_shop.goto(shop)
    at_shop.get_by_role("link", name=re.compile("Lighthouse")).first.click()
    expect(at_shop).to_have_url(re.compile("/calls/[0-9]+/"))
    there = f"{shop}/calls/{re.search('/calls/([0-9]+)', at_shop.url)[1]}"
    at_shop.goto(f"{there}/path")
    expect(at_shop.locator(".below")).to_contain_text("231.4")

    complain(at_van, call, "Hums in the morning")
    complain(at_shop, there, "Trips after rain")
    sync(at_van, van, shop)
    at_shop.goto(f"{there}/path")
    told = at_shop.locator(".apart-told")
    expect(told).to_contain_text("wrote the complaint apart")
    told.get_by_role("link").click()
    expect(at_shop.locator(".version")).to_have_count(2)
    expect(at_shop.locator(".version-used")).to_contain_text("Trips after rain")
    at_shop.get_by_role("button", name="Use the complaint of Van 1").click()
    expect(at_shop.locator(".empty")).to_contain_text("Nothing to decide")
    at_shop.goto(f"{there}/arrive")
    expect(at_shop.locator('[name="says"]')).to_have_value("Hums in the morning")

    at_shop.goto(f"{there}/hand-over")
    at_shop.locator("summary", has_text="Close as unfinished").click()
    at_shop.get_by_label("What is left to do").fill("The run")
    at_shop.get_by_label("Return on").fill("2027-01-09")
    at_shop.get_by_role("button", name="Close as unfinished").click()
    expect(at_shop.locator(".strip-closed")).to_contain_text("Closed")
    expect(sync(at_van, van, shop)).to_contain_text("Came: 1 call")
    at_van.goto(f"{call}/hand-over")
    expect(at_van.locator(".strip-closed")).to_contain_text("Closed")
    expect(at_van.locator(".apart-told")).to_have_count(0)
    at_van.goto(f"{van}/settings/vans")
    expect(at_van.locator(".decide")).to_have_count(0)


HIT = "<img src=x onerror=document.title=1><script>document.title=1</script>"


def test_nothing_that_a_van_wrote_runs_at_the_shop(laptops, tabs, tmp_path):
    """Markup in every text that a laptop sends, its own name too, and a picture: shown as it was typed, never run."""
    van, shop = laptops
    db = Database(tmp_path / "Van 1.db")
    fields = {"site": HIT, "unit": f"{HIT} 2", "unit_kind": "split_condenser", "role": "condenser_fan"}
    call = open_call(db, context(), {**fields, "says": HIT, "technician": f"T. {HIT}"[:110]})
    save_plates(
        db, call, context(open_call_view(db, call).row.version), {"motor.maker": HIT[:60], "unit.serial": HIT[:60]}
    )
    add_photograph(db, call, context(open_call_view(db, call).row.version), "plate", JPEGS[0])
    name_replica(db, stamp(0), HIT[:79], False)
    db.close()
    sync(tabs[0], van, shop)
    page, at_shop = tabs[1], f"/calls/{call}"
    for path in (
        "/",
        "/log",
        f"/log?find={HIT}",
        f"{at_shop}/path",
        f"{at_shop}/plates",
        f"{at_shop}/record",
        "/settings/vans",
        "/settings",
    ):
        page.goto(f"{shop}{path}", wait_until="networkidle")
        expect(page).to_have_title(re.compile("Keen Coil"))
    answer = page.request.get(f"{shop}{at_shop}/photographs/1")
    kept = {name: answer.headers[name] for name in ("content-type", "x-content-type-options")}
    assert kept == {"content-type": "image/jpeg", "x-content-type-options": "nosniff"}
