"""Capacitors by command line and API: the contract's keys, one answer, refusals with the path."""

import json

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app

VAN = "part_no,kind,sections_uf,volts_v,shape,height_in,quantity\nRC-75,capacitor,7.5,370,oval,3.1,2\nRC-50,capacitor,5,370,oval,2.9,1\nRC-25,capacitor,2.5,440,,,1\nRC-D40,capacitor,40+7.5,440,round,5.1,1\nRC-U,capacitor,2.5|5|10,440,round,4.4,1\nBW-118,motor,,,,,1\n"
ROWS = [
    {"part_no": "RC-75", "sections_uf": "7.5", "volts_v": 370, "quantity": 2},
    {"part_no": "RC-50", "sections_uf": "5", "volts_v": 370},
    {"part_no": "RC-25", "sections_uf": "2.5", "volts_v": 440},
    {"part_no": "RC-D40", "sections_uf": "40+7.5", "volts_v": 440},
    {"part_no": "RC-U", "sections_uf": "2.5|5|10", "volts_v": 440},
]


@pytest.fixture
def run(tmp_path):
    """Runs `capacitor` on this van."""

    def go(need, *args, van=VAN):
        path = tmp_path / "van.csv"
        path.write_text(van, encoding="utf-8")
        return CliRunner().invoke(app, ["capacitor", "--need", need, "--van", str(path), *args])

    return go


def test_the_contracts_answer(run):
    answer = json.loads(run("7.5@370", "--json").stdout)
    assert answer["need"]["uf"] == 7.5
    assert answer["need"]["volts_v"] == 370
    first = answer["answers"][0]
    assert {"parts", "join", "uf", "off_pct", "volts_on_v", "permanent", "says"} <= set(first)
    assert (first["parts"][0]["part_no"], first["join"], first["permanent"]) == ("RC-75", "single", True)
    assert {row["join"] for row in answer["answers"]} == {"single", "parallel"}
    text = run("7.5@370").stdout
    assert "RC-75" in text
    assert "Nothing on the van fits" in run("100@440").stdout


def test_a_can_for_two(run):
    answer = json.loads(run("40+7.5@440", "--json").stdout)
    assert [(p["part_no"], p["section"], p["serves"]) for p in answer["answers"][0]["parts"]] == [
        ("RC-D40", "herm", "herm"),
        ("RC-D40", "fan", "fan"),
    ]


def test_the_api_gives_the_same(client, run):
    by_command = json.loads(run("7.5@370", "--json").stdout)
    assert client.post("/api/capacitor", json={"need": "7.5@370", "van": ROWS}).json() == by_command
    assert client.post("/api/capacitor", json={"need": {"uf": 7.5, "volts_v": 370}, "van": ROWS}).json() == by_command
    both = client.post("/api/capacitor", json={"need": {"herm_uf": 40, "uf": 7.5, "volts_v": 440}, "van": ROWS}).json()
    assert both == json.loads(run("40+7.5@440", "--json").stdout)


@pytest.mark.parametrize(
    ("need", "van", "line"),
    [
        ("7.5", VAN, "need: got 7.5; expected µF@volts"),
        ("7.5@370", "part_no,kind\nA,fuse\n", "row 2.kind"),
        ("7.5@370", "part_no,kind,sections_uf\nA,capacitor,4O\n", "row 2.sections_uf: got 4O"),
        ("7.5@370", "x\n1\n", "part_no: got no such column"),
        ("7.5@370", "part_no,kind,sections_uf,volts_v\nA,capacitor,5+5+5,370\n", "sections_uf"),
    ],
)
def test_what_cannot_be_ends_with_2_and_a_plain_line(run, need, van, line):
    found = run(need, van=van)
    assert found.exit_code == 2
    assert line in found.stderr


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"need": "x", "van": []}, "need"),
        ({"need": "7.5@370"}, "van"),
        ({"need": "7.5@370", "van": [{"part_no": "A"}]}, "van.0.sections_uf"),
        ({"need": "7.5@370", "van": [{**ROWS[0], "sections_uf": "a"}]}, "van.0.sections_uf"),
        ({"need": "7.5@370", "van": [1]}, "van.0"),
        ({"need": "7.5@370", "van": [{**ROWS[0], "quantity": -1}]}, "van.0.quantity"),
        ({"need": {"uf": 5, "v": 3}, "van": []}, "need.v"),
        ({"need": {"uf": 5}, "van": []}, "need.volts_v"),
        ({"need": "7.5@370", "van": [], "more": 1}, "more"),
        ([], ""),
        ({"need": "7.5@370", "van": [{**ROWS[0], "volts_v": "NaN"}]}, "van.0.volts_v"),
    ],
)
def test_bad_requests_are_422_with_the_path(client, body, path):
    answer = client.post("/api/capacitor", json=body)
    assert answer.status_code == 422
    assert path in [error["path"] for error in answer.json()["errors"]]


def test_the_api_takes_rows_as_the_van_file_has_them(client):
    rows = [{"kind": "capacitor", **row} for row in ROWS] + [{"kind": "motor", "part_no": "M-1", "quantity": 1}]
    plain = client.post("/api/capacitor", json={"need": "7.5@370", "van": ROWS}).json()
    assert client.post("/api/capacitor", json={"need": "7.5@370", "van": rows}).json() == plain
    assert (
        client.post("/api/capacitor", json={"need": "7.5@370", "van": [{"kind": "wheel", "part_no": "x"}]}).json()[
            "errors"
        ][0]["path"]
        == "van.0.kind"
    )
