"""The pages without script: acts, guards, bad input beside its field."""

import json
import re
import threading

import pytest
from fastapi.testclient import TestClient

from keen_coil.services.catalog.shelf_import import ImportCounts
from keen_coil.services.demo.demo import DATA
from tests.calls import call_data, reading
from tests.demo_calls import COLD_STORE, FERRY_ROOM, GANNET_COTTAGE, ROPE_WORKS

STATIONS = (
    "arrive",
    "make-safe",
    "plates",
    "path",
    "finding",
    "match",
    "body",
    "capacitor",
    "hook-up",
    "hook-up?view=found",
    "hook-up?view=try",
    "run-proof",
    "hand-over",
    "record",
)


def hidden(page: str, action: str) -> dict[str, str]:
    """The hidden fields of the form that posts to `action`."""
    form = next(part for part in page.split("<form")[1:] if f'action="{action}"' in part.split(">")[0])
    form = form.split("</form>")[0]
    return dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', form))


def post(client, page_path, action, files=None, **fields):
    page = client.get(page_path)
    return client.post(action, data={**hidden(page.text, action), **fields}, files=files)


@pytest.mark.parametrize(
    "path",
    [
        "/",
        "/shelf",
        "/shelf?on=van",
        "/help",
        "/settings",
        "/settings/weighing",
        *[f"/calls/{n}/{s}" for n in range(1, 15) for s in STATIONS],
    ],
)
def test_every_page_answers_with_the_policy(reader, path):
    answer = reader.get(path)
    assert answer.status_code == 200
    policy = answer.headers["content-security-policy"]
    assert "default-src 'self'" in policy
    assert "unsafe" not in policy
    assert " style=" not in answer.text
    assert not re.search(r"<script(?![^>]*src=)|\son\w+=|<style", answer.text)
    assert not re.search(r'(src|href|action)="(https?:)?//', answer.text)


def test_a_call_from_new_to_closed_without_script(client):
    page = post(client, "/", "/calls", site="Lighthouse", unit="store", technician="Corin Hask", role="condenser_fan")
    call = re.search(r"/calls/(\d+)/arrive", str(page.url))[0].removesuffix("/arrive")
    page = post(client, f"{call}/arrive", f"{call}/arrive", symptom="hums_no_start", says="It hums")
    page = post(
        client,
        f"{call}/make-safe",
        f"{call}/make-safe",
        steps=["disconnect", "tester_before", "dead", "tester_after", "bled"],
    )
    assert "Locked out, proved dead, bled" in page.text
    plate = {
        "motor.kind": "psc",
        "motor.hp": "1/4",
        "motor.volts": "208-230",
        "motor.amps_a": "1.40",
        "motor.rpm": "1090",
        "motor.capacitor_uf": "5",
        "unit.supply_v": "230",
        "unit.run_capacitor": "own",
        "capacitor.single": "5",
    }
    page = post(client, f"{call}/plates", f"{call}/plates", **plate)
    assert str(page.url).endswith("/path")
    path = f"{call}/path?link=capacitor&kind=capacitance_uf"
    page = post(client, path, f"{call}/readings", value="2.10")
    assert "Weak: 58 % low" in page.text
    assert "Replace the run capacitor" in client.get(f"{call}/finding").text
    post(client, f"{call}/run-proof", f"{call}/power", power="energised")
    for check, value in (("turns_way", "right"), ("supply_v", "236"), ("run_amps_a", "1.32"), ("noise", "quiet")):
        page = post(client, f"{call}/run-proof?check={check}", f"{call}/run-proof", value=value)
    assert "Passed." in page.text
    page = post(client, f"{call}/hand-over", f"{call}/hand-over", fitted="Capacitor 5 µF replaced")
    assert "Closed" in page.text
    assert "Capacitor 5 µF replaced" in client.get(f"{call}/record").text
    assert client.get(f"{call}/call.json").json()["readings"][0]["value"] == "2.10"


