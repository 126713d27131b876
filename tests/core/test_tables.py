"""Tables that technicians edit: what is wrong in one is named, and nothing hangs on the sentences that are shown."""

import re

import pytest

from keen_coil.core.diagnosis.applies import HAS
from keen_coil.core.diagnosis.evidence import QUESTIONS, question
from keen_coil.core.diagnosis.faults import FAULTS, LINKS, FaultRow
from keen_coil.core.field_tests import TESTS
from keen_coil.core.match.row import WORK
from keen_coil.core.record import KeptWork
from keen_coil.core.swap.job import FEATURES, Plan, job_for
from keen_coil.core.swap.marks import MARKS
from keen_coil.core.swap.steps import PHASES, ROWS, steps_for
from keen_coil.core.tables import TableError, records
from tests.calls import make_call


def steps_of(*work):
    call = make_call()
    call = call.model_copy(update={"chosen_motor": call.motor})
    job = job_for(call, Plan(work=list(work)))
    return {step.key: step.after for step in steps_for(job)}, job.features


@pytest.mark.parametrize("key", WORK)
def test_a_sentence_may_be_changed_and_the_steps_stay(key):
    row = WORK[key]
    said = steps_of(KeptWork(key=key, do=row.do, minutes=row.minutes))
    assert steps_of(KeptWork(key=key, do="Do as the foreman says", minutes=row.minutes)) == said
    steps, features = said
    assert row.covered == ("work_1" not in steps)
    assert not row.feature or row.feature in features


def test_every_sentence_of_the_match_may_change(monkeypatch):
    from keen_coil.core.match import row as module

    before = {key: module.work(key, "a part", **words(row.do)) for key, row in WORK.items()}
    monkeypatch.setattr(module, "WORK", {key: row._replace(do="Something else") for key, row in WORK.items()})
    after = {key: module.work(key, "a part") for key in WORK}
    kept = [[KeptWork(**item._asdict()) for item in items.values()] for items in (before, after)]
    assert steps_of(*kept[0]) == steps_of(*kept[1])


def words(sentence):
    return {name: "x" for name in re.findall(r"\{(\w+)\}", sentence) if name != "part"}


@pytest.mark.parametrize(
    ("kept", "key"),
    [
        ("Cut the stud ends, nuts on first", "cut_studs"),
        ("Wait for delivery: 2 days", "wait_for_delivery"),
        ("Sing", ""),
    ],
)
def test_work_kept_before_it_had_keys_gets_its_own(kept, key):
    assert KeptWork(do=kept).key == key


def test_what_a_table_names_is_there():
    for row in ROWS:
        names = {name for when in row.when for name in re.split(r"\|", when.lstrip("!"))}
        assert names <= set(FEATURES), row.key
        assert {name.removesuffix("?") for name in row.after} <= {other.key for other in ROWS} | {"^", *PHASES}, row.key
        assert row.phase in PHASES, row.key
        assert set(row.marks) <= set(MARKS), row.key
    for test in TESTS:
        assert test.needs in HAS, test.name
        assert set(test.proves) <= set(LINKS), test.name
        assert test.question in ("", "wind", *QUESTIONS), test.name  # wind picks which of two questions is asked
    for row in WORK.values():
        assert not row.feature or row.feature in FEATURES
    for name, row in FAULTS.items():
        assert row.needs in HAS, name
    for title, asked in QUESTIONS.items():
        assert set(asked.rows) <= set(FAULTS), title


@pytest.mark.parametrize(
    ("row", "named"),
    [
        ({"verdict": "not_the_motor", "prior_weight": [1, 1, 1]}, "faults.toml, stuck.says"),
        ({"verdict": "perhaps", "prior_weight": [1, 1, 1], "says": "It sticks."}, "faults.toml, stuck.verdict"),
        (
            {"verdict": "runs_worn", "prior_weight": [1, "often", 1], "says": "It sticks."},
            "stuck.prior_weight.1: got 'often'",
        ),
        ({"verdict": "runs_worn", "prior_weight": [1, 1, 1], "says": "It sticks.", "age": True}, "stuck.age"),
    ],
)
def test_what_is_wrong_in_a_table_is_named(row, named):
    with pytest.raises(TableError, match=re.escape(named)):
        records(FaultRow, {"stuck": row}, "faults")


@pytest.mark.parametrize(
    ("chances", "named"),
    [
        ({"good": 0.5, "bad": 0.4}, "under load_jammed sum to 0.9000"),
        ({"good": 0.5, "odd": 0.5}, "got odd 0.5; expected one of good, bad"),
        ({"good": -0.5, "bad": 1.5}, "with a chance from 0 to 1"),
    ],
)
def test_chances_that_cannot_be_are_named(chances, named):
    table = {"title": "spin", "normal": ["good"], "abnormal": ["bad"]}
    with pytest.raises(TableError, match=named):
        question({**table, "chances": {"other": {"good": 1}, "load_jammed": chances}})
    loose = {**table, "need_not_sum": {"brought": ["load_jammed"]}}
    assert (
        question({**loose, "chances": {"other": {"good": 1}, "load_jammed": {"good": 0.5}}}).rows["load_jammed"][1] == 0
    )
