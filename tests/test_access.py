"""Access: open on this machine, accounts on any other address, roles, failures slowed, every act in the trail."""

from __future__ import annotations

import html
import re
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from types import SimpleNamespace

import pytest
from argon2 import PasswordHasher
from fastapi.testclient import TestClient

from keen_coil.core.authority import MATTERS
from keen_coil.core.errors import InvalidField
from keen_coil.core.replicas.merge import RULES
from keen_coil.services.people import accounts as accounts_module
from keen_coil.services.people.accounts import (
    SignInRefused,
    SignInSlowed,
    accounts,
    add_account,
    begin_attempt,
    change_password,
    drop_account,
    finish_attempt,
    sign_in,
    sign_out,
    signed_in,
    warm_up,
)
from keen_coil.services.people.audit_trail import trail
from keen_coil.serving import run_server
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.web.app import create_app, secret_beside
from keen_coil.web.auth_middleware import OPEN
from tests.demo_calls import GANNET_COTTAGE, ROPE_WORKS
from tests.fixtures import NOW, stamp

BOSS, HAND = ("Isolde Trewarne", "ferry at half past seven"), ("Corin Hask", "two days over water")


@pytest.fixture(autouse=True)
def cheap_hashes(monkeypatch):
    """Passwords are hashed as ever, at a cost that hundreds of tries can bear."""
    hasher = PasswordHasher(time_cost=1, memory_cost=64, parallelism=1)
    monkeypatch.setattr(accounts_module, "_hasher", lambda: hasher)
    accounts_module._nobodys.cache_clear()
    yield
    accounts_module._nobodys.cache_clear()


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
    return client.post(
        "/sign-in", data={**fields(page.text), "name": who[0], "password": who[1], "next": f"/calls/{ROPE_WORKS}/path"}
    )


def test_on_this_machine_nobody_signs_in(reader):
    assert reader.get("/").status_code == 200
    assert "No account needed" in reader.get("/account").text


def test_from_elsewhere_nothing_is_seen_before_signing_in(shop):
    with browser(shop) as client:
        for path in (
            "/",
            f"/calls/{ROPE_WORKS}/path",
            f"/calls/{ROPE_WORKS}/call.json",
            "/log",
            "/log/readings.csv",
            "/practice",
            "/meter",
            "/api/openapi.json",
            "/settings",
        ):
            answer = client.get(path, follow_redirects=False)
            assert answer.status_code in (303, 401), path
            assert "Rope works" not in answer.text
        assert client.post("/api/assess", json={}).status_code == 401
        assert client.post("/calls", data={}).status_code == 401
        assert client.get("/static/css/base.css").status_code == 200


def test_signed_out_in_the_middle_of_a_page_nothing_typed_is_lost(shop):
    """The page that htmx sent stays and is told, with the token that its next sending needs."""
    with browser(shop) as client:
        page = enter(client, HAND)
        client.cookies.clear()
        answer = client.post(
            f"/calls/{GANNET_COTTAGE}/arrive",
            data={**fields(page.text), "says": "It squeals"},
            headers={"HX-Request": "true"},
        )
        assert answer.status_code == 401
        assert answer.headers["HX-Retarget"] == "#told"
        assert "You are signed out" in answer.text
        assert "<body" not in answer.text
        enter(client, HAND)
        too_old = client.post(
            f"/calls/{GANNET_COTTAGE}/arrive",
            data={**fields(page.text), "says": "It squeals"},
            headers={"HX-Request": "true"},
        )
        assert too_old.status_code == 403
        assert too_old.headers["HX-Retarget"] == "#told"
        form = {
            **fields(client.get(f"/calls/{GANNET_COTTAGE}/arrive").text),
            **fields(too_old.text, "told-head"),
            "says": "It squeals",
        }
        assert client.post(f"/calls/{GANNET_COTTAGE}/arrive", data=form).status_code == 200
        assert "It squeals" in client.get(f"/calls/{GANNET_COTTAGE}/arrive").text


def test_in_and_on_to_the_page_that_was_asked_for_and_out_everywhere(shop):
    with browser(shop) as one, browser(shop) as other:
        page = enter(one, HAND)
        assert page.url.path == f"/calls/{ROPE_WORKS}/path"
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


MANAGED = [matter for matter in MATTERS.values() if matter.who == "manager"]


def routes_of(at):
    """Every route below an application or router."""
    for route in at.routes:
        if hasattr(route, "original_router"):
            yield from routes_of(route.original_router)
        else:
            yield route