def test_a_post_without_this_browsers_token_is_refused(client):
    fields = hidden(client.get("/").text, "/calls")
    for token in ("", "forged", fields["csrf"] + "x"):
        answer = client.post("/calls", data={**fields, "csrf": token, "site": "A", "unit": "B"})
        assert answer.status_code == 403
    client.cookies.clear()
    assert client.post("/calls", data={**fields, "site": "A", "unit": "B"}).status_code == 403


def test_a_form_sent_twice_is_done_once(client):
    path, action = f"/calls/{GANNET_COTTAGE}/path?link=air&kind=air_path", f"/calls/{GANNET_COTTAGE}/readings"
    fields = {**hidden(client.get(path).text, action), "value": "clear"}
    for _ in range(2):
        assert client.post(action, data=fields).status_code == 200
    assert len(client.get(f"/calls/{GANNET_COTTAGE}/call.json").json()["readings"]) == 1


def test_two_pages_of_one_call_the_older_is_told(client):
    path, action = f"/calls/{GANNET_COTTAGE}/path?link=air&kind=air_path", f"/calls/{GANNET_COTTAGE}/readings"
    first, second = (hidden(client.get(path).text, action) for _ in range(2))
    client.post(action, data={**first, "value": "clear"})
    answer = client.post(action, data={**second, "value": "dirty"})
    assert answer.status_code == 409
    assert "nothing of theirs was overwritten" in answer.text


@pytest.mark.parametrize(
    ("field", "value", "expected"),
    [
        ("motor.rpm", "0", "above 0"),
        ("motor.volts", "23O", "plate volts such as"),
        ("motor.amps_a", "-1", "above 0"),
        ("motor.hp", "1/0", "above 0"),
        ("capacitor.fan", "5 by 2", "above 0"),
        ("motor.part_no", "x" * 300, "at most 200"),
    ],
)
def test_a_bad_plate_field_is_told_beside_it_and_stays_typed(client, field, value, expected):
    answer = post(
        client, f"/calls/{ROPE_WORKS}/plates", f"/calls/{ROPE_WORKS}/plates", **{field: value, "motor.hz": "60"}
    )
    assert answer.status_code == 422
    beside = answer.text.split(f'id="fault-{field}"')[1].split("</p>")[0]
    assert expected in beside
    assert f'value="{value}"' in answer.text
    assert client.get(f"/calls/{ROPE_WORKS}/call.json").json()["motor"]["rpm"] == 1090


@pytest.mark.parametrize("value", ["23O", "-5", "", "1e9", "<script>alert(1)</script>"])
def test_a_bad_reading_is_told_beside_the_field_and_stays_typed(client, value):
    path = f"/calls/{GANNET_COTTAGE}/path?link=supply&kind=supply_v&at=unit"
    answer = post(client, path, f"/calls/{GANNET_COTTAGE}/readings", value=value)
    assert answer.status_code == 422
    assert "a number from 0 to 1000 (V)" in answer.text
    assert "<script>alert" not in answer.text
    assert client.get(f"/calls/{GANNET_COTTAGE}/call.json").json()["readings"] == []


def test_the_over_range_button_wins_over_the_empty_field(client):
    path = f"/calls/{ROPE_WORKS}/path?link=insulation&kind=ground_ohm"
    answer = post(client, path, f"/calls/{ROPE_WORKS}/readings", lead="black", value=["", "OL"])
    assert "Over range: not grounded at the meter" in answer.text


def test_judged_while_typing_and_not_saved(reader):
    path = f"/calls/{ROPE_WORKS}/judge?kind=capacitance_uf&link=capacitor&section=fan&value="
    assert "Weak: 50 % low" in reader.get(path + "2.50").text
    assert "Needed: a number" in reader.get(path + "2,50").text
    assert len(reader.get(f"/calls/{ROPE_WORKS}/call.json").json()["readings"]) == 9


