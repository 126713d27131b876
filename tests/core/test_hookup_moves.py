"""What was noted stays unless a move takes it off; following the moves to the letter passes; no more moves than needed."""

import itertools

from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.hookup.check import check_call
from keen_coil.core.hookup.leads import read_leads
from keen_coil.core.hookup.moves import applied
from keen_coil.core.hookup.plan import plan, sound
from keen_coil.core.hookup.terminals import joins
from keen_coil.core.plates import Motor
from tests.calls import make_call
from tests.core.test_hookup_plan import NEW
from tests.wirings import FOUR, GROUND, OLD, THREE, UNIT, wires

TERMINALS = ["switch.t1", "switch.t2", "capacitor.common", "capacitor.fan", "capacitor.herm", "cap.1", "splice.1"]
STRAY = [("switch.t1", "switch.t2"), ("switch.t2", "capacitor.common"), ("capacitor.fan", "capacitor.herm"), *UNIT]


@st.composite
def noted(draw):
    """A condenser fan wired in any way, any part of it noted, the unit's own wires right, wrong or left out."""
    leads = draw(st.sampled_from([THREE, FOUR]))
    names = [row["lead"] for row in leads if row["lead"] != "green"]
    hung = draw(st.lists(st.sampled_from(names), unique=True))
    found = [(f"motor.{name}", draw(st.sampled_from(TERMINALS))) for name in hung]
    unit = draw(st.one_of(st.just(UNIT), st.lists(st.sampled_from(STRAY), unique=True, max_size=4)))
    return leads, [*found, *unit, *([GROUND] if draw(st.booleans()) else [])]


def followed(call, answer):
    """The wires after the moves: those noted, those taken as usual, and what the moves make of them."""
    noted = joins(call.hookup.found, "found")
    ends = [{wire.a, wire.b} for wire in noted]
    taken_off = [{move.what, move.where} for move in answer.moves if move.do == "take_off"]
    planned = [{row.from_, row.to} for row in answer.planned]
    for wire in ends:
        assert wire in planned or wire in taken_off, "what was noted stays or a move takes it off"
    laid = [{move.what, move.where} for move in answer.moves if move.do not in ("take_off", "set")]
    assumed = [wire for wire in planned if wire not in ends and wire not in laid]
    start = [*noted, *joins(make_call(hookup={"found": wires(map(sorted, assumed))}).hookup.found, "found")]
    return applied(start, answer.moves)


def assert_to_the_letter(call, answer):
    after = followed(call, answer)
    assert sorted(map(sorted, ({w.a, w.b} for w in after))) == sorted(
        map(sorted, ({row.from_, row.to} for row in answer.planned))
    )
    assert sound(answer.check), [item.says for item in answer.check.findings]
    assert answer.check.runs


@settings(max_examples=20)
@given(noted())
def test_the_motor_that_stays_is_put_right_to_the_letter(drawn):
    leads, found = drawn
    call = make_call(hookup={"leads": leads, "found": wires(found)})
    answer = plan(call, call.motor)
    assert_to_the_letter(call, answer)
    if any(a.startswith("motor.") for a, _ in found):
        assert not any("old motor goes" in move.why for move in answer.moves), "no motor changes"


@settings(max_examples=30)
@given(noted(), st.sampled_from(["dual", "own"]), st.sampled_from([THREE, FOUR]))
def test_a_new_motor_is_hooked_up_to_the_letter_whatever_was_noted(drawn, school, new):
    leads, found = drawn
    call = make_call(hookup={"leads": leads, "new_leads": new, "found": wires(found)})
    answer = plan(call, Motor.model_validate({**NEW, "leads": len(new) - 1}), school)
    assert_to_the_letter(call, answer)
    off = {move.what for move in answer.moves if move.do == "take_off" and move.what.startswith("motor.")}
    assert off == {a for a, _ in found if a.startswith("motor.")}


def test_brown_and_blue_are_exchanged_and_nothing_else_is_touched():
    leads = [{"lead": "black", "ends": ["main.1", "aux.1"]}, {"lead": "blue", "ends": ["main.2"]}]
    leads += [{"lead": "brown", "ends": ["aux.2"]}]
    found = [("motor.black", "switch.t1"), ("motor.brown", "capacitor.common"), ("motor.blue", "capacitor.fan")]
    found += [("switch.t2", "capacitor.common")]
    call = make_call(hookup={"leads": leads, "found": wires(found)})
    answer = plan(call, call.motor)
    assert_to_the_letter(call, answer)
    touched = [(move.do, move.what, move.where) for move in answer.moves if move.do != "set"]
    assert sorted(touched) == [
        ("put_on", "motor.blue", "capacitor.common"),
        ("put_on", "motor.brown", "capacitor.fan"),
        ("take_off", "motor.blue", "capacitor.fan"),
        ("take_off", "motor.brown", "capacitor.common"),
    ]


def test_wires_that_are_right_are_left_alone():
    call = make_call(hookup={"leads": THREE, "found": wires([*OLD, GROUND])})
    answer = plan(call, call.motor)
    assert [move.do for move in answer.moves if move.do != "set"] == []
    assert sound(answer.check)


def test_no_wiring_with_fewer_moves_passes():
    """Every place of three leads on four terminals, against all placings that are nearer than the plan's."""
    names = [row["lead"] for row in THREE[:3]]
    terminals = ["switch.t1", "switch.t2", "capacitor.common", "capacitor.fan"]
    every = list(itertools.product(terminals, repeat=3))
    passing = []
    for places in every:
        pairs = [*zip((f"motor.{name}" for name in names), places, strict=True), *UNIT, GROUND]
        if sound(check_call(make_call(hookup={"leads": THREE, "planned": wires(pairs)}))):
            passing.append(places)
    for places in every[::9]:
        pairs = [*zip((f"motor.{name}" for name in names), places, strict=True), *UNIT, GROUND]
        call = make_call(hookup={"leads": THREE, "found": wires(pairs)})
        moved = sum(move.do in ("put_on", "cap") for move in plan(call, call.motor).moves)
        assert moved <= min(sum(a != b for a, b in zip(places, other, strict=True)) for other in passing)


def test_the_ground_comes_off_last_and_goes_on_first():
    call = make_call(hookup={"leads": THREE, "found": wires([GROUND, *OLD]), "new_leads": FOUR})
    answer = plan(call, Motor.model_validate({**NEW, "leads": 4}))
    order = [(move.do, move.where) for move in answer.moves]
    assert [do for do, where in order if where == "ground.frame"] == ["take_off", "put_on"]
    grounds = [number for number, (_, where) in enumerate(order) if where == "ground.frame"]
    assert grounds[1] == grounds[0] + 1
    assert order[grounds[1] + 1][0] != "take_off"


def test_old_names_do_not_block_the_plan_of_another_motor():
    odd = [{"lead": name, "ends": []} for name in ("violet", "grey", "pink")]
    call = make_call(hookup={"leads": odd, "found": wires([("motor.violet", "switch.t2")])})
    answer = plan(call, Motor.model_validate({**NEW, "leads": 3}))
    assert_to_the_letter(call, answer)
    assert read_leads(call.hookup.leads).names == ["violet", "grey", "pink"]
