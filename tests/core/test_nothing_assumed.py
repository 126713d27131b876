"""Nothing that nobody noted carries a verdict, a refusal, a danger; a plan is built on what is known, or is refused."""

import itertools
import re

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.errors import InvalidField
from keen_coil.core.hookup.check import check
from keen_coil.core.hookup.leads import MotorLeads
from keen_coil.core.hookup.leads_of_call import leads_for, not_noted
from keen_coil.core.hookup.places import terminals_of
from keen_coil.core.hookup.plan import ChosenCan, must_know_board, plan, sound
from keen_coil.core.hookup.terminals import Join
from keen_coil.core.hookup.turning_round import plugged, set_besides
from keen_coil.core.match.rank import match
from keen_coil.core.plates import Motor
from tests.calls import make_call
from tests.core.test_match import motor
from tests.wirings import BLOWER, FOUR, FURNACE, THREE, wires

ROLES = {
    "condenser_fan": ("split_condenser", "heat_pump_outdoor", "package_unit"),
    "indoor_blower": ("furnace", "air_handler", "fan_coil", "package_unit"),
    "inducer": ("furnace", "package_unit"),
}
VOLTS = ("115", "230", "208-230", "277", "460", "115/230", "208-230/460")
PLATE = {"hp": 0.25, "amps_a": 3.0, "rpm": 1075, "hz": 60}
KINDS = {
    "psc": {"kind": "psc", "capacitor_uf": 7.5, "capacitor_v": 370},
    "shaded_pole": {"kind": "shaded_pole"},
    "three_phase": {"kind": "three_phase", "phase": 3, "leads": 3},
    "ecm": {"kind": "ecm", "ecm_control": "constant_torque"},
}
roles = st.sampled_from(sorted(ROLES))


@settings(max_examples=60)
@given(roles, st.sampled_from(sorted(KINDS)), st.sampled_from(VOLTS), st.data())
def test_a_blank_unit_follows_the_motors_plate_and_says_nothing_against_it(role, kind, volts, data):
    unit = {"kind": data.draw(st.sampled_from(ROLES[role]))}
    plate = {**PLATE, **KINDS[kind], "volts": volts, "role": role}
    call = make_call(motor=plate, unit=unit, capacitor={})
    answer = assess(call)
    assert answer.verdict == "not_proved", "a verdict without one reading"
    assert not {"wrong_motor_fitted", "supply_low", "supply_high", "phase_lost"} & {
        row.fault for row in answer.ranked if row.probability > 0.3
    }
    same = motor(**{**plate, "part_no": "AL-1", "role": role, "leads": 3})
    rows = {row.field: row.mark for one in match(call, [same]).candidates for row in one.rows}
    assert not [field for field in ("volts", "phase", "hertz") if rows.get(field) == "refused"]
    if kind == "psc":
        try:
            planned = plan(call, call.motor)
        except InvalidField as error:
            assert {fault.path for fault in error.errors} <= {"unit.supply_v", "hookup.leads"}
            return
        assert "wrong_strapping" not in {item.fault for item in planned.check.findings}


def test_volts_that_nobody_knows_are_asked_for_and_never_taken():
    dual = make_call(motor={**PLATE, **KINDS["three_phase"], "volts": "208-230/460", "leads": 9}, unit={}, capacitor={})
    with pytest.raises(InvalidField, match=r"unit\.supply_v"):
        plan(dual, dual.motor)


def test_two_plates_that_disagree_are_told_by_what_was_noted():
    call = make_call(motor__volts="115", motor__amps_a=2.9, unit__supply_v=None)
    assert plan(call, call.motor).check.runs
    noted = make_call(motor__volts="115", motor__amps_a=2.9, unit__supply_v=230)
    assert "wrong_strapping" in {item.fault for item in plan(noted, noted.motor).check.findings}


PLACES = ("switch.t1", "switch.t2", "capacitor.common", "capacitor.fan", "capacitor.herm", "line.n", "cap.1")


@settings(max_examples=120)
@given(st.tuples(*[st.sampled_from(PLACES)] * 4), st.sampled_from([THREE, FOUR]))
def test_a_wiring_that_does_not_run_is_never_nothing_wrong(places, leads):
    names = [row["lead"] for row in leads if row["ends"] != ["frame"]]
    hung = list(zip((f"motor.{name}" for name in names), places, strict=False))
    call = make_call(hookup={"leads": leads, "found": wires(hung)})
    noted = [Join(a, b) for a, b in [*hung, ("switch.t1", "capacitor.common")]]
    answer = check(call, call.motor, leads_for(call, call.motor, set(names), of_old=True), noted, planned=False)
    assert answer.turns != "not_turning" or not sound(answer), answer.says


