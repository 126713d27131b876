"""The Swap station at the desk: ticks with their time, reasons, marks, what the part's arrival and the ferries do."""

from datetime import datetime, timedelta

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.services.acts import StaleVersion
from keen_coil.services.calls.call_files import import_call
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.readings import take_reading
from keen_coil.services.catalog.shelf_import import import_all
from keen_coil.services.people import people, settings
from keen_coil.services.people.audit_trail import changes_since
from keen_coil.services.stations import make_safe, match, swap
from keen_coil.services.stations.swap_job import next_ferry
from tests.calls import make_call
from tests.fixtures import NOW, stamp


@pytest.fixture
def db(stocked):
    """The catalog and the van are there before each of these."""
    return stocked


@pytest.fixture
def call_id(db):
    """A call with a motor chosen that is on the van."""
    found = import_call(db, stamp(0), make_call(unit__age_years=12), "x.call.json")
    match.pick_motor(db, found, stamp(1), "TM-4027")
    return found


def view(db, call_id, key="", now=NOW):
    return swap.swap_view(open_call_view(db, call_id), now, key)


def act(db, call_id, do, *args, at=NOW, **named):
    return do(db, call_id, stamp(open_call_view(db, call_id).row.version, at), *args, **named)


def of(found, key):
    return next(one for _, steps in found.phases for one in steps if one.step.key == key)


def test_a_step_is_ticked_with_its_time_and_the_rest_moves(db, call_id):
    before = view(db, call_id)
    late = NOW + timedelta(minutes=40)
    act(db, call_id, swap.do_step, "carry", {}, at=late)
    after = view(db, call_id, now=late)
    assert (of(after, "carry").state, of(after, "carry").at) == ("done", late)
    assert after.looked_at.step.key == "dead"
    # ticked forty minutes later than planned, it all ends so much later; the step itself takes its five minutes before that
    assert after.runs_at - before.runs_at == timedelta(minutes=35)


def test_a_step_left_out_says_why_and_takes_no_time(db, call_id):
    hands = view(db, call_id).hands_left
    with pytest.raises(InvalidField) as error:
        act(db, call_id, swap.skip_step, "clean", " ")
    assert error.value.errors[0].path == "why"
    act(db, call_id, swap.skip_step, "clean", "Washed last week")
    found = view(db, call_id)
    assert (of(found, "clean").state, of(found, "clean").why_not) == ("skipped", "Washed last week")
    assert found.hands_left == hands - 15
    act(db, call_id, swap.take_step_back, "clean")
    assert of(view(db, call_id), "clean").state == "todo"


def test_a_mark_is_asked_for_kept_and_held_against_what_was(db, call_id):
    with pytest.raises(InvalidField) as error:
        act(db, call_id, swap.do_step, "blade_height", {"blade_height": ""})
    assert error.value.errors[0].path == "blade_height"
    assert of(view(db, call_id), "blade_height").state != "done"
    act(db, call_id, swap.do_step, "blade_height", {"blade_height": "2.50"})
    act(db, call_id, swap.do_step, "lead_way", {"leads_at": "7"})
    act(db, call_id, swap.do_step, "blade_on", {"blade_height_after": "2.70"})
    found = view(db, call_id)
    (mark,) = of(found, "blade_on").marks
    assert (mark.text, mark.kept.right) == ("2.70", False)
    assert of(found, "blade_height").marks[0].text == "2.50"
    assert "leads at 7 o'clock" in of(found, "in_stud").step.do


def test_done_and_all_above_it(db, call_id):
    act(db, call_id, swap.do_step, "wires", {}, through=True)
    found = view(db, call_id)
    assert [one.step.key for _, steps in found.phases for one in steps if one.state == "done"][-1] == "wires"
    assert all(of(found, key).state == "done" for key in ("carry", "open_top", "picture"))


def test_done_and_all_above_it_never_ticks_a_safety_step_or_one_with_a_figure(db, call_id):
    act(db, call_id, swap.do_step, "figures", {}, through=True)
    found = view(db, call_id)
    left = [one.step for _, steps in found.phases for one in steps if one.state != "done"]
    assert {step.key for step in left} >= {"dead", "bleed", "blade_height", "lead_way", "blade_on"}
    assert all(step.safety or step.marks for step in left)
    act(db, call_id, swap.do_step, "dead", {})
    assert of(view(db, call_id), "dead").state == "done"


@pytest.mark.parametrize("do", [swap.do_step, swap.skip_step, swap.take_step_back])
def test_a_step_of_another_job_is_refused(db, call_id, do):
    args = {swap.do_step: ("gasket", {}), swap.skip_step: ("gasket", "because"), swap.take_step_back: ("gasket",)}[do]
    with pytest.raises(InvalidField) as error:
        act(db, call_id, do, *args)
    assert error.value.errors[0].path == "step"


def test_going_live_again_leaves_the_steps_of_the_swap_alone(db, call_id):
    act(db, call_id, swap.do_step, "wires", {}, through=True)
    act(db, call_id, swap.do_step, "dead", {})
    act(db, call_id, make_safe.set_power, "energised")
    assert of(view(db, call_id), "dead").state == "done"
    assert view(db, call_id, "wires_off").tips
    assert not view(db, call_id, "power").tips


