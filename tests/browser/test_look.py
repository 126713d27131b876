"""How it looks to everybody: axe in both themes, no sideways scrolling, labels of the path apart."""

import pytest
from axe_playwright_python.sync_playwright import Axe

pytestmark = pytest.mark.browser
PAGES = (
    "/", "/shelf", "/help", "/calls/1/arrive", "/calls/1/make-safe", "/calls/2/plates", "/calls/1/path",
    "/calls/5/path?link=windings", "/calls/1/path?link=capacitor&kind=capacitance_uf&replaces=8&saved=8",
    "/calls/2/finding", "/calls/5/finding", "/calls/2/match", "/calls/1/run-proof", "/calls/6/run-proof",
    "/calls/6/hand-over", "/calls/1/hand-over", "/calls/6/record", "/calls/99/path",
)  # fmt: skip


@pytest.mark.parametrize("theme", ["daylight", "attic"])
def test_axe_finds_nothing_serious(browser, server, theme):
    found = []
    for size in ((1280, 800), (390, 844)):
        with browser.new_context(viewport={"width": size[0], "height": size[1]}) as context:
            context.add_cookies([{"name": "keen_coil_theme", "value": theme, "url": server}])
            page = context.new_page()
            for path in PAGES:
                page.goto(server + path)
                for violation in Axe().run(page).response["violations"]:
                    if violation["impact"] in ("serious", "critical"):
                        nodes = [node["html"][:160] for node in violation["nodes"][:3]]
                        found.append((path, size[0], violation["id"], nodes))
    assert found == []


@pytest.mark.parametrize("width", [1280, 390])
def test_nothing_scrolls_sideways(browser, server, width):
    with browser.new_context(viewport={"width": width, "height": 800}) as context:
        page = context.new_page()
        for path in PAGES:
            page.goto(server + path)
            assert page.evaluate("document.documentElement.scrollWidth") <= width, path


@pytest.mark.parametrize("width", [1280, 390])
def test_no_two_labels_of_the_path_overlap_and_none_leaves_the_picture(browser, server, width):
    boxes_of = """() => {
      const svg = [...document.querySelectorAll('.drawing')].find(s => s.getBoundingClientRect().width);
      const box = e => { const r = e.getBoundingClientRect(); return [r.left, r.top, r.right, r.bottom, e.textContent]; };
      return [box(svg), [...svg.querySelectorAll('text')].map(box)];
    }"""
    with browser.new_context(viewport={"width": width, "height": 800}) as context:
        page = context.new_page()
        for call in range(1, 7):
            page.goto(f"{server}/calls/{call}/path")
            frame, boxes = page.evaluate(boxes_of)
            for i, a in enumerate(boxes):
                assert a[0] >= frame[0] - 1, a
                assert a[2] <= frame[2] + 1, a
                assert a[3] <= frame[3] + 1, a
                for b in boxes[i + 1 :]:
                    apart = a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] + 3 or b[3] <= a[1] + 3
                    assert apart, (call, a, b)
