"""Every form of every page under anything at all, files too: no server error, no half act, everything still opens."""

from __future__ import annotations

import random

import pytest
from fastapi.testclient import TestClient

from keen_coil.services.calls.rail import STATIONS
from keen_coil.settings import Settings
from keen_coil.store.copies import state_of
from keen_coil.web.app import create_app
from tests.demo_calls import (
    BREWHOUSE,
    COLD_STORE,
    FERRY_ROOM,
    FISH_CELLAR,
    GANNET_COTTAGE,
    ROPE_WORKS,
    ROPE_WORKS_ROOF,
    SCHOOL_FURNACE,
    VICARAGE,
)
from tests.forms import Form, filled, picture, read_page, send
from tests.test_archive import content_of

HOSTILE = [
    "",
    "-1",
    "9" * 25,
    "9" * 5000,
    "1e999",
    "NaN",
    "-0",
    "0.0000000001",
    "٣",
    "²",
    "1/0",
    "1/4/4",
    "2026-13-45",
    "9999-12-31",
    "0001-01-01T00:00",
    "9999-12-31T23:59",
    "<script>alert(1)</script>",
    "' or 1=1 --",
    "{{ 7 * 7 }}",
    "${7*7}",
    "../../etc/passwd",
    "a" * 10_000,
    "\u202e\u0301" * 50,
    "\U0001f600",
    "a\nb\nc",
    "a\r\nb",
    "\t",
    "|",
    "||||",
    "main.1",
    "motor.black",
    "switch.t1",
    "black: main.1\n" * 200,
    "true",
    "null",
    "[]",
    "{}",
    "A|B|C|D",
    "%00",
    "\ufeff5",
    "５",
]
FILES = [
    ("x.png", b""),
    ("x.png", picture()[:60]),
    ("x.png", picture()),
    ("../../x.csv", b"kind,value\n" + b"supply_v,238\n" * 3),
    ("x.csv", b'a,b\n"' + b"x" * 5000),
    ("x.csv", b"\xff\xfe\x00"),
    ("x.zip", b"PK\x03\x04" + b"\x00" * 60),
    ("x.json", b'{"format": "keen-coil/call", "version": 1}'),
    ("x.json", b"[" * 2000),
    ("x\x00y.csv", b"part_no,kind\nA,psc\n"),
    ("a" * 300 + ".csv", b"part_no,kind,quantity\nA,motor,1\n"),
]
SHOP_PAGES = (
    "/",
    "/log",
    "/log?find=rope",
    "/log/archive",
    "/shelf",
    "/shelf?on=van",
    "/shelf/plan",
    "/lab",
    "/practice",
    "/settings",
    "/settings/accounts",
    "/account",
)
CALLS = (
    ROPE_WORKS,
    FERRY_ROOM,
    COLD_STORE,
    GANNET_COTTAGE,
    SCHOOL_FURNACE,
    ROPE_WORKS_ROOF,
    FISH_CELLAR,
    VICARAGE,
    BREWHOUSE,
)


def spoilt(form: Form, chance: random.Random):
    """A form as it stands, one or a few fields made hostile, now and then one left out, doubled or made up."""
    sent, files = filled(form, chance, most=1)
    free = [place for place, (name, _) in enumerate(sent) if name not in ("csrf", "act_id")]
    for place in chance.sample(free, min(len(free), chance.randint(1, 3))):
        sent[place] = (sent[place][0], chance.choice(HOSTILE))
    if chance.random() < 0.2 and free:
        sent.pop(chance.choice(free))
    if chance.random() < 0.2:
        sent.append(
            (
                chance.choice(["take.X", "mark.x", "steps", "items", "kind", "__class__", "wire.black", "pair"]),
                chance.choice(HOSTILE),
            )
        )
    return sent, {name: chance.choice(FILES) if chance.random() < 0.8 else file for name, file in files.items()}


def pages_of(path: str) -> list[str]:
    return [path.format(call) for call in CALLS] if "{}" in path else [path]


STATION_PAGES = [f"/calls/{{}}/{station.key}" for station in STATIONS] + [
    "/calls/{}/match/plate",
    "/calls/{}/path?link=windings&kind=winding_ohm",
    "/calls/{}/path?link=capacitor&kind=capacitance_uf",
    "/calls/{}/hook-up?view=plan",
    "/calls/{}/hook-up?view=try",
    "/calls/{}/run-proof",
]


