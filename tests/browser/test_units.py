"""A blower with speed taps, a three-phase call with a chafed wire, an ECM fan, an inducer, a contradiction."""

import re

import pytest
from playwright.sync_api import expect

from tests.demo_calls import FISH_CELLAR, READING_ROOM, ROPE_WORKS, ROPE_WORKS_ROOF, SCHOOL_FURNACE, TIDE_MILL

from .reading import all_of, holds
from .test_call import go_to

pytestmark = pytest.mark.browser


def word(page, value):
    """Press a word on the pad and wait until it is saved."""
    page.locator(f'.words button[value="{value}"]').click()
    expect(page.locator(".saved-what")).to_contain_text(value.replace("_", " "))


def save(page, *numbers):
    """Type one number or several, save, and wait for the last of them."""
    for field, number in zip(all_of(page.locator(".big input")), numbers, strict=True):
        field.fill(number)
    page.get_by_role("button", name="Save, go on").click()
    expect(page.locator(".saved-what")).to_contain_text(numbers[-1])


def finding(page):
    page.locator('.rail a[href$="/finding"]').click()
    expect(page.locator(".verdict")).to_be_visible()


def test_a_blower_with_one_speed_tap_open_stays_in(page, server):
    page.goto(f"{server}/calls/{SCHOOL_FURNACE}/path")
    go_to(page, "windings")
    expect(page.locator(".plot")).to_have_attribute("aria-label", re.compile("speed 1 3.10 ohm, speed 2 4.40 ohm"))
    page.locator(".choices-pair").get_by_text("white - red").click()
    page.locator(".choices-speed").get_by_text("3 low").click()
    page.get_by_role("button", name="over range").click()
    expect(page.locator(".saved .judged")).to_contain_text("Speed tap 3 is open")
    expect(page.locator(".plot")).to_have_attribute("aria-label", re.compile("speed 3 open"))
    finding(page)
    expect(page.locator("h1")).to_have_text("Usable on other speeds")
    expect(page.locator(".side")).to_contain_text("leave heating and cooling off")


def test_a_three_phase_blower_with_a_chafed_wire(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS_ROOF}/path?link=insulation&kind=insulation_mohm")
    expect(page.locator(".plot")).to_have_attribute("aria-label", re.compile("Insulation over the visits: .*420 Mohm"))
    go_to(page, "windings")
    save(page, "6.8", "6.9", "6.8")
    expect(page.locator(".saved .judged")).to_contain_text("The three pairs differ by 1.0 %")
    go_to(page, "wire", "wire")
    page.locator(".choices-leg").get_by_text("L2").click()
    word(page, "chafed")
    finding(page)
    expect(page.locator("h1")).to_have_text("It is not the motor")
    expect(page.locator(".verdict")).to_contain_text("A wire has rubbed through")
    expect(page.locator(".also")).to_contain_text("A fuse is blown")
    expect(page.locator("main")).to_contain_text("Check before power-up")
    expect(page.locator(".tests")).to_have_count(0)
    expect(page.locator(".side")).to_contain_text("Replace it and protect it from the edge")


def test_a_commutated_fan_is_condemned_only_with_power_and_command_and_parted_from_its_module(page, server):
    page.goto(f"{server}/calls/{TIDE_MILL}/path")
    finding(page)
    expect(page.locator("h1")).to_have_text("Not checked yet")
    page.goto(f"{server}/calls/{TIDE_MILL}/path")
    go_to(page, "command")
    word(page, "present")
    page.get_by_role("button", name="Proved dead").click()
    expect(page.locator(".strip")).to_contain_text("Locked out")
    go_to(page, "bearings")
    page.locator('button[name="value"][value="free"]').click()
    expect(page.locator(".saved-what")).to_contain_text("free")
    finding(page)
    expect(page.locator("h1")).to_have_text("Replace the motor")
    expect(page.locator(".verdict")).to_contain_text("The module or the motor has failed")
    page.goto(f"{server}/calls/{TIDE_MILL}/path")
    go_to(page, "module")
    save(page, "6.1", "6.1", "6.2")
    go_to(page, "frame_ecm")
    page.get_by_role("button", name="over range").click()
    expect(page.locator(".saved-what")).to_contain_text("OL")
    finding(page)
    expect(page.locator("h1")).to_have_text("Replace the motor's module")


