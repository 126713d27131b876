"""A shop's own tables: what is wrong in them is said with table and entry, and the right ones take the place of ours."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app
from tests.calls import call_data, reading

OURS = Path(__file__).parent.parent / "src/keen_coil"


def put(folder, place, text):
    file = folder / place
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(text, encoding="utf-8")


@pytest.mark.parametrize(
    ("place", "was", "now", "says"),
    [
        ("core/changes.toml", "says = ", "sayz = ", "changes.toml"),
        ("core/diagnosis/causes.toml", 'signals = ["', 'signals = ["push.yes", "', "push.yes"),
        ("core/swap/steps.toml", "[", "[[[", "steps.toml"),
        ("core/limmits.toml", "", "", "no table of this name"),
    ],
)
def test_what_is_wrong_is_said(tmp_path, place, was, now, says):
    ours = OURS / place
    put(tmp_path, place, ours.read_text(encoding="utf-8").replace(was, now, 1) if ours.exists() else "a = 1")
    done = CliRunner().invoke(app, ["check-tables", str(tmp_path)])
    assert done.exit_code == 2
    assert place in done.stderr
    assert says in done.stderr


def test_a_tightened_table_takes_the_place_of_ours(tmp_path):
    text = (OURS / "core/judge/words.toml").read_text(encoding="utf-8")
    assert "Turns freely by hand." in text
    put(tmp_path / "own", "core/judge/words.toml", text.replace("Turns freely by hand.", "Spins like new."))
    assert CliRunner().invoke(app, ["check-tables", str(tmp_path / "own")]).exit_code == 0
    file = tmp_path / "x.call.json"
    file.write_text(json.dumps(call_data(reading("spin", "free"))), encoding="utf-8")
    command = [sys.executable, "-m", "keen_coil", "assess", str(file), "--json"]
    for own, says in (("", "Turns freely by hand."), (str(tmp_path / "own"), "Spins like new.")):
        env = {**os.environ, "KEEN_COIL_TABLES": own}
        done = subprocess.run(command, env=env, capture_output=True, text=True, check=True)
        assert json.loads(done.stdout)["judgements"][0]["says"] == says
