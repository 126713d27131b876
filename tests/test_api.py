"""The API: the same answers as the command line, 422 with the path, no half characters."""

import json

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app
from keen_coil.formats.catalogue_csv import read_catalogue
from keen_coil.services.demo.demo import DATA
from tests.calls import call_data, pair, reading


def test_three_surfaces_one_answer(client, tmp_path):
    data = call_data(reading("capacitance_uf", "2.10", section="fan"), pair("A", "B", "OL"))
    path = tmp_path / "x.call.json"
    path.write_text(json.dumps(data))
    by_api = client.post("/api/assess", json=data).json()
    assert by_api == json.loads(CliRunner().invoke(app, ["assess", str(path), "--json"]).stdout)
    page = client.post("/calls/import", data=form(client), files={"file": ("x.call.json", path.read_bytes())})
    assert "Replace the run capacitor" in page.text
    catalogue = DATA / "motors.csv"
    rows = [m.model_dump(mode="json", by_alias=True, exclude_none=True) for m in read_catalogue(catalogue.read_bytes())]
    by_api = client.post("/api/match", json={"call": data, "catalogue": rows}).json()
    args = ["match", str(path), "--catalogue", str(catalogue), "--json"]
    assert by_api == json.loads(CliRunner().invoke(app, args).stdout)


def form(client):
    page = client.get("/").text
    fields = {}
    for name in ("csrf", "act_id", "version"):
        fields[name] = page.split(f'name="{name}" value="')[1].split('"')[0]
    return fields


@pytest.mark.parametrize(
    ("body", "path"),
    [
        (call_data(motor__rpm=0), "motor.rpm"),
        (call_data(reading("supply_v", -1)), "readings.0.value"),
        (call_data(version=2), "version"),
        ([], ""),
        ("text", ""),
    ],
)
def test_bad_calls_are_422_with_the_path(client, body, path):
    answer = client.post("/api/assess", json=body)
    assert answer.status_code == 422
    error = answer.json()["errors"][0]
    assert (error["path"], set(error)) == (path, {"path", "value", "expected"})


@pytest.mark.parametrize(
    "body", [b"", b"{", b'{"a": NaN}', b"\xff", b"[" * 100_000, b'{"format":"\\ud800"}', b'{"version": 1e400}']
)
def test_hostile_bodies_are_422(client, body):
    answer = client.post("/api/assess", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["expected"]


def test_a_50_mb_body_is_refused_by_its_size(client):
    answer = client.post("/api/assess", content=b" " * 50_000_000, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["value"] == "50.0 MB"


def test_only_json_is_taken(client):
    assert client.post("/api/assess", data={"a": "b"}).status_code == 422


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"call": call_data(), "catalogue": {}}, "catalogue"),
        ({"call": call_data(motor__rpm=0), "catalogue": []}, "call.motor.rpm"),
        ({"call": call_data(), "catalogue": [{"part_no": "X"}]}, "catalogue.0.kind"),
        ({"call": call_data(), "catalogue": [], "school": "best"}, "school"),
        ({"call": call_data(), "catalogue": [], "van": [{"part_no": "X", "quantity": -1}]}, "van.0.quantity"),
        ({"call": call_data(), "catalogue": [], "extra": 1}, "extra"),
    ],
)
def test_bad_match_requests_are_422_with_the_path(client, body, path):
    answer = client.post("/api/match", json=body)
    assert (answer.status_code, answer.json()["errors"][0]["path"]) == (422, path)


def test_openapi_names_each_and_resolves(reader):
    spec = reader.get("/api/openapi.json").json()
    assert set(spec["paths"]) == {"/api/assess", "/api/match", "/api/model", "/api/capacitor", "/api/hookup"}
    names = {part.split('"')[0] for part in json.dumps(spec).split("#/components/schemas/")[1:]}
    assert names <= set(spec["components"]["schemas"])
