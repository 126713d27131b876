"""The first run of an empty shop, and what helps: how stations work, how tests are taken, the card, the glossary."""

from __future__ import annotations

import re
import subprocess

import pytest
from fastapi.testclient import TestClient

from keen_coil.core.field_tests import HELP, TESTS
from keen_coil.services.calls.rail import STATIONS
from keen_coil.services.field_messages import WHY_ASKED
from keen_coil.services.people.first_run import NotTheDemo, first_steps, start_own_shop, world_of
from keen_coil.services.stations.plate_fields import FIELDS
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.web.app import create_app
from keen_coil.web.help_texts import GLOSSARY, STATION_HELP
from tests.demo_calls import FERRY_ROOM
from tests.fixtures import stamp
from tests.web.test_pages import hidden, post


@pytest.fixture
def empty_shop(tmp_path):
    """A browser on a shop where nothing is yet."""
    app = create_app(Settings(db=tmp_path / "new.db"))
    with TestClient(app, base_url="http://127.0.0.1", follow_redirects=True) as browser:
        yield browser
    app.state.db.close()


def now_asked(browser) -> str:
    return re.search(r'<li class="first-now">.*?<h2>.*?\d\. ([^<]+)</h2>', browser.get("/").text, re.S)[1]


def test_an_empty_shop_is_set_up_step_by_step_with_the_starter_catalog(empty_shop):
    assert now_asked(empty_shop) == "Name your shop"
    post(empty_shop, "/", "/settings/shop", shop="Elm Street Heating", back="/")
    assert now_asked(empty_shop) == "Add a technician and a van"
    post(empty_shop, "/", "/settings/people", name="Pat Reyes", van="Van 1", do="add", back="/")
    assert now_asked(empty_shop) == "Import a motor catalog"
    starter = empty_shop.get("/starter/motors.csv").content
    preview = empty_shop.post(
        "/shelf/import",
        data=hidden(empty_shop.get("/").text, "/shelf/import"),
        files={"file": ("motors.csv", starter, "text/csv")},
    )
    assert "Every row is good" in preview.text
    post(empty_shop, str(preview.url.path), str(preview.url.path), do="bring")
    assert now_asked(empty_shop) == "Start your first call"
    call = {"site": "Elm Street school", "unit": "roof", "unit_kind": "split_condenser", "technician": "Pat Reyes"}
    post(empty_shop, "/", "/calls", **call)
    page = empty_shop.get("/").text
    assert "first-now" not in page
    assert "Elm Street school" in page
    assert not re.search("Pellow|Demo shop|ferry", page)


@pytest.mark.parametrize("name", ["motors-template.csv", "van-template.csv"])
def test_a_template_is_taken_as_it_is(empty_shop, name):
    file = empty_shop.get(f"/starter/{name}").content
    sent = {"file": (name.replace("-template", ""), file, "text/csv")}
    preview = empty_shop.post("/shelf/import", data=hidden(empty_shop.get("/shelf").text, "/shelf/import"), files=sent)
    assert "Every row is good" in preview.text


def test_from_the_demo_to_a_shop_of_ones_own_and_only_from_the_demo(client, demo_path):
    assert "Demo shop with made-up data" in client.get("/").text
    assert now_asked_after_start(client) == "Name your shop"
    assert "Demo shop" not in client.get("/").text
    db = Database(demo_path)
    assert world_of(db) == "own"
    assert [step.is_done for step in first_steps(db)] == [False] * 4
    with pytest.raises(NotTheDemo):
        start_own_shop(db, stamp())
    db.close()


def now_asked_after_start(browser) -> str:
    post(browser, "/start", "/start")
    return now_asked(browser)


def test_every_station_and_every_test_has_its_help():
    assert set(STATION_HELP) == {station.key for station in STATIONS}
    assert {test.kind for test in TESTS} <= set(HELP)
    assert set(WHY_ASKED) <= set(FIELDS)


def test_a_station_says_how_it_works_and_a_test_how_it_is_taken_with_words_that_lead_to_the_glossary(reader):
    page = reader.get(f"/calls/{FERRY_ROOM}/path?link=capacitor&kind=capacitance_uf").text
    assert "How Path works" in page
    assert "Reading HERM to FAN instead of C to FAN" in re.sub(r"<[^>]+>", "", page)
    linked = set(re.findall(r'href="/glossary#(\w+)"', page))
    assert "herm" in linked
    assert linked <= set(GLOSSARY)
    glossary = reader.get("/glossary").text
    assert all(f'id="{key}"' in glossary for key in GLOSSARY)


def test_the_field_card_holds_the_method_on_two_pages(reader, tmp_path):
    card = tmp_path / "card.pdf"
    card.write_bytes(reader.get("/help/field-card.pdf").content)
    told = subprocess.run(["pdfinfo", card], capture_output=True, text=True, check=True).stdout
    text = subprocess.run(["pdftotext", card, "-"], capture_output=True, text=True, check=True).stdout
    assert re.search(r"Pages:\s+2\b", told)
    assert all(title in text for title in ("Make safe", "Prove the path", "Winding to ground", "Run test"))
