"""Hook-up by command, API and page: the same answer, files out, what cannot be is said plainly."""

import json
import re
import xml.etree.ElementTree as ElementTree
from itertools import pairwise
from pathlib import Path

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app
from keen_coil.core.hookup.drawing import fitting, lay_out
from keen_coil.core.hookup.leads import read_leads
from keen_coil.core.hookup.terminals import joins
from keen_coil.services.calls import call_files
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.rail import STATION
from keen_coil.services.demo.demo import DATA
from keen_coil.services.stations import hook_up, lead_forms, match
from keen_coil.services.stations.record import record_of
from keen_coil.store import tables
from tests.calls import call_data, make_call
from tests.demo_calls import ROPE_WORKS, TIDE_MILL
from tests.fixtures import closed, every_step, stamp
from tests.web.test_pages import post
from tests.wirings import FOUR, OLD, RIGHT, THREE, UNIT, wires

SWAPPED = [
    ("motor.black", "switch.t2"),
    ("motor.white", "capacitor.fan"),
    ("motor.brown", "capacitor.common"),
    *RIGHT[3:],
]


def run(*args):
    return CliRunner().invoke(app, list(args))


@pytest.fixture
def db(stocked):
    """The catalog and the van are there before each of these."""
    return stocked


@pytest.fixture
def call_file(tmp_path):
    def write(**hookup):
        path = tmp_path / "x.call.json"
        path.write_text(json.dumps(call_data(hookup={"leads": THREE, **hookup})))
        return str(path)

    return write


def test_plan_to_a_motor_of_a_catalogue_with_drawing_and_netlist(call_file, tmp_path):
    drawing, netlist = tmp_path / "x.svg", tmp_path / "x.cir"
    path = call_file(found=wires(OLD))
    asked = ("hookup", path, "--to", "TM-4027", "--catalogue", str(DATA / "motors.csv"), "--school", "own", "--json")
    answer = json.loads(run(*asked, "--svg", str(drawing), "--spice", str(netlist)).stdout)
    assert answer["check"]["runs"] is True
    assert {"from": "motor.brown", "to": "fancap.2"} in answer["planned"]
    assert {move["do"] for move in answer["moves"]} >= {"take_off", "put_on", "set"}
    words = [text.text for text in ElementTree.parse(drawing).iter("{http://www.w3.org/2000/svg}text")]  # noqa: S314
    assert "brown: start" in words
    assert netlist.read_text().startswith("* hook-up at slip 0.0")
    text = run(*asked[:-1]).stdout
    assert "1. Take off black from switch T2" in text
    assert "Runs, turns: unknown" in text


def test_check_names_the_miswire_and_the_api_says_the_same(call_file, client):
    path = call_file(planned=wires([*UNIT, *SWAPPED]))
    answer = json.loads(run("hookup", path, "--check", "--json").stdout)
    assert [item["fault"] for item in answer["check"]["findings"]] == [
        "aux_across_line",
        "capacitor_in_series_with_main",
        "reversed",
    ]
    call = json.loads(Path(path).read_text())
    assert client.post("/api/hookup", json={"call": call, "check": True}).json() == answer
    planned = client.post("/api/hookup", json=call).json()
    assert planned["check"]["runs"] is True


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"call": {}, "school": "dual"}, "call.format"),
        ({"call": None}, "call"),
        ([], ""),
        ({"call": call_data(), "school": "best"}, "school"),
        ({"call": call_data(), "to": {"kind": "pump"}}, "to.kind"),
        ({"call": call_data(), "check": 1}, "check"),
        ({"call": call_data(hookup={"leads": THREE}), "check": True}, "call.hookup.planned"),
        (
            {"call": call_data(hookup={"leads": THREE, "planned": wires([("motor.black", "nowhere")])}), "check": True},
            "call.hookup.planned.0.to",
        ),
    ],
)
def test_bad_requests_name_their_path(client, body, path):
    answer = client.post("/api/hookup", json=body)
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["path"] == path


def test_a_command_that_cannot_be_ends_with_two(call_file, tmp_path):
    assert run("hookup", call_file(), "--to", "NONE", "--catalogue", str(DATA / "motors.csv")).exit_code == 2
    assert run("hookup", call_file(), "--to", "NONE").exit_code == 2
    answer = run("hookup", call_file(), "--check")
    assert answer.exit_code == 2
    assert "hookup.planned: got nothing; expected the wires" in answer.stderr
    assert run("hookup", call_file(), "--svg", str(tmp_path / "no" / "x.svg")).exit_code == 2


def crossings(drawing):
    """Pairs of leads whose ways cross, counting straight pieces of different leads that go to different terminals."""
    found = []
    pieces = []
    for lead in drawing.leads:
        numbers = [float(n) for n in re.findall(r"[-\d.]+", lead.path)]
        if len(numbers) == 5:
            x0, y0, x1, y1, x2 = numbers
            pieces += [(lead, (x0, y0, x1, y0)), (lead, (x1, y0, x1, y1)), (lead, (x1, y1, x2, y1))]
    for i, (one, a) in enumerate(pieces):
        for other, b in pieces[i + 1 :]:
            level, upright = (a, b) if a[1] == a[3] else (b, a)
            if one.terminal == other.terminal or upright[1] == upright[3] or level[1] != level[3]:
                continue
            inside = min(level[0], level[2]) < upright[0] < max(level[0], level[2])
            if inside and min(upright[1], upright[3]) < level[1] < max(upright[1], upright[3]):
                found.append((one.name, other.name))
    return found


