"""A whole call in the browser, new to closed: by mouse, by keyboard alone, by touch on a hand-sized screen."""

import re

import pytest
from playwright.sync_api import expect

from tests.demo_calls import GANNET_COTTAGE, ROPE_WORKS

from .reading import all_of, attribute_of, count_of, holds, run_on, settled, tab_to, tick_the_rest

pytestmark = pytest.mark.browser
PLATE = {
    "motor.hp": "1/4",
    "motor.volts": "208-230",
    "motor.amps_a": "1.40",
    "motor.rpm": "1090",
    "motor.capacitor_uf": "5",
    "motor.capacitor_v": "370",
    "leads": "black, brown, white",
    "motor.body_length_in": "4.6",
    "motor.body_diameter_in": "5.6",
    "motor.shaft.diameter_in": "0.5",
    "motor.shaft.length_in": "4",
    "unit.supply_v": "230",
    "unit.ambient_c": "86",
    "capacitor.fan": "5",
    "capacitor.herm": "40",
    "capacitor.volts_v": "440",
}
PICKED = {
    "motor.kind": "psc",
    "motor.phase": "1",
    "motor.hz": "60",
    "motor.mount": "stud",
    "motor.studs": "far_end",
    "motor.enclosure": "enclosed",
    "motor.protection": "auto",
    "motor.rotation.sense": "ccw",
    "motor.rotation.seen_from": "shaft_end",
    "unit.mounted": "shaft_down",
    "unit.run_capacitor": "dual",
}
TAPPED = ("motor.kind", "motor.rotation.sense", "motor.rotation.seen_from")
TYPED = {name: PLATE[name] for name in ("motor.amps_a", "motor.capacitor_uf", "unit.supply_v", "capacitor.fan")}
NOW_DEAD = "Locked out, proved dead, bled"


def fill_plates(page, typed=PLATE, picked=PICKED):
    for fold in all_of(page.locator(".tag-fold summary")):
        fold.click()
    for name, value in typed.items():
        page.locator(f'[name="{name}"]').fill(value)
    for name, value in picked.items():
        if name in TAPPED:
            page.locator(f'.chip:has([name="{name}"][value="{value}"])').click()
        else:
            page.locator(f'[name="{name}"]').select_option(value)


def follow(page, link):
    """Click a link and wait until its page has come and is in its place, even where it leads to the same address."""
    address = attribute_of(link, "href").split("#")[0]
    with page.expect_response(lambda answer: answer.url.endswith(address)):
        link.click()
    settled(page)


def go_to(page, part, test=None):
    """Tap a part of the path, then a test of it, and wait for the pad that was asked for."""
    link = page.locator(f'.drawing:visible a[data-part="{part}"]')
    follow(page, link)
    expect(link).to_have_attribute("aria-current", "true")
    if test:
        tab = page.locator(".pad-tests").get_by_role("link", name=test, exact=True)
        follow(page, tab)
        expect(page.locator('.pad-tests a[aria-current="true"]')).to_have_text(test)


def read(page, part, value, test=None, pair=None):
    """Tap a part of the path, enter a number or press a word."""
    go_to(page, part, test)
    if pair:
        page.locator(".choices-pair").get_by_text(pair).click()
    field = page.locator("#value")
    if count_of(field) and value != "OL":
        field.fill(value)
        page.get_by_role("button", name="Save, go on").click()
    else:
        page.locator(f'button[name="value"][value="{value}"]').click()
    expect(page.locator(".saved")).to_be_visible()


def new_call(page, server):
    page.goto(server)
    page.get_by_label("Site").fill("Lighthouse")
    page.get_by_label("Unit", exact=True).fill("oil store")
    page.get_by_label("Unit type").select_option("split_condenser")
    page.get_by_role("button", name="Start call").click()
    expect(page.locator("h1")).to_have_text("Arrive")
    page.get_by_text("Hums, won't start").click()
    page.get_by_role("button", name="Save, go to Make safe").click()
    expect(page.locator("h1")).to_have_text("Make safe")


def up_to_the_path(page, server, *plates):
    """A new call, made safe, its plates typed: all, or so much of them."""
    new_call(page, server)
    for box in all_of(page.locator(".steps input")):
        box.check()
    page.get_by_role("button", name="Save, go to Nameplate").click()
    expect(page.locator(".strip")).to_contain_text(NOW_DEAD)
    fill_plates(page, *plates)
    page.get_by_role("button", name="Save, go to Path").click()


