"""The plan: every case plans, its check passes, each school puts the start lead where it says, leads are capped one by one."""

import itertools
from collections import Counter

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.core.hookup.diagram import read_table
from keen_coil.core.hookup.leads import customary
from keen_coil.core.hookup.plan import plan
from keen_coil.core.plates import Motor
from tests.calls import make_call
from tests.wirings import BLOWER, DUAL_VOLTS, FOUR, FURNACE, GREEN, HALVES, OLD, THREE, wires

NEW = {
    "kind": "psc",
    "hp": 0.25,
    "volts": "208-230",
    "amps_a": 1.4,
    "phase": 1,
    "hz": 60,
    "rpm": 1075,
    "capacitor_uf": 7.5,
    "capacitor_v": 370,
    "rotation": {"sense": "ccw", "seen_from": "shaft_end"},
}
LOW = {**NEW, "volts": "115", "amps_a": 2.9}
OLD_FOUR = [*OLD[:3], ("motor.brown/white", "cap.1"), *OLD[3:]]
OLD_OWN = [
    ("motor.black", "switch.t2"),
    ("motor.white", "switch.t1"),
    ("motor.brown", "capacitor.2"),
    ("switch.t1", "capacitor.1"),
]
OLD_OWN_FOUR = [
    ("motor.black", "switch.t2"),
    ("motor.white", "switch.t1"),
    ("motor.brown", "capacitor.2"),
    ("motor.brown/white", "capacitor.1"),
]


def at(answer, lead):
    return [wire.to for wire in answer.planned if wire.from_ == f"motor.{lead}"]


def moves(answer, do):
    return [(move.what.removeprefix("motor."), move.where) for move in answer.moves if move.do == do]


def assert_sound(answer):
    check = answer.check
    assert check.runs, [item.says for item in check.findings]
    assert check.turns in ("right", "unknown")
    assert {item.severity for item in check.findings} <= {"untidy"}
    assert {item.fault for item in check.findings} <= {"diagram_needed"}
    caps = Counter(wire.to for wire in answer.planned if wire.to.startswith("cap."))
    assert all(count == 1 for count in caps.values())


CONDENSERS = itertools.product(
    [
        ("3 to 3", THREE, OLD, THREE),
        ("3 to 4", THREE, OLD, FOUR),
        ("4 to 4", FOUR, OLD_FOUR, FOUR),
        ("3 to 4, own", THREE, OLD_OWN, FOUR),
        ("4 to 4, own", FOUR, OLD_OWN_FOUR, FOUR),
        ("4 to 3, own", FOUR, OLD_OWN_FOUR, THREE),
        ("nothing noted", [], [], FOUR),
    ],
    ["dual", "own"],
    ["contactor", "relay", "board"],
    ["known", "unknown"],
)


@pytest.mark.parametrize(("case", "school", "switch", "ends"), list(CONDENSERS))
def test_condenser_fans_under_both_schools(case, school, switch, ends):
    name, old_leads, old, new_leads = case
    own = "own" in name
    if ends == "unknown":
        old_leads = [{"lead": row["lead"], "ends": []} for row in old_leads]
    call = make_call(
        unit__run_capacitor="own" if own else "dual",
        unit__switch={"kind": switch, "poles": 1},
        hookup={"leads": old_leads, "new_leads": new_leads, "found": wires(old)},
    )
    answer = plan(call, Motor.model_validate({**NEW, "leads": len(new_leads) - 1}), school)
    assert_sound(answer)
    assert answer.school == ("own" if own else school)
    start = at(answer, "brown")
    if own:
        assert start[0].startswith("capacitor.")
    else:
        assert start == (["capacitor.fan"] if school == "dual" else ["fancap.2"])
        assert (
            not any(wire.to == "capacitor.fan" or wire.from_ == "capacitor.fan" for wire in answer.planned)
            or school == "dual"
        )
    if new_leads is FOUR:
        spare = at(answer, "brown/white")[0]
        assert (
            spare.startswith("cap.") if answer.school == "dual" else spare in ("fancap.1", "capacitor.1", "capacitor.2")
        )
    assert len(moves(answer, "take_off")) == sum(a.startswith("motor.") for a, _ in old)
    assert at(answer, "green") == ["ground.frame"]


