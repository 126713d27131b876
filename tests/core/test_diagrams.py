"""The plate's own diagram of many leads: it runs at its volts, the other strapping is told, what cannot be is refused."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.hookup.check import check_call
from keen_coil.core.hookup.diagram import ends_by_diagram
from keen_coil.core.hookup.plan import plan, sound
from keen_coil.core.installation import Diagram
from tests.calls import make_call
from tests.wirings import DUAL_VOLTS

SIX = {
    "low": {"l1": ["1", "3", "8"], "l2": ["2", "4"], "capacitor": [["5"], ["l2"]]},
    "high": {"joins": [["2", "3"]], "l1": ["1", "8"], "l2": ["4"], "capacitor": [["5"], ["2"]]},
}
SEVEN = {
    "low": {"joins": [["1", "6", "8"]], "l1": ["3", "5"], "l2": ["4"], "capacitor": [["2"], ["l1"]]},
    "high": {"joins": [["1", "8"], ["3", "6"]], "l1": ["5"], "l2": ["4"], "capacitor": [["2"], ["3"]]},
}
EIGHT = {
    "low": {"joins": [["P2", "1", "3", "8"]], "l1": ["P1"], "l2": ["2", "4"], "capacitor": [["5"], ["l2"]]},
    "high": {"joins": [["P2", "1", "8"], ["2", "3"]], "l1": ["P1"], "l2": ["4"], "capacitor": [["5"], ["l2"]]},
}


def by_diagram(diagram, volts, **unit):
    here = {"supply_v": volts, "phase": 1, "hz": 60, "run_capacitor": "own", **unit}
    return make_call(motor=DUAL_VOLTS, unit=here, capacitor={}, hookup={"diagram": diagram})


@pytest.mark.parametrize("unit", ["own", "dual"])
@pytest.mark.parametrize("volts", [120, 230])
@pytest.mark.parametrize("diagram", [SIX, SEVEN, EIGHT])
def test_a_dual_voltage_motor_runs_by_its_table_and_the_other_one_is_told(diagram, volts, unit):
    call = by_diagram(diagram, volts, run_capacitor=unit)
    answer = plan(call, call.motor)
    assert sound(answer.check), answer.check.findings
    assert answer.check.runs
    assert answer.check.solved
    assert answer.check.turns == "right"
    other = "high" if volts == 120 else "low"
    assert f"diagram for {other} volts" in answer.explains[-1]
    assert ("quarter of its torque" if volts == 120 else "twice the volts") in answer.explains[-1]


@pytest.mark.parametrize("diagram", [SIX, SEVEN, EIGHT])
def test_several_leads_of_one_point_are_a_splice_and_one_wire_on(diagram):
    answer = plan(by_diagram(diagram, 120), by_diagram(diagram, 120).motor)
    on = [wire.to for wire in answer.planned if wire.from_.startswith("motor.")]
    assert all(on.count(terminal) == 1 for terminal in on if not terminal.startswith("splice."))


@settings(max_examples=15)
@given(st.permutations("ABCDEFG"), st.sampled_from([120, 230]))
def test_whatever_the_leads_are_called(names, volts):
    called = dict(zip(["1", "2", "3", "4", "5", "6", "8"], names, strict=True))

    def renamed(group):
        return [renamed(one) if isinstance(one, list) else called.get(one, one) for one in group]

    diagram = {name: {key: renamed(rows) for key, rows in table.items()} for name, table in SEVEN.items()}
    answer = plan(by_diagram(diagram, volts), by_diagram(diagram, volts).motor)
    assert sound(answer.check)
    assert answer.check.solved


def test_windings_that_the_groups_do_not_tell_are_checked_by_the_table():
    odd = {"low": {**SEVEN["low"], "joins": [["1", "6", "8"], ["9", "10"]]}}
    answer = plan(by_diagram(odd, 120), by_diagram(odd, 120).motor)
    assert answer.check.runs
    assert not answer.check.solved
    wrong = by_diagram(odd, 120)
    apart = [{"from": w.from_, "to": "cap.9" if w.from_ == "motor.10" else w.to} for w in answer.planned]
    hookup = wrong.hookup.model_copy(update={"planned": make_call(hookup={"planned": apart}).hookup.planned})
    found = check_call(wrong.model_copy(update={"hookup": hookup}))
    assert [item.fault for item in found.findings] == ["wrong_strapping"]
    assert not found.runs


@pytest.mark.parametrize(
    ("table", "path", "says"),
    [
        ({"l1": ["1", "2"], "l2": ["2", "3"]}, "hookup.diagram.low", "both lines together"),
        ({"l1": ["1"], "l2": []}, "hookup.diagram.low.l2", "L2"),
        ({"l1": ["1"], "l2": ["2"], "capacitor": [["3"], ["3"]]}, "hookup.diagram.low.capacitor", "two points"),
        ({"joins": [["1", "4"], ["4", "2"]], "l1": ["1"], "l2": ["2"]}, "hookup.diagram.low", "both lines together"),
    ],
)
def test_a_diagram_that_cannot_be_is_said_with_its_leads(table, path, says):
    with pytest.raises(InvalidField) as error:
        ends_by_diagram(Diagram.model_validate({"low": table}))
    fault = error.value.errors[0]
    assert fault.path == path
    assert says in fault.expected


def test_a_lead_that_one_table_leaves_out_is_named_and_a_table_that_the_supply_needs_is_asked_for():
    with pytest.raises(InvalidField) as error:
        ends_by_diagram(Diagram.model_validate({"low": SIX["low"], "high": {"l1": ["1", "8"], "l2": ["4"]}}))
    assert any("2" in fault.value and "missing" in fault.value for fault in error.value.errors)
    call = by_diagram({"low": SIX["low"]}, 230)
    with pytest.raises(InvalidField) as error:
        plan(call, call.motor)
    assert error.value.errors[0].path == "hookup.diagram.high"


def test_random_groups_are_refused_or_answered():
    for one, two in itertools.product(itertools.combinations("12345", 2), repeat=2):
        rest = [lead for lead in "12345" if lead not in {*one, *two}]
        table = {"l1": list(one), "l2": list(two), "joins": [rest] if rest else []}
        try:
            ends_by_diagram(Diagram.model_validate({"low": table}))
        except InvalidField as error:
            assert set(one) & set(two) or rest == [], error.errors