@pytest.mark.parametrize(
    "pairs",
    [
        RIGHT,
        SWAPPED,
        [*RIGHT, ("motor.brown/white", "cap.1")],
        [("motor.black", "ground.frame"), ("motor.white", "ground.frame"), ("motor.brown", "switch.t1")],
    ],
)
def test_no_wire_of_the_motor_crosses_another_and_none_leaves_the_sheet(pairs):
    rows = joins(make_call(hookup={"planned": wires([*UNIT, *pairs])}).hookup.planned, "planned")
    drawing = lay_out(read_leads(make_call(hookup={"leads": FOUR}).hookup.leads), rows, ["switch.t1", "capacitor.fan"])
    assert crossings(drawing) == []
    ys = [lead.y for lead in drawing.leads]
    assert all(after - before >= 30 for before, after in pairwise(ys))
    assert max(ys) < drawing.height


def test_long_names_stay_inside_the_motor():
    rows = [
        {"lead": "violet and yellow, second from the left", "ends": ["main.1", "aux.1"]},
        {"lead": "brown/white", "ends": ["main.2", "main_a.1"]},
    ]
    for name in [row["lead"] for row in rows]:
        shown, word = fitting(name, "run, a word that is far too long for it")
        assert len(shown) * 8.6 + len(word) * 6.8 <= 180
        assert name.startswith(shown.removesuffix(".."))
    assert fitting("brown", "start") == ("brown", "start")


def test_as_found_kept_planned_ticked_and_in_the_record(db):
    call_id = call_files.import_call(db, stamp(0), make_call(hookup={"leads": THREE}), "x.call.json")
    typed = {
        "wire.black": "switch.t2",
        "wire.white": "capacitor.common",
        "wire.brown": "capacitor.fan",
        "wire.green": "hangs",
    }
    hook_up.keep_found(db, call_id, stamp(1), typed)
    found = hook_up.hookup_view(open_call_view(db, call_id), "found")
    assert (found.check.turns, found.goes["brown"]) == ("right", "capacitor.fan")
    assert "drawn the usual way" in found.explains[0]
    match.pick_motor(db, call_id, stamp(2), "TM-4027")
    hook_up.keep_plan(db, call_id, stamp(3), "dual")
    sheet = open_call_view(db, call_id)
    assert STATION["hook-up"].state(sheet) == "part"
    count = len(sheet.row.plan.hookup.moves)
    hook_up.tick_moves(db, call_id, stamp(4), "|".join(map(str, range(count))))
    sheet = open_call_view(db, call_id)
    assert STATION["hook-up"].state(sheet) == "done"
    record = record_of(sheet)
    assert "Take off brown from capacitor fan" in record.hookup
    assert not any("not ticked" in text for text in record.hookup)
    assert hook_up.hookup_view(sheet, "plan").done == set(range(count))


def test_the_next_call_finds_the_new_motor_as_it_was_wired(db):
    call_id = call_files.import_call(
        db, stamp(0), make_call(hookup={"leads": THREE, "found": wires(OLD)}), "x.call.json"
    )
    match.pick_motor(db, call_id, stamp(1), "TM-4027")
    lead_forms.keep_leads(
        db, call_id, stamp(2), "plan", "black: main.1 aux.1\nwhite: main.2\nbrown: aux.2\ngreen: frame"
    )
    hook_up.keep_plan(db, call_id, stamp(3), "dual")
    assert open_call_view(db, call_id).call.hookup.planned
    moves = len(open_call_view(db, call_id).row.plan.hookup.moves)
    hook_up.tick_moves(db, call_id, stamp(4), "|".join(map(str, range(moves))))
    every_step(db, call_id)
    closed(db, call_id)
    with db.reading() as session:
        new = session.query(tables.Motor).filter(tables.Motor.removed_at.is_(None)).one()
        assert new.plate["part_no"] == "TM-4027"
        assert {"from": "motor.brown", "to": "capacitor.fan"} in new.installation.model_dump(
            by_alias=True, exclude_defaults=True
        )["hookup"]["found"]
        assert [row.lead for row in new.installation.hookup.leads] == ["black", "white", "brown", "green"]


def test_another_choice_forgets_the_wiring_of_the_one_before(db):
    call_id = call_files.import_call(
        db, stamp(0), make_call(hookup={"leads": THREE, "found": wires(OLD)}), "x.call.json"
    )
    match.pick_motor(db, call_id, stamp(1), "TM-4027")
    lead_forms.keep_leads(db, call_id, stamp(2), "plan", "black: main.1 aux.1\nwhite: main.2\nbrown: aux.2")
    hook_up.keep_plan(db, call_id, stamp(3), "own")
    match.pick_motor(db, call_id, stamp(4), "BW-118")
    sheet = open_call_view(db, call_id)
    assert (sheet.call.hookup.planned, sheet.call.hookup.new_leads) == ([], [])
    assert len(sheet.call.hookup.found) == len(OLD)
    assert STATION["hook-up"].state(sheet) == "todo"


def test_leads_are_noted_a_line_each_and_a_bad_one_is_told_beside_them(client):
    page = post(
        client,
        f"/calls/{ROPE_WORKS}/hook-up?view=found",
        f"/calls/{ROPE_WORKS}/hook-up/leads",
        leads="black: main.1 aux.1\nwhite: main.2\nbrown: aux.2",
    )
    assert "drawn the usual way" not in page.text
    answer = post(
        client,
        f"/calls/{ROPE_WORKS}/hook-up?view=found",
        f"/calls/{ROPE_WORKS}/hook-up/leads",
        leads="black: main.1 aux.7",
    )
    assert answer.status_code == 422
    assert "aux.7 does not work" in answer.text
    assert "black: main.1 aux.7" in answer.text
    assert client.get(f"/calls/{ROPE_WORKS}/hook-up.svg").headers["content-type"].startswith("image/svg")
    assert client.get(f"/calls/{TIDE_MILL}/hook-up.cir").status_code == 422