def test_uploads_beside_their_field(client):
    def bring(action, page, name, data):
        return post(client, page, action, files={"file": (name, data)})

    bad = (DATA / "motors.csv").read_bytes().replace(b",rpm,", b",speed,", 1)
    answer = bring("/shelf/import", "/shelf", "motors.csv", bad)
    assert answer.status_code == 422
    assert "Column rpm: no such column" in answer.text
    assert "74 motors in the catalog" in client.get("/shelf").text
    answer = bring("/shelf/import", "/shelf", "motors.csv", b"x" * 69_000_000)
    assert "at most 67.1 MB" in answer.text
    answer = bring("/calls/import", "/", "x.call.json", b'{"format": "keen-coil/call", "version": 3}')
    assert "Version: 3. Needed: 1" in answer.text
    assert "File: no file. Needed: a file" in post(client, "/", "/calls/import", files={"file": ("", b"")}).text


def test_a_catalogue_comes_in(client):
    row = b"part_no,kind,hp,volts,amps_a,phase,hz,rpm\nNEW-1,psc,1/4,208-230,1.45,1,60,1080\n"
    page = post(client, "/shelf", "/shelf/import", files={"file": ("m.csv", row)})
    assert "1 added, 0 changed" not in page.text
    assert "NEW-1" not in client.get("/shelf?find=new-1").text.split("<main")[1].split("<aside")[0].replace(
        'value="new-1"', ""
    )
    draft = str(page.url).split("127.0.0.1")[1]
    assert "1 added, 0 changed" in post(client, draft, draft, do="bring").text
    assert "NEW-1" in client.get("/shelf?find=new-1").text


def test_choosing_a_school_changes_who_can_serve(client):
    page = post(client, f"/calls/{FERRY_ROOM}/match", f"/calls/{FERRY_ROOM}/school", school="like")
    assert "1 of 74 can serve" in page.text
    assert post(client, f"/calls/{FERRY_ROOM}/match", f"/calls/{FERRY_ROOM}/school", school="best").status_code == 422


@pytest.mark.parametrize(
    "path",
    [
        "/calls/999/path",
        "/calls/x/path",
        "/nowhere",
        f"/calls/{ROPE_WORKS}/nowhere",
        "/static/../settings.py",
        "/calls/0",
    ],
)
def test_what_is_not_there_says_so(reader, path):
    assert reader.get(path).status_code == 404


@pytest.mark.parametrize(
    "query", ["link=nowhere", "replaces=99", "saved=99", "saved=x", "pair=%FF", "kind=aura&at=moon"]
)
def test_odd_queries_do_no_harm(reader, query):
    assert reader.get(f"/calls/{ROPE_WORKS}/path?{query}").status_code == 200
    assert reader.get(f"/calls/{ROPE_WORKS}/run-proof?{query}&check=aura").status_code == 200


def test_a_foreign_host_name_is_refused(reader):
    assert reader.get("/", headers={"host": "evil.example"}).status_code == 400


def test_going_back_stays_on_this_site(client):
    for back in ("//evil.example", "https://evil.example", "/\\evil.example"):
        fields = {**hidden(client.get("/").text, "/view"), "back": back, "theme": "attic"}
        answer = client.post("/view", data=fields, follow_redirects=False)
        assert answer.headers["location"] == "/"
    assert 'data-theme="attic"' in client.get("/").text


def test_what_people_type_is_text_everywhere(client):
    nasty = '"><img src=x onerror=alert(1)>'
    page = post(client, "/", "/calls", site=nasty, unit=nasty, technician=nasty, role="condenser_fan", says=nasty)
    call = str(page.url).removesuffix("/arrive").removeprefix("http://127.0.0.1")
    for path in ("/", f"{call}/arrive", f"{call}/path", f"{call}/hand-over", f"{call}/record"):
        assert "<img src=x" not in client.get(path).text


def test_an_act_needs_its_id(client):
    fields = {**hidden(client.get("/").text, "/calls"), "act_id": "", "site": "A", "unit": "B"}
    assert client.post("/calls", data=fields).status_code == 422