def test_by_mouse_a_condemned_motor_from_new_to_closed(page, server):
    up_to_the_path(page, server)

    read(page, "capacitor", "sound", "visual check")
    read(page, "capacitor", "4.96", "microfarads")
    expect(page.locator(".saved .judged")).to_contain_text("Good")
    go_to(page, "windings")
    for pair, value in (("black - brown", "OL"), ("black - white", "14.2"), ("brown - white", "OL")):
        page.locator(".choices-pair").get_by_text(pair).click()
        page.locator('[name="minutes_off"]').fill("75")
        page.locator('[name="temperature_c"]').fill("90")
        if value == "OL":
            page.get_by_role("button", name="over range").click()
        else:
            page.locator("#value").fill(value)
            page.get_by_role("button", name="Save, go on").click()
        expect(page.locator(".saved-what")).to_contain_text(pair.replace(" - ", "-"))
    read(page, "bearings", "free", "turn by hand")

    page.get_by_role("link", name="Finding", exact=True).first.click()
    expect(page.locator("h1")).to_have_text("Replace the motor")
    expect(page.locator("main")).to_contain_text("Check before power-up")
    page.get_by_role("link", name="Match a motor").click()
    page.locator(".candidates").get_by_role("link", name="TM-4027").click()
    expect(page).to_have_url(re.compile("part=TM-4027"))
    expect(page.locator(".two-tags")).to_contain_text("TM-4027")
    expect(page.locator(".needs-cap")).to_contain_text("5 µF, 370 V or higher")
    page.get_by_role("button", name="Choose TM-4027").click()
    page.get_by_role("link", name="Next: its capacitor").click()
    expect(page.locator("h1")).to_have_text("Capacitor: 5 µF, 370 V or higher")
    page.get_by_role("button", name="Use this one", exact=True).click()
    page.get_by_role("link", name="Next: wiring").click()
    expect(page.locator("h1")).to_have_text("Wiring")
    page.locator('.rail a[href$="swap"]').click()
    page.locator("summary", has_text="Start up").click()
    page.get_by_role("link", name="Run test: volts").click()
    page.get_by_role("button", name="Done, and everything above").click()
    settled(page)
    tick_the_rest(page)
    page.locator('.rail a[href$="run-proof"]').click()
    expect(page.locator("h1")).to_have_text("Run test")
    page.get_by_role("button", name="Energize").click()
    expect(page.locator(".strip")).to_contain_text("Energized")
    page.get_by_role("button", name="right", exact=True).click()
    expect(page.locator(".saved-what")).to_contain_text("right")
    for value in ("236.0", "7.20"):
        if value == "7.20":
            for _ in range(4):
                page.get_by_role("button", name="one turn more").click()
        page.locator("#value").fill(value)
        page.get_by_role("button", name="Save, go on").click()
        expect(page.locator(".saved-what")).to_contain_text(value)
    expect(page.locator(".checks")).to_contain_text("1.44 A (7.20 through 5 turns)")
    page.get_by_role("button", name="quiet", exact=True).click()
    expect(page.locator(".next")).to_contain_text("Passed")

    page.locator(".next").get_by_role("link", name="Hand over").click()
    page.get_by_label("What you did").fill("Motor and dual capacitor replaced")
    page.get_by_role("button", name="Close the call").click()
    expect(page.locator(".strip")).to_contain_text("Closed")
    expect(page.locator(".record")).to_contain_text("motor TM-4027")
    page.get_by_role("link", name="Print").click()
    expect(page.locator(".record")).to_contain_text("Motor and dual capacitor replaced")


