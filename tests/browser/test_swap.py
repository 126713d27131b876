"""An inducer's swap in the browser, from match to closed record: every step ticked, every reading taken."""

from __future__ import annotations

import json
import re

import pytest
from playwright.sync_api import expect

from keen_coil.desk.demo import DATA
from keen_coil.formats.catalogue_csv import read_catalogue
from tests.demo_calls import FERRY_ROOM, ROPE_WORKS

from .reading import all_of, count_of, settled, text_of, tick_the_rest
from .test_call import browser_context_args  # noqa: F401

pytestmark = pytest.mark.browser
MOTORS = {motor.part_no: motor for motor in read_catalogue((DATA / "motors.csv").read_bytes())}
LOCKED = [
    {"kind": "load_look", "value": "sound"},
    {"kind": "spin", "value": "locked", "with": "bare_shaft", "power": "dead"},
]
PART_NO = "SE-6061"
"""An inducer; the fan of a split condenser goes the same way in `test_call`, every kind in `core/test_swap_steps`."""
IN_THE_LIST = ("Burner door off", "New gasket on clean metal", "Flue collar and vent connected", "No spillage")


def call_file():
    """A furnace whose inducer is condemned: the same motor is on the shelf."""
    plate = MOTORS[PART_NO].model_dump(mode="json", by_alias=True, exclude_defaults=True)
    for name in ("maker", "price", "on_van", "lead_days", "kit", "supersedes", "part_no"):
        plate.pop(name, None)
    own = {"label": [{"section": "single", "uf": plate["capacitor_uf"]}], "volts_v": 440}
    return {
        "format": "keen-coil/call",
        "version": 1,
        "complaint": {"symptom": "hums_no_start", "says": "Locked."},
        "unit": {
            "kind": "furnace",
            "supply_v": 115,
            "phase": 1,
            "hz": 60,
            "mounted": "horizontal",
            "age_years": 9,
            "ambient_c": 20,
            "run_capacitor": "own",
        },
        "motor": {**plate, "part_no": "OLD-1"},
        "capacitor": own,
        "readings": LOCKED,
    }


def station(page, name):
    """To a station by the rail, once what is under way has come; waits until it is there."""
    settled(page)
    page.locator(f'.rail a[href$="/{name}"]').click()
    expect(page.locator(f'.rail a[href$="/{name}"]')).to_have_attribute("aria-current", "page")
    settled(page)


def test_from_match_to_closed_record(page, server, tmp_path):
    (tmp_path / "x.call.json").write_text(json.dumps(call_file()))
    page.goto(server)
    page.locator("summary", has_text="call file").click()
    page.locator('input[type="file"]').set_input_files(tmp_path / "x.call.json")
    page.get_by_role("button", name="Import").click()
    station(page, "finding")
    expect(page.locator("h1")).to_have_text("Replace the motor")
    page.get_by_role("link", name="Match a motor").click()
    page.get_by_role("button", name=f"Choose {PART_NO}").click()
    expect(page.locator(".chosen-box")).to_contain_text("is chosen")
    station(page, "capacitor")
    page.get_by_role("button", name="Use this one", exact=True).click()
    expect(page.locator(".chosen-box")).to_be_visible()
    station(page, "hook-up")
    wire(page)
    station(page, "swap")
    expect(page.locator("h1")).to_have_text("Swap")
    page.get_by_role("button", name="Proved dead").click()
    expect(page.locator(".strip")).to_contain_text("Locked out")
    swap(page)
    station(page, "run-proof")
    prove(page)
    settled(page)
    page.locator(".next").get_by_role("link", name="Hand over").click()
    page.get_by_label("What you did").fill("Motor replaced")
    page.get_by_role("button", name="Close the call").click()
    expect(page.locator(".strip")).to_contain_text("Closed")
    expect(page.locator(".record")).to_contain_text(f"motor {PART_NO}")
    expect(page.locator(".record-unfinished")).to_have_count(0)
    page.get_by_role("link", name="For the shop").click()
    expect(page.locator(".record")).to_contain_text("Readings of the run")
    page.get_by_role("link", name="This unit's history").click()
    expect(page.locator(".unit-motors")).to_contain_text(PART_NO)


def wire(page):
    """Keep the plan and tick its moves, where the leads are known by custom."""
    expect(page.locator("h1")).to_have_text("Wiring")
    keep = page.get_by_role("button", name="Save wiring plan")
    if not count_of(keep):
        return
    keep.click()
    expect(page.locator(".moves input").first).to_be_visible()
    for box in all_of(page.locator(".moves input")):
        box.check()
    page.get_by_role("button", name="Save checked moves").click()
    settled(page)


def swap(page):
    """The steps of the list: most are ticked several at a time, the rest one by one.

    So somebody does it who had no hand free; in `test_practice_job` each is ticked by itself, or left out.
    """
    for words in IN_THE_LIST:
        expect(page.locator(".swap-steps", has_text=words).first).to_have_count(1)
    here = page.url.partition("#")[0].partition("?")[0]
    for step in ("wires", "ground", "figures"):
        page.goto(f"{here}?step={step}")
        place = text_of(page.locator(".step-place"))
        if "done" not in place:  # with the moves of the wiring
            page.get_by_role("button", name="Done, and everything above").click()
            expect(page.locator(".step-place")).not_to_have_text(place)
    tick_the_rest(page)


def prove(page):
    """The checks of the run in their order until it has passed."""
    page.get_by_role("button", name="Energize").click()
    expect(page.locator(".strip")).to_contain_text("Energized")
    amps = re.search(r", ([\d.]+) A", text_of(page.locator(".head-note")))[1]
    volts = "118" if ", 115 V" in text_of(page.locator(".head-note")) else "236"
    for _ in range(9):
        if count_of(page.locator(".next-done")):
            return
        title = text_of(page.locator(".pad-title")).lower()
        if "direction" in title:
            page.get_by_role("button", name="right", exact=True).click()
        elif "noise" in title:
            page.get_by_role("button", name="quiet", exact=True).click()
        elif "vent" in title:
            page.get_by_role("button", name="clear", exact=True).click()
        elif "draught" in title:
            page.locator('[name="needs_inwc"]').fill("-0.6")
            save(page, "-0.9")
        else:
            save(page, volts if "volts" in title else f"{0.93 * float(amps):.2f}")
        expect(page.locator(".saved")).to_be_visible()
        settled(page)
    raise AssertionError(text_of(page.locator(".checks")))


def save(page, value):
    page.locator("#value").fill(value)
    page.get_by_role("button", name="Save, go on").click()


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
    page.locator("summary", has_text="Before you go up").click()
    page.get_by_role("link", name="Take everything").click()
    expect(page.locator(".step-place")).to_contain_text("done")
    page.get_by_label("flashlight").check()
    page.get_by_role("button", name="Save packed list").click()
    settled(page)
    expect(page.get_by_label("flashlight")).to_be_checked()
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".step-place")).to_have_text("Step 1, next")


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
