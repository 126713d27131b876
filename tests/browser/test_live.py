"""One call on two screens: the laptop shows what the phone reads, and takes nothing that is being typed."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from keen_coil.web.routes.live import BEAT_S

from .conftest import PATIENCE
from .test_call import new_call

pytestmark = pytest.mark.browser
WITHIN_MS = 0.8 * BEAT_S * 1000
"""Told by the act itself, not by the next beat of the stream."""


def read_volts(page, call, volts):
    page.goto(f"{call}/path?link=supply&kind=supply_v&at=switch_load#pad")
    page.locator("#value").fill(volts)
    page.get_by_role("button", name="Save, go on").click()
    expect(page.locator(".saved-what")).to_contain_text(volts)


def test_two_browsers_on_one_call_see_each_others_readings(page, server, context):
    new_call(page, server)
    call = page.url.rsplit("/", 1)[0]
    page.goto(f"{call}/path")
    expect(page.locator("[data-live]")).to_have_count(1)
    phone = context.browser.new_context(viewport={"width": 390, "height": 844}).new_page()
    phone.set_default_timeout(PATIENCE)
    read_volts(phone, call, "231.4")
    expect(page.locator(".below")).to_contain_text("231.4", timeout=WITHIN_MS)
    page.goto(f"{call}/path?link=capacitor&kind=capacitance_uf#pad")
    page.locator("#value").fill("4.9")
    read_volts(phone, call, "232.6")
    expect(page.locator(".live-told")).to_contain_text("Somebody else changed this call.", timeout=WITHIN_MS)
    expect(page.locator("#value")).to_have_value("4.9")
    page.get_by_role("button", name="Show it").click()
    expect(page.locator(".below")).to_contain_text("232.6")
    page.locator("h1").hover()
    page.mouse.down()  # what is pressed is not taken away either
    read_volts(phone, call, "233.8")
    expect(page.locator(".live-told")).to_contain_text("Somebody else changed this call.", timeout=WITHIN_MS)
    page.mouse.up()
    phone.context.close()