@pytest.mark.parametrize("switch", ["relay", "board"])
def test_on_115_volts_the_common_goes_to_the_neutral(switch):
    call = make_call(
        unit={"supply_v": 118, "phase": 1, "hz": 60, "run_capacitor": "own", "switch": {"kind": switch}},
        capacitor={},
        hookup={"new_leads": THREE},
    )
    answer = plan(call, Motor.model_validate({**LOW, "leads": 3}))
    assert_sound(answer)
    assert at(answer, "black") == ["line.n" if switch == "relay" else "board.com"]


def test_which_old_wire_is_the_capacitors_is_worked_out_and_said():
    unnoted = [{"lead": name, "ends": []} for name in ("violet", "grey", "pink")]
    old = [("motor.violet", "switch.t2"), ("motor.grey", "capacitor.common"), ("motor.pink", "capacitor.fan"), *OLD[3:]]
    answer = plan(
        make_call(hookup={"leads": unnoted, "new_leads": THREE, "found": wires(old)}),
        Motor.model_validate({**NEW, "leads": 3}),
    )
    assert_sound(answer)
    assert "pink" in answer.explains[0]
    assert at(answer, "black") == ["switch.t2"]
    assert at(answer, "white") == ["capacitor.common"]


def taps(count, capacitor=True):
    rows = [{"lead": "white", "ends": ["main.1", "aux.1"] if capacitor else ["main.1"]}]
    rows += [{"lead": f"speed{n}", "ends": [f"main.s{n}"]} for n in range(1, count + 1)]
    spare = [{"lead": "brown", "ends": ["aux.2"]}, {"lead": "brown/white", "ends": ["main.s1"]}]
    return [*rows, *(spare if capacitor else []), GREEN]


@pytest.mark.parametrize("new", [2, 3, 4, 5])
@pytest.mark.parametrize("old", [2, 3, 4, 5])
@pytest.mark.parametrize("switch", ["relay", "board", "remote_switch"])
def test_blowers_of_every_tap_count(old, new, switch):
    outs = {"board": ["board.cool", "board.heat"], "relay": ["switch.t1"], "remote_switch": ["switch.t1", "switch.t2"]}[
        switch
    ]
    back = "board.com" if switch == "board" else "line.n"
    used = [1, old][: len(outs)]
    found = [("motor.white", back), ("motor.brown", "capacitor.2"), ("motor.brown/white", "capacitor.1")]
    found += [(f"motor.speed{n}", terminal) for n, terminal in zip(used, outs, strict=True)]
    found += [(f"motor.speed{n}", f"cap.{n}") for n in range(1, old + 1) if n not in used]
    call = make_call(
        motor={**BLOWER, "speeds": old},
        unit={**FURNACE, "switch": {"kind": switch}, "speeds_used": used},
        capacitor={},
        hookup={"leads": taps(old), "new_leads": taps(new), "found": wires(found)},
    )
    answer = plan(call, Motor.model_validate({**BLOWER, "speeds": new, "leads": new + 3}))
    assert_sound(answer)
    assert at(answer, "speed1") == [outs[0]]
    capped = [lead for lead, _ in moves(answer, "cap")]
    assert len(capped) == new - len(outs)
    if len(outs) == 2:
        assert at(answer, f"speed{min(old, new)}") == [outs[1]]


def test_nothing_noted_a_remote_switch_has_an_output_a_speed():
    call = make_call(
        motor={**BLOWER, "speeds": 5},
        unit={**FURNACE, "switch": {"kind": "remote_switch"}, "speeds_used": [1, 3, 5]},
        capacitor={},
        hookup={"new_leads": taps(5)},
    )
    answer = plan(call, call.motor)
    assert_sound(answer)
    assert [at(answer, f"speed{n}") for n in (1, 3, 5)] == [["switch.t1"], ["switch.t2"], ["switch.t3"]]


