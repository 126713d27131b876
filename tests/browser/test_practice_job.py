"""A whole job of practice through the browser, to a good end; `tests/test_practice_job` has the bad ones."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from .reading import all_of, count_of, fill_marks, settled, text_of, value_of
from .test_practice import make_safe

pytestmark = pytest.mark.browser
FUNCTIONS = {"supply_v": "volts_ac", "run_amps_a": "amps_ac", "heat": "temperature"}


def step_in_hand(page):
    """The field that holds the step in hand."""
    return page.locator("#station-form input[name=step]")


def do_steps(page, call, until=""):
    """Tick the steps of the swap one by one, up to one of them."""
    page.goto(f"{call}/swap")
    while True:
        expect(step_in_hand(page)).to_have_count(1)
        key, place = value_of(step_in_hand(page)), text_of(page.locator(".step-place"))
        if key == until or count_of(page.get_by_role("button", name="Undo", exact=True)):
            return
        fill_marks(page)
        page.locator("#station-form button[value=do]").click()
        expect(page.locator(".step-place")).not_to_have_text(place)


def energize(page, call):
    page.goto(f"{call}/run-proof")
    page.locator("button[name=power][value=energised]").click()
    expect(page.locator(".strip-says")).to_contain_text("Energized")


def measure(page, call, check, unit):
    """A check of the run with the meter of the bench, taken over."""
    page.goto(f"{call}/run-proof?check={check}&when=running#pad")
    page.locator("select[name=function]").select_option(FUNCTIONS[check])
    page.get_by_role("button", name="Leads on").click()
    expect(page.locator("#meter")).to_contain_text(unit)
    settled(page)
    return page.locator("#take")


def test_a_whole_job_to_a_good_end(page, server):
    page.goto(f"{server}/practice?ladder=jobs")
    page.locator(".rungs li").filter(has_text="A hum and a hot afternoon").get_by_role("button").click()
    page.wait_for_url("**/path*")
    call = page.url.split("/path")[0]
    make_safe(page, call)
    page.goto(f"{call}/path?link=capacitor&kind=capacitance_uf#pad")
    page.get_by_role("button", name="Leads on").click()
    page.locator("#take").click()
    expect(page.locator(".saved-what")).to_contain_text("Saved: capacitance")
    page.goto(f"{call}/finding#say")
    page.get_by_text("Replace the capacitor", exact=True).click()
    page.locator("input[value=capacitor_open]").check()
    page.get_by_role("button", name="Say it, go on").click()
    expect(page.get_by_role("heading", level=1).first).to_have_text("You said: replace the capacitor")
    page.goto(f"{call}/capacitor")
    page.locator("#station-form button.save").click()
    expect(page.locator(".chosen-box")).to_contain_text("Chosen")
    page.goto(f"{call}/swap?step=carry")
    for box in all_of(page.locator(".carry input[name=items]")):
        box.check()
    page.get_by_role("button", name="Save packed list").click()
    expect(page.locator(".carry input[checked]").first).to_be_visible()
    do_steps(page, call, until="power")
    energize(page, call)
    do_steps(page, call)
    page.goto(f"{call}/run-proof?check=turns_way#pad")
    page.get_by_role("button", name="Look", exact=True).click()
    expect(page.locator(".bench-shows")).to_contain_text("right way")
    page.get_by_role("button", name="right", exact=True).click()
    expect(page.locator(".saved-what")).to_contain_text("right")
    for check, unit in (("supply_v", "V"), ("run_amps_a", "A")):
        measure(page, call, check, unit).click()
        expect(page.locator(".saved-what")).to_be_visible()
    page.goto(f"{call}/run-proof?check=noise#pad")
    page.get_by_role("button", name="quiet", exact=True).click()
    expect(page.locator(".next-done")).to_contain_text("Passed")
    page.goto(f"{call}/hand-over")
    page.locator("button[value=finished]").click()
    page.wait_for_url("**/practice/*")
    expect(page.get_by_role("heading", level=1)).to_have_text("Right, and proved")
    expect(page.locator(".job-end")).to_contain_text("It runs, and nobody calls back within 2 years.")
    expect(page.locator(".took")).to_contain_text("trips to the van")
