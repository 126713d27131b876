"""A practice case through the browser, to a right and to a wrong ending."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from .reading import all_of, text_of

pytestmark = pytest.mark.browser


def begin(page, server, rung):
    """Begin a case of a rung; the address of its call."""
    page.goto(f"{server}/practice")
    page.locator(".rungs li").filter(has_text=rung).get_by_role("button").click()
    page.wait_for_url("**/path*")
    return page.url.split("/path")[0]


def make_safe(page, call):
    page.goto(f"{call}/make-safe")
    for box in all_of(page.locator("input[name=steps]")):
        box.check()
    page.get_by_role("button", name="Save only").click()
    expect(page.locator(".strip-says")).to_contain_text("Locked out")


def test_to_a_right_ending_with_the_meter_of_the_bench(page, server):
    call = begin(page, server, "It hums")
    make_safe(page, call)
    page.goto(f"{call}/path?link=capacitor&kind=capacitance_uf#pad")
    page.get_by_role("button", name="Leads on").click()
    expect(page.locator("#meter")).to_contain_text("µF")
    expect(page.locator("#take")).to_be_visible()
    page.locator("h2.pad-title").click()
    page.keyboard.press("m")
    expect(page.locator(".saved-what")).to_contain_text("Saved: capacitance")
    page.goto(f"{call}/finding#say")
    verdict = text_of(page.locator(".verdict-says"))
    page.get_by_text("Replace the capacitor", exact=True).click()
    page.locator(f"input[value={'capacitor_open' if 'open' in verdict else 'capacitor_weak'}]").check()
    page.get_by_role("button", name="Say it, end the case").click()
    page.wait_for_url("**/practice/*")
    expect(page.get_by_role("heading", level=1)).to_have_text("Right, and proved")
    expect(page.locator(".telling")).to_contain_text("capacitance")
    page.goto(f"{call}/path")
    expect(page.locator(".strip-closed")).to_be_visible()


def test_to_a_wrong_ending_with_hands_in_a_live_unit(page, server):
    call = begin(page, server, "Volts one minute, none the next")
    page.goto(f"{call}/path?link=bearings&kind=spin#pad")
    page.get_by_role("button", name="Turn it").click()
    expect(page.locator(".bench-warns")).to_contain_text("It is live")
    page.goto(f"{call}/path?link=supply&kind=supply_v&at=unit#pad")
    page.locator("select[name=function]").select_option("ohms")
    page.get_by_role("button", name="Leads on").click()
    expect(page.locator(".bench-warns")).to_contain_text("it is on ohms")
    page.locator("select[name=function]").select_option("volts_ac")
    page.get_by_role("button", name="Leads on").click()
    page.locator("#take").click()
    expect(page.locator(".saved-what")).to_contain_text("Saved")
    page.get_by_role("link", name="Name the fault").click()
    page.get_by_text("Condemn the motor", exact=True).click()
    page.get_by_role("button", name="Say it, end the case").click()
    expect(page.locator("#fault-faults")).to_contain_text("what is wrong")
    page.locator("input[value=bearings_seized]").check()
    page.get_by_role("button", name="Say it, end the case").click()
    page.wait_for_url("**/practice/*")
    expect(page.get_by_role("heading", level=1)).to_have_text("A good motor was condemned")
    expect(page.locator("main")).to_contain_text("You reached into the unit while it was live")
    expect(page.locator("main")).to_contain_text("on live parts")
    page.goto(f"{server}/log?find=practice")
    expect(page.locator("main")).to_contain_text("0 of")
