"""Access: open on this machine, accounts on any other address, roles, failures slowed, every act in the trail."""

from __future__ import annotations

import html
import re
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient

from keen_coil.core.errors import BadInput
from keen_coil.desk.accounts import (
    Refused,
    Slowed,
    accounts,
    add_account,
    change_password,
    drop_account,
    sign_in,
    sign_out,
    signed_in,
)  # fmt: skip
from keen_coil.desk.trail import trail
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.web.app import create_app
from keen_coil.web.gate import MANAGERS
from tests.conftest import NOW, stamp

BOSS, HAND = ("Isolde Trewarne", "ferry at half past seven"), ("Corin Hask", "two days over water")


@pytest.fixture
def shop(demo_path):
    """The demo world as a server on the shop's network would have it: a manager and a technician."""
    db = Database(demo_path)
    add_account(db, stamp(), *BOSS, "manager")
    add_account(db, stamp(), *HAND, "technician")
    db.close()
    app = create_app(Settings(db=demo_path, accounts=True, names=["shop.local"]))
    yield app
    app.state.db.close()


def browser(app, base="http://shop.local"):
    return TestClient(app, base_url=base, follow_redirects=True)


def fields(text, marker="<form"):
    return dict(re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', text.split(marker, 1)[1]))


def enter(client, who, where="/sign-in"):
    page = client.get(where)
    return client.post("/sign-in", data={**fields(page.text), "name": who[0], "password": who[1], "next": "/calls/1/path"})


def test_on_this_machine_nobody_signs_in(client):
    assert client.get("/").status_code == 200
    assert "No account is needed here" in client.get("/account").text


def test_from_elsewhere_nothing_is_seen_before_signing_in(shop):
    with browser(shop) as client:
        for path in ("/", "/calls/1/path", "/calls/1/call.json", "/log", "/log/readings.csv", "/practice", "/meter", "/api/openapi.json", "/settings"):
            answer = client.get(path, follow_redirects=False)
            assert answer.status_code in (303, 401), path
            assert "Rope works" not in answer.text
        assert client.post("/api/assess", json={}).status_code == 401
        assert client.post("/calls", data={}).status_code == 401
        assert client.get("/static/app.css").status_code == 200


def test_signed_out_in_the_middle_of_a_page_nothing_typed_is_lost(shop):
    """The page that htmx sent stays and is told, with the token that its next sending needs."""
    with browser(shop) as client:
        page = enter(client, HAND)
        client.cookies.clear()
        answer = client.post("/calls/5/arrive", data={**fields(page.text), "says": "It squeals"}, headers={"HX-Request": "true"})
        assert answer.status_code == 401
        assert answer.headers["HX-Retarget"] == "#told"
        assert "You are signed out" in answer.text
        assert "<body" not in answer.text
        enter(client, HAND)
        too_old = client.post("/calls/5/arrive", data={**fields(page.text), "says": "It squeals"}, headers={"HX-Request": "true"})
        assert too_old.status_code == 403
        assert too_old.headers["HX-Retarget"] == "#told"
        form = {**fields(client.get("/calls/5/arrive").text), **fields(too_old.text, 'told-head'), "says": "It squeals"}
        assert client.post("/calls/5/arrive", data=form).status_code == 200
        assert "It squeals" in client.get("/calls/5/arrive").text


def test_in_and_on_to_the_page_that_was_asked_for_and_out_everywhere(shop):
    with browser(shop) as one, browser(shop) as other:
        page = enter(one, HAND)
        assert page.url.path == "/calls/1/path"
        enter(other, HAND)
        assert other.get("/").status_code == 200
        cookie = next(c for c in one.cookies.jar if c.name == "keen_coil_in")
        assert cookie.has_nonstandard_attr("HttpOnly")
        assert cookie.get_nonstandard_attr("SameSite") == "strict"
        assert not cookie.secure
        assert one.get("/account").text.count("Corin Hask")
        gone = one.post("/account", data={**fields(one.get("/account").text), "do": "everywhere"})
        assert gone.url.path == "/sign-in"
        assert other.get("/", follow_redirects=False).status_code == 303


def test_the_cookies_are_secure_behind_tls(shop):
    with browser(shop, "https://shop.local") as client:
        enter(client, BOSS)
        assert all(cookie.secure for cookie in client.cookies.jar if cookie.name in ("keen_coil", "keen_coil_in"))


def test_a_technician_records_and_a_manager_also_changes_limits_catalogue_and_people(shop):
    with browser(shop) as client:
        pad = enter(client, HAND)
        done = client.post("/calls/5/readings", data={**fields(client.get("/calls/5/path?link=supply").text, 'id="pad-form"'), "kind": "supply_v", "at": "unit", "value": "236"})
        assert done.status_code == 200
        assert "Corin Hask" in client.get("/calls/5/call.json").text or "236" in done.text
        csrf = fields(pad.text)
        for verb, path, says in MANAGERS:
            plain = path.replace("(/.*)?", "/x").replace(".+", "x")
            answer = client.request(verb, plain, data=csrf if verb == "POST" else None)
            assert answer.status_code == 403, plain
            assert says in html.unescape(answer.text)
            assert 'class="rail"' in answer.text
        settings = client.get("/settings").text
        assert "Save the limits" not in settings
        assert "That is me" not in settings
    with browser(shop) as client:
        enter(client, BOSS)
        page = client.get("/settings")
        form = {**fields(page.text, 'action="/settings"'), "insulation_floor_mohm": "8"}
        assert client.post("/settings", data=form).url.params.get("saved") == "limits"
        lines = client.get("/settings/trail").text
        assert "changed limits" in lines
        assert lines.index("changed limits") > lines.index("Isolde Trewarne")
        assert "took a reading: read volts: 236" in lines


def test_another_host_name_is_not_answered(shop):
    assert browser(shop, "http://evil.example").get("/sign-in").status_code == 400


@pytest.mark.parametrize("where", ["//evil.example/x", "https://evil.example", "/\\evil.example", "\n/x"])
def test_after_signing_in_nobody_is_sent_elsewhere(shop, where):
    with browser(shop) as client:
        page = client.get("/sign-in", params={"next": where})
        assert 'name="next" value="/"' in page.text


def test_failures_are_slowed_and_told_apart_from_nothing(db):
    add_account(db, stamp(), *BOSS, "manager")
    now = NOW
    for _ in range(5):
        with pytest.raises(Refused):
            sign_in(db, stamp(now=now), BOSS[0], "wrong password", "10.0.0.7")
    with pytest.raises(Slowed):
        sign_in(db, stamp(now=now), *BOSS, "10.0.0.7")
    with pytest.raises(Slowed):
        sign_in(db, stamp(now=now), "Nobody At All", "x" * 12, "10.0.0.7")
    later = now + timedelta(seconds=5)
    assert sign_in(db, stamp(now=later), *BOSS, "10.0.0.8")
    waits = []
    for n in range(14):
        try:
            sign_in(db, stamp(now=later + timedelta(hours=2, seconds=2000 * n)), "Nobody At All", "x" * 12, "10.0.0.9")
        except Slowed as slowed:
            waits.append(slowed.seconds)
        except Refused:
            pass
    assert waits == []  # whoever waits long enough may try


def test_a_token_ends_when_idle_when_old_and_when_its_account_is_changed_or_gone(db):
    add_account(db, stamp(), *BOSS, "manager")
    add_account(db, stamp(), *HAND, "technician")
    token = sign_in(db, stamp(), *HAND, "here")
    assert signed_in(db, token, NOW).name == HAND[0]
    assert signed_in(db, token, NOW + timedelta(hours=13)) is None
    assert signed_in(db, token[:-1] + "x", NOW) is None
    for hours in range(1, 24 * 14, 8):
        assert signed_in(db, token, NOW + timedelta(hours=hours)), hours
    assert signed_in(db, token, NOW + timedelta(days=14, hours=1)) is None
    again = sign_in(db, stamp(), *HAND, "here")
    change_password(db, stamp(), HAND[0], HAND[1], "another one entirely")
    assert signed_in(db, again, NOW) is None
    last = sign_in(db, stamp(), HAND[0], "another one entirely", "here")
    drop_account(db, stamp(), HAND[0])
    assert signed_in(db, last, NOW) is None
    one = sign_in(db, stamp(), *BOSS, "here")
    sign_out(db, stamp(), one)
    assert signed_in(db, one, NOW) is None


def test_the_last_manager_stays_and_passwords_are_no_names(db):
    add_account(db, stamp(), *BOSS, "manager")
    with pytest.raises(BadInput, match="another manager first"):
        drop_account(db, stamp(), BOSS[0])
    with pytest.raises(BadInput, match="another manager first"):
        add_account(db, stamp(), BOSS[0], "long enough for it", "technician")
    for name, password, role in (("x", "short", "manager"), ("Corin Hask", "corin hask", "technician"), ("", "long enough for it", "manager"), ("x", "long enough for it", "king")):
        with pytest.raises(BadInput):
            add_account(db, stamp(), name, password, role)
    assert [name for name, _, _ in accounts(db)] == [BOSS[0]]


def test_neither_file_nor_archive_gives_a_password_or_a_token_away(shop, tmp_path):
    with browser(shop) as client:
        enter(client, BOSS)
        token = next(c.value for c in client.cookies.jar if c.name == "keen_coil_in")
        content = b"".join(path.read_bytes() for path in shop.state.db.path.parent.glob(shop.state.db.path.name + "*"))
        assert token.encode() not in content
        assert BOSS[1].encode() not in content
        assert b"$argon2id$" in content
        begun = client.post("/log/archive/export", data=fields(client.get("/log/archive").text))
        archive = client.get(begun.url.path + "/log.zip")
        assert b"account.csv" not in archive.content
        assert b"sign_in" not in archive.content
    who = {line.who for line in trail(shop.state.db, 1)[0] if line.did == "signed in"}
    assert who == {BOSS[0]}
