"""Steps of the swap by keyboard, two at one call, who stands at what is read; `test_call` has a swap from end to end."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.demo_calls import FERRY_ROOM, ROPE_WORKS

from .reading import settled
from .test_call import browser_context_args  # noqa: F401

pytestmark = pytest.mark.browser


def station(page, name):
    """To a station by the rail, once what is under way has come; waits until it is there."""
    settled(page)
    page.locator(f'.rail a[href$="/{name}"]').click()
    expect(page.locator(f'.rail a[href$="/{name}"]')).to_have_attribute("aria-current", "page")
    settled(page)


def test_a_step_by_keyboard_and_back(page, server):
    page.goto(f"{server}/calls/{FERRY_ROOM}/match?part=TM-4027")
    page.get_by_role("button", name="Choose TM-4027").click()
    expect(page.locator(".chosen-box")).to_contain_text("is chosen")
    page.keyboard.press("g")
    page.keyboard.press("s")
    expect(page.locator("h1")).to_have_text("Swap")
    expect(page.locator(".step-place")).to_have_text("Step 1, next")
    page.get_by_role("button", name="Done", exact=False).first.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".step-place")).to_have_text("Step 2, next")
    page.locator("summary", has_text="Before you start").click()
    page.get_by_role("link", name="Take everything").click()
    expect(page.locator(".step-place")).to_contain_text("done")
    page.get_by_label("flashlight").check()
    page.get_by_role("button", name="Save packed list").click()
    settled(page)
    expect(page.get_by_label("flashlight")).to_be_checked()
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".step-place")).to_have_text("Step 1, next")
    page.locator(".skip-step summary").click()
    page.get_by_label("Reason").fill("The ladder stands there")
    page.get_by_role("button", name="Skip (give a reason)").click()
    expect(page.locator(".swap-steps", has_text="The ladder stands there")).to_have_count(1)


def test_the_second_of_two_sees_what_changed_and_saves_on_top(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/arrive")
    page.locator('[name="says"]').fill("It went with a push, then stopped.")
    first = page.context.new_page()
    first.goto(f"{server}/calls/{ROPE_WORKS}/path?link=air&kind=air_path")
    first.get_by_role("button", name="clear", exact=True).click()
    expect(first.locator(".saved")).to_be_visible()
    page.get_by_role("button", name="Save, go").click()
    expect(page.locator("h1")).to_have_text("Somebody else changed this")
    expect(page.locator(".changes")).to_contain_text("read air path: clear")
    expect(page.locator(".again")).to_contain_text("It went with a push, then stopped.")
    page.get_by_role("button", name="Save mine over theirs").click()
    expect(page.locator("h1")).to_contain_text("Capacitor")  # the first station that is still to do
    station(page, "arrive")
    expect(page.locator('[name="says"]')).to_have_value("It went with a push, then stopped.")
    station(page, "path")
    expect(page.locator(".ledger")).to_contain_text("air path")


def test_who_uses_the_device_stands_at_what_is_read(page, server):
    page.goto(f"{server}/settings")
    page.locator("summary", has_text="Add a technician").click()
    page.get_by_label("Name", exact=True).fill("Morwenna Gale")
    page.get_by_label("Van", exact=True).fill("Van 2")
    page.get_by_role("button", name="Save and use this name").click()
    expect(page.locator(".device")).to_contain_text("Morwenna Gale")
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=air&kind=air_path")
    page.get_by_role("button", name="clear", exact=True).click()
    expect(page.locator(".saved")).to_be_visible()
    page.goto(f"{server}/calls/{ROPE_WORKS}/record?for=shop")
    expect(page.locator(".record-readings .who")).to_have_text("Morwenna Gale")
    page.goto(f"{server}/shelf?on=van")
    expect(page.locator(".segments").first).to_contain_text("On Van 2")
