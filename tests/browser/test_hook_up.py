"""The bench in the browser: as found, plan under both schools, one wrong move with its consequence, undo."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.demo_calls import FERRY_ROOM


def pick(page, lead, terminal):
    """Choose a lead in the drawing, then a terminal."""
    page.locator(f'.bench-lead[data-lead="{lead}"] text').click()
    expect(page.locator(f'.bench-lead[data-lead="{lead}"]')).to_have_attribute("data-picked", "")
    page.locator(f'.bench-terminal[data-terminal="{terminal}"] rect').click()


def test_from_as_found_to_a_wrong_wire_and_back(page, server):
    """White and brown were exchanged: two leads change places, nothing else is touched."""
    page.goto(f"{server}/calls/{FERRY_ROOM}/hook-up?view=found")
    for lead, terminal in (("black", "switch.t2"), ("white", "capacitor.fan"), ("brown", "capacitor.common")):
        pick(page, lead, terminal)
        expect(page.locator(f'[name="wire.{lead}"]')).to_have_value(terminal)
    page.get_by_role("button", name="Save wires as found").click()
    expect(page.locator(".bench-says")).to_contain_text("Turns the wrong way")
    page.get_by_role("link", name="Planned").click()
    expect(page.locator(".moves")).to_contain_text("Take off brown from capacitor common")
    expect(page.locator(".moves")).to_contain_text("Put brown on capacitor fan")
    expect(page.locator(".moves")).not_to_contain_text("black")
    page.get_by_role("link", name="own capacitor").click()
    expect(page.locator(".moves")).to_contain_text("Put brown on own capacitor side")
    page.get_by_role("link", name="dual's fan section").click()
    expect(page.locator(".moves")).to_contain_text("Put brown on capacitor fan")
    page.get_by_role("button", name="Save wiring plan").click()
    page.locator(".moves input").first.check()
    with page.expect_response(lambda answer: answer.request.method == "GET" and "view=plan" in answer.url):
        page.get_by_role("button", name="Save checked moves").click()
    expect(page.locator(".htmx-request, .htmx-swapping, .htmx-settling")).to_have_count(0)
    expect(page.locator(".moves input").first).to_be_checked()
    expect(page.locator(".moves input:checked")).to_have_count(1)

    page.get_by_role("link", name="Try it out").click()
    expect(page.get_by_role("button", name="Save checked moves")).to_have_count(0)
    expect(page).to_have_url(re.compile("view=try"))
    expect(page.locator(".bench-says")).to_have_class(re.compile("bench-runs"))
    pick(page, "brown", "capacitor.common")
    expect(page.locator(".bench-found")).to_contain_text("The start winding is straight across the line")
    expect(page.locator(".bench-says")).to_have_class(re.compile("bench-not"))
    expect(page.locator(".bench-says")).to_contain_text("It does not start")
    page.get_by_role("link", name="Start over").click()
    expect(page).to_have_url(re.compile("view=try$"))
    expect(page.locator('[name="wire.brown"]')).to_have_value("capacitor.fan")
    expect(page.locator(".bench-says")).to_have_class(re.compile("bench-runs"))


def test_by_keyboard_in_the_list_alone(page, server):
    page.goto(f"{server}/calls/{FERRY_ROOM}/hook-up?view=try")
    page.locator('[name="wire.white"]').focus()
    page.locator('[name="wire.white"]').select_option("switch.t2")
    expect(page.locator(".bench-found")).to_contain_text("No volts across the winding")
    page.locator('[name="jumper.a"]').select_option("switch.t1")
    page.locator('[name="jumper.b"]').select_option("switch.t2")
    expect(page.locator(".bench-found")).to_contain_text("Dead short")


def test_leads_by_the_plates_words_and_the_card(page, server):
    page.goto(f"{server}/calls/{FERRY_ROOM}/hook-up")
    page.locator("summary", has_text="Leads of the").click()
    rows = (("black", "common"), ("blue", "run"), ("brown", "start"), ("tan", "capacitor_return"))
    for number, (lead, says) in enumerate(rows):
        page.locator(f'[name="lead.{number}"]').fill(lead)
        page.locator(f'[name="says.{number}"]').select_option(says)
    page.get_by_role("button", name="Save leads").click()
    expect(page.locator(".moves")).to_contain_text("Cap tan in wire cap 1")
    expect(page.locator(".moves")).to_contain_text("Put blue on capacitor common")
    expect(page.locator(".bench-found")).to_contain_text("Nothing wrong")
    page.get_by_role("link", name="Wiring card to print").click()
    expect(page.locator(".card-wires")).to_contain_text("capped, one by one")
    expect(page.locator(".card-wires")).to_contain_text("tan")


def test_the_plates_diagram_typed_and_a_wrong_line_told(page, server):
    page.goto(f"{server}/calls/{FERRY_ROOM}/hook-up")
    page.locator("summary", has_text="The plate's own diagram").click()
    low = page.locator('[name="diagram.low"]')
    low.fill("1 to L1\n2 to L2\n3 to somewhere")
    page.get_by_role("button", name="Save diagram").click()
    expect(page.locator(".fault")).to_contain_text("line 3")
    expect(low).to_have_value("1 to L1\n2 to L2\n3 to somewhere")
    low.fill("1 to L1 and capacitor\n2 to L2\n3 to capacitor")
    page.get_by_role("button", name="Save diagram").click()
    expect(page.locator(".moves")).to_contain_text("Put 3 on")
    expect(page.locator(".bench-says")).to_contain_text("Turns the right way")
