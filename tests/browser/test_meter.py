"""The stand-in meter feeds a reading into a call over its real socket; a lost connection loses nothing."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from keen_coil.meter.stand_in import StandIn
from tests.demo_calls import SCHOOL_GYM
from tests.test_meter import Running

pytestmark = pytest.mark.browser


def test_from_the_meter_into_the_call(page, server):
    running = Running(StandIn("amps_ac", 1.41, noise=0))
    page.goto(f"{server}/settings")
    page.get_by_label("Linked meter").fill(running.address)
    page.get_by_role("button", name="Link meter").click()
    expect(page.get_by_role("button", name="Save meter link")).to_be_visible()

    page.goto(f"{server}/calls/{SCHOOL_GYM}/path?link=supply&kind=supply_v&at=unit")
    expect(page.locator(".meter")).to_contain_text("The meter is on amps; this test asks for volts")
    expect(page.locator("#take")).to_have_count(0)
    running.meter.set({"function": "volts_ac", "value": 236.4})
    expect(page.locator("#take")).to_have_text("Take 236.4 m")
    page.locator("h2.pad-title").click()
    page.keyboard.press("m")
    expect(page.locator(".saved-what")).to_contain_text("236.4")

    page.goto(f"{server}/calls/{SCHOOL_GYM}/path?link=switching&kind=supply_v&at=switch_load")
    page.locator("#take").hover()
    page.mouse.down()
    for _ in range(2):  # the meter is looked at again under the thumb
        page.wait_for_event("requestfinished", lambda request: "/meter?" in request.url)
    page.mouse.up()
    expect(page.locator(".saved-what")).to_contain_text("switch load")

    page.goto(f"{server}/calls/{SCHOOL_GYM}/path?link=supply&kind=supply_v&at=motor")
    page.locator("#value").fill("23")
    running.stop()
    expect(page.locator(".meter")).to_contain_text("tried again")
    expect(page.locator("#value")).to_have_value("23")
    page.locator("#value").fill("235")
    page.get_by_role("button", name="Save, go on").click()
    expect(page.locator(".saved-what")).to_contain_text("235")
    expect(page.locator(".ledger")).to_contain_text("236.4")
    page.goto(f"{server}/settings")
    page.get_by_label("Linked meter").fill("")
    page.get_by_role("button", name="Save meter link").click()
    expect(page.get_by_role("button", name="Link meter")).to_be_visible()
