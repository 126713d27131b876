"""The Lab in the browser: a slider moved, the answer read; a question asked; in one hand and in the attic."""

import re

import pytest
from playwright.sync_api import expect

from tests.demo_calls import ROPE_WORKS

from .reading import attribute_of, box_of, run_on, text_of, value_of

pytestmark = pytest.mark.browser


def set_slider(page, label, value):
    """Moves a slider as a hand does: its value, then the event of every step."""
    run_on(
        page.get_by_role("slider", name=label),
        "(node, value) => { node.value = value; node.dispatchEvent(new Event('input', { bubbles: true })); }",
        str(value),
    )


def amps(page):
    """Whole amps as found, least and most."""
    cell = text_of(page.locator("#lab-values tr", has_text="amps, whole current").locator("td").nth(1))
    return [float(number) for number in re.findall(r"\d+\.\d+", cell)]


@pytest.mark.parametrize("theme", ["daylight", "attic"])
def test_a_slider_is_moved_and_the_answer_is_read(page, server, theme):
    page.context.add_cookies([{"name": "keen_coil_theme", "value": theme, "url": server}])
    page.goto(server + "/lab?part=BW-118")
    before = amps(page)
    picture = attribute_of(page.locator(".chart-wide .chart-line.chart-found").first, "d")
    set_slider(page, re.compile("capacitor"), 2)
    page.wait_for_url(re.compile(r"f_uf=2(&|$)"))
    expect(page.locator("#f_uf")).to_have_value("2")
    after = amps(page)
    assert after[0] > before[0]
    assert after[1] > before[1]
    expect(page.locator(".lab-says")).to_contain_text("less torque")
    expect(page.locator(".chart-wide .chart-line.chart-found").first).not_to_have_attribute("d", picture)
    page.reload()
    assert amps(page) == after


def test_drag_until_it_stalls_and_back(page, server):
    page.goto(server + "/lab?part=BW-118")
    set_slider(page, re.compile("drag"), 100)
    page.get_by_text("Stalled.").wait_for()
    expect(page.locator(".lab-says")).to_contain_text("Left on, the windings burn")
    page.locator("#f_drag").fill("0")
    page.get_by_text("Starts and runs.").wait_for()
    expect(page.get_by_role("slider", name=re.compile("drag"))).to_have_value("0")


def test_a_question_is_asked_and_then_moved_on_from(page, server):
    page.goto(server + f"/lab?call={ROPE_WORKS}")
    page.get_by_role("link", name="Capacitor open").click()
    page.get_by_text("Capacitor open: runs only if pushed").wait_for()
    expect(page.locator("#f_uf")).to_have_value("0")
    page.get_by_role("link", name="Speed", exact=True).click()
    page.wait_for_url(re.compile("show=rpm"))
    page.get_by_role("link", name="volts", exact=True).click()
    page.wait_for_url(re.compile("over=volts_v"))
    page.locator(".chart-wide .chart-zone").first.wait_for()
    page.get_by_role("link", name="As read on the call").click()
    page.wait_for_url(lambda url: "f_uf" not in url)
    expect(page.locator("#f_uf")).to_have_value("2.1")


def test_what_cannot_be_is_said_while_typing_and_a_right_value_brings_the_picture_back(page, server):
    page.goto(server + "/lab?part=BW-118")
    page.locator(".lab-plate summary").click()
    page.locator("input[name=hp]").fill("3")
    page.get_by_text("No model for this plate.").wait_for()
    page.locator("input[name=hp]").fill("1/4")
    page.locator(".chart-wide").wait_for()
    page.locator("#f_uf").fill("x")
    page.get_by_text("That can't be used.").wait_for()


def test_in_one_hand_sliders_stand_under_the_picture(browser, server, watched):
    with watched(browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)) as context:
        page = context.new_page()
        page.goto(server + "/lab?part=BW-118")
        chart = box_of(page.locator(".chart-narrow"))
        slider = box_of(page.locator("input[type=range]").first)
        table = box_of(page.locator("#lab-values"))
        assert chart["y"] + chart["height"] < slider["y"] < table["y"]
        assert slider["height"] >= 44
        expect(page.locator(".chart-wide")).to_be_hidden()


def test_the_figure_and_the_data_come_down(page, server):
    page.goto(server + f"/lab?call={ROPE_WORKS}&show=amps")
    for name, ending in (("Figure (SVG)", ".svg"), ("Data (CSV)", ".csv")):
        with page.expect_download() as download:
            page.get_by_role("link", name=name).click()
        assert download.value.suggested_filename == f"motor-amps{ending}"


def test_a_slider_dragged_fast_ends_at_its_last_value(page, server):
    page.goto(server + "/lab?part=BW-118")
    slider = page.get_by_role("slider", name=re.compile("volts"))
    slider.focus()
    before = int(value_of(slider))
    for _ in range(25):
        page.keyboard.press("ArrowLeft")
    page.wait_for_url(re.compile(rf"f_v={before - 25}(&|$)"))
    expect(page.locator("#f_v")).to_have_value(str(before - 25))
    says = text_of(page.locator(".lab-says"))
    page.reload()
    expect(page.locator(".lab-says")).to_have_text(says)


def test_a_chart_says_its_values_under_the_pointer_and_by_the_arrow_keys(page, server):
    page.goto(server + f"/lab?call={ROPE_WORKS}&show=rpm&over=volts_v")
    chart = page.locator(".chart-wide")
    box = box_of(chart.locator("svg"))
    page.mouse.move(box["x"] + 0.9 * box["width"], box["y"] + box["height"] / 2)
    says = chart.locator(".readout-says")
    expect(says).to_have_text(re.compile(r"^\d+(\.\d)? V: should be \d+; as found \d+ rpm$"))
    at_right = text_of(says)
    page.mouse.move(5, 5)
    expect(says).to_have_text("")
    chart.focus()
    page.keyboard.press("End")
    page.keyboard.press("PageDown")
    expect(says).not_to_have_text(at_right)
    expect(chart).to_have_attribute("aria-valuetext", text_of(says))
    for path, first, then in (
        ("/log/units/14", r"as (found|left): [\d.]+ A", r"as (found|left): [\d.]+ A"),
        ("/practice/2", r"^before: \d+ %", r"^1, .+: \d+ %"),
    ):
        page.goto(server + path)
        chart = page.locator("[data-readout]").first
        chart.focus()
        page.keyboard.press("Home")
        expect(chart).to_have_attribute("aria-valuetext", re.compile(first))
        page.keyboard.press("ArrowRight")
        expect(chart).to_have_attribute("aria-valuetext", re.compile(then))
        expect(chart.locator(".readout-line")).to_be_attached()