def test_how_the_hub_sits_changes_the_list(db, call_id):
    assert "bench_hub_puller" not in {one.step.key for _, steps in view(db, call_id).phases for one in steps}
    act(db, call_id, swap.plan_swap, {"hub": "hard", "removal": "together"})
    keys = {one.step.key for _, steps in view(db, call_id).phases for one in steps}
    assert "bench_hub_puller" in keys
    with pytest.raises(InvalidField) as error:
        act(db, call_id, swap.plan_swap, {"hub": "glued", "arrives": "tomorrow"})
    assert [fault.path for fault in error.value.errors] == ["hub", "arrives"]


def test_a_part_that_comes_over_sets_the_day(db):
    import_all(db, stamp(0), b"part_no,kind,quantity\nTM-4027,motor,0\n")
    call_id = import_call(db, stamp(0), make_call(), "x.call.json")
    match.pick_motor(db, call_id, stamp(1), "TM-4027")
    assert view(db, call_id).arrives - NOW == timedelta(days=2, minutes=5)
    settings.save_ferries(db, stamp(0), "13:00 7:30")
    act(db, call_id, swap.plan_swap, {"arrives": (NOW + timedelta(hours=3)).isoformat()})
    found = view(db, call_id)
    assert abs(found.arrives - NOW - timedelta(hours=3, minutes=5)) <= timedelta(minutes=5)
    assert "two_visits" not in found.job.features
    # the list on the page and what hand over counts stay the same, whenever they are looked at
    act(db, call_id, swap.do_step, "order", {})
    for hours in (0, 2, 30):
        shown = view(db, call_id, now=NOW + timedelta(hours=hours))
        assert shown.left == open_call_view(db, call_id).swap_left
    act(db, call_id, swap.take_step_back, "order")
    act(db, call_id, swap.plan_swap, {})
    arrives = view(db, call_id).arrives.astimezone()
    assert (arrives - timedelta(minutes=5)).strftime("%H:%M") in ("07:30", "13:00")


@pytest.mark.parametrize(
    ("at", "sails"), [("06:00", "07:30"), ("07:30", "07:30"), ("07:31", "13:00"), ("14:00", "07:30")]
)
def test_the_next_ferry(at, sails):
    local = datetime(2026, 3, 14, *map(int, at.split(":"))).astimezone()
    found = next_ferry(local, ["13:00", "07:30"])
    assert found.strftime("%H:%M") == sails
    assert timedelta(0) <= found - local < timedelta(days=1)
    assert next_ferry(local, []) == local


@pytest.mark.parametrize("text", ["25:00", "noon", "7:3:2:1"])
def test_a_time_that_is_none_is_told(db, text):
    with pytest.raises(InvalidField) as error:
        settings.save_ferries(db, stamp(0), text)
    assert error.value.errors[0].path == "ferries"


def test_what_is_packed_is_kept_and_nothing_that_is_not_listed(db, call_id):
    act(db, call_id, swap.carry_up, ["flashlight", "motor TM-4027"])
    assert view(db, call_id).carried == {"flashlight", "motor TM-4027"}
    act(db, call_id, swap.carry_up, ["flashlight"])
    assert view(db, call_id).carried == {"flashlight"}
    with pytest.raises(InvalidField):
        act(db, call_id, swap.carry_up, ["anvil"])


def test_another_motor_keeps_the_marks_and_the_ticks(db, call_id):
    act(db, call_id, swap.do_step, "blade_height", {"blade_height": "2.5"})
    act(db, call_id, match.pick_motor, "BW-118")
    assert of(view(db, call_id), "blade_height").marks[0].text == "2.5"


def test_who_did_what_and_the_second_of_two_sees_it(db, call_id):
    me = people.save_person(db, stamp(0), {"name": "Corin Hask", "van": "Van 2"})
    version = open_call_view(db, call_id).row.version
    mine = stamp(version)
    take_reading(db, call_id, type(mine)(mine.act_id, version, NOW, me), {"kind": "air_path", "value": "clear"})
    with pytest.raises(StaleVersion) as error:
        take_reading(db, call_id, stamp(version), {"kind": "air_path", "value": "dirty"})
    found = changes_since(db, error.value.call_id, error.value.version)
    assert [(row.who, row.did) for row in found.rows] == [("Corin Hask", "read air path: clear")]
    sheet = open_call_view(db, call_id)
    assert [reading.technician.name for reading in sheet.row.readings] == ["Corin Hask"]
    assert len(sheet.call.readings) == 1


def test_a_technician_draws_on_the_own_van(db, call_id):
    me = people.save_person(db, stamp(0), {"name": "Corin Hask", "van": "Van 2"})
    assert people.vans(db) == ["Van 1", "Van 2"]
    import_all(db, stamp(0), b"part_no,kind,quantity\nTM-4027,motor,3\n", "Van 2")
    with db.reading() as session:
        from keen_coil.services.catalog.shelf import stock_in

        assert stock_in(session, "Van 2") == {"TM-4027": 3}
        assert stock_in(session, "Van 1")["TM-4027"] == 1
    assert people.person_named(db, me).van == "Van 2"
