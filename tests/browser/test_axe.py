"""axe finds no fault of any level on any page, in either theme, at a desk and in one hand."""

import pytest
from axe_playwright_python.sync_playwright import Axe

from .reading import look
from .test_look import PAGES

pytestmark = pytest.mark.browser
AXE = Axe().axe_script
DESK, HAND = (1280, 800), (390, 844)
ALL = {"resultTypes": ["violations"]}
COLOURS = {**ALL, "runOnly": ["color-contrast", "link-in-text-block"]}
ATTIC = "Object.assign(document.documentElement.dataset, {theme: 'attic', bsTheme: 'dark'})"
"""A theme changes the colours of the same page, nothing else."""
SHORTER = "document.querySelectorAll('tbody').forEach(body => [...body.rows].slice(30).forEach(row => row.remove()))"
"""The rows of a long table are made by the same lines of its template."""
LOOKS = [(DESK, PAGES[::2]), (DESK, PAGES[1::2]), (HAND, PAGES[::3])]
"""In one hand the same page is only laid out otherwise: every third shows it."""


@pytest.mark.parametrize(("size", "pages"), LOOKS, ids=["desk-1", "desk-2", "hand"])
def test_axe_finds_nothing(browser, server, watched, size, pages):
    found = []
    with watched(browser.new_context(viewport={"width": size[0], "height": size[1]})) as context:
        page = context.new_page()
        for path in pages:
            page.goto(server + path)
            look(page, SHORTER)
            look(page, AXE)
            for theme, options in (("daylight", ALL), ("attic", COLOURS)):
                if theme == "attic":
                    look(page, ATTIC)
                for violation in look(page, "options => axe.run(options).then(found => found.violations)", options):
                    nodes = [node["html"][:160] for node in violation["nodes"][:3]]
                    found.append((path, size[0], theme, violation["id"], nodes))
    assert found == []
