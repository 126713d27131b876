"""Jobs play themselves through the pages: three whole ones; what has no place is named, and the others go on."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

pytestmark = pytest.mark.browser
ROOT = Path(__file__).parent.parent.parent


def played(out, *options):
    """The command that `make jobs` runs."""
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "-m", "jobs", "--out", str(out), "--at-once", "1", *options],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    return done, json.loads((out / "table.json").read_text())


@pytest.mark.parametrize("job", ["03", "10", "19"])
def test_a_job_plays_itself_to_its_closed_record_and_says_what_it_must(tmp_path, job):
    done, table = played(tmp_path, "--job", job)
    assert done.returncode == 0, done.stderr
    assert table[job]["failed"] == []
    assert 0 < table[job]["acts_first_reading"] <= table[job]["acts_closed"]
    copy = (tmp_path / f"{job}.md").read_text()
    assert copy.index("## /call/arrive") < copy.index("## /call/hand-over")
    for record in (".customer.txt", ".shop.txt", ".customer.pdf.txt"):
        assert len((tmp_path / (job + record)).read_text()) > 200


HEAD = 'title = "T"\n[[visit]]\nsite = "Lighthouse"\nunit = "shed"\nunit_kind = "split_condenser"\nmotor = "condenser_fan"\n'
BAD = {
    "01-act": '{ reed = { kind = "spin", value = "free" } }',
    "02-label": '{ arrive = "Dead as a stone" }',
    "03-figure": '{ power = "dead" },\n{ read = { kind = "capacitance_uf", value = "five" } }',
    "04-good": '{ arrive = "Noisy" },\n{ hand_over = "unfinished", reason = "Back on Monday" }',
}


def test_what_has_no_place_is_named_with_file_and_line_and_the_other_jobs_go_on(tmp_path):
    (tmp_path / "in").mkdir()
    for name, acts in BAD.items():
        (tmp_path / "in" / f"{name}.toml").write_text(f"{HEAD}act = [\n{acts}\n]\n")
    done, table = played(tmp_path / "out", "--dir", str(tmp_path / "in"))
    assert done.returncode == 1
    assert [name for name, row in table.items() if not row["failed"]] == ["04"]
    assert "01-act.toml:8: got reed" in table["01"]["failed"][0]
    assert "02-label.toml:8" in table["02"]["failed"][0]
    assert "Dead as a stone" in table["02"]["failed"][0]
    assert "03-figure.toml:9" in table["03"]["failed"][0]
    assert "does not work. Needed: a number" in table["03"]["failed"][0], "the page's own words"
    assert table["04"]["acts_closed"] > 5
