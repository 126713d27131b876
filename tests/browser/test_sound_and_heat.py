"""Ten seconds of sound from a file on the pad, the practice unit listened to, and what two candidates cost the winding."""

import re

import pytest
from playwright.sync_api import expect

from tests.demo_calls import FERRY_ROOM
from tests.test_listening import recorded

from .reading import text_of

pytestmark = pytest.mark.browser


def test_the_speed_is_heard_from_a_file_and_taken_as_a_reading(page, server):
    page.goto(f"{server}/calls/{FERRY_ROOM}/path?link=running&kind=run_rpm")
    page.locator(".sound summary").click()
    page.get_by_label("Blades of the fan").fill("3")
    page.get_by_label("compressor is off").check()
    page.locator("[data-sound-file]").set_input_files(
        {"name": "fan.wav", "mimeType": "audio/wav", "buffer": recorded()}
    )
    expect(page.locator("[data-sound-says]")).to_have_text("Ready. Press Listen.")
    page.get_by_role("button", name="Listen", exact=True).click()
    expect(page.locator(".sound-answer")).to_contain_text("1075 rpm")
    expect(page.locator(".sound .chart")).to_have_attribute("aria-label", re.compile("blade 54 Hz"))
    page.get_by_role("button", name=re.compile("Save 1075 rpm")).click()
    expect(page.locator(".misfit")).to_contain_text("Power is marked locked out")


def test_the_practice_unit_is_listened_to(page, server):
    page.goto(f"{server}/practice")
    page.get_by_role("button", name="Start").first.click()
    page.wait_for_url(re.compile(r"/calls/\d+/"))
    call = re.search(r"/calls/(\d+)/", page.url)[1]
    page.goto(f"{server}/calls/{call}/path?link=running&kind=noise")
    page.locator(".sound summary").click()
    expect(page.locator(".sound audio")).to_have_attribute("src", f"/calls/{call}/sound.wav")
    page.get_by_role("button", name="Listen to the unit").click()
    expect(page.locator(".sound-answer")).to_contain_text("Noise:")


def test_two_candidates_are_compared_by_their_winding(page, server):
    page.goto(f"{server}/calls/{FERRY_ROOM}/match")
    heat = page.locator(".expected-run.heat")
    expect(heat).to_contain_text(re.compile(r"Winding \d+ °F to \d+ °F at \d+ °F ambient"))
    first = text_of(heat)
    page.get_by_role("button", name="Horsepower and amps").click()
    page.locator(".candidates").get_by_role("link", name="TM-4031").click()
    expect(page).to_have_url(re.compile("part=TM-4031"))
    expect(heat).to_contain_text("its plate point would give")
    expect(heat).not_to_have_text(first)