def test_the_field_is_judged_while_typing_and_corrected_afterwards(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=capacitor&kind=capacitance_uf")
    page.locator("#value").fill("4.1")
    expect(page.locator("#judged .judged")).to_contain_text("Weak: 18 % low")
    page.locator("#value").fill("4.9")
    expect(page.locator("#judged .judged")).to_contain_text("Good")
    page.locator(".ledger tbody tr").first.get_by_role("link", name="Correct").click()
    expect(page.locator(".correcting")).to_contain_text("Corrects 2.10")
    page.locator("#value").fill("4.90")
    page.keyboard.press("Enter")
    expect(page.locator(".saved-what")).to_contain_text("4.90")
    expect(page.locator(".withdrawn")).to_have_count(2)


def test_a_test_that_does_not_fit_the_strip_says_so_first(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/path?link=supply&kind=supply_v&at=unit")
    expect(page.locator(".misfit")).to_contain_text("locked out")
    page.locator("#value").fill("238")
    page.keyboard.press("Enter")
    expect(page.locator("#fault-power")).to_be_visible()
    expect(page.locator("#value")).to_have_value("238")
    page.get_by_label("Do it anyway").check()
    page.get_by_role("button", name="Save, go on").click()
    expect(page.locator(".saved .judged")).to_contain_text("It proves nothing")


def test_by_keyboard_alone_a_weak_capacitor_from_new_to_closed(page, server):
    press, typed = page.keyboard.press, page.keyboard.type
    page.goto(server)
    tab_to(page, '[name="site"]')
    typed("Rope works")
    tab_to(page, '[name="unit"]')
    typed("loft")
    tab_to(page, '[name="unit_kind"]')
    typed("split")
    tab_to(page, '[name="technician"]')
    press("Enter")
    expect(page.locator("h1")).to_have_text("Arrive")
    tab_to(page, '[name="symptom"]')
    press("ArrowDown")
    press("Enter")
    expect(page.locator("h1")).to_have_text("Make safe")
    for step in ("disconnect", "tester_before", "dead", "tester_after", "bled"):
        tab_to(page, f'.steps [value="{step}"]')
        press("Space")
    press("Enter")
    expect(page.locator("h1")).to_have_text("Nameplate")
    expect(page.locator(".strip")).to_contain_text(NOW_DEAD)
    for name, keys in (
        ("motor.volts", "208-230"),
        ("motor.amps_a", "1.4"),
        ("motor.rpm", "1090"),
        ("motor.capacitor_uf", "5"),
        ("motor.kind", ""),
        ("unit.supply_v", "230"),
        ("capacitor.single", "5"),
    ):
        if not name.startswith("motor"):
            tab_to(page, f'[data-fold^="{name.split(".")[0]}"] summary')
            press("Enter")
        tab_to(page, f'[name="{name}"]')
        if keys:
            typed(keys)
        else:
            press("ArrowDown")  # from "not read" round to the first, PSC
    press("Enter")
    expect(page.locator("h1")).to_have_text("Prove the path")
    tab_to(page, '.drawing:not(.drawing-narrow) a[data-part="capacitor"]')
    press("Enter")
    expect(page.locator(".pad-title")).to_contain_text("Capacitor")
    tab_to(page, '.pad-tests a[href*="capacitance_uf"]')
    press("Enter")
    expect(page.locator("#value")).to_be_focused()
    typed("2.10")
    press("Enter")
    expect(page.locator(".saved .judged")).to_contain_text("Weak")
    run_on(page.locator("body"), "() => document.activeElement.blur()")
    press("g")
    press("f")
    expect(page.locator("h1")).to_have_text("Replace the run capacitor")
    press("g")
    press("r")
    expect(page.locator("h1")).to_have_text("Run test")
    press("p")
    press("Enter")
    expect(page.locator(".strip")).to_contain_text("Energized")
    tab_to(page, 'button[name="value"][value="right"]')
    press("Enter")
    for value in ("236", "1.32"):
        expect(page.locator("#value")).to_be_focused()
        typed(value)
        press("Enter")
        expect(page.locator(".saved-what")).to_contain_text(value)
    tab_to(page, 'button[name="value"][value="quiet"]')
    press("Enter")
    expect(page.locator(".next")).to_contain_text("Passed")
    settled(page)
    press("g")
    press("o")
    expect(page.locator("h1")).to_have_text("Hand over")
    tab_to(page, '[name="fitted"]')
    typed("Capacitor 5")
    tab_to(page, ".side button.save")
    press("Enter")
    expect(page.locator(".strip")).to_contain_text("Closed")


def test_help_search_and_back_by_key(page, server):
    page.goto(f"{server}/shelf")
    page.keyboard.press("/")
    expect(page.locator("#search")).to_be_focused()
    page.keyboard.type("bw-118")
    page.keyboard.press("Enter")
    expect(page.locator(".shelf tbody tr")).to_have_count(1)
    page.locator("#main").focus()
    page.keyboard.press("?")
    expect(page.locator("h1")).to_have_text("Help")
    page.keyboard.press("Escape")
    expect(page.locator("h1")).to_have_text("Catalog")
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/path")
    page.locator("#main").focus()
    offered = attribute_of(page.locator("#next-test"), "href")
    page.keyboard.press("n")
    expect(page).to_have_url(f"{server}{offered}")


@pytest.mark.parametrize(
    "browser_context_args",
    [{"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}],
    indirect=True,
)
def test_by_touch_on_a_hand_sized_screen(page, server):
    page.goto(f"{server}/calls/{GANNET_COTTAGE}/arrive")
    page.get_by_text("Hums, won't start").tap()
    page.get_by_role("button", name="Save, go to Make safe").tap()
    for step in ("disconnect", "tester_before", "dead", "tester_after", "bled"):
        page.locator(f'.steps [value="{step}"]').tap()
    page.get_by_role("button", name="Save, go to Nameplate").tap()
    fill_plates(page)
    page.get_by_role("button", name="Save, go to Path").tap()
    expect(page.locator(".pad .save, .pad .word").first).to_be_in_viewport()  # the suggested test is what is seen first
    page.locator(".path-strip summary").tap()
    page.locator('.drawing-narrow a[data-part="bearings"]').tap()
    expect(page).to_have_url(re.compile("link=bearings&kind=spin"))
    expect(page.locator(".pad-title")).to_be_in_viewport()
    page.locator('button[name="value"][value="locked"]').tap()
    expect(page.locator(".saved")).to_be_in_viewport()
    page.locator(".path-strip summary").tap()
    page.locator('.drawing-narrow a[data-part="bearings"]').tap()
    expect(page).to_have_url(re.compile("link=bearings&kind=spin"))
    page.get_by_text("bare shaft", exact=True).tap()
    page.locator('button[name="value"][value="locked"]').tap()
    page.get_by_role("link", name="Finding", exact=True).first.tap()
    expect(page.locator("h1")).to_have_text("Replace the motor")
    page.get_by_role("link", name="Match a motor").tap()
    page.get_by_role("button", name="Choose").tap()
    expect(page.locator(".chosen-box")).to_contain_text("is chosen")
    page.locator('.rail a[href$="hand-over"]').tap()
    page.get_by_label("What is left to do").fill("The part comes with the ferry")
    page.get_by_label("Return on").fill("2027-03-14")
    page.get_by_role("button", name="Close as unfinished").tap()
    expect(page.locator(".strip")).to_contain_text("Closed")
    expect(page.locator(".record-unfinished")).to_contain_text("The part comes with the ferry")
    holds(page, "document.documentElement.scrollWidth <= 390")


@pytest.fixture
def browser_context_args(browser_context_args, request):
    """The window: 1280 x 800 unless a test says otherwise."""
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}, **getattr(request, "param", {})}


def test_with_scripts_switched_off_from_new_to_closed(browser, server, watched):
    """Everything that is needed can be seen and pressed: nothing waits for a script to show it."""
    with watched(browser.new_context(java_script_enabled=False, viewport={"width": 390, "height": 844})) as context:
        page = context.new_page()
        up_to_the_path(page, server, TYPED, {"motor.kind": "psc", "unit.run_capacitor": "dual"})
        page.locator(".path-strip summary").click()
        page.locator('.drawing:visible a[data-part="capacitor"]').click()
        settled(page)
        page.locator(".pad-tests").get_by_role("link", name="microfarads", exact=True).click()
        page.locator("#value").fill("2.10")
        page.get_by_role("button", name="Save, go on").click()
        expect(page.locator(".saved .judged")).to_contain_text("Weak: 58 % low")
        page.get_by_role("link", name="Finding", exact=True).first.click()
        expect(page.locator("h1")).to_have_text("Replace the run capacitor")
        page.locator('.rail a[href$="run-proof"]').click()
        page.get_by_role("button", name="Energize").click()
        expect(page.locator(".strip")).to_contain_text("Energized")
        for value in ("right", "236.0", "1.32", "quiet"):
            if value[0].isdigit():
                page.locator("#value").fill(value)
                page.get_by_role("button", name="Save, go on").click()
            else:
                page.get_by_role("button", name=value, exact=True).click()
            expect(page.locator(".saved-what")).to_contain_text(value)
        expect(page.locator(".next")).to_contain_text("Passed")
        page.locator(".next").get_by_role("link", name="Hand over").click()
        page.get_by_label("What you did").fill("Dual capacitor replaced")
        page.get_by_role("button", name="Close the call").click()
        expect(page.locator(".strip")).to_contain_text("Closed")
        expect(page.locator(".record")).to_contain_text("Dual capacitor replaced")