@pytest.mark.parametrize("seed", range(1))
def test_no_form_is_too_hostile(seed, demo_path):
    chance = random.Random(seed)
    app = create_app(Settings(db=demo_path))
    db = app.state.db
    tried = refused = 0
    with TestClient(app, base_url="http://127.0.0.1", follow_redirects=False, raise_server_exceptions=False) as browser:
        pages = [page for path in (*SHOP_PAGES, *STATION_PAGES) for page in pages_of(path)]
        for path in chance.sample(pages, len(pages))[: len(pages) // 12]:
            forms, _ = read_page(browser.get(path, follow_redirects=True).text)
            for form in chance.sample(forms, min(len(forms), 3)):
                before = content_of(db) if tried % 8 == 0 else None
                sent, files = spoilt(form, chance)
                answer = send(browser, form, sent, files)
                tried += 1
                assert answer.status_code < 500, (
                    path,
                    form.action,
                    [pair for pair in sent if pair[0] != "csrf"],
                    answer.text[-600:],
                )
                if answer.status_code >= 400:
                    refused += 1
                    drafted = form.action == "/shelf/import"  # a file that was looked through and refused stays a draft
                    assert before is None or drafted or content_of(db) == before, (form.action, sent)
            back = browser.get(path, follow_redirects=True)
            assert back.status_code < 500, path
        for call in CALLS:
            for station in STATIONS:
                assert browser.get(f"/calls/{call}/{station.key}").status_code == 200, (call, station.key)
            assert browser.get(f"/calls/{call}/call.json").status_code == 200, call
    assert tried > 30
    assert refused > tried / 5
    db.close()
    assert state_of(demo_path).sound


def as_it_stands(form: Form) -> set[tuple[str, str]]:
    """What a form would send as it stands on its page."""
    ticks = ("checkbox", "radio")
    return {(one.name, one.value) for one in form.fields if one.kind not in ticks or one.checked}


def test_what_is_refused_stands_where_it_was_typed_with_all_beside_it(demo_path):
    """No script is needed for it: a field that cannot be taken comes back with its page, and every other one too."""
    chance, bad = random.Random(3), "zq 12,5 !?"
    app = create_app(Settings(db=demo_path))
    refused, seen = 0, set()
    with TestClient(app, base_url="http://127.0.0.1", follow_redirects=False) as browser:
        for path in [pages_of(path)[0] for path in (*SHOP_PAGES, *STATION_PAGES)]:
            forms, _ = read_page(browser.get(path, follow_redirects=True).text)
            for place, form in enumerate(forms):
                typed = [one.name for one in form.fields if one.kind in ("text", "number", "textarea", "date", "time")]
                action = form.action.split("?")[0]
                for name in chance.sample(typed, min(len(typed), 3)):
                    now, _ = read_page(browser.get(path, follow_redirects=True).text)
                    if (action, name) in seen or place >= len(now) or now[place].action != form.action:
                        continue
                    seen.add((action, name))
                    sent, files = filled(now[place], chance, most=6)
                    sent = [(key, bad if key == name else value) for key, value in sent]
                    answer = send(browser, now[place], sent, files)
                    if answer.status_code != 422:
                        continue
                    refused += 1
                    back = [row for row in read_page(answer.text)[0] if row.action.split("?")[0] == action]
                    kept = next((as_it_stands(row) for row in back if name in row.names), set())
                    pressed = {one.name for one in form.fields if one.kind == "button"} | {"csrf", "act_id", "version"}
                    lost = {row for row in sent if row[1] and row[0] not in pressed} - kept
                    assert lost == set(), (path, action, name)
    app.state.db.close()
    assert refused > 25


ODD_IDS = (
    "0",
    "-1",
    str(2**63),
    str(2**63 - 1),
    str(2**64),
    "9" * 400,
    "9" * 6000,
    "1.5",
    "1e3",
    "abc",
    "%00",
    "%2e%2e",
    "٣",
)


@pytest.mark.parametrize(
    "path",
    [
        "/calls/{}",
        "/calls/{}/path",
        "/calls/{}/match",
        "/calls/{}/call.json",
        "/calls/{}/record.pdf",
        f"/calls/{ROPE_WORKS}/photographs/{{}}",
        "/units/{}",
        "/practice/{}",
        "/practice/{}/replay",
        "/log/archive/{}",
        "/shelf/import/{}",
        "/calls/{}/hook-up.svg",
    ],
)
def test_an_address_that_cannot_be_is_not_there(reader, path):
    for odd in ODD_IDS:
        answer = reader.get(path.format(odd))
        assert answer.status_code in (404, 422), (path, odd[:30], answer.status_code)


QUERIES = (
    "page",
    "find",
    "kind",
    "role",
    "on",
    "van",
    "link",
    "at",
    "pair",
    "replaces",
    "saved",
    "check",
    "when",
    "view",
    "school",
    "part",
    "answer",
    "more",
    "all",
    "key",
    "step",
    "call",
    "model",
    "ask",
    "days",
    "level",
    "rung",
    "state",
    "next",
    "figure",
)


@pytest.mark.parametrize("seed", range(1))
def test_no_query_is_too_hostile(reader, seed):
    chance = random.Random(seed)
    paths = [*SHOP_PAGES, f"/lab?call={ROPE_WORKS}", *(page.format(chance.choice(CALLS)) for page in STATION_PAGES)]
    for path in paths:
        query = {
            name: chance.choice([*HOSTILE, "capacitor", "supply_v", "try", "amps", "1"])
            for name in chance.sample(QUERIES, 4)
        }
        answer = reader.get(path.partition("?")[0], params={key: value[:1500] for key, value in query.items()})
        assert answer.status_code < 500, (path, query)