def test_every_route_declares_who_may(shop):
    """Those of the framework aside: the static files, and the description of the API."""
    with browser(shop) as client:
        routes = list(routes_of(client.app))
        silent = {route.path for route in routes if not hasattr(getattr(route, "endpoint", None), "matter")}
        assert silent == {"/static", "/api/openapi.json"}
        declared = [route for route in routes if route.path not in silent]
        assert len(declared) > 150
        for route in declared:
            plain = re.sub("{[^}]+}", "1", route.path)
            is_open = route.endpoint.matter.who == "anybody"
            assert is_open == bool(OPEN.fullmatch(plain)), plain
            answer = client.request(next(iter(route.methods)), plain, follow_redirects=False)
            refused = answer.status_code == 401 or "/sign-in" in answer.headers.get("location", "")
            assert refused != is_open, (plain, answer.status_code)
    said = [MATTERS[part.matter] for travels in RULES.values() for part in travels.parts.values()]
    said += [route.endpoint.matter for route in declared]
    assert {matter.says for matter in said} == {matter.says for matter in MATTERS.values()}


def test_a_technician_records_and_a_manager_also_changes_limits_catalogue_and_people(shop):
    with browser(shop) as client:
        pad = enter(client, HAND)
        done = client.post(
            f"/calls/{GANNET_COTTAGE}/readings",
            data={
                **fields(client.get(f"/calls/{GANNET_COTTAGE}/path?link=supply").text, 'id="pad-form"'),
                "kind": "supply_v",
                "at": "unit",
                "value": "236",
            },
        )
        assert done.status_code == 200
        assert "Corin Hask" in client.get(f"/calls/{GANNET_COTTAGE}/call.json").text or "236" in done.text
        csrf = fields(pad.text)
        tried = [
            one for one in routes_of(client.app) if getattr(getattr(one, "endpoint", None), "matter", None) in MANAGED
        ]
        assert len(tried) > 20
        for route in tried:
            (verb,) = route.methods
            plain = re.sub("{[^}]+}", "1", route.path)
            answer = client.request(verb, plain, data=csrf if verb == "POST" else None)
            assert answer.status_code == 403, plain
            assert route.endpoint.matter.says in html.unescape(answer.text)
            assert 'class="rail"' in answer.text
        settings = client.get("/settings").text
        assert "Save limits" not in settings
        assert "Use this name" not in settings
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


def tries(db, name, password, address, moments, device=""):
    """What came of each try: signed in, refused, or so many seconds to wait."""
    found = []
    for moment in moments:
        try:
            found.append(sign_in(db, stamp(now=moment), name, password, address, device) and "in")
        except SignInRefused:
            found.append("no")
        except SignInSlowed as slowed:
            found.append(slowed.seconds)
    return found


def test_failures_slow_this_name_from_this_address_and_nobody_else(db):
    add_account(db, stamp(), *BOSS, "manager")
    add_account(db, stamp(), *HAND, "technician")
    assert tries(db, BOSS[0], "wrong password", "10.0.0.7", [NOW] * 7) == ["no"] * 5 + [2, 2]
    assert tries(db, *BOSS, "10.0.0.7", [NOW]) == [2]  # the right one too: it must not be told from a wrong one
    assert tries(db, *HAND, "10.0.0.7", [NOW]) == ["in"]  # a colleague at the same address
    assert tries(db, *BOSS, "10.0.0.8", [NOW]) == ["in"]
    assert tries(db, *BOSS, "10.0.0.7", [NOW + timedelta(seconds=3)]) == ["in"]
    # whoever waits long enough may try
    assert (
        tries(db, "Nobody At All", "x" * 12, "10.0.0.9", [NOW + timedelta(seconds=2000 * n) for n in range(14)])
        == ["no"] * 14
    )


def test_wrong_passwords_from_elsewhere_never_lock_a_named_person_out(db):
    add_account(db, stamp(), *BOSS, "manager")
    for n in range(40):  # another address each time
        tries(db, BOSS[0], "wrong password", f"10.1.{n // 250}.{n % 250}", [NOW])
    known = begin_attempt(db, NOW, BOSS[0], "10.9.9.9", "this-device")
    assert known.delay_s == 0
    assert finish_attempt(db, stamp(), known, BOSS[1])
    stranger = begin_attempt(db, NOW, BOSS[0], "10.9.9.9")
    assert 0 < stranger.delay_s <= 8  # kept waiting, not refused
    assert finish_attempt(db, stamp(), stranger, BOSS[1])
    assert begin_attempt(db, NOW, HAND[0], "10.9.9.8").delay_s == 0


