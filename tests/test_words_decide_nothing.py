"""No rule hangs on a sentence: with every word of every table changed the program decides the same; signals are closed."""

import ast
import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.diagnosis.case import Case
from keen_coil.core.diagnosis.evidence import QUESTIONS, SIGNALS, known_signals
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.tables import TableError, complete
from tests.calls import make_call
from tests.core.test_any_call import UNITS, any_reading

ROOT = Path(__file__).parent.parent
SENTENCE = re.compile(r'^((?:"?\w+"?|says|do|why) = ")([^"]* [^"]*[.?])"$', re.M)
"""A line of a table whose value ends as a sentence does."""
TITLE = re.compile(r'^((?:title|headline|label|expect|mistake|note) = ")([^"]+)"$', re.M)
DECIDED = """
import json, random
from hypothesis import given, settings, strategies as st
from tests.core.test_any_call import UNITS, any_reading
from tests.calls import make_call
from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.diagnosis.causes import cautions
from keen_coil.core.swap.job import Plan, job_for
from keen_coil.core.swap.steps import steps_for

rows = []

@settings(max_examples=60, derandomize=True, database=None, deadline=None)
@given(UNITS, st.lists(any_reading(), max_size=12))
def look(unit, readings):
    call = make_call(*readings, **unit)
    answer = assess(call)
    rows.append([
        answer.verdict, [(row.fault, round(row.probability, 9)) for row in answer.ranked],
        [(row.state, row.finding) for row in answer.judgements], sorted((link, str(row.state)) for link, row in answer.path.items()),
        [cause.cause for cause in answer.causes], len(answer.still_open),
        [step.key for step in steps_for(job_for(call, Plan()))],
        [test.kind for test in answer.next_tests],
    ])

look()
print(json.dumps(rows))
"""


def decided(source, tmp_path):
    env = {**os.environ, "PYTHONPATH": f"{source}:{ROOT}"}
    done = subprocess.run([sys.executable, "-c", DECIDED], env=env, cwd=tmp_path, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-2000:]
    return json.loads(done.stdout)


def test_with_every_sentence_changed_the_same_is_decided(tmp_path):
    shutil.copytree(ROOT / "src/keen_coil", tmp_path / "keen_coil", ignore=shutil.ignore_patterns("vendor", "*.pyc"))
    changed = 0
    for table in (tmp_path / "keen_coil/core").rglob("*.toml"):
        text = table.read_text(encoding="utf-8")
        for words in (SENTENCE, TITLE):
            text, here = words.subn(r'\1Quite otherwise said"', text)
            changed += here
        table.write_text(text, encoding="utf-8")
    assert changed > 400
    assert decided(tmp_path, tmp_path) == decided(ROOT / "src", tmp_path)


def test_a_signal_that_nothing_listens_to_is_refused():
    with pytest.raises(TableError, match=r"push\.yes"):
        known_signals(["push.starts", "push.yes"], "a rule")
    with pytest.raises(TableError, match="wind"):
        complete({"up": 1}, ("up", "wind"), "A_TABLE")


@settings(max_examples=150)
@given(UNITS, st.lists(any_reading(), max_size=14))
def test_every_signal_that_any_call_sends_is_one(unit, rows):
    case = Case(make_call(*rows, **unit), DEFAULTS)
    assert set(case.signals) <= SIGNALS


def test_every_signal_named_in_the_code_exists():
    heard = {
        f"{path.name}:{node.lineno} {node.value}"
        for room in ("diagnosis", "judge", "proof", "swap")
        for path in sorted((ROOT / "src/keen_coil/core" / room).glob("*.py"))
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Constant)
        and isinstance(node.value, str)
        and re.fullmatch(r"[a-z_0-9]+\.[a-z_0-9]+", node.value)
        and node.value.partition(".")[0] in QUESTIONS
        and node.value not in SIGNALS
    }
    assert {name for name in heard if not name.endswith(("switch.t", "winding.taps", "load.hub"))} == set()
