"""The model by command line and API: the contract's keys, the same answer, refusals with the path."""

import json

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app
from tests.calls import call_data, reading
from tests.core.test_circuit import CIRCUIT

LINE = reading("supply_v", 241, at="unit")


@pytest.fixture
def run(tmp_path):
    """Runs `model` on a file with this content."""

    def go(data, *args, circuit=False):
        path = tmp_path / "x.json"
        path.write_text(data if isinstance(data, str) else json.dumps(data))
        return CliRunner().invoke(app, ["model", *(["--circuit"] if circuit else []), str(path), *args])

    return go


def test_the_contracts_answer(run):
    answer = json.loads(run(call_data(LINE), "--json").stdout)
    assert {"fit", "point", "starts"} <= set(answer)
    assert {"r1_ohm", "x1_ohm", "r2_ohm", "xm_ohm", "turns_ratio", "r1a_ohm", "misses"} <= set(answer["fit"])
    point = answer["point"]
    assert {"run_amps_a", "run_rpm", "capacitor_v", "shaft_w", "starting_torque_pct"} <= set(point)
    assert set(point["run_amps_a"]) == {"whole", "capacitor", "winding"}
    for low, mid, high in (*point["run_amps_a"].values(), point["run_rpm"], point["capacitor_v"], point["shaft_w"]):
        assert low <= mid <= high
    assert answer["starts"] == "starts_and_runs"
    assert point["starting_torque_pct"] > 0


def test_settings_change_conditions_and_dotted_ones_the_call(run):
    weak = json.loads(run(call_data(LINE), "--set", "capacitor_uf=4", "--json").stdout)
    plain = json.loads(run(call_data(LINE), "--json").stdout)
    assert weak["point"]["run_rpm"][1] < plain["point"]["run_rpm"][1]
    assert weak["point"]["starting_torque_pct"] < 0.85 * plain["point"]["starting_torque_pct"]
    opened = json.loads(run(call_data(LINE), "--set", "capacitor_uf=open", "--json").stdout)
    assert opened["starts"] == "runs_only_if_pushed"
    assert opened["point"]["capacitor_v"] is None
    assert opened["point"]["starting_torque_pct"] == 0
    half = json.loads(
        run(
            call_data(LINE),
            "--set",
            "motor.hp=0.3333",
            "--set",
            "motor.amps_a=1.9",
            "--set",
            "motor.capacitor_uf=7.5",
            "--json",
        ).stdout
    )
    assert half["point"]["shaft_w"][1] > 1.25 * plain["point"]["shaft_w"][1]
    both = json.loads(run(call_data(LINE), "--set", "supply_v=208", "--set", "load_pct=120", "--json").stdout)
    assert any("208 V" in text for text in both["conditions"])
    assert any("120 %" in text for text in both["conditions"])


def test_as_text_it_is_a_table_with_its_doubts(run):
    found = run(call_data(LINE, motor__hz=None, unit__hz=None))
    assert found.exit_code == 0
    for text in ("starts and runs", "amps, whole", "capacitor V", "an estimate"):
        assert text in found.stdout


@pytest.mark.parametrize(
    ("settings", "line"),
    [
        (["capacitor_uf=much"], 'set.capacitor_uf: got much; expected a number from 0 to 1000, "open" or "shorted"'),
        (["supply_v=-3"], "set.supply_v: got -3; expected a number above 0 to 1000"),
        (["colour=red"], "set.colour: got red; expected no field of this name"),
        (["capacitor_uf"], "set: got capacitor_uf; expected NAME=VALUE"),
        (["motor.hp=2"], "motor.hp: got 2; expected under 0.432 hp"),
        (["motor.rpm=3700"], "motor.rpm: got 3700; expected below 3600"),
        (["motor.capacitor_uf=450"], "motor.capacitor_uf: got 450; expected at most"),
        (["motor.kind=ecm"], "motor.kind: got ecm"),
        (["readings.0=1"], "readings"),
        (["version.x=1"], "set.version.x"),
    ],
)
def test_what_cannot_be_ends_with_2_and_a_plain_line(run, settings, line):
    found = run(call_data(), *(part for text in settings for part in ("--set", text)))
    assert found.exit_code == 2
    assert line in found.stderr
    assert found.stdout == ""