def test_an_address_that_tries_many_names_is_slowed_and_ipv6_counts_by_its_network(db):
    outcome = [tries(db, f"Name {n}", "x" * 12, f"2001:db8:0:7::{n:x}", [NOW])[0] for n in range(30)]
    assert outcome[:21] == ["no"] * 21
    assert all(isinstance(one, int) for one in outcome[22:])
    assert tries(db, "Name 1", "x" * 12, "2001:db8:0:8::1", [NOW]) == ["no"]


def test_guesses_at_the_same_time_count_before_they_are_checked(db):
    add_account(db, stamp(), *BOSS, "manager")
    with ThreadPoolExecutor(12) as together:
        found = list(together.map(lambda n: tries(db, BOSS[0], f"guess number {n}", "10.0.0.7", [NOW])[0], range(24)))
    assert found.count("no") == 5
    assert sum(isinstance(one, int) for one in found) == 19


def test_the_password_field_of_the_account_is_slowed_too(shop, db):
    add_account(db, stamp(), *HAND, "technician")
    for n in range(5):
        with pytest.raises(InvalidField):
            change_password(db, stamp(), HAND[0], f"guess number {n}", "another one entirely")
    with pytest.raises(SignInSlowed):
        change_password(db, stamp(), HAND[0], HAND[1], "another one entirely")
    change_password(db, stamp(now=NOW + timedelta(seconds=3)), HAND[0], HAND[1], "another one entirely")
    with browser(shop) as client:
        enter(client, HAND)
        for _ in range(6):
            answer = client.post(
                "/account",
                data={
                    **fields(client.get("/account").text),
                    "do": "change",
                    "old": "wrong one",
                    "password": "something new here",
                },
            )
        assert answer.status_code == 429
        assert "Wait" in answer.text


@pytest.mark.parametrize("ahead", [timedelta(minutes=20), timedelta(days=365)])
def test_a_clock_set_back_makes_nobody_wait_and_keeps_no_session_for_ever(db, ahead):
    add_account(db, stamp(), *BOSS, "manager")
    tries(db, BOSS[0], "wrong password", "10.0.0.7", [NOW + ahead] * 8)
    token = sign_in(db, stamp(now=NOW + ahead), *BOSS, "10.0.0.8")
    assert signed_in(db, token, NOW + ahead)
    assert signed_in(db, token, NOW) is None
    # seconds at the most, counted from the clock as it is now
    outcome = tries(db, *BOSS, "10.0.0.7", [NOW + timedelta(seconds=n) for n in range(0, 40, 2)])
    assert "in" in outcome


def test_a_device_is_known_by_who_signed_in_on_it_and_its_cookie_cannot_be_made_up(shop):
    with browser(shop) as client, browser(shop) as forged:
        enter(client, HAND)
        db = shop.state.db
        for n in range(60):
            tries(db, HAND[0], "wrong password", f"10.1.0.{n}", [datetime.now(UTC)])
        client.cookies.delete("keen_coil_in")
        page = client.get("/sign-in")
        answer = client.post("/sign-in", data={**fields(page.text), "name": HAND[0], "password": HAND[1], "next": "/"})
        assert answer.url.path == "/"
        forged.cookies.set(
            "keen_coil_device", client.cookies["keen_coil_device"][:-3] + "xxx", domain="shop.local", path="/sign-in"
        )
        with pytest.MonkeyPatch.context() as patch:
            waited = []

            async def sleep(seconds):
                waited.append(seconds)

            patch.setattr("keen_coil.web.routes.sign_in.asyncio.sleep", sleep)
            enter(forged, HAND)
        assert any(seconds > 1 for seconds in waited)


def test_the_token_of_forms_ends_with_the_sign_in_it_was_made_for(shop):
    with browser(shop) as client:
        old = fields(enter(client, HAND).text)
        session = client.cookies["keen_coil"]
        client.cookies.delete("keen_coil_in")
        client.cookies.set(
            "keen_coil_in", sign_in(shop.state.db, stamp(now=datetime.now(UTC)), *BOSS, "here"), domain="shop.local"
        )
        client.cookies.set("keen_coil", session, domain="shop.local")
        assert client.post(f"/calls/{GANNET_COTTAGE}/arrive", data={**old, "says": "x"}).status_code == 403


@pytest.mark.parametrize("content", [b"", b"short", b"x" * 39, b"\xff\xfe\x00" * 30, b"   \n"])
def test_an_empty_or_short_key_is_refused_and_made_anew(tmp_path, content, caplog):
    path = tmp_path / "x.key"
    path.write_bytes(content)
    path.chmod(0o644)
    key = secret_beside(tmp_path / "x.db")
    assert len(key) >= 40
    assert path.read_text() == key == secret_beside(tmp_path / "x.db")
    assert path.stat().st_mode & 0o777 == 0o600
    assert "a new one is made" in caplog.text
    assert [file.name for file in tmp_path.iterdir()] == ["x.key"]