@pytest.mark.parametrize(
    ("motor", "leads"),
    [
        (
            {"kind": "shaded_pole", "capacitor_uf": None, "capacitor_v": None},
            [{"lead": "a", "ends": ["main.1"]}, {"lead": "b", "ends": ["main.2"]}],
        ),
        ({"kind": "psc", "capacitor_uf": 2}, THREE),
        ({"kind": "psc", "capacitor_uf": 2, "speeds": 2}, taps(2)),
        ({"kind": "shaded_pole", "speeds": 2, "capacitor_uf": None, "capacitor_v": None}, taps(2, capacitor=False)),
    ],
)
def test_inducers(motor, leads):
    plate = {
        "role": "inducer",
        "fan": "inducer_wheel",
        "hp": 0.03,
        "volts": "115",
        "amps_a": 0.7,
        "phase": 1,
        "hz": 60,
        "rpm": 3000,
        "capacitor_v": 370,
        "rotation": {"sense": "cw", "seen_from": "shaft_end"},
        **motor,
    }
    call = make_call(
        motor=plate, unit={**FURNACE, "switch": {"kind": "board"}}, capacitor={}, hookup={"new_leads": leads}
    )
    answer = plan(call, call.motor)
    assert_sound(answer)


@pytest.mark.parametrize(("volts", "joined"), [(230, True), (120, False)])
def test_dual_voltage_is_strapped_by_the_noted_diagram(volts, joined):
    call = make_call(
        motor=DUAL_VOLTS,
        unit={"supply_v": volts, "phase": 1, "hz": 60, "run_capacitor": "own"},
        capacitor={},
        hookup={"new_leads": HALVES},
    )
    answer = plan(call, call.motor)
    assert_sound(answer)
    assert (at(answer, "2") == at(answer, "3") == ["splice.1"]) == joined


NINE = [{"lead": f"T{n}", "ends": [f"t{n}"]} for n in range(1, 10)] + [GREEN]


@pytest.mark.parametrize(
    ("volts", "groups"),
    [
        (230, [{"1", "7"}, {"2", "8"}, {"3", "9"}, {"4", "5", "6"}]),
        (460, [{"1"}, {"2"}, {"3"}, {"4", "7"}, {"5", "8"}, {"6", "9"}]),
    ],
)
def test_three_phase_by_the_table_low_and_high(volts, groups):
    motor = {"kind": "three_phase", "hp": 3, "volts": "208-230/460", "amps_a": 9, "phase": 3, "hz": 60, "rpm": 1750}
    call = make_call(
        motor=motor,
        unit={"supply_v": volts, "phase": 3, "hz": 60, "switch": {"kind": "starter", "poles": 3}},
        hookup={"new_leads": NINE},
    )
    answer = plan(call, call.motor)
    assert_sound(answer)
    places = {}
    for wire in answer.planned:
        if wire.from_.startswith("motor.T"):
            places.setdefault(wire.to, set()).add(wire.from_[7:])
    assert sorted(map(sorted, places.values())) == sorted(map(sorted, groups))
    assert "three-phase" in answer.check.says


def test_commutated_takes_line_ground_and_command_and_no_capacitor():
    leads = [
        {"lead": "L1", "ends": ["power.1"]},
        {"lead": "L2", "ends": ["power.2"]},
        {"lead": "C1", "ends": ["command.1"]},
        GREEN,
    ]
    motor = {"kind": "ecm", "hp": 0.33, "volts": "208-230", "amps_a": 2.8, "phase": 1, "hz": 60, "rpm": 850}
    answer = plan(make_call(motor=motor, hookup={"new_leads": leads}), Motor.model_validate(motor))
    assert_sound(answer)
    assert not any("cap" in wire.to for wire in answer.planned if wire.from_.startswith("motor."))
    with pytest.raises(InvalidField) as error:
        plan(make_call(motor=motor), Motor.model_validate(motor))
    assert "diagram" in error.value.errors[0].expected


def test_colours_alone_are_said_to_prove_nothing():
    answer = plan(make_call(hookup={"found": wires(OLD)}), Motor.model_validate({**NEW, "leads": 4}))
    assert_sound(answer)
    assert [item.fault for item in answer.check.findings] == ["diagram_needed"]
    with pytest.raises(InvalidField) as error:
        plan(make_call(), Motor.model_validate({**NEW, "leads": 7}))
    assert error.value.errors[0].path == "hookup.leads"


