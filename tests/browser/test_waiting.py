"""The connection is lost: readings typed meanwhile wait in the browser and are sent once, in order, when it is back."""

from __future__ import annotations

import sqlite3

import pytest
from playwright.sync_api import expect
from sqlalchemy.exc import OperationalError

from keen_coil.web.routes import arrive
from tests.demo_calls import GANNET_COTTAGE

from .conftest import PATIENCE
from .reading import settled

pytestmark = pytest.mark.browser


@pytest.fixture
def calls_page(browser, server):
    """A page whose console may tell of failed requests: they are what is tested."""
    with browser.new_context() as context:
        page = context.new_page()
        page.set_default_timeout(PATIENCE)
        yield page


def readings(page, server):
    return [row["value"] for row in page.request.get(f"{server}/calls/{GANNET_COTTAGE}/call.json").json()["readings"]]


def type_reading(page, value):
    page.locator("#value").fill(value)
    page.get_by_role("button", name="Save, go on").click()


def test_readings_wait_survive_a_reload_and_are_sent_once_in_order(calls_page, server):
    page = calls_page
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/path?link=supply&kind=supply_v&at=unit")
    before = readings(page, server)
    page.context.set_offline(True)
    for number, value in enumerate(("231.1", "232.2", "233.3"), start=1):
        type_reading(page, value)
        expect(page.locator("#waiting li")).to_have_count(number)
    expect(page.locator("#waiting")).to_contain_text("3 readings wait for the connection")
    assert readings_offline_are_not_there(page, server, before)
    # back, but the page is loaded again first: what waits is in the browser, not in the page
    page.context.set_offline(False)
    page.reload()
    expect(page.locator("#waiting")).to_have_count(0)
    expect(page.locator(".ledger")).to_contain_text("233.3")
    assert readings(page, server) == [*before, "231.1", "232.2", "233.3"]
    rows = page.request.get(f"{server}/calls/{GANNET_COTTAGE}/call.json").json()["readings"][-3:]
    assert rows[0]["taken_at"] <= rows[1]["taken_at"] <= rows[2]["taken_at"]
    page.reload()
    settled(page)
    assert readings(page, server) == [*before, "231.1", "232.2", "233.3"]


def readings_offline_are_not_there(page, server, before):
    """Playwright's own requests do not go through the page's lost connection."""
    return readings(page, server) == before


def test_what_the_server_refuses_stays_with_its_reason_and_holds_up_nothing(calls_page, server):
    page = calls_page
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/path?link=supply&kind=supply_v&at=unit")
    before = readings(page, server)
    page.context.set_offline(True)
    type_reading(page, "many")
    type_reading(page, "234.4")
    expect(page.locator("#waiting li")).to_have_count(2)
    page.context.set_offline(False)
    expect(page.locator("#waiting")).to_contain_text("not taken")
    expect(page.locator("#waiting li")).to_have_count(1)
    assert readings(page, server) == [*before, "234.4"]
    page.get_by_role("button", name="Drop it").click()
    expect(page.locator("#waiting")).to_have_count(0)


def test_others_may_change_the_call_meanwhile(calls_page, server, browser):
    page = calls_page
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/path?link=supply&kind=supply_v&at=unit")
    before = readings(page, server)
    page.context.set_offline(True)
    type_reading(page, "235.5")
    expect(page.locator("#waiting li")).to_have_count(1)
    with browser.new_context() as other:
        second = other.new_page()
        second.set_default_timeout(PATIENCE)
        second.goto(f"{server}/calls/{GANNET_COTTAGE}/path?link=supply&kind=supply_v&at=unit")
        type_reading(second, "230.0")
        expect(second.locator(".saved-what")).to_contain_text("230.0")
    page.context.set_offline(False)
    expect(page.locator("#waiting")).to_have_count(0)
    assert readings(page, server) == [*before, "230.0", "235.5"]


def test_a_form_without_connection_says_so_and_keeps_what_was_typed(calls_page, server):
    page = calls_page
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/arrive")
    page.get_by_label("Customer reports").fill("It squeals since the storm")
    page.context.set_offline(True)
    page.get_by_role("button", name="Save, go").click()
    expect(page.get_by_role("alert")).to_contain_text("nothing was saved")
    expect(page.get_by_label("Customer reports")).to_have_value("It squeals since the storm")
    page.context.set_offline(False)
    page.get_by_role("button", name="Save, go").click()
    expect(page.locator("h1")).to_have_text("Make safe")


def full_disk():
    """SQLite's error, as it names it."""
    error = sqlite3.OperationalError("database or disk is full")
    error.sqlite_errorname = "SQLITE_FULL"
    return error


@pytest.mark.parametrize(
    ("error", "says"),
    [
        (OperationalError("insert", {}, full_disk()), "The disk is full"),
        (ZeroDivisionError(), "Something went wrong in Keen Coil"),
    ],
)
def test_what_the_server_cannot_do_is_told_above_what_was_typed(calls_page, server, monkeypatch, error, says):
    page = calls_page
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/arrive")
    page.get_by_label("Customer reports").fill("It squeals since the storm")

    def fails(*anything):
        raise error

    with monkeypatch.context() as patch:
        patch.setattr(arrive, "save_complaint", fails)
        page.get_by_role("button", name="Save, go").click()
        expect(page.get_by_role("alert")).to_contain_text(says)
    expect(page.get_by_label("Customer reports")).to_have_value("It squeals since the storm")
    page.get_by_role("button", name="Save, go").click()
    expect(page.locator("h1")).to_have_text("Make safe")


def test_a_page_from_before_is_told_and_saves_when_it_is_sent_again(calls_page, server):
    """Another sign-in, another token: the page that is open learns it with the refusal."""
    page = calls_page
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/arrive")
    page.get_by_label("Customer reports").fill("It squeals since the storm")
    page.context.clear_cookies()
    page.get_by_role("button", name="Save, go").click()
    expect(page.get_by_role("alert")).to_contain_text("too old")
    page.get_by_role("button", name="Save, go").click()
    expect(page.locator("h1")).to_have_text("Make safe")
    page.locator('.rail a[href$="/arrive"]').click()
    expect(page.get_by_label("Customer reports")).to_have_value("It squeals since the storm")