def test_a_browser_with_a_cookie_of_another_key_gets_one_with_its_first_page(client):
    client.cookies.set("keen_coil", "InNvbWVib2R5Ig.signed-by-another-key", domain="127.0.0.1")
    page = client.get(f"/calls/{GANNET_COTTAGE}/arrive").text
    answer = client.post(
        f"/calls/{GANNET_COTTAGE}/arrive", data={**fields(page, 'id="station-form"'), "says": "It squeals"}
    )
    assert answer.status_code == 200
    assert "It squeals" in client.get(f"/calls/{GANNET_COTTAGE}/arrive").text


def test_a_good_key_stays_and_is_its_owners_only(tmp_path):
    key = secret_beside(tmp_path / "x.db")
    (tmp_path / "x.key").chmod(0o644)
    assert secret_beside(tmp_path / "x.db") == key
    assert (tmp_path / "x.key").stat().st_mode & 0o777 == 0o600


def test_whose_word_on_the_address_is_taken(demo_path, monkeypatch):
    """Nobody's but a configured proxy's."""
    seen = {}
    monkeypatch.setattr(
        "keen_coil.serving.StoppingServer",
        lambda config, state: seen.update(config=config) or SimpleNamespace(run=lambda: None),
    )
    run_server("127.0.0.1", 0, demo_path, [], None, None)
    assert not seen["config"].proxy_headers
    run_server("127.0.0.1", 0, demo_path, [], None, None, ["10.0.0.1"])
    assert seen["config"].proxy_headers
    assert seen["config"].forwarded_allow_ips == ["10.0.0.1"]


def test_control_characters_are_refused_in_any_field(client):
    page = client.get(f"/calls/{GANNET_COTTAGE}/arrive").text
    form = fields(page, 'id="station-form"')
    for text in ("a\x00b", "\x1b[31m", "bell\x07", "\x7f", "nel\x85"):
        answer = client.post(f"/calls/{GANNET_COTTAGE}/arrive", data={**form, "says": text})
        assert (text, answer.status_code) == (text, 422)
        assert "text without control characters" in html.unescape(answer.text)
        call = {"format": "keen-coil/call", "version": 1, "complaint": {"says": text}}
        assert client.post("/api/assess", json=call).json()["errors"][0]["path"] == "complaint.says"


def test_head_is_answered_as_get_without_a_body(client):
    for path in (
        "/",
        f"/calls/{GANNET_COTTAGE}/path",
        f"/calls/{GANNET_COTTAGE}/call.json",
        "/static/css/base.css",
        "/log/readings.csv",
    ):
        answer = client.head(path)
        assert (answer.status_code, answer.content) == (200, b""), path
        assert answer.headers["content-type"] == client.get(path).headers["content-type"]
    assert client.head("/calls/99999/path").status_code == 404


def test_behind_tls_a_browser_is_told_to_stay_there(shop):
    assert "max-age" in browser(shop, "https://shop.local").get("/sign-in").headers["strict-transport-security"]
    assert "strict-transport-security" not in browser(shop).get("/sign-in").headers


def test_a_name_that_is_known_and_one_that_is_not_cost_the_same_checks(db, monkeypatch):
    add_account(db, stamp(), *BOSS, "manager")
    warm_up()
    checked, real = [], accounts_module._fits
    monkeypatch.setattr(
        accounts_module, "_fits", lambda hashed, password: checked.append(hashed) or real(hashed, password)
    )
    tries(db, BOSS[0], "wrong password", "10.0.0.1", [NOW])
    tries(db, "Nobody At All", "wrong password", "10.0.0.2", [NOW])
    assert len(checked) == 2
    assert checked[0].rsplit("$", 2)[0] == checked[1].rsplit("$", 2)[0]  # the same cost


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
    with pytest.raises(InvalidField, match="another manager first"):
        drop_account(db, stamp(), BOSS[0])
    with pytest.raises(InvalidField, match="another manager first"):
        add_account(db, stamp(), BOSS[0], "long enough for it", "technician")
    for name, password, role in (
        ("x", "short", "manager"),
        ("Corin Hask", "corin hask", "technician"),
        ("", "long enough for it", "manager"),
        ("x", "long enough for it", "king"),
    ):
        with pytest.raises(InvalidField):
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
