"""A motor's plate by photograph, by one line, by taps, from the board to the first reading on Path; acts are counted."""

import pytest
from bench.plate_pictures import CORE_FACES, photograph
from playwright.sync_api import expect

from tests.demo_calls import FISH_CELLAR

from .reading import holds, look, settled
from .test_axe import violations
from .test_look import SIDEWAYS

pytestmark = pytest.mark.browser
SIZES = [
    pytest.param({"viewport": {"width": 1280, "height": 800}}, id="desk"),
    pytest.param({"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}, id="hand"),
]
at_a_desk = pytest.mark.parametrize("browser_context_args", SIZES[:1], indirect=True)
in_one_hand = pytest.mark.parametrize("browser_context_args", SIZES[1:], indirect=True)
LINE = "quarter horse 1075 208-230 1.4 amps five mike 370 reversible 48 frame shaft down"


class Acts:
    """What a technician does on a page, counted: a tap, a field typed into, a choice."""

    def __init__(self, page):
        self.page, self.done = page, 0

    def tap(self, locator):
        self.done += 1
        locator.click()
        settled(self.page)

    def type(self, locator, text):
        self.done += 1
        locator.fill(text)

    def pick(self, locator, value):
        self.done += 1
        locator.select_option(value)

    def photograph(self, picture):
        self.done += 1
        file = {"name": "plate.jpg", "mimeType": "image/jpeg", "buffer": picture}
        self.page.locator(".camera input").set_input_files(file)


def to_the_plates(acts, server):
    """A new condenser fan call from the board, with its symptom, up to its plates."""
    page = acts.page
    page.goto(server)
    acts.type(page.get_by_label("Site"), "Lighthouse")
    acts.type(page.get_by_label("Unit", exact=True), "east lawn")
    acts.pick(page.get_by_label("Unit type"), "split_condenser")
    acts.tap(page.get_by_role("button", name="Start call"))
    expect(page.locator("h1")).to_have_text("Arrive")
    acts.tap(page.locator(".rail").get_by_role("link", name="Nameplate"))
    expect(page.locator("h1")).to_have_text("Nameplate")


def first_reading(acts):
    """The first reading on Path: volts at the unit."""
    page = acts.page
    expect(page.locator("h1")).to_have_text("Prove the path")
    acts.type(page.locator("#value"), "238")
    acts.tap(page.locator("#pad-form .save"))
    expect(page.locator(".saved")).to_be_visible()


@in_one_hand
def test_by_photograph(page, server):
    picture, plate = photograph(1000, "mild", "motor", CORE_FACES)
    acts = Acts(page)
    to_the_plates(acts, server)
    expect(page.locator(".camera")).to_be_in_viewport()
    acts.photograph(picture)
    expect(page.locator("h1")).to_have_text("What the motor plate says")
    expect(page.locator('[name="take.motor.rpm"]')).to_be_checked()
    expect(page.locator(".read-save .save")).to_be_in_viewport()
    expect(page.locator(".read-sure .crop").first).to_have_js_property("complete", True)
    assert violations(page) == []
    wide, outside = look(page, SIDEWAYS)
    assert (wide <= page.viewport_size["width"], outside) == (True, [])
    acts.tap(page.locator(".read-save .save"))
    first_reading(acts)
    assert acts.done <= 12, f"{acts.done} acts"
    expect(page.locator(".top-what")).to_contain_text(f"{plate.truth['rpm']} rpm")


@at_a_desk
def test_by_one_line(page, server):
    acts = Acts(page)
    to_the_plates(acts, server)
    acts.type(page.locator("#line"), LINE)
    acts.tap(page.get_by_role("button", name="Read the line"))
    expect(page.locator('[name="take.motor.amps_a"]')).to_be_checked()
    acts.tap(page.locator(".read-save .save"))
    first_reading(acts)
    assert acts.done <= 13, f"{acts.done} acts"
    expect(page.locator(".top-what")).to_contain_text("1/4 hp 1075 rpm 208-230 V")


@in_one_hand
def test_by_taps(page, server):
    acts = Acts(page)
    to_the_plates(acts, server)
    for name, text in (("volts", "208-230"), ("hp", "1/4"), ("rpm", "1075"), ("capacitor_uf", "5"), ("speeds", "1")):
        acts.tap(page.locator(f'[data-fill="f-motor.{name}"][data-text="{text}"]'))
        expect(page.locator(f'[id="f-motor.{name}"]')).to_have_value(text)
    acts.type(page.locator('[id="f-motor.amps_a"]'), "1.4")
    for name, value in (("rotation.sense", "ccw"), ("rotation.seen_from", "shaft_end"), ("kind", "psc")):
        acts.tap(page.locator(f'.chip:has([name="motor.{name}"][value="{value}"])'))
    acts.tap(page.locator(".plates-save .save"))
    first_reading(acts)
    assert acts.done <= 18, f"{acts.done} acts"
    expect(page.locator(".top-what")).to_contain_text("1/4 hp 1075 rpm 208-230 V")


def test_a_doubtful_field_is_ticked_when_it_is_corrected_and_nothing_is_changed_by_itself(page, server):
    acts = Acts(page)
    to_the_plates(acts, server)
    plates = page.url
    for line in ("1/2 hp 1075 rpm", "1/3 hp 825 rpm"):
        page.goto(plates)
        acts.type(page.locator("#line"), line)
        acts.tap(page.get_by_role("button", name="Read the line"))
        if line.startswith("1/2"):
            acts.tap(page.locator(".read-save .save"))
    expect(page.locator(".read-doubtful")).to_contain_text("The call has 1/2 now.")
    expect(page.locator(".read-doubtful input:checked")).to_have_count(0)
    doubtful = page.locator(".read-doubtful li", has=page.locator('[name="motor.hp"]'))
    doubtful.locator('[name="motor.hp"]').fill("1/4")
    expect(doubtful.get_by_role("checkbox")).to_be_checked()
    acts.tap(page.locator(".read-save .save"))
    page.goto(plates)
    expect(page.locator('[id="f-motor.hp"]')).to_have_value("1/4")
    expect(page.locator('[id="f-motor.rpm"]')).to_have_value("1075")


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
