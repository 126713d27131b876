"""Every kind of motor on every kind of switch, its leads named by the plate's words: planned, checked, drawn, the right tap."""

import networkx as nx
import pytest

from keen_coil.core.call import read_call
from keen_coil.core.hookup.check import check_call
from keen_coil.core.hookup.drawing import lay_out
from keen_coil.core.hookup.leads_of_call import leads_for
from keen_coil.core.hookup.plan import plan
from keen_coil.core.hookup.terminals import Join
from keen_coil.core.hookup.turning_round import turn_round
from tests.calls import make_call
from tests.core.test_diagrams import EIGHT, SEVEN, SIX
from tests.test_hookup_command import crossings
from tests.wirings import BLOWER, DUAL_VOLTS

PSC = {"hp": 0.25, "amps_a": 1.4, "rpm": 1075, "capacitor_uf": 5, "capacitor_v": 370, "kind": "psc", "volts": "208-230"}
TAPPED = {**BLOWER, "volts": "208-230", "amps_a": 3.6}
SHADED = {"kind": "shaded_pole", "hp": 0.05, "volts": "115", "amps_a": 2.1, "rpm": 1550, "role": "indoor_blower"}
INDUCER = {"kind": "psc", "role": "inducer", "fan": "inducer_wheel", "hp": 0.03, "volts": "115", "amps_a": 0.7}
INDUCER |= {"rpm": 3000, "capacitor_uf": 4, "capacitor_v": 370, "speeds": 2}
ECM = {"kind": "ecm", "role": "indoor_blower", "hp": 0.5, "volts": "115", "amps_a": 6.8, "rpm": 1050}
THREE_PHASE = {"kind": "three_phase", "hp": 3, "volts": "208-230/460", "amps_a": 9, "rpm": 1750, "phase": 3}
MOTORS = {
    "psc 3": (PSC, "common run start"),
    "psc 4": (PSC, "common run start capacitor_return ground"),
    "psc lines": (PSC, "neutral line capacitor"),
    "taps 2": ({**TAPPED, "speeds": 2}, "common high low start capacitor_return"),
    "taps 3": ({**TAPPED, "speeds": 3}, "common high medium low start capacitor_return ground"),
    "taps 3 bare": ({**TAPPED, "speeds": 3}, "neutral high medium low start"),
    "taps 4": ({**TAPPED, "speeds": 4}, "common high medium_high medium low start capacitor_return"),
    "taps 5": ({**TAPPED, "speeds": 5}, "common high medium_high medium medium_low low start capacitor_return ground"),
    "inducer": (INDUCER, "neutral high low start capacitor_return"),
    "shaded": (SHADED, "line neutral ground"),
    "shaded taps": ({**SHADED, "speeds": 2}, "common high low"),
    "reversing": (
        {**PSC, "rotation": {"sense": "reversible"}},
        "common run start capacitor_return reversing reversing",
    ),
}
SWITCHES = {
    "contactor": {"kind": "contactor", "poles": 1},
    "contactor 2": {"kind": "contactor", "poles": 2},
    "relay": {"kind": "relay"},
    "sequencer": {"kind": "sequencer"},
    "board": {"kind": "board"},
    "remote": {"kind": "remote_switch"},
}


def named(words):
    return [{"lead": f"w{number}", "says": word} for number, word in enumerate(words.split())]


def outputs_for(switch, motor):
    speeds = [1, motor["speeds"]] if motor.get("speeds", 1) > 1 else [1]
    if switch == "board":
        terminals = ["board.cool", "board.heat"]
    elif switch == "remote":
        terminals = ["switch.t1", "switch.t3"]
    else:
        return []
    modes = ("cool", "heat") if switch == "board" else ("high", "low")
    return [
        {"mode": mode, "terminal": terminal, "speed": speed}
        for mode, terminal, speed in zip(modes, terminals, speeds, strict=False)
    ]


def assert_planned(call, school=None):
    answer = plan(call, call.motor, school)
    worse = [item.says for item in answer.check.findings if item.severity != "untidy"]
    assert worse == []
    assert answer.check.runs
    wires = [Join(row.from_, row.to) for row in answer.planned]
    leads = leads_for(call, call.motor, {wire.lead for wire in wires if wire.lead})
    drawing = lay_out(leads, wires, [])
    assert crossings(drawing) == []
    assert {wire.lead for wire in wires if wire.lead} == set(leads.names) - leads.plugged, "no lead is forgotten"
    nets = nx.Graph((wire.a, wire.b) for wire in wires)
    for out in call.unit.outputs:
        fed = [n for n in range(1, 6) for lead in leads.having(f"main.s{n}")[:1] if lead_on(nets, lead, out.terminal)]
        assert fed == ([out.speed] if leads.taps else [])
    assert turn_round(call.motor, leads)
    return answer


