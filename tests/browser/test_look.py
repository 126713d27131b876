"""How it looks to everybody: no sideways scrolling, labels of the path apart in every unit."""

import pytest
from playwright.sync_api import expect

from keen_coil.core.call import read_call
from keen_coil.services.calls.call_files import import_call
from keen_coil.services.calls.calls import open_call
from keen_coil.services.calls.rail import STATIONS as STATIONS_OF_A_CALL
from keen_coil.store.database import Database
from tests.demo_calls import (
    BREWHOUSE,
    FERRY_ROOM,
    FISH_CELLAR,
    GANNET_COTTAGE,
    HARBOUR_OFFICE,
    PRACTICE_CALL,
    READING_ROOM,
    ROPE_WORKS,
    ROPE_WORKS_ROOF,
    SCHOOL_FURNACE,
    TIDE_MILL,
)
from tests.fixtures import stamp

from .reading import holds, look, look_at_widths, settled

pytestmark = pytest.mark.browser
PAGES = (
    "/",
    "/shelf",
    "/help",
    f"/calls/{ROPE_WORKS}/arrive",
    f"/calls/{ROPE_WORKS}/make-safe",
    f"/calls/{FERRY_ROOM}/plates",
    f"/calls/{ROPE_WORKS}/path",
    f"/calls/{GANNET_COTTAGE}/path?link=windings",
    f"/calls/{ROPE_WORKS}/path?link=capacitor&kind=capacitance_uf&replaces=8&saved=8",
    f"/calls/{FERRY_ROOM}/finding",
    f"/calls/{GANNET_COTTAGE}/finding",
    f"/calls/{FERRY_ROOM}/match",
    f"/calls/{ROPE_WORKS}/run-proof",
    f"/calls/{HARBOUR_OFFICE}/run-proof",
    f"/calls/{HARBOUR_OFFICE}/hand-over",
    f"/calls/{ROPE_WORKS}/hand-over",
    f"/calls/{HARBOUR_OFFICE}/hand-over?for=shop",
    f"/calls/{HARBOUR_OFFICE}/record",
    "/calls/99/path",
    f"/calls/{ROPE_WORKS}/swap",
    f"/calls/{FERRY_ROOM}/swap",
    f"/calls/{BREWHOUSE}/swap",
    f"/calls/{BREWHOUSE}/swap?step=drains",
    f"/calls/{HARBOUR_OFFICE}/swap",
    "/log",
    "/log?find=creamery+yard",
    "/log?of=came_back&time=all",
    "/log/units/14",
    "/log/archive",
    "/shelf/plan",
    f"/calls/{ROPE_WORKS}/body?part=TM-4027",
    f"/calls/{SCHOOL_FURNACE}/body?part=TM-5041",
    f"/calls/{ROPE_WORKS}/body?part=TM-4027&at=9&new.body_length_in=8",
    f"/calls/{FERRY_ROOM}/hook-up",
    f"/calls/{SCHOOL_FURNACE}/hook-up",
    f"/calls/{ROPE_WORKS_ROOF}/hook-up",
    f"/calls/{TIDE_MILL}/hook-up",
    f"/calls/{FERRY_ROOM}/hook-up?view=try",
    f"/calls/{ROPE_WORKS}/hook-up?view=found",
    f"/calls/{ROPE_WORKS}/capacitor",
    f"/calls/{HARBOUR_OFFICE}/capacitor",
    f"/calls/{ROPE_WORKS}/match/plate",
    f"/calls/{ROPE_WORKS}/match/compare?part=TM-4027&part=BW-118",
    "/shelf?on=van",
    "/lab",
    f"/lab?call={ROPE_WORKS}&show=amps&ask=capacitor_open",
    f"/lab?call={READING_ROOM}",
    f"/calls/{FISH_CELLAR}/finding",
    f"/calls/{ROPE_WORKS}/path?link=running&kind=run_amps_a",
    "/settings",
    "/settings/weighing",
    f"/calls/{SCHOOL_FURNACE}/path?link=windings",
    f"/calls/{ROPE_WORKS_ROOF}/path?link=insulation&kind=insulation_mohm",
    f"/calls/{ROPE_WORKS_ROOF}/finding",
    f"/calls/{TIDE_MILL}/path?link=control&kind=ecm_command",
    f"/calls/{READING_ROOM}/path?link=air&kind=draught_inwc",
    "/sign-in",
    "/account",
    "/settings/accounts",
    "/settings/trail",
    "/practice",
    "/practice?advice=no",
    "/practice?ladder=jobs",
    "/phone",
    "/away",
    "/practice/2",
    "/practice/4",
    f"/calls/{PRACTICE_CALL}/path?link=windings",
    f"/calls/{PRACTICE_CALL}/finding",
    f"/calls/{PRACTICE_CALL}/path?link=bearings&kind=spin",
    f"/calls/{FISH_CELLAR}/path?link=air&kind=air_speed_fpm",
    f"/calls/{FISH_CELLAR}/arrive",
    f"/calls/{FISH_CELLAR}/path?link=running&kind=sister_amps_a",
)


