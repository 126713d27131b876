"""Something is done to the unit in the middle of a call: one tap after the reading, its proof, and what stays open."""

import pytest
from playwright.sync_api import expect

from tests.demo_calls import ROPE_WORKS

from .reading import text_of
from .test_units import finding, word

pytestmark = pytest.mark.browser


def power(page, says):
    """Set the power strip until it says so."""
    strip = page.locator("#strip")
    if says not in text_of(strip):
        strip.get_by_role("button").click()
    expect(strip).to_contain_text(says)


def test_a_coil_that_was_cleaned_is_the_finding_and_the_readings_since_are_its_proof(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=air&kind=air_path")
    word(page, "dirty")
    page.locator(".acts-offered").get_by_role("button", name="Coil cleaned").click()
    expect(page.locator(".change-list li")).to_contain_text("Coil cleaned")
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=air&kind=air_path")
    word(page, "clear")
    expect(page.locator(".contradiction")).to_have_count(0)
    expect(page.locator(".ledger tbody tr", has_text="dirty")).to_contain_text("before the change")
    page.goto(f"{server}/calls/{ROPE_WORKS}/hand-over")
    expect(page.locator(".record")).to_contain_text("Coil cleaned.")
    page.goto(f"{server}/calls/{ROPE_WORKS}/path")
    page.locator(".change-list").get_by_role("button", name="Remove").click()
    expect(page.locator(".change-list")).to_have_count(0)
    expect(page.locator(".contradiction").first).to_contain_text("can't both be right")


def test_a_chafed_wire_warns_before_power_and_keeps_the_call_open_until_it_is_mended(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=wiring&kind=conductor")
    power(page, "Locked out")
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=wiring&kind=conductor")
    word(page, "chafed")
    expect(page.locator(".power-warns")).to_contain_text("wire (line) chafed")
    for station in ("swap", "run-proof", "hand-over"):
        page.goto(f"{server}/calls/{ROPE_WORKS}/{station}")
        expect(page.locator(".power-warns")).to_contain_text("Before you energize")
    expect(page.locator(".close-form")).to_contain_text("Still open: wire (line) chafed")
    page.locator(".still-open").get_by_role("button", name="Wire repaired").click()
    expect(page.locator(".still-open")).to_have_count(0)
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=wiring&kind=conductor")
    word(page, "sound")
    expect(page.locator(".power-warns")).to_have_count(0)
    page.goto(f"{server}/calls/{ROPE_WORKS}/hand-over")
    expect(page.locator(".close-form")).not_to_contain_text("Still open")


def test_a_trial_with_a_good_capacitor_is_noted_and_counts(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=running&kind=trial")
    power(page, "Energized")
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=running&kind=trial")
    page.locator(".choices-with").get_by_text("known-good capacitor").click()
    word(page, "runs")
    expect(page.locator(".saved .judged")).to_contain_text("The capacitor is bad")
    expect(page.locator(".ledger tbody tr").first).to_contain_text("good capacitor")
    finding(page)
    expect(page.locator("h1")).to_have_text("Replace the run capacitor")
