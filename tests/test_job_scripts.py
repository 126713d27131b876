"""Job scripts: all of them are read, every act knows its line, a fault of a file is told with file and line."""

import re
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from jobs.play import jobs_in
from jobs.script import VERBS, BadScript, lines_of_acts, read_never, read_script

FOLDER = Path(__file__).parent.parent / "jobs"
VISIT = '[[visit]]\nsite = "A"\nunit = "B"\nact = [\n{acts}\n]\n'


def test_the_twenty_one_jobs_are_there_and_each_act_knows_its_line():
    files = jobs_in(FOLDER)
    assert list(files) == [f"{n:02}" for n in range(1, 22)]
    for path in files.values():
        lines = path.read_text().splitlines()
        for visit in read_script(path).visit:
            for act, number in zip(visit.act, visit.lines, strict=True):
                assert next(iter(act)) in lines[number - 1]
    assert list(jobs_in(FOLDER, "07")) == ["07"]


def test_what_may_never_be_said_is_read_and_has_its_reasons():
    rows = read_never(FOLDER / "never.toml")
    assert all(len(row.reason) > 3 for row in rows)
    said = ["black to main.2", "board.cool", "{part}", "We have not measured anything yet.", "condemn_motor", "5 inwc"]
    assert [text for text in said if not any(re.search(row.says, text) for row in rows)] == []
    assert not any(re.search(row.says, "Replace the motor. The bearings have seized.") for row in rows)


@pytest.mark.parametrize(
    ("acts", "line", "says"),
    [
        ('{ arrive = "Noisy" },\n{ reed = 1 },', 6, "reed"),
        ('{ arrive = "Noisy", loud = true },', 5, "'loud'"),
        ('# a note with { and [\n{ read = { kind = "spin" } },', 6, "value"),
        ('{ prove = { kind = "noise" } },', 5, "a list"),
    ],
)
def test_an_act_that_is_none_is_named_with_its_line(tmp_path, acts, line, says):
    path = tmp_path / "01.toml"
    path.write_text('title = "T"\n' + VISIT.replace("{acts}", acts).replace("\n\n", "\n"))
    with pytest.raises(BadScript) as error:
        read_script(path)
    assert error.value.faults[0].startswith(f"{path}:{line + 1}: ")
    assert says in error.value.faults[0]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("title = ", "no TOML"),
        ('title = "T"\nsize = "tablet"\n[[visit]]\nsite = "A"\nunit = "B"\nact = []\n', ":2: size: got 'tablet'"),
        ('title = "T"\n[[visit]]\nsite = "A"\nunit = "B"\nact = []\n[expect]\nfiding = {}\n', "fiding"),
        ('title = "T"\n[[visit]]\nsite = "A"\nunit = "B"\nact = []\n[expect]\npages = { must = ["("] }\n', "regular"),
        ('title = "T"\n', "visit"),
    ],
)
def test_a_file_that_is_no_job_says_why(tmp_path, text, says):
    path = tmp_path / "01.toml"
    path.write_text(text)
    with pytest.raises(BadScript, match=re.escape(says)):
        read_script(path)


@settings(max_examples=60)
@given(st.lists(st.tuples(st.sampled_from(sorted(VERBS)), st.sampled_from(['"}"', "'{ ['", "true", "[ { a = 1 } ]"]))))
def test_lines_are_told_whatever_stands_in_the_acts(rows):
    acts = "\n".join(f"# {{ {n}\n{{ {verb} = {value} }}," for n, (verb, value) in enumerate(rows))
    found = lines_of_acts('title = "]"\n' + VISIT.replace("{acts}", acts))
    assert found == [[5 + 2 * n + 2 for n in range(len(rows))]]