def test_a_circuit_that_was_in_no_repository(run):
    mine = {
        **CIRCUIT,
        "v": 230,
        "poles": 6,
        "slip": 0.1,
        "r1_ohm": 31,
        "xm_ohm": 240,
        "turns_ratio": 1.3,
        "capacitor_uf": 6,
        "r2_ohm": 27,
        "x1_ohm": 20,
        "x2_ohm": 20,
        "r1a_ohm": 55,
        "x1a_ohm": 34,
    }
    answer = json.loads(run(mine, circuit=True).stdout)
    assert set(answer) == {
        "main_a",
        "aux_a",
        "line_a",
        "capacitor_v",
        "power_factor",
        "input_w",
        "shaft_w",
        "shaft_torque_nm",
        "rpm",
        "efficiency",
    }
    assert answer["rpm"] == pytest.approx(1080)
    assert answer["input_w"] == pytest.approx(230 * answer["line_a"][0] * answer["power_factor"])
    assert answer["efficiency"] == pytest.approx(answer["shaft_w"] / answer["input_w"])
    assert answer["aux_a"][1] > answer["main_a"][1]


def test_circuit_and_call_do_not_go_together(run, tmp_path):
    assert CliRunner().invoke(app, ["model"]).exit_code == 2
    (tmp_path / "c.json").write_text(json.dumps(CIRCUIT))
    both = CliRunner().invoke(app, ["model", str(tmp_path / "c.json"), "--circuit", str(tmp_path / "c.json")])
    assert both.exit_code == 2
    assert "expected a call file" in both.stderr
    bad = run({**CIRCUIT, "poles": 3}, circuit=True)
    assert (bad.exit_code, "poles: got 3; expected an even number" in bad.stderr) == (2, True)
    assert run("{", circuit=True).exit_code == 2


def test_the_api_gives_the_same_answers(client, run):
    data = call_data(LINE)
    by_command = json.loads(run(data, "--set", "capacitor_uf=4", "--json").stdout)
    assert client.post("/api/model", json={"call": data, "set": {"capacitor_uf": 4}}).json() == by_command
    bigger = client.post("/api/model", json={"call": data, "set": {"motor.hp": 0.3, "supply_v": 230}}).json()
    assert bigger == json.loads(run(data, "--set", "motor.hp=0.3", "--set", "supply_v=230", "--json").stdout)
    assert client.post("/api/model", json=data).json() == json.loads(run(data, "--json").stdout)
    assert client.post("/api/model", json={"circuit": CIRCUIT}).json() == json.loads(run(CIRCUIT, circuit=True).stdout)


@pytest.mark.parametrize(
    ("body", "path"),
    [
        ({"call": call_data(motor__rpm=0)}, "call.motor.rpm"),
        ({"call": call_data(motor__kind="ecm")}, "call.motor.kind"),
        ({"call": call_data(), "set": {"capacitor_uf": "x"}}, "set.capacitor_uf"),
        ({"call": call_data(), "set": []}, "set"),
        ({"call": call_data(), "set": {"motor.hp": 9}}, "call.motor.hp"),
        ({"call": [], "set": {"motor.hp": 1}}, "set.motor.hp"),
        ({"call": call_data(), "more": 1}, "more"),
        ({"circuit": {**CIRCUIT, "slip": 3}}, "circuit.slip"),
        ({"circuit": 1}, "circuit"),
        ([], ""),
        ({"format": "x"}, "format"),
        (call_data(motor__hp=3), "motor.hp"),
    ],
)
def test_bad_requests_are_422_with_the_path(client, body, path):
    answer = client.post("/api/model", json=body)
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["path"] == path
    assert answer.json()["errors"][0]["expected"]