@pytest.mark.parametrize("left", [subset for n in (2, 3) for subset in itertools.combinations(FOUR[:4], n)])
def test_leads_without_the_start_lead_make_no_plan(left):
    call = make_call(hookup={"new_leads": list(left)})
    four = Motor.model_validate({**call.motor.model_dump(exclude_none=True), "leads": len(left)})
    starts = any(end.startswith("aux.2") for row in left for end in row["ends"])
    try:
        answer = plan(call, four)
    except InvalidField as error:
        assert "hookup.leads" in error.errors[0].path or "hookup.new_leads" in error.errors[0].path
        return
    assert starts
    assert answer.check.runs or not sound(answer.check)


CANS = {
    "one can for both": ("dual", ChosenCan("FD-45-5", 5.0, "dual", {"": "FD-45-5"})),
    "two cans": ("dual", ChosenCan("FC-5", 5.0, "own", {"": "FC-45"})),
    "a small one beside": ("dual", ChosenCan("FC-3", 3.0, "own")),
    "a new one of its own": ("own", ChosenCan("FC-5", 5.0, "own", {"": "FC-5"})),
    "the old one kept": ("dual", ChosenCan("the old capacitor", None, "dual")),
}
UNIT_WIRES = {
    "dual": [
        ("switch.t1", "capacitor.common"),
        ("switch.t1", "compressor.r"),
        ("switch.t2", "compressor.c"),
        ("capacitor.herm", "compressor.s"),
    ],
    "own": [("switch.t1", "capacitor.1")],
}


@pytest.mark.parametrize("noted", [True, False])
@pytest.mark.parametrize("asked", [None, "dual", "own"])
@pytest.mark.parametrize("choice", sorted(CANS))
def test_a_plan_is_built_on_the_capacitor_that_was_chosen(choice, asked, noted):
    serves, can = CANS[choice]
    call = make_call(
        unit__run_capacitor=serves, hookup={"leads": FOUR, "found": wires(UNIT_WIRES[serves] if noted else [])}
    )
    answer = plan(call, call.motor, asked, can)
    start = next(wire.to for wire in answer.planned if wire.from_ == "motor.brown")
    by_school = {"dual": ("capacitor.fan",), "own": ("fancap.1", "fancap.2")}
    assert start in (("capacitor.1", "capacitor.2") if serves == "own" else by_school[can.school])
    assert answer.school == can.school
    assert answer.check.runs
    moved = [move.where for move in answer.moves if move.do == "set" and " of " in move.where]
    there = [ends for ends in UNIT_WIRES[serves] if any(end.startswith("capacitor.") for end in ends)]
    if can.moves_in and (noted or serves == "dual"):
        assert len(moved) == len(there), "every wire of a can that is replaced moves, the compressor's too"
    else:
        assert moved == []


def test_the_check_of_a_plan_runs_on_the_microfarads_that_were_chosen():
    call = make_call(hookup={"leads": FOUR})
    by_plate = plan(call, call.motor, "own")
    weak = plan(call, call.motor, "own", ChosenCan("FC-3", 3.0, "own"))
    assert weak.check.currents_a.aux < by_plate.check.currents_a.aux


OLD_PLACES = ("switch.t1", "switch.t2", "capacitor.1", "capacitor.2")


@settings(max_examples=60)
@given(st.tuples(*[st.sampled_from(OLD_PLACES)] * 3), st.sampled_from([None, "capacitor.1", "capacitor.2"]))
def test_what_is_said_of_changing_places_is_true_of_the_wires_of_this_unit(places, fed):
    old = [(f"motor.{lead}", at) for lead, at in zip(("black", "white", "brown"), places, strict=True)]
    unit = [("switch.t2", fed)] if fed else []
    call = make_call(unit__run_capacitor="own", hookup={"leads": THREE, "new_leads": FOUR, "found": wires(old + unit)})
    new = Motor.model_validate({**call.motor.model_dump(exclude_none=True), "leads": 4})
    try:
        answer = plan(call, new)
    except InvalidField:
        return
    said = [move for move in answer.moves if "change places" in move.why]
    assume(said)
    at = {wire.from_: wire.to for wire in answer.planned if wire.from_ in ("motor.brown", "motor.brown/white")}
    other = dict(zip(at, reversed(at.values()), strict=True))
    swapped = [Join(wire.from_, other.get(wire.from_, wire.to)) for wire in answer.planned]
    names = {wire.lead for wire in swapped if wire.lead}
    found = check(call, new, leads_for(call, new, names), swapped)
    assert found.runs, found.findings
    assert sound(found)


