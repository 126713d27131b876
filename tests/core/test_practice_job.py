"""Whole jobs of practice: the unit after the work, what comes back of it, the engine's own jobs."""

from dataclasses import replace
from typing import get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.diagnosis.faults import FAULTS
from keen_coil.core.errors import InvalidField
from keen_coil.core.hookup.answer import Check, Currents, Finding, HookupFault
from keen_coil.core.practice.case import read_case, write_case
from keen_coil.core.practice.instruments import PlannedTest
from keen_coil.core.practice.job.callbacks import outcome, wrong_order
from keen_coil.core.practice.job.engine import engine_works
from keen_coil.core.practice.job.score import job_score
from keen_coil.core.practice.job.unit_after import WORK_EFFECTS, heat_after, unit_after
from keen_coil.core.practice.job.work_done import FIGURES, FITTED, LEFT, ORDER, SKIPPED, WIRED, WorkDone
from keen_coil.core.practice.ladder import JOBS, RUNGS
from keen_coil.core.practice.make import between, case_of
from keen_coil.core.practice.simulated_unit import Moment, measure
from keen_coil.core.practice.unit_state import truth_of
from keen_coil.core.swap.steps import ROWS
from keen_coil.services.catalog.shelf import practice_shelf

LIVE, DEAD = Moment(live=True), Moment(live=False)
SEEDS = st.integers(0, 10**6)
JOB_KEYS = [rung.key for rung in JOBS]
NO_AMPS = Currents(line=None, main=None, aux=None)


def worked(rung, seed=2):
    """A case of a job and the work of an engine that did it well."""
    case = case_of(seed, rung)
    return case, engine_works(case, practice_shelf()).work


def without(work, *keys):
    """The work with steps left out."""
    return replace(work, skipped=frozenset(keys), steps=tuple(key for key in work.steps if key not in keys))


def miswired(fault):
    """A wiring of which this is found."""
    found = [Finding(fault=fault, severity="danger", says="so", cure="otherwise")]
    return Check(runs=False, turns="unknown", currents_a=NO_AMPS, capacitor_v=None, findings=found)


def test_the_tables_name_only_steps_faults_and_effects_that_there_are():
    steps = {row.key for row in ROWS}
    assert set(SKIPPED) <= steps
    assert set(LEFT) <= set(FAULTS)
    assert set(WIRED) == set(get_args(HookupFault)) - {"diagram_needed"}
    for row in (*SKIPPED.values(), *LEFT.values(), *WIRED.values(), *FITTED.values()):
        assert row.brings in FAULTS
        assert set(row.now) <= set(WORK_EFFECTS)
        assert 0 <= row.months[0] <= row.months[1]
        assert 0 < row.life <= 1
    for row in ORDER:
        assert any(key.removeprefix("bench_").startswith(row.after) for key in steps)
        assert row.before in steps


@given(st.sampled_from([rung.key for rung in (*RUNGS, *JOBS)]), SEEDS)
@settings(max_examples=20, deadline=None)
def test_a_unit_to_which_nothing_was_done_is_the_unit_of_its_case(rung, seed):
    case = case_of(seed, rung)
    was, now = truth_of(case), unit_after(case, WorkDone())
    for asked in (
        PlannedTest("run_amps_a"),
        PlannedTest("supply_v", "motor"),
        PlannedTest("noise"),
        PlannedTest("turns_way"),
    ):
        assert measure(now, asked, LIVE) == measure(was, asked, LIVE)
    assert measure(now, PlannedTest("spin"), DEAD) == measure(was, PlannedTest("spin"), DEAD)


@given(st.sampled_from(JOB_KEYS), SEEDS, st.data())
@settings(max_examples=8, deadline=None)
def test_what_is_left_undone_never_makes_it_better(rung, seed, data):
    case, work = worked(rung, seed)
    right = outcome(case, work)
    keys = data.draw(st.sets(st.sampled_from(work.steps or ("carry",)), max_size=5))
    worse = outcome(case, without(work, *keys))
    if worse.runs:
        later = {back.cause for back in right.callbacks if back.months > 0}
        assert later <= {back.cause for back in worse.callbacks}
    assert right.runs or not worse.is_good
    if right.life is not None and worse.life is not None and not any(SKIPPED[k].now for k in keys if k in SKIPPED):
        assert worse.life <= right.life * 1.001
    assert all(0 <= back.months <= FIGURES.horizon_months for back in worse.callbacks)


