"""The command line: answers, exit codes, one plain line for each fault."""

import json
import subprocess
import sys
from pathlib import Path

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app
from keen_coil.services.demo.demo import DATA
from tests.calls import call_data, reading

CATALOGUE = str(DATA / "motors.csv")


def run(*args):
    return CliRunner().invoke(app, list(args))


@pytest.fixture
def call_file(tmp_path):
    """Writes a call file."""

    def write(data):
        path = tmp_path / "x.call.json"
        path.write_text(data if isinstance(data, str) else json.dumps(data))
        return str(path)

    return write


def test_assess_as_json_and_as_text(call_file):
    path = call_file(call_data(reading("capacitance_uf", 2.1, section="fan")))
    answer = json.loads(run("assess", path, "--json").stdout)
    assert (answer["verdict"], answer["leading_fault"]) == ("replace_capacitor", "capacitor_weak")
    text = run("assess", path).stdout
    assert "Replace the run capacitor" in text
    assert "capacitor" in text


def test_match_as_json_and_as_text(call_file, tmp_path):
    path = call_file(call_data())
    answer = json.loads(run("match", path, "--catalogue", CATALOGUE, "--json").stdout)
    assert answer["school"] == "amps"
    assert {row["result"] for row in answer["candidates"]} == {"fits", "work", "refused"}
    van = tmp_path / "van.csv"
    van.write_text("part_no,kind,quantity\nSE-4230,motor,2\n")
    stocked = json.loads(run("match", path, "--catalogue", CATALOGUE, "--van", str(van), "--json").stdout)
    assert {row["part_no"]: row["on_van"] for row in stocked["candidates"]}["SE-4230"] == 2
    assert "SE-4230" in run("match", path, "--catalogue", CATALOGUE).stdout


@pytest.mark.parametrize(
    ("data", "line"),
    [
        ("{", "expected JSON"),
        (call_data(version=9), "version: got 9; expected 1"),
        (call_data(motor__rpm=0), "motor.rpm: got 0; expected a number above 0"),
        (call_data(motor__volts="23O"), "motor.volts: got 23O; expected"),
        (call_data(reading("supply_v", -5)), "readings.0.value: got -5; expected a number from 0"),
        (call_data(reading("aura", 1)), "readings.0.kind: got aura; expected a reading kind"),
    ],
)
def test_bad_call_files_end_with_2_and_a_line(call_file, data, line):
    path = call_file(data)
    result = run("assess", path)
    assert result.exit_code == 2
    assert result.stderr.startswith(f"{path}: ")
    assert line in result.stderr
    assert result.stdout == ""


def test_bad_catalogues_end_with_2_and_name_their_file(call_file, tmp_path):
    bad = tmp_path / "motors.csv"
    bad.write_text("part_no,kind\nX,psc\n")
    result = run("match", call_file(call_data()), "--catalogue", str(bad))
    assert result.exit_code == 2
    assert f"{bad}: rpm: got no such column; expected" in result.stderr
    assert run("match", call_file(call_data()), "--catalogue", "nowhere.csv").exit_code == 2
    assert run("match", call_file(call_data()), "--catalogue", CATALOGUE, "--school", "none").exit_code == 2


def test_export_gives_the_shelf_out_and_import_takes_it_back(tmp_path):
    db, out = str(tmp_path / "x.db"), tmp_path / "shelf.zip"
    run("import", CATALOGUE, "--db", db)
    run("import", str(Path(CATALOGUE).with_name("van.csv")), "--db", db)
    assert "kB" in run("export", str(out), "--db", db).stdout
    assert "0 added, 0 changed, 144 as before" in run("import", str(out), "--db", db).stdout
    assert "144 added" in run("import", str(out), "--db", str(tmp_path / "y.db")).stdout
    answer = run("export", str(tmp_path / "shelf.pdf"), "--db", db)
    assert answer.exit_code == 2
    assert "expected motors.csv, van.csv" in answer.stderr


def test_import_brings_a_catalogue_and_a_call_in(call_file, tmp_path):
    db = str(tmp_path / "x.db")
    assert "74 added" in run("import", CATALOGUE, "--db", db).stdout
    assert "call 1 added" in run("import", call_file(call_data()), "--db", db).stdout
    assert run("import", call_file("{}"), "--db", db).exit_code == 2


def test_serving_elsewhere_without_a_manager_is_refused(tmp_path):
    result = run("serve", "--host", "0.0.0.0", "--db", str(tmp_path / "x.db"))  # noqa: S104
    assert result.exit_code == 2
    assert "no manager; expected one first: keen-coil account add" in result.stderr


def test_the_command_itself_starts():
    done = subprocess.run([sys.executable, "-m", "keen_coil", "--help"], capture_output=True, text=True, check=True)
    assert "assess" in done.stdout


HEAVY = {
    "--help": ("alembic", "argon2", "weasyprint", "keen_coil.web", "sqlalchemy", "scipy", "networkx", "fastapi"),
    "assess": ("alembic", "argon2", "weasyprint", "keen_coil.web", "sqlalchemy", "fastapi", "PIL", "scipy.stats"),
    "match": ("alembic", "argon2", "weasyprint", "keen_coil.web", "fastapi", "PIL", "scipy.stats"),
    "practice": ("alembic", "argon2", "weasyprint", "keen_coil.web", "sqlalchemy", "fastapi", "scipy.stats"),
}


@pytest.mark.parametrize("command", HEAVY)
def test_a_command_loads_nothing_heavy_that_it_does_not_use(tmp_path, command):
    call = tmp_path / "a.call.json"
    call.write_text(json.dumps(call_data(readings=[reading("run_amps_a", "1.9")])))
    args = {
        "--help": ["--help"],
        "assess": ["assess", str(call)],
        "match": ["match", str(call), "--catalogue", str(DATA / "motors.csv")],
        "practice": ["practice", "rungs"],
    }[command]
    code = (
        "import sys, json\nfrom keen_coil.cli.commands import app\n"
        f"try:\n    app({args!r})\nexcept SystemExit as end:\n    assert not end.code\n"
        "print('LOADED', json.dumps(sorted(sys.modules)))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    loaded = set(json.loads(done.stdout.rpartition("LOADED ")[2]))
    assert "keen_coil.cli.commands" in loaded
    assert loaded & set(HEAVY[command]) == set()