units = st.fixed_dictionaries(
    {
        "supply_v": st.sampled_from([115, 208, 230, 277, 460]),
        "run_capacitor": st.sampled_from(["dual", "own"]),
        "switch": st.sampled_from(
            [{"kind": kind, "poles": n} for kind in ("contactor", "relay", "board", "sequencer") for n in (1, 2)]
        ),
    }
)


@settings(max_examples=80)
@given(roles, units, st.integers(1, 4), st.data())
def test_every_terminal_of_a_plan_is_one_that_the_unit_offers_in_every_view(role, unit, speeds, data):
    speeds = speeds if role == "indoor_blower" else 1
    outputs = [{"mode": mode, "speed": n} for n, mode in enumerate(("cool", "heat", "fan")[: min(speeds, 3)], 1)]
    kind = data.draw(st.sampled_from(ROLES[role]))
    volts = "208-230" if unit["supply_v"] in (208, 230) else str(unit["supply_v"])
    plate = {**PLATE, **KINDS["psc"], "volts": volts, "role": role, "speeds": speeds}
    call = make_call(
        motor=plate, unit={**unit, "kind": kind, "outputs": outputs if speeds > 1 else []}, capacitor={}, hookup={}
    )
    try:
        answer = plan(call, call.motor)
    except InvalidField:
        return
    used = {end for wire in answer.planned for end in (wire.from_, wire.to) if not end.startswith("motor.")}
    offered = set(terminals_of(call)) | {"compressor.c", "compressor.r", "compressor.s"}
    strange = {end for end in used - offered if not re.match(r"(cap|splice|line)\.", end)}
    assert not strange, f"{sorted(strange)} of another world; offered {sorted(offered)}"


def test_a_board_whose_terminal_nobody_noted_is_asked_about():
    blower = {**PLATE, **KINDS["psc"], "volts": "115", "role": "indoor_blower"}
    call = make_call(motor=blower, unit={"kind": "furnace", "switch": {"kind": "board"}, "run_capacitor": "own"})
    with pytest.raises(InvalidField, match=r"unit\.outputs"):
        must_know_board(call, call.motor)


OLD_BLOWER = (
    ("motor.white", "line.n"),
    ("motor.black", "cap.1"),
    ("motor.blue", "switch.t1"),
    ("motor.red", "cap.2"),
    ("motor.brown", "capacitor.1"),
    ("switch.t1", "capacitor.2"),
)


@given(st.sets(st.sampled_from(OLD_BLOWER), min_size=1))
def test_wires_that_were_not_all_noted_are_never_called_wrong(noted):
    unit = {**FURNACE, "kind": "fan_coil", "switch": {"kind": "relay"}, "speeds_used": [2]}
    call = make_call(unit=unit, motor={**BLOWER, "speeds": 3}, capacitor={}, hookup={"found": wires(sorted(noted))})
    planned = plan(call, motor(**{**BLOWER, "speeds": 4, "rotation": {"sense": "reversible"}}))
    assert "can't be right" not in " ".join(planned.explains), "brown/white was not noted"


def test_the_other_side_of_a_capacitor_that_nobody_noted_is_asked_for():
    leads = MotorLeads((("black", ("main.1", "aux.1")), ("white", ("main.2",)), ("brown", ("aux.2",))))
    for side, other in (("capacitor.1", "capacitor.2"), ("capacitor.fan", "capacitor.common")):
        noted = [Join("motor.black", "switch.t2"), Join("motor.white", "switch.t1"), Join("motor.brown", side)]
        assert not_noted(leads, noted) == [other]
        assert not_noted(leads, [*noted, Join("switch.t1", other)]) == []
        assert not_noted(leads, noted[:2]) == ["motor.brown"]


@pytest.mark.parametrize("kind", ["ecm", "three_phase", "shaded_pole"])
def test_a_motor_without_a_reversing_plug_is_never_given_one(kind):
    call = make_call(motor={**PLATE, "volts": "208-230", "role": "condenser_fan", **KINDS[kind]}, capacitor={})
    new = motor(volts="208-230", rotation={"sense": "reversible"}, **KINDS[kind])
    assert plugged(call, new) is None
    assert not [move for move in set_besides(call, new, MotorLeads(())) if "reversing" in move.what]