@pytest.mark.parametrize("rung", JOB_KEYS)
def test_the_engine_does_every_job_of_the_ladder_so_that_it_runs(rung):
    cases = [case_of(seed, rung) for seed in range(3)]
    found = [outcome(case, engine_works(case, practice_shelf()).work) for case in cases]
    assert sum(each.runs for each in found) >= 2
    assert sum(each.is_good for each in found) >= 2


def test_work_by_the_book_brings_nobody_back():
    case, work = worked("burnt winding")
    score = job_score(case, work, practice_shelf(), 90, 1)
    assert score.is_good
    assert score.mine.outcome.life > 1
    assert score.mine.cost == pytest.approx(sum(part.price for part in score.mine.parts))
    assert not score.mine.wasted


def test_a_motor_a_speed_class_up_trips_in_minutes_and_the_bench_reads_its_amps():
    case, work = worked("slow fan")
    fast = practice_shelf().motor("SE-4240")
    up = replace(work, motor=fast, uf=fast.capacitor_uf)
    found = outcome(case, up)
    assert found.runs
    assert 4 < found.trips_after_min < 30
    assert any("minutes after it starts" in back.says for back in found.callbacks)
    amps = float(measure(unit_after(case, up), PlannedTest("run_amps_a"), LIVE).value)
    assert amps > 1.5 * float(fast.amps_a)


def test_a_coil_that_is_left_dirty_comes_back_and_one_that_is_cleaned_does_not():
    case, work = worked("dirty coil", 4)
    left = outcome(case, replace(without(work, "clean"), acts=work.acts - {"coil_cleaned"}))
    back = next(back for back in left.callbacks if back.cause == "left air_restricted")
    assert 9 <= back.months <= 13
    assert left.life < outcome(case, work).life
    assert not outcome(case, work).callbacks


@pytest.mark.parametrize("fault", [fault for fault in WIRED if fault not in ("wrong_speed", "terminal_overfilled")])
def test_every_wiring_fault_has_its_consequence(fault):
    case, work = worked("burnt winding")
    wrong = outcome(case, replace(work, wired=miswired(fault)))
    assert not wrong.is_good
    cause = WIRED[fault].says
    assert cause in {back.cause for back in wrong.callbacks}
    right = unit_after(case, work)
    bent = unit_after(case, replace(work, wired=miswired(fault)))
    changed = [
        measure(unit, PlannedTest(kind), LIVE).value
        for unit in (right, bent)
        for kind in ("run_amps_a", "turns_way", "noise")
    ]
    assert changed[:3] != changed[3:] or not WIRED[fault].now


def test_a_good_motor_that_is_replaced_is_wasted_and_does_not_cure():
    case, _ = worked("burnt lug")
    motor = practice_shelf().motor("TM-4031")
    score = job_score(case, WorkDone(motor=motor, steps=("in_stud",)), practice_shelf(), 60, 1)
    assert score.mine.wasted == ["motor TM-4031"]
    assert not score.is_good
    assert any(back.cause == "left connection_bad" for back in score.mine.outcome.callbacks)


def test_steps_the_wrong_way_round_are_told_and_cost_minutes():
    case, work = worked("burnt winding")
    assert not wrong_order(work)
    late = replace(
        work, steps=("wires_off", "wires", *(key for key in work.steps if key not in ("wires_off", "wires")))
    )
    score = job_score(case, late, practice_shelf(), 60, 1)
    assert [row.says for row in score.order] == ["You took the wires off before you wrote them down."]
    assert score.mine.minutes == 75


@given(SEEDS, st.floats(0.0, 0.9), st.floats(0.0, 0.9))
@settings(max_examples=8, deadline=None)
def test_less_air_and_a_hotter_place_never_lengthen_life(seed, one, other):
    case, work = worked("plain can", seed)
    truth = unit_after(case, work)
    less, more = sorted((one, other))
    lives = [heat_after(replace(truth, air=air, runs={})).life_of_plate.mid for air in (less, more)]
    assert lives[1] <= lives[0] * 1.0001
    hot = [
        heat_after(replace(truth, air_c=celsius, runs={})).life_of_plate.mid
        for celsius in (25 + 20 * less, 25 + 20 * more)
    ]
    assert hot[1] <= hot[0] * 1.0001


def test_a_case_is_played_between_stations_and_refuses_an_end_before_its_start():
    case = between(case_of(3, "hums"), "match", "hand-over")
    assert (case.starts, case.ends, case.is_job) == ("match", "hand-over", True)
    assert read_case(write_case(case)) == case
    with pytest.raises(InvalidField, match=r"ends: got match; expected a station after run-proof"):
        between(case, "run-proof", "match")
    with pytest.raises(InvalidField, match="starts"):
        between(case, "swap", "hand-over")
