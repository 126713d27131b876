"""Whatever was read and chosen and planned: a job with steps that can be done in their order, and a run that is judged."""

from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.match.geometry import section
from keen_coil.core.match.reference import reference_for
from keen_coil.core.proof.plan import needed_for
from keen_coil.core.proof.run_test import prove_run
from keen_coil.core.record import KeptWork
from keen_coil.core.swap.job import Plan, job_for
from keen_coil.core.swap.schedule import schedule
from keen_coil.core.swap.steps import carry_list, steps_for, tasks
from tests.calls import make_call
from tests.core.test_any_call import UNITS, any_reading

KINDS = st.sampled_from(
    [None, "split_condenser", "heat_pump_outdoor", "package_unit", "furnace", "air_handler", "fan_coil"]
)
NEW = st.sampled_from(
    [
        None,
        {},
        {
            "kind": "psc",
            "mount": "belly_band",
            "volts": "115/230",
            "shaft": {"length_in": 9.0},
            "body_length_in": 4.0,
            "capacitor_uf": 5,
        },
        {"kind": "ecm", "mount": "face", "speeds": 5},
        {"kind": "three_phase", "mount": "base", "volts": "208-230/460", "phase": 3},
        {"kind": "shaded_pole", "mount": "lug", "rotation": {"sense": "cw", "seen_from": "lead_end"}},
    ]
)
PLANS = st.builds(
    Plan,
    work=st.lists(
        st.builds(KeptWork, do=st.text("abc XYZ.", max_size=30), part=st.none(), minutes=st.floats(0, 60)), max_size=3
    ),
    capacitor_stays=st.booleans(),
    temporary=st.booleans(),
    moves=st.integers(0, 20),
    hub=st.sampled_from([None, "free", "stuck", "hard"]),
    removal=st.sampled_from([None, "blade_first", "together"]),
    wait_min=st.none() | st.floats(0, 9000),
    on_van=st.booleans(),
    hook_up=st.sampled_from([None, "dual", "own"]),
    capacitor_parts=st.sampled_from([(), ("A",), ("A", "B")]),
)
VERDICTS = st.sampled_from(["not_proved", "condemn_motor", "replace_capacitor", "replace_module", "not_the_motor"])


@settings(max_examples=60)
@given(UNITS, KINDS, NEW, PLANS, VERDICTS, st.lists(any_reading(), max_size=6))
def test_a_job_for_any_call(unit, kind, new, plan, verdict, rows):
    call = make_call(*rows, **{**unit, "chosen_motor": new})
    call = call.model_copy(update={"unit": call.unit.model_copy(update={"kind": kind})})
    laid = section(call, reference_for(call).motor, call.chosen_motor) if call.chosen_motor else None
    job = job_for(call, plan, laid, verdict)
    steps = steps_for(job)
    assert bool(steps) == (job.kind != "none")
    keys = [step.key for step in steps]
    assert len(set(keys)) == len(keys)
    place = {key: number for number, key in enumerate(keys)}
    assert all(place[name] < place[step.key] for step in steps for name in step.after)
    found = schedule(tasks(steps))
    assert found.chain - 1e-6 <= found.elapsed <= found.total + 1e-6
    if steps:
        # nobody puts hands in before it is dead, nothing is energised before hands are out
        start = {slot.key: slot.start for slot in found.slots}
        assert start["dead"] < min(start[step.key] for step in steps if step.phase in ("note", "out", "in", "wire"))
        assert start["power"] >= max(
            slot.end
            for slot in found.slots
            if slot.key not in ("power", "figures", "monoxide", "sister", "make_do", "order")
        )
        assert "{" not in " ".join(step.do for step in steps)
        assert carry_list(job).tools


@settings(max_examples=50)
@given(UNITS, NEW, st.lists(any_reading(), max_size=8))
def test_a_run_is_judged_for_any_call(unit, new, rows):
    call = make_call(*({**row, "stage": "proof"} for row in rows), **{**unit, "chosen_motor": new})
    found = prove_run(call)
    assert [check.name for check in found.checks if check.name != "drop"] == [
        needed.name for needed in needed_for(call)
    ]
    assert found.passed or found.check_next
