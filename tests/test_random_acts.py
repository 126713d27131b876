"""Any acts in any order: every page of the call still stands, the record says nothing that is not so, its file comes back."""

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keen_coil.core.call import read_call
from keen_coil.core.diagnosis.plain import NOT_YET
from keen_coil.core.errors import InvalidField, KeenCoilError
from keen_coil.services.calls import call_files, changes
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.readings import take_reading
from keen_coil.services.catalog.shelf_import import import_all
from keen_coil.services.demo.demo import DATA
from keen_coil.services.stations import capacitor as can
from keen_coil.services.stations import finding, hand_over, hook_up, match, same_motor, swap
from keen_coil.services.stations.record import is_in, record_of
from keen_coil.services.stations.warranty import warranty_sheet
from keen_coil.store.database import Database
from tests.calls import GOOD_CAPACITOR, VOLTS_AT_MOTOR, make_call, reading
from tests.fixtures import NOW, stamp

LOCKED = (VOLTS_AT_MOTOR, *GOOD_CAPACITOR, reading("load_look", "sound"), reading("spin", "locked", with_="bare_shaft"))
PROOF = (
    ("turns_way", "right", {}),
    ("supply_v", "237", {"at": "switch_load", "when": "running"}),
    ("run_amps_a", "1.41", {}),
    ("noise", "quiet", {}),
    ("load_look", "packed", {"stage": "found"}),
    ("conductor", "chafed", {"stage": "found", "leg": "L1"}),
)


def step(db, call_id, context, number, skip):
    """A step of the swap, ticked with its figures or skipped."""
    steps = [one for _, steps in swap.swap_view(open_call_view(db, call_id), NOW).phases for one in steps]
    if not steps:
        return
    one = steps[number % len(steps)].step
    if skip:
        swap.skip_step(db, call_id, context, one.key, "not here")
    else:
        marks = {name: {"turns": "clockwise", "leads_at": "6"}.get(name, "2.5") for name in one.marks}
        swap.do_step(db, call_id, context, one.key, marks, through=number % 3 == 0)


def capacitor(db, call_id, context, number):
    """A capacitor of the van, the one that is there, or none."""
    view = can.capacitor_view(db, open_call_view(db, call_id))
    keys = ["", "stays", *(answer.key for answer in (*view.both, *view.fan))]
    can.choose_capacitor(db, call_id, context, keys[number % len(keys)])


def proof(db, call_id, context, number):
    """A reading of the run, or of damage."""
    kind, value, more = PROOF[number % len(PROOF)]
    fields = {"kind": kind, "value": value, "stage": "proof", "anyway": "yes", "sure": "yes", **more}
    take_reading(db, call_id, context, fields)


ACTS = {
    "pick": lambda *a: match.pick_motor(*a[:3], ["TM-4027", "SE-4230", ""][a[3] % 3], "It carries this fan."),
    "same": lambda *a: same_motor.pick_same_motor(*a[:3], {"part_no": "BW-117", "days": ["", "2"][a[3] % 2]}),
    "judge": lambda *a: finding.keep_judgement(
        *a[:3],
        {"judged": ["condemn_motor", "runs_worn", ""][a[3] % 3], "judged_why": "Smelled it.", "judged_by": "C. Hask"},
    ),
    "step": lambda *a: step(*a, skip=False),
    "skip": lambda *a: step(*a, skip=True),
    "capacitor": capacitor,
    "proof": proof,
    "hookup": lambda *a: hook_up.keep_plan(*a[:3], ["dual", "own"][a[3] % 2]),
    "change": lambda *a: changes.note_change(*a[:3], {"what": ["coil_cleaned", "wire_repaired"][a[3] % 2]}),
    "plan": lambda *a: swap.plan_swap(*a[:3], {"hub": ["free", "stuck", "hard"][a[3] % 3]}),
    "close": lambda *a: hand_over.close_call(
        *a[:3], {"exception": "Tomorrow.", "no_judgement": ["", "yes"][a[3] % 2], "take.TM-4027": "1"}
    ),
}


@pytest.fixture(scope="module")
def stocked(tmp_path_factory):
    """A database with the shelf and the van, to begin from."""
    path = tmp_path_factory.mktemp("acts") / "stocked.db"
    db = Database(path)
    for name in ("motors.csv", "van.csv"):
        import_all(db, stamp(0), (DATA / name).read_bytes())
    db.close()
    return path


@settings(max_examples=8, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.booleans(),
    st.lists(st.tuples(st.sampled_from(sorted(ACTS)), st.integers(0, 40)), min_size=3, max_size=14),
)
def test_any_acts_in_any_order(stocked, tmp_path_factory, condemned, acts):
    path = tmp_path_factory.mktemp("run") / "run.db"
    Path(path).write_bytes(stocked.read_bytes())
    db = Database(path)
    try:
        readings = LOCKED if condemned else LOCKED[:1]
        call_id = call_files.import_call(db, stamp(0), make_call(*readings), "x.call.json")
        for name, number in acts:
            before = open_call_view(db, call_id)
            try:
                ACTS[name](db, call_id, stamp(before.row.version), number)
            except (InvalidField, KeenCoilError):
                after = open_call_view(db, call_id)
                assert (after.row.version, after.text) == (before.row.version, before.text), "nothing half saved"
            stands(db, call_id)
    finally:
        db.close()


def stands(db, call_id):
    """Every view of the call, its record without a contradiction, its file there and back."""
    view = open_call_view(db, call_id)
    swap.swap_view(view, NOW)
    hand_over.hand_over_view(db, view)
    warranty_sheet(view)
    found = record_of(view)
    motor_in = is_in(view, "motor")
    assert ("New motor" in found.fitted or " motor " in found.fitted) == motor_in
    assert not (motor_in and found.plain == NOT_YET)
    assert not (motor_in and any("bearings" in text for text in found.watch))
    if view.row.outcome is not None:
        assert view.row.outcome.unjudged == finding.wants_judgement(view)
    exported = call_files.export_call(view)
    assert read_call(exported).judgement == view.call.judgement