def test_a_strange_call_file_still_has_all_its_pages(client):
    rows = [
        reading("winding_ohm", ["OL", 5, 5]),
        reading("air_speed_fpm", [-20, 300]),
        reading("capacitor_load", {"amps_a": 1, "volts_v": 390}),
        reading("supply_v", [230, 231, 0]),
        reading("hold", True, at="defrost"),
        reading("run_amps_a", [1, 2, 3], turns=5),
    ]
    data = call_data(*rows, motor={"kind": "three_phase", "phase": 3, "volts": "208-230/460"}, unit={"phase": 3})
    page = post(client, "/", "/calls/import", files={"file": ("odd.call.json", json.dumps(data).encode())})
    call = str(page.url).removeprefix("http://127.0.0.1").removesuffix("/path")
    for station in STATIONS:
        assert client.get(f"{call}/{station}").status_code == 200


def test_a_file_whose_end_is_asked_for_while_it_is_being_committed_still_tells_what_was_brought_in(client):
    end = threading.Event()

    def work(progress):
        assert end.wait(5)
        return ImportCounts(added=7, changed=0, same=0)

    client.app.state.jobs.start("gone", "Writing", work)
    threading.Timer(0.2, end.set).start()
    for _ in range(2):  # a page that is loaded again is told again
        page = client.get("/shelf/import/gone")
        assert page.status_code == 200
        assert "7 added" in page.text
    assert client.get("/shelf/import/never").status_code == 404


def test_readings_come_in_as_a_file_all_or_none(client):
    lines = client.get(f"/calls/{COLD_STORE}/readings.csv").content
    action = f"/calls/{GANNET_COTTAGE}/readings/file"
    fields = hidden(client.get(f"/calls/{GANNET_COTTAGE}/path").text, action)
    page = client.post(action, data=fields, files={"file": ("readings.csv", lines)})
    many = len(client.get(f"/calls/{COLD_STORE}/call.json").json()["readings"])
    assert f"{many} readings imported" in page.text
    assert len(client.get(f"/calls/{GANNET_COTTAGE}/call.json").json()["readings"]) == many
    fields = hidden(page.text, action)
    answer = client.post(action, data=fields, files={"file": ("readings.csv", lines + b"5,,,,,,gust,1\n")})
    assert answer.status_code == 422
    assert "Nothing was added" in answer.text
    assert len(client.get(f"/calls/{GANNET_COTTAGE}/call.json").json()["readings"]) == many


def test_a_fault_of_the_program_is_said_with_the_policy_and_saves_nothing(client, monkeypatch):
    def fails(*anything):
        raise ZeroDivisionError

    monkeypatch.setattr("keen_coil.web.routes.arrive.save_complaint", fails)
    calm = TestClient(client.app, base_url="http://127.0.0.1", raise_server_exceptions=False)
    form = hidden(calm.get(f"/calls/{GANNET_COTTAGE}/arrive").text, f"/calls/{GANNET_COTTAGE}/arrive")
    answer = calm.post(f"/calls/{GANNET_COTTAGE}/arrive", data={**form, "says": "It squeals"})
    assert answer.status_code == 500
    assert "Something went wrong in Keen Coil" in answer.text
    assert "ZeroDivisionError" not in answer.text
    assert "default-src 'self'" in answer.headers["content-security-policy"]
    assert "It squeals" not in calm.get(f"/calls/{GANNET_COTTAGE}/arrive").text


@pytest.mark.parametrize(
    ("role", "kind", "said", "never"),
    [
        ("condenser_fan", "split_condenser", "The compressor is what gets hurt", "defrost"),
        ("condenser_fan", "heat_pump_outdoor", "auxiliary heat", "The compressor is what gets hurt"),
        ("indoor_blower", "air_handler", "The coil freezes", "head-pressure"),
        ("indoor_blower", "fan_coil", "door switch", "freezes"),
        ("inducer", "furnace", "Leave the furnace off", "defrost"),
    ],
)
def test_arrive_says_what_holds_for_this_motor_in_this_unit(client, role, kind, said, never):
    page = post(client, "/", "/calls", site="Tannery", unit=kind, role=role, unit_kind=kind)
    text = page.text.split('class="side"')[1]
    assert said in text
    assert never not in text
