"""Reading a page once it has come to rest: the only place of the browser tests that reads without an assertion that waits.

`expect` waits by itself and comes first. What it cannot say (a size, a list to walk, a script's answer) is read here.
"""

from __future__ import annotations

import time
from typing import Any

from playwright.sync_api import Error, Locator, Page, expect

PATIENCE_S = 120
BUSY = ".htmx-request, .htmx-swapping, .htmx-settling, .htmx-added, .part-coming"
AT_REST = """busy => document.readyState === 'complete' && !document.querySelector(busy)
  && document.fonts.ready.then(() => !document.querySelector(busy))"""


def settled(page: Page) -> None:
    """Wait until the page is loaded, no request of htmx is under way and its letters are there."""
    ends = time.monotonic() + PATIENCE_S
    while not _says(page, AT_REST, BUSY):
        assert time.monotonic() < ends, f"never at rest: {page.url}"
        page.wait_for_timeout(10)


def look(page: Page, script: str, argument: Any = None) -> Any:
    """What a script says of a page at rest."""
    settled(page)
    return page.evaluate(script, argument)


def look_at_widths(page: Page, script: str, widths: tuple[int, ...], height: int = 800) -> dict[int, Any]:
    """What a script says of a page at rest at each of some widths."""
    settled(page)
    found = {}
    for width in widths:
        if page.viewport_size != {"width": width, "height": height}:
            page.set_viewport_size({"width": width, "height": height})
        found[width] = page.evaluate(script)
    return found


def run_on(locator: Locator, script: str, argument: Any = None) -> Any:
    """What a script does with an element of a page at rest."""
    settled(locator.page)
    return locator.evaluate(script, argument)


def holds(page: Page, script: str, argument: Any = None) -> None:
    """Wait until a script says yes. Asked again from here: the page's own policy lets no script be made from text."""
    ends = time.monotonic() + PATIENCE_S
    while not _says(page, script, argument):
        assert time.monotonic() < ends, f"never true: {script}"
        page.wait_for_timeout(50)


def _says(page: Page, script: str, argument: Any) -> Any:
    try:
        return page.evaluate(script, argument)
    except Error:  # the page went on meanwhile: the next one is asked
        return None


def tab_to(page: Page, selector: str) -> None:
    """Press Tab on a page at rest until the wanted element has the focus."""
    settled(page)
    for _ in range(160):
        if page.evaluate("s => document.activeElement?.matches(s)", selector):
            page.keyboard.up("Tab")
            return
        page.keyboard.down("Tab")
    raise AssertionError(f"{selector} is not reached by Tab")


def text_of(locator: Locator) -> str:
    """The text of an element of a page at rest."""
    settled(locator.page)
    return locator.inner_text()


def value_of(locator: Locator) -> str:
    """What a field of a page at rest holds."""
    settled(locator.page)
    return locator.input_value()


def attribute_of(locator: Locator, name: str) -> str:
    """An attribute of an element of a page at rest."""
    settled(locator.page)
    return locator.get_attribute(name) or ""


def box_of(locator: Locator) -> dict[str, float]:
    """Where an element of a page at rest stands."""
    settled(locator.page)
    box = locator.bounding_box()
    assert box is not None, locator
    return dict(box)


def count_of(locator: Locator) -> int:
    """How many elements of a page at rest there are."""
    settled(locator.page)
    return locator.count()


def all_of(locator: Locator) -> list[Locator]:
    """The elements of a page at rest, one by one."""
    settled(locator.page)
    return locator.all()


MARKS = {"blade_height": "2.5", "blade_height_after": "2.56", "band_at": "1.2", "band_at_after": "1.25"}


def fill_marks(page):
    """The figures that the step in hand asks for."""
    if not count_of(page.locator(".mark")):
        return
    for field in all_of(page.locator(".mark input[type=text], .mark input:not([type])")):
        field.fill(MARKS.get(attribute_of(field, "name"), "0.5"))
    if count_of(page.locator(".mark input[type=radio]")):
        page.locator(".mark .chip").first.click()
    if count_of(page.locator(".mark select")):
        page.locator(".mark select").select_option("6")


def tick_the_rest(page):
    """The steps that are left, each by itself with its figures."""
    for _ in range(60):
        place = text_of(page.locator(".step-place"))
        if "next" not in place:
            break
        fill_marks(page)
        page.get_by_role("button", name="Done", exact=False).first.click()
        expect(page.locator(".step-place")).not_to_have_text(place)
        settled(page)
    expect(page.locator(".head-note")).to_contain_text("All steps done")