OUTSIDE = """() => [...document.querySelectorAll('main, .below, .side, .pad')].flatMap(column => {
  const right = column.getBoundingClientRect().right - parseFloat(getComputedStyle(column).paddingRight) + 1;
  const rolls = e => { for (let p = e.parentElement; p !== column; p = p.parentElement) if (getComputedStyle(p).overflowX !== 'visible') return true; };
  const seen = e => !e.closest('.visually-hidden, option') && !(e.closest('svg') && e.tagName !== 'svg') && e.getClientRects().length;
  return [...column.querySelectorAll('*')].filter(e => seen(e) && e.getBoundingClientRect().right > right && !rolls(e)).map(e => e.outerHTML.slice(0, 80));
}).slice(0, 3)"""
"""What sticks out of its column lies under the next one."""
SIDEWAYS = f"[document.documentElement.scrollWidth, ({OUTSIDE})()]"


DESK, HAND = 1280, 390


@pytest.fixture
def demo_here(server, tmp_path):
    """The database that the server has open, opened beside it."""
    db = Database.opened(tmp_path / "demo.db")
    yield db
    db.close()


UNITS = [
    {},
    {"unit": {"kind": "heat_pump_outdoor"}},
    {"unit": {"switch": {"kind": "board"}, "run_capacitor": "own", "sisters": 2}},
    {
        "unit": {
            "kind": "heat_pump_outdoor",
            "switch": {"kind": "board"},
            "refrigerant_mildly_flammable": True,
            "sisters": 1,
        },
        "motor": {"kind": "ecm"},
    },
    {
        "unit": {"kind": "air_handler", "switch": {"kind": "relay"}, "run_capacitor": "own"},
        "motor": {"role": "indoor_blower", "kind": "psc", "speeds": 5},
    },
    {
        "unit": {"kind": "fan_coil", "switch": {"kind": "remote_switch"}},
        "motor": {"role": "indoor_blower", "kind": "shaded_pole", "speeds": 3},
    },
    {"unit": {"kind": "furnace", "switch": {"kind": "board"}}, "motor": {"role": "inducer", "kind": "ecm"}},
    {"unit": {"kind": "furnace"}, "motor": {"role": "indoor_blower", "kind": "ecm", "drive": "direct"}},
    {
        "unit": {"kind": "package_unit", "phase": 3, "switch": {"kind": "starter"}},
        "motor": {"role": "indoor_blower", "kind": "three_phase", "drive": "belt"},
    },
    {
        "unit": {"kind": "package_unit", "phase": 3, "switch": {"kind": "contactor", "poles": 3}, "sisters": 3},
        "motor": {"role": "condenser_fan", "kind": "three_phase"},
    },
]
BOXES = """() => {
  const svg = [...document.querySelectorAll('.drawing')].find(s => s.getBoundingClientRect().width);
  const box = e => { const r = e.getBoundingClientRect(); return [r.left, r.top, r.right, r.bottom, e.textContent]; };
  return [box(svg), [...svg.querySelectorAll('text')].map(box)];
}"""