def lead_on(nets, lead, terminal):
    return f"motor.{lead}" in nx.node_connected_component(nets, terminal)


@pytest.mark.parametrize("school", ["dual", "own"])
@pytest.mark.parametrize("switch", SWITCHES)
@pytest.mark.parametrize("motor", MOTORS)
def test_single_phase_motors_on_every_switch_and_can(motor, switch, school):
    plate, words = MOTORS[motor]
    low = plate["volts"] == "115"
    for capacitor in ("dual", "own") if not low else ("own",):
        call = make_call(
            motor={"phase": 1, "hz": 60, **plate},
            unit={
                "supply_v": 120 if low else 232,
                "phase": 1,
                "hz": 60,
                "run_capacitor": capacitor if plate.get("capacitor_uf") else "none",
                "switch": SWITCHES[switch],
                "outputs": outputs_for(switch, plate),
            },
            capacitor={},
            hookup={"leads": named(words)},
        )
        answer = assert_planned(call, school)
        if low:
            back = next(f"motor.w{n}" for n, word in enumerate(words.split()) if word in ("neutral", "common"))
            at = next(wire.to for wire in answer.planned if wire.from_ == back)
            assert at in ("line.n", "board.com", "board.neutral", "switch.l2"), (
                "to the neutral, never to a switched terminal"
            )


@pytest.mark.parametrize("diagram", [SIX, SEVEN, EIGHT])
@pytest.mark.parametrize("switch", ["contactor", "relay", "board"])
@pytest.mark.parametrize("volts", [120, 232])
def test_many_lead_motors_by_their_diagram(volts, switch, diagram):
    for capacitor in ("dual", "own"):
        unit = {"supply_v": volts, "phase": 1, "hz": 60, "run_capacitor": capacitor, "switch": SWITCHES[switch]}
        assert_planned(make_call(motor=DUAL_VOLTS, unit=unit, capacitor={}, hookup={"diagram": diagram}))


@pytest.mark.parametrize("volts", [230, 460])
@pytest.mark.parametrize("switch", ["contactor", "starter"])
def test_three_phase_motors_by_number(volts, switch):
    unit = {"supply_v": volts, "phase": 3, "hz": 60, "switch": {"kind": switch, "poles": 3}}
    nine = [{"lead": str(n), "ends": [f"t{n}"]} for n in range(1, 10)]
    for leads in (nine, [*nine, {"lead": "green", "says": "ground"}], named("line line line ground")):
        call = make_call(motor={"hz": 60, **THREE_PHASE}, unit=unit, capacitor={}, hookup={"leads": leads})
        assert_planned(call)


@pytest.mark.parametrize("switch", ["board", "relay", "contactor"])
def test_commutated_motors_with_their_plug(switch):
    outputs = [{"mode": "cool", "terminal": "board.y1", "speed": 2}] if switch == "board" else []
    unit = {"supply_v": 120, "phase": 1, "hz": 60, "switch": {"kind": switch}, "outputs": outputs}
    words = "line neutral ground common high medium low"
    call = make_call(motor={"phase": 1, "hz": 60, **ECM}, unit=unit, capacitor={}, hookup={"leads": named(words)})
    answer = plan(call, call.motor)
    assert answer.check.runs, [item.says for item in answer.check.findings]
    assert not any(wire.to.startswith(("capacitor", "fancap")) for wire in answer.planned)


THROUGH = {"line.l1": "transformer.l1", "line.l2": "transformer.l2", "switch.t1": "junction.1", "switch.t2": "plug.p2"}


@pytest.mark.parametrize("switch", ["relay", "sequencer", "contactor"])
def test_a_wire_through_a_plug_a_junction_box_or_the_transformer_is_the_same_wire(switch):
    unit = {"supply_v": 232, "phase": 1, "hz": 60, "run_capacitor": "own", "switch": SWITCHES[switch]}
    call = make_call(
        motor=TAPPED | {"speeds": 1}, unit=unit, capacitor={}, hookup={"leads": named("common high start")}
    )
    straight = assert_planned(call)
    rows = [{"from": wire.from_, "to": THROUGH.get(wire.to, wire.to)} for wire in straight.planned]
    rows += [{"from": THROUGH[end], "to": end} for end in ("switch.t1", "switch.t2")]
    data = call.model_dump(by_alias=True, mode="json", exclude_none=True)
    answer = check_call(read_call({**data, "hookup": {**data["hookup"], "planned": rows}}))
    assert answer.runs
    assert answer.currents_a == straight.check.currents_a
    assert [item.says for item in answer.findings if item.severity != "untidy"] == []
