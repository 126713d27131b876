"""Axe finds no fault of any level, in either theme, at a desk and in one hand."""

import pytest
from axe_playwright_python.sync_playwright import Axe

from tests.demo_calls import (
    BREWHOUSE,
    FERRY_ROOM,
    GANNET_COTTAGE,
    HARBOUR_OFFICE,
    PRACTICE_CALL,
    ROPE_WORKS,
)

from .reading import look

pytestmark = pytest.mark.browser
AXE = Axe().axe_script
DESK, HAND = (1280, 800), (390, 844)
EXTRA = ("label-content-name-mismatch",)
"""Rules that axe does not apply by itself: what is heard begins with what is seen."""
ALL = {"resultTypes": ["violations"], "rules": {rule: {"enabled": True} for rule in EXTRA}}
ATTIC = "Object.assign(document.documentElement.dataset, {theme: 'attic', bsTheme: 'dark'})"
"""A theme changes the colors of the same page, nothing else."""
DEPRECATED = """() => {
  const watching = new ReportingObserver(() => {}, {types: ['deprecation'], buffered: true});
  watching.observe();
  return watching.takeRecords().map(report => report.body.id + ' ' + report.body.sourceFile);
}"""
"""Calls that a browser is about to drop, made by any script of the page."""
SHORTER = "document.querySelectorAll('tbody').forEach(body => [...body.rows].slice(30).forEach(row => row.remove()))"
"""The rows of a long table are made by the same lines of its template."""
LOOKS = [
    (
        "daylight",
        DESK,
        (
            "/",
            f"/calls/{FERRY_ROOM}/plates",
            f"/calls/{ROPE_WORKS}/match/compare?part=TM-4027&part=BW-118",
            f"/calls/{BREWHOUSE}/swap",
            "/settings",
        ),
    ),
    (
        "attic",
        DESK,
        (
            f"/calls/{ROPE_WORKS}/path?link=capacitor&kind=capacitance_uf",
            f"/calls/{GANNET_COTTAGE}/finding",
            f"/calls/{FERRY_ROOM}/hook-up",
            f"/lab?call={ROPE_WORKS}&show=amps&ask=capacitor_open",
            "/shelf/plan",
        ),
    ),
    (
        "attic",
        HAND,
        (
            f"/calls/{FERRY_ROOM}/match",
            f"/calls/{HARBOUR_OFFICE}/run-proof",
            f"/calls/{ROPE_WORKS}/hand-over",
            "/log?of=came_back&time=all",
            f"/calls/{PRACTICE_CALL}/path?link=windings",
        ),
    ),
]
"""The fullest page of each station and of each part of the shop, turn about by theme and size; `test_html` has every page."""


def violations(page):
    """What axe finds on a page at rest: its rule, and the first places."""
    look(page, AXE)
    found = look(page, "options => axe.run(options).then(found => found.violations)", ALL)
    return [(one["id"], [node["html"][:160] for node in one["nodes"][:3]]) for one in found]


@pytest.mark.parametrize(("theme", "size", "pages"), LOOKS, ids=["desk-daylight", "desk-attic", "hand-attic"])
def test_axe_finds_nothing(browser, server, watched, theme, size, pages):
    found = []
    with watched(browser.new_context(viewport={"width": size[0], "height": size[1]})) as context:
        page = context.new_page()
        for path in pages:
            page.goto(server + path)
            look(page, f"{SHORTER}; {ATTIC if theme == 'attic' else ''}")
            found += [(path, size[0], theme, *one) for one in violations(page)]
            found += [(path, size[0], one) for one in look(page, DEPRECATED)]
    assert found == []