def looked_at_without_script(browser, watched, addresses, script, widths):
    """What a script of the tests says of pages whose own scripts are off; what those would fold away is seen too."""
    with watched(browser.new_context(java_script_enabled=False, viewport={"width": HAND, "height": 800})) as context:
        page = context.new_page()
        for address in addresses:
            page.goto(address)
            for width, said in look_at_widths(page, script, widths).items():
                yield address, width, said


def sticking_out(browser, watched, addresses, widths):
    looked = looked_at_without_script(browser, watched, addresses, SIDEWAYS, widths)
    return [(address, width, wide, outside) for address, width, (wide, outside) in looked if wide > width or outside]


def test_nothing_scrolls_sideways_on_any_page(browser, server, watched):
    """Every page in one hand, where room is least; every fourth also at a desk and at 200 % zoom of it."""
    pages = [server + path for path in PAGES]
    assert sticking_out(browser, watched, pages, (HAND,)) == []
    assert sticking_out(browser, watched, pages[1::4], (DESK, DESK // 2)) == []


def test_no_two_labels_of_the_path_overlap_and_none_leaves_the_picture_in_any_unit(browser, server, watched, demo_here):
    files = ({"format": "keen-coil/call", "version": 1, **unit} for unit in UNITS)
    calls = [ROPE_WORKS, *(import_call(demo_here, stamp(0), read_call(file), "x.call.json") for file in files)]
    pages = [f"{server}/calls/{call}/path" for call in calls]
    for place, width, (frame, boxes) in looked_at_without_script(browser, watched, pages, BOXES, (DESK, HAND)):
        for i, a in enumerate(boxes):
            assert a[0] >= frame[0] - 1, (place, a)
            assert a[2] <= frame[2] + 1, (place, a)
            assert a[3] <= frame[3] + 1, (place, a)
            for b in boxes[i + 1 :]:
                apart = a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] + 3 or b[3] <= a[1] + 3
                assert apart, (place, width, a, b)


LONG = {"site": "W" * 120, "unit": "N" * 120, "technician": "T" * 80, "says": "Q" * 300}


def test_one_long_word_never_widens_a_page(browser, server, watched, demo_here):
    call = open_call(demo_here, stamp(0), {**LONG, "role": "condenser_fan", "unit_kind": "split_condenser"})
    stations = [f"/calls/{call}/{station.key}" for station in STATIONS_OF_A_CALL]
    pages = [server + path for path in (*stations, f"/calls/{call}/record", "/", "/log?find=wwww")]
    assert sticking_out(browser, watched, pages, (DESK, HAND)) == []


WATCH = """() => {
  window.reached = new Set(); window.unseen = []; window.upward = []; window.last = null;
  const key = e => e.type === 'radio' ? 'radio ' + e.name : e;
  const seen = e => [e, e.nextElementSibling, e.closest('label')].some(x => x && getComputedStyle(x).outlineStyle !== 'none' && parseFloat(getComputedStyle(x).outlineWidth) >= 2)
    || [...e.querySelectorAll('.link-hit')].some(x => parseFloat(getComputedStyle(x).strokeWidth) >= 3);
  const place = e => {
    const box = (e.closest('label') || e).getBoundingClientRect();
    return [['.strip', '.rail', 'aside', '.below', 'main'].find(part => e.closest(part)), box.left, box.top + scrollY, e.outerHTML.slice(0, 80)];
  };
  document.addEventListener('focusin', event => {
    window.reached.add(key(event.target));
    if (event.target === document.body || event.target.closest('.thumb-act')) return;
    const here = place(event.target), before = window.last;
    window.last = here;
    if (before && before[0] === here[0] && here[2] < before[2] - 30 && here[1] < before[1] + 40) window.upward.push([before[3], here[3]]);
    if (event.target !== document.body && event.target.id !== 'main' && !seen(event.target)) window.unseen.push(event.target.outerHTML.slice(0, 120));
  });
}"""
MISSED = """() => {
  const key = e => e.type === 'radio' ? 'radio ' + e.name : e;
  const shown = e => e.checkVisibility({contentVisibilityAuto: true}) && e.getClientRects().length && getComputedStyle(e).visibility !== 'hidden' && !e.disabled && e.tabIndex >= 0;
  const all = [...document.querySelectorAll('a[href], button, input:not([type=hidden]), select, textarea, summary')].filter(shown);
  return [all.filter(e => !window.reached.has(key(e))).map(e => e.outerHTML.slice(0, 120)), window.unseen, window.upward];
}"""


WITH_FOCUS = "a[href], button, input, select, textarea, summary"
UNFOLDED = (
    "document.querySelectorAll('details').forEach(e => { e.open = true; }); document.querySelector('.skip').focus()"
)
PAD = f"/calls/{ROPE_WORKS}/path?link=capacitor&kind=capacitance_uf"
TABBED = (
    (f"/calls/{FERRY_ROOM}/plates", HAND),
    (PAD, HAND),
    (f"/calls/{BREWHOUSE}/swap", HAND),
    (f"/calls/{ROPE_WORKS}/hand-over", HAND),
    (PAD, DESK),
    (f"/calls/{PRACTICE_CALL}/path?link=supply&kind=supply_v&at=unit", DESK),
    ("/", DESK),
)
"""The fullest stations on the phone, where the order of the page is not that of its source; others at a desk."""


def test_the_keyboard_goes_through_everything_in_reading_order_and_is_seen(page, server):
    for path, width in TABBED:
        page.set_viewport_size({"width": width, "height": 844})
        page.goto(server + path)
        look(page, WATCH)
        look(page, UNFOLDED)
        for _ in range(look(page, f"document.querySelectorAll('{WITH_FOCUS}').length") + 8):
            page.keyboard.down("Tab")
        page.keyboard.up("Tab")
        missed, unseen, upward = look(page, MISSED)
        assert (path, missed, unseen, upward) == (path, [], [], [])


def test_reduced_motion_is_respected(browser, server, watched):
    with watched(browser.new_context(reduced_motion="reduce")) as context:
        page = context.new_page()
        page.goto(f"{server}/calls/{ROPE_WORKS}/path")
        moving = "[...document.querySelectorAll('*')].filter(e => { const s = getComputedStyle(e); return parseFloat(s.transitionDuration) > 0 || s.animationName !== 'none'; }).length"
        holds(page, f"({moving}) === 0")


SHAPE = """() => ['main', '.side', '.pad', '.rail', '.below'].map(part => {
  const found = document.querySelector(part);
  return found && [part, Math.round(found.getBoundingClientRect().left), Math.round(found.getBoundingClientRect().width)];
})"""
CLICKS = ('.rail a[href="/lab"]', '.rail a[href="/"]', ".board a", '.rail a[href$="/match"]')


def test_a_page_that_is_clicked_to_is_laid_out_as_one_that_is_loaded(page, server):
    """htmx puts a page into the one before: nothing of that one's layout stays behind."""
    page.goto(server)
    for link in CLICKS:
        before = page.url
        page.locator(link).first.click()
        expect(page).not_to_have_url(before)
        settled(page)
        clicked = look(page, SHAPE)
        page.reload()
        assert clicked == look(page, SHAPE), page.url


def test_the_theme_changes_where_it_is_pressed_and_stays(page, server):
    page.goto(f"{server}/calls/{ROPE_WORKS}/path")
    for theme, other in (("attic", "Daylight"), ("daylight", "Attic")):
        page.get_by_role("button", name=theme.capitalize()).click()
        expect(page.locator("html")).to_have_attribute("data-theme", theme)
        expect(page).to_have_url(f"{server}/calls/{ROPE_WORKS}/path")
        page.locator('.rail a[href$="/finding"]').click()
        expect(page.get_by_role("button", name=other)).to_be_visible()
        expect(page.locator("html")).to_have_attribute("data-theme", theme)
        page.goto(f"{server}/calls/{ROPE_WORKS}/path")
