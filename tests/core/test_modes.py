"""Speeds by mode: each output of the unit feeds the tap that it asks for and no other; spare taps parked or capped."""

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.hookup.laying import tap_of_each
from keen_coil.core.hookup.plan import plan, sound
from keen_coil.core.outputs import outputs_of
from tests.calls import make_call
from tests.core.test_hookup_plan import taps
from tests.wirings import BLOWER, FURNACE, wires

MODES = ("cool", "heat", "fan", "low", "medium", "high")


def joined(answer):
    return nx.Graph((wire.from_, wire.to) for wire in answer.planned)


def unit_of(kind, speeds, volts=120):
    """A unit whose modes ask for these speeds, each on a terminal of its own."""
    contacts = {"board": [f"board.{mode}" for mode in MODES], "remote_switch": ["switch.t1", "switch.t2", "switch.t3"]}
    terminals = contacts.get(kind, ["switch.t1", "switch.t3"])[: len(speeds)]
    outputs = [
        {"mode": mode, "terminal": terminal, "speed": speed}
        for mode, terminal, speed in zip(MODES, terminals, speeds, strict=False)
    ]
    return {**FURNACE, "supply_v": volts, "switch": {"kind": kind}, "outputs": outputs}, outputs


@settings(max_examples=30)
@given(
    st.sampled_from(["board", "remote_switch", "relay"]),
    st.integers(2, 5),
    st.lists(st.integers(1, 5), min_size=1, max_size=4),
    st.booleans(),
    st.booleans(),
)
def test_each_mode_energizes_the_tap_it_asks_for_and_no_other(kind, count, speeds, capacitor, high):
    unit, outputs = unit_of(kind, [min(speed, count) for speed in speeds], 230 if high else 120)
    plate = {**BLOWER, "speeds": count, "volts": "230" if high else "115"}
    if not capacitor:
        plate |= {"kind": "shaded_pole", "capacitor_uf": None, "capacitor_v": None}
    call = make_call(motor=plate, unit=unit, capacitor={}, hookup={"new_leads": taps(count, capacitor)})
    answer = plan(call, call.motor)
    assert sound(answer.check), [item.says for item in answer.check.findings]
    nets = joined(answer)
    for output in outputs:
        fed = {
            n for n in range(1, count + 1) if f"motor.speed{n}" in nx.node_connected_component(nets, output["terminal"])
        }
        assert fed == {output["speed"]}, output
    hung = [wire.to for wire in answer.planned if wire.to.startswith(("cap.", "board.park"))]
    assert len(hung) == len(set(hung)), "one by one"


@given(st.lists(st.integers(1, 9), min_size=1, max_size=6), st.integers(1, 9))
def test_with_as_many_taps_as_speeds_each_speed_has_its_own_in_order(speeds, count):
    given_taps = tap_of_each(speeds, count)
    assert set(given_taps) == set(speeds)
    assert all(1 <= tap <= count for tap in given_taps.values())
    ordered = [given_taps[speed] for speed in sorted(set(speeds))]
    assert ordered == sorted(ordered)
    if len(ordered) <= count:
        assert len(set(ordered)) == len(ordered)
    assert all(given_taps[speed] == speed for speed in given_taps if max(speeds) <= count)


@pytest.mark.parametrize(
    ("modes", "wanted"),
    [
        ({"cooling": 1, "heating": 3}, {"board.cool": 1, "board.heat": 3}),
        ({"cooling": 1, "heating": 2, "fan": 3}, {"board.cool": 1, "board.heat": 2, "board.fan": 3}),
        ({"cooling": 2, "heating": 2}, {"board.cool": 2, "board.heat": 2}),
    ],
)
def test_modes_noted_by_speed_alone_come_out_of_their_own_outputs(modes, wanted):
    unit = {**FURNACE, "switch": {"kind": "board"}, "modes": modes}
    call = make_call(motor={**BLOWER, "speeds": 3}, unit=unit, capacitor={}, hookup={"new_leads": taps(3)})
    nets = joined(plan(call, call.motor))
    for terminal, speed in wanted.items():
        assert f"motor.speed{speed}" in nx.node_connected_component(nets, terminal)


def test_a_relay_on_medium_keeps_medium():
    unit = {**FURNACE, "switch": {"kind": "relay"}, "speeds_used": [2]}
    call = make_call(motor={**BLOWER, "speeds": 3}, unit=unit, capacitor={}, hookup={"new_leads": taps(3)})
    answer = plan(call, call.motor)
    assert [wire.to for wire in answer.planned if wire.from_ == "motor.speed2"] == ["switch.t1"]
    assert sound(answer.check)


def test_spare_taps_go_to_the_park_terminals_that_the_unit_has():
    unit, _ = unit_of("board", [1])
    found = [("motor.speed2", "board.park1"), ("motor.speed3", "board.park2"), ("motor.white", "board.com")]
    call = make_call(
        motor={**BLOWER, "speeds": 3},
        unit=unit,
        capacitor={},
        hookup={"leads": taps(3), "new_leads": taps(4), "found": wires(found)},
    )
    answer = plan(call, call.motor.model_copy(update={"speeds": 4}))
    at = {wire.from_: wire.to for wire in answer.planned}
    assert [at[f"motor.speed{n}"] for n in (2, 3)] == ["board.park1", "board.park2"]
    assert at["motor.speed4"].startswith("cap.")


def test_two_outputs_without_a_terminal_are_named_and_marked_as_assumed():
    call = make_call(
        motor__role="indoor_blower",
        unit={**FURNACE, "switch": {"kind": "relay"}, "modes": {"cooling": 1, "heating": 3}},
    )
    assert [(out.name, out.terminal, out.assumed) for out in outputs_of(call)] == [
        ("cooling", "switch.t1", True),
        ("heating", "switch.t2", True),
    ]