@pytest.mark.parametrize(
    ("rotation", "plug"),
    [
        ({"sense": "reversible"}, "as shipped"),
        ({"sense": "reversible", "shipped": "ccw", "seen_from": "shaft_end"}, "as shipped"),
        ({"sense": "reversible", "shipped": "cw", "seen_from": "shaft_end"}, "swapped"),
        ({"sense": "reversible", "shipped": "ccw", "seen_from": "lead_end"}, "swapped"),
    ],
)
def test_the_reversing_plug_is_set_for_the_old_motors_way(rotation, plug):
    answer = plan(
        make_call(hookup={"leads": THREE, "found": wires(OLD), "new_leads": FOUR}),
        Motor.model_validate({**NEW, "rotation": rotation}),
    )
    assert ("reversing plug", plug) in moves(answer, "set")
    assert answer.check.turns == ("right" if "shipped" in rotation else "unknown")


@pytest.mark.parametrize(
    "old",
    [
        [("motor.black", "switch.t2"), ("motor.white", "capacitor.fan"), ("motor.brown", "capacitor.common"), *OLD[3:]],
        [("motor.black", "switch.t1"), ("motor.white", "switch.t1"), ("motor.brown", "capacitor.fan"), *OLD[3:]],
        [
            ("motor.black", "switch.t2"),
            ("motor.white", "capacitor.common"),
            ("motor.brown", "capacitor.fan"),
            ("switch.t1", "switch.t2"),
            *OLD[3:],
        ],
    ],
)
def test_a_miswired_old_motor_is_not_copied(old):
    for school in ("dual", "own"):
        answer = plan(
            make_call(hookup={"leads": THREE, "found": wires(old), "new_leads": FOUR}),
            Motor.model_validate({**NEW, "leads": 4}),
            school,
        )
        assert_sound(answer)
        assert "can't be right" in answer.explains[0]
        off = [what for what, _ in moves(answer, "take_off")]
        assert off[:3] == ["black", "white", "brown"]
        assert off[3:] == (["switch.t1"] if ("switch.t1", "switch.t2") in old else []), "a wrong wire is named too"


@pytest.mark.parametrize("kind", ["furnace", "air_handler", "fan_coil", "split_condenser", None])
def test_a_compressor_is_wired_only_where_one_can_be(kind):
    call = make_call(unit__kind=kind, unit__run_capacitor="dual", unit__supply_v=230)
    answer = plan(call, call.motor)
    there = any("compressor" in wire.from_ + wire.to for wire in answer.planned)
    assert there == (kind in ("split_condenser", None))
    assert answer.check.runs


def test_no_color_tells_how_a_motor_of_two_voltages_is_strapped():
    for leads in (None, 6, 8):
        call = make_call(motor={"kind": "psc", "volts": "115/230", "amps_a": 12.4, "hp": 1, "leads": leads})
        with pytest.raises(InvalidField, match="diagram for low and high volts"):
            plan(call, call.motor)
    call = make_call(motor={"kind": "three_phase", "volts": "208-230/460", "amps_a": 3.6, "hp": 1, "phase": 3})
    assert len(customary(call.motor).names) == 9


def test_a_motor_with_both_ends_of_its_start_winding_out_has_no_reversing_plug():
    table = read_table("1-3 to L1 and capacitor\n5 to capacitor\n2-4-8 to L2", "low")
    motor = {
        "kind": "psc",
        "volts": "115/230",
        "amps_a": 12.4,
        "hp": 1,
        "rpm": 1075,
        "capacitor_uf": 15,
        "rotation": {"sense": "reversible"},
    }
    call = make_call(motor=motor, unit__supply_v=115, unit__run_capacitor="own", hookup={"diagram": {"low": table}})
    made = {move.what for move in plan(call, call.motor).moves if move.do == "set"}
    assert "reversing plug" not in made
    assert any(what.startswith("leads ") and "5" in what and "8" in what for what in made)
