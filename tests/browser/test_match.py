"""Match, Body, Capacitor and Shelf, as a technician uses them in the browser."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.demo_calls import FERRY_ROOM, ROPE_WORKS

from .reading import attribute_of, box_of

NAMED = re.compile


def test_choose_by_school_and_go_on_to_the_capacitor(page, server):
    page.goto(f"{server}/calls/{FERRY_ROOM}/match")
    expect(page.locator(".effects")).to_contain_text("OEM exact")
    expect(page.locator(".candidates")).not_to_contain_text("TM-4031")
    page.get_by_role("button", name="Horsepower and amps").click()
    expect(page.get_by_role("button", name="Horsepower and amps")).to_have_attribute("aria-pressed", "true")
    page.locator(".candidates").get_by_role("link", name="TM-4031").click()
    expect(page).to_have_url(NAMED("part=TM-4031"))
    page.get_by_role("button", name="Choose TM-4031").click()
    page.get_by_role("link", name="Next: its capacitor").click()
    expect(page.locator("h1")).to_have_text("Capacitor: 7.5 µF, 370 V or higher")
    expect(page.locator(".stays")).to_contain_text("A new motor gets a new capacitor in this shop")
    page.get_by_role("button", name="Reuse if it tests good").click()
    expect(page.locator(".stays")).to_contain_text("It is 5 µF, the motor calls for 7.5")
    page.locator(".answers").last.get_by_role("link", name="FC-7P5-RD").click()
    expect(page).to_have_url(NAMED("answer=single"))
    expect(page.locator(".strap")).to_have_attribute("aria-label", NAMED("motor's capacitor lead: FC-7P5-RD 2"))
    page.get_by_role("button", name="Use this one", exact=True).click()
    expect(page.locator(".chosen-box")).to_contain_text("Exact value: 7.5 µF")
    page.get_by_role("link", name="Next: wiring").click()
    expect(page.locator("h1")).to_have_text("Wiring")


def test_a_plate_typed_by_hand_is_judged_and_compared(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/match")
    page.get_by_role("link", name="Type a plate that is not in the catalog").click()
    plate = {
        "motor.part_no": "HAND-1",
        "motor.hp": "1/4",
        "motor.volts": "208-230",
        "motor.amps_a": "1,45",
        "motor.rpm": "1080",
    }
    for name, value in plate.items():
        page.locator(f'[name="{name}"]').fill(value)
    for name, value in {"motor.phase": "1", "motor.hz": "60"}.items():
        page.locator(f'[name="{name}"]').select_option(value)
    for name, value in {"motor.kind": "psc", "motor.rotation.sense": "reversible"}.items():
        page.locator(f'.chip:has([name="{name}"][value="{value}"])').click()
    page.get_by_role("button", name="Compare it").click()
    expect(page.locator('[id="fault-motor.amps_a"]')).to_contain_text("1,45 does not work")
    expect(page.locator('[name="motor.hp"]')).to_have_value("1/4")
    page.locator('[name="motor.amps_a"]').fill("1.45")
    page.get_by_role("button", name="Compare it").click()
    expect(page.locator(".two-tags thead")).to_contain_text("HAND-1, typed for this call")
    expect(page.locator(".two-tags")).to_contain_text("not compared")
    for part in ("HAND-1", "BW-118"):
        page.get_by_label(f"Compare {part}").check()
    page.get_by_role("button", name="Compare checked").click()
    expect(page.locator(".compare thead th")).to_have_count(4)
    expect(page.locator(".compare")).to_contain_text("drops in")


def test_the_list_is_narrowed_to_the_van(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/match")
    page.get_by_text("Narrow the list").click()
    page.get_by_label("on the van").check()
    page.get_by_role("button", name="Narrow", exact=True).click()
    expect(page.locator(".candidates li")).to_have_count(1)
    expect(page.locator(".candidates")).to_contain_text("TM-4027")
    expect(page.locator(".head-note")).to_contain_text("hidden by the filter")


def test_the_hub_is_dragged_until_the_blade_plane_is_right_and_kept(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/body?part=TM-4027")
    field = page.locator("#at")
    expect(field).to_have_value("7.6")
    field.fill("8.6")
    expect(page.locator(".body-found")).to_contain_text("1.00 in further out than it was")
    drawing = page.locator(".body-drawing")
    expect(drawing).to_have_attribute("data-at", "8.6000")
    scale = float(attribute_of(drawing, "data-scale")) * box_of(drawing)["width"] / 700
    hub = box_of(page.locator(".body-new-hub"))
    x, y = hub["x"] + hub["width"] / 2, hub["y"] + hub["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - scale, steps=6)
    page.mouse.up()
    expect(field).to_have_value(NAMED(r"^7\.(5625|6|625)$"))
    expect(page.locator(".body-found")).not_to_contain_text("than it was")
    page.locator('[name="new.body_length_in"]').fill("7.9")
    expect(page.locator(".body-found")).to_contain_text("The hub hits the body")
    expect(page.locator(".body-clash")).not_to_have_count(0)
    page.locator('[name="new.body_length_in"]').fill("abc")
    expect(page.locator("#section")).to_be_visible()
    page.locator('[name="new.body_length_in"]').fill("5.0")
    page.get_by_role("button", name="Save lengths").click()
    expect(page.locator(".saved")).to_contain_text("Saved with the call")
    page.goto(f"{server}/calls/{ROPE_WORKS}/match?part=TM-4027")
    expect(page.locator(".two-tags")).to_contain_text("5.6 x 5 in")


BAD_ROWS = "TQ-2,psc,1/4,23O,1.5,1,60,1075\nTQ-3,psc,,208-230,1.5,1,60,1075\nTQ-1,psc,1/4,208-230,1.5,1,60,1075\n"


def test_a_catalogue_with_three_bad_rows_is_looked_at_first(page, server):
    data = "part_no,kind,hp,volts,amps_a,phase,hz,rpm\nTQ-1,psc,1/4,208-230,1.5,1,60,1075\n" + BAD_ROWS
    page.goto(f"{server}/shelf")
    page.locator("input[type=file]").set_input_files({"name": "m.csv", "mimeType": "text/csv", "buffer": data.encode()})
    page.get_by_role("button", name="Preview import").click()
    expect(page.locator("h1")).to_have_text("Preview: m.csv")
    expect(page.locator(".draft tbody tr")).to_have_count(4)
    page.get_by_role("link", name="refused 3").click()
    expect(page.locator(".draft tbody tr")).to_have_count(3)
    expect(page.locator(".draft")).to_contain_text("Row 3, volts: 23O. Needed: plate volts such as")
    page.get_by_role("button", name="Import 1 row, skip 3").click()
    expect(page.locator(".saved")).to_contain_text("1 added, 0 changed, 0 as before, 3 refused and skipped")
    expect(page.locator(".top-what")).to_contain_text("75 motors")


def test_a_large_file_is_read_beside_the_page_with_a_bar(page, server):
    rows = "".join(f"L-{n:05d},psc,1/4,208-230,1.5,1,60,1075,made up to be long enough\n" for n in range(7000))
    data = "part_no,kind,hp,volts,amps_a,phase,hz,rpm,maker\n" + rows
    page.goto(f"{server}/shelf")
    page.locator("input[type=file]").set_input_files(
        {"name": "big.csv", "mimeType": "text/csv", "buffer": data.encode()}
    )
    page.get_by_role("button", name="Preview import").click()
    expect(page.locator("progress")).to_be_visible()
    page.locator("h1").hover()
    page.mouse.down()  # a thumb that rests on the page holds nothing up that was asked for
    expect(page.locator("h1")).to_have_text("Preview: big.csv")
    page.mouse.up()
    page.get_by_role("button", name="Import 7000 rows").click()
    expect(page.locator(".saved")).to_contain_text("7000 added")
    page.locator("#search").fill("l-06")
    page.get_by_role("button", name="Find").click()
    expect(page.locator(".found-note")).to_contain_text("1000 match. Page 1 of 10.")