def test_an_inducer_with_a_blocked_drain(page, server):
    page.goto(f"{server}/calls/{READING_ROOM}/path")
    expect(page.locator('.drawing:visible [data-part="pressure"]')).to_contain_text("open")
    go_to(page, "vent")
    word(page, "blocked")
    finding(page)
    expect(page.locator("h1")).to_have_text("It is not the motor")
    expect(page.locator(".verdict")).to_contain_text("The vent or drain is plugged")
    expect(page.locator(".side")).to_contain_text("Never jumper a switch")


def test_two_readings_that_exclude_each_other_are_named_and_cured_by_a_third(page, server):
    page.goto(f"{server}/calls/{FISH_CELLAR}/path?link=running&kind=turns_way")
    word(page, "right")
    page.goto(f"{server}/calls/{FISH_CELLAR}/path?link=running&kind=run_amps_a")
    page.locator(".choices-leg").get_by_text("one winding").click()
    save(page, "0.90")
    page.goto(f"{server}/calls/{FISH_CELLAR}/path?link=running&kind=turns_way")
    word(page, "not_turning")
    expect(page.locator(".contradiction")).to_contain_text("can't both be right")
    finding(page)
    expect(page.locator(".contradiction")).to_contain_text("Measure again")
    page.goto(f"{server}/calls/{FISH_CELLAR}/path")
    page.locator(".ledger tbody tr", has_text="not turning").first.get_by_role("link", name="Correct").click()
    expect(page.locator(".correcting")).to_be_visible()
    word(page, "right")
    expect(page.locator(".contradiction")).to_have_count(0)


def test_kilohm_typed_as_ohm_is_asked_about_and_what_was_typed_stays(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=windings&kind=winding_ohm")
    page.locator("#value").fill("14200")
    page.get_by_role("button", name="Save, go on").click()
    expect(page.locator("#fault-sure")).to_contain_text("Is the meter in kohm?")
    expect(page.locator("#value")).to_have_value("14200")
    page.locator("#value").fill("0.0142")
    page.locator(".units").get_by_text("kohm").click()
    page.get_by_role("button", name="Save, go on").click()
    expect(page.locator(".saved-what")).to_contain_text("14.2 ohm")


def test_the_shop_tightens_a_limit_and_every_call_is_judged_by_it(page, server):
    page.goto(f"{server}/settings")
    page.locator('[name="capacitor_tolerance_pct"]').fill("8")
    page.get_by_role("button", name="Save limits").click()
    expect(page.locator("#fault-capacitor_tolerance_pct")).to_contain_text("6 or lower")
    page.locator('[name="capacitor_tolerance_pct"]').fill("3")
    page.get_by_role("button", name="Save limits").click()
    expect(page.locator("[role=status]")).to_contain_text("Saved")
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=capacitor&kind=capacitance_uf")
    expect(page.locator(".band-text")).to_contain_text("±3 %: 4.85 to 5.15")


def test_a_photograph_is_kept_and_something_else_is_not(page, server, tmp_path):
    from PIL import Image

    Image.new("RGB", (60, 40), "brown").save(tmp_path / "plate.png")
    (tmp_path / "notes.jpg").write_text("not a picture")
    page.goto(f"{server}/calls/{FISH_CELLAR}/plates")
    page.locator('.photo-form [name="photo"]').set_input_files(tmp_path / "notes.jpg")
    page.get_by_role("button", name="Save photo").click()
    expect(page.locator("#fault-other-photo")).to_contain_text("Needed: a photograph")
    page.locator('.photo-form [name="photo"]').set_input_files(tmp_path / "plate.png")
    page.get_by_role("button", name="Save photo").click()
    expect(page.locator(".photos img")).to_have_count(1)
    holds(page, "document.querySelector('.photos img')?.naturalWidth === 60")
