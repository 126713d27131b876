"""The check: every miswire caught with its consequence, random wirings never crash it, ngspice agrees."""

import re
import shutil
import subprocess

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.hookup.check import check_call, model_for
from keen_coil.core.hookup.circuit import circuit
from keen_coil.core.hookup.faults import FAULTS
from keen_coil.core.hookup.leads import read_leads
from keen_coil.core.hookup.leads_of_call import leads_for
from keen_coil.core.hookup.solve import halves, volts_per_turn
from keen_coil.core.hookup.spice import netlist
from keen_coil.core.hookup.terminals import joins
from keen_coil.core.machine.circuit import solve
from keen_coil.core.machine.sections import solve_network
from tests.calls import make_call
from tests.motors import fitted
from tests.wirings import BLOWER, DUAL_VOLTS, FOUR, FURNACE, GROUND, HALVES, RIGHT, THREE, UNIT, planned, wires

TAPS = [
    {"lead": "white", "ends": ["main.1", "aux.1"]},
    {"lead": "black", "ends": ["main.s1"]},
    {"lead": "blue", "ends": ["main.s2"]},
    {"lead": "red", "ends": ["main.s3"]},
    {"lead": "brown", "ends": ["aux.2"]},
    {"lead": "brown/white", "ends": ["main.s1"]},
]
BOARD = {**FURNACE, "switch": {"kind": "board"}}


def faults(answer):
    return {item.fault: item.severity for item in answer.findings}


def test_right_it_runs_as_its_plate_says():
    answer = check_call(planned(*RIGHT))
    assert (answer.runs, answer.turns, answer.findings) == (True, "right", [])
    whole = solve(fitted().windings, 230, 1 - answer.rpm / 1200, 5.0)
    assert answer.currents_a.line == pytest.approx(1.40, rel=0.02)
    assert answer.currents_a.main == pytest.approx(abs(whole.main_a), rel=0.01)
    assert answer.capacitor_v == pytest.approx(float(whole.capacitor_v), rel=0.01)


BLACK_WHITE = [("motor.black", "switch.t2"), ("motor.white", "switch.t1")]


@pytest.mark.parametrize(
    ("name", "pairs", "extra", "expected", "turns"),
    [
        (
            "swapped on the dual",
            [
                ("motor.black", "switch.t2"),
                ("motor.white", "capacitor.fan"),
                ("motor.brown", "capacitor.common"),
                GROUND,
            ],
            {},
            {"capacitor_in_series_with_main": "danger", "aux_across_line": "danger", "reversed": "wrong"},
            "wrong",
        ),
        (
            "start lead on common",
            [*BLACK_WHITE, ("motor.brown", "capacitor.common"), GROUND],
            {},
            {"aux_across_line": "danger"},
            "not_turning",
        ),
        (
            "start lead on the line",
            [*BLACK_WHITE, ("motor.brown", "switch.t1"), GROUND],
            {},
            {"aux_across_line": "danger"},
            "not_turning",
        ),
        (
            "fan on the compressor's section",
            [*BLACK_WHITE, ("motor.brown", "capacitor.herm"), GROUND],
            {},
            {"wrong_section": "danger"},
            None,
        ),
        (
            "both on one line",
            [("motor.black", "switch.t2"), ("motor.white", "switch.t2"), ("motor.brown", "capacitor.fan"), GROUND],
            {},
            {"no_return": "wrong"},
            "not_turning",
        ),
        ("start lead off", [*BLACK_WHITE, ("motor.brown", "cap.1"), GROUND], {}, {"aux_open": "wrong"}, "not_turning"),
        (
            "run lead off",
            [("motor.black", "switch.t2"), ("motor.white", "cap.1"), ("motor.brown", "capacitor.fan"), GROUND],
            {},
            {"open_circuit": "wrong"},
            "not_turning",
        ),
        ("line to line", [*RIGHT, ("switch.t1", "switch.t2")], {}, {"line_short": "danger"}, "not_turning"),
        ("line to frame", [*RIGHT, ("switch.t1", "ground.frame")], {}, {"ground_fault": "danger"}, "right"),
        ("ground off", RIGHT[:3], {}, {"ground_missing": "danger"}, "right"),
        (
            "repeat of white on the other line",
            [*RIGHT, ("motor.brown/white", "switch.t2")],
            {"leads": FOUR},
            {"line_short": "danger"},
            "not_turning",
        ),
        ("repeat of white hangs", RIGHT, {"leads": FOUR}, {"lead_uncapped": "danger"}, "right"),
        (
            "both capacitor leads on one terminal",
            [*BLACK_WHITE, ("motor.brown", "fancap.1"), ("motor.brown/white", "fancap.1"), GROUND],
            {"leads": FOUR},
            {"capacitor_bypassed": "danger", "aux_across_line": "danger"},
            "not_turning",
        ),
        (
            "capacitor across the line",
            [*BLACK_WHITE, ("motor.brown", "cap.1"), ("switch.t1", "fancap.1"), ("switch.t2", "fancap.2"), GROUND],
            {},
            {"capacitor_across_line": "wrong", "aux_open": "wrong"},
            "not_turning",
        ),
        (
            "the capacitor's far side empty",
            [*BLACK_WHITE, ("motor.brown", "fancap.2"), GROUND],
            {},
            {"aux_open": "wrong"},
            "not_turning",
        ),
        (
            "capacitor fed from the common's line",
            [*BLACK_WHITE, ("motor.brown", "fancap.2"), ("switch.t2", "fancap.1"), GROUND],
            {},
            {"aux_open": "wrong"},
            "not_turning",
        ),
        (
            "exchanged at the line: turns as before",
            [
                ("motor.black", "switch.t1"),
                ("motor.white", "switch.t2"),
                ("motor.brown", "fancap.2"),
                ("switch.t2", "fancap.1"),
                GROUND,
            ],
            {},
            {},
            "right",
        ),
        (
            "five on a place for two",
            [*RIGHT, *[("capacitor.fan", f"splice.{n}") for n in range(3)]],
            {},
            {"terminal_overfilled": "untidy"},
            "right",
        ),
        (
            "half the volts",
            [("motor.black", "line.n"), ("motor.white", "switch.t1"), ("motor.brown", "capacitor.fan"), GROUND],
            {},
            {"wrong_strapping": "danger"},
            None,
        ),
    ],
)
def test_every_miswire_of_a_condenser_fan(name, pairs, extra, expected, turns):
    answer = check_call(planned(*pairs, **extra))
    assert expected.items() <= faults(answer).items(), faults(answer)
    if turns is not None:
        assert answer.turns == turns
    if "danger" in expected.values():
        assert not answer.runs
        assert answer.findings[0].severity == "danger"
    if not expected:
        assert answer.runs
        assert answer.findings == []
    for item in answer.findings:
        assert item.says
        assert item.cure


def blower(*pairs, **changes):
    return make_call(
        motor={**BLOWER, "speeds": 3},
        unit=BOARD,
        capacitor={},
        hookup={"leads": TAPS, "planned": wires(pairs)},
        **changes,
    )


GOOD_BLOWER = [
    ("motor.white", "board.com"),
    ("motor.black", "board.cool"),
    ("motor.red", "board.heat"),
    ("motor.blue", "cap.1"),
    ("motor.brown", "capacitor.1"),
    ("motor.brown/white", "capacitor.2"),
]


def test_a_blower_runs_on_its_taps_and_joined_taps_burn():
    right = check_call(blower(*GOOD_BLOWER))
    assert (right.runs, right.turns, right.findings) == (True, "right", [])
    for joined in ([("motor.blue", "board.cool")], [("motor.blue", "splice.1"), ("board.cool", "splice.1")]):
        pairs = [pair for pair in GOOD_BLOWER if pair[0] != "motor.blue"] + joined
        assert faults(check_call(blower(*pairs)))["taps_joined"] == "danger"
    loose = check_call(blower(*[pair for pair in GOOD_BLOWER if pair[0] != "motor.blue"]))
    assert faults(loose) == {"lead_uncapped": "danger"}


def test_a_slower_tap_runs_slower():
    fast, slow = (
        check_call(
            blower(
                *[
                    (
                        a,
                        "board.cool"
                        if a == f"motor.{lead}"
                        else "cap.9"
                        if b.startswith("board.") and b != "board.com"
                        else b,
                    )
                    for a, b in GOOD_BLOWER
                ]
            )
        )
        for lead in ("black", "red")
    )
    assert slow.rpm < fast.rpm
    assert slow.currents_a.line < fast.currents_a.line


SERIES = [
    ("motor.1", "switch.t2"),
    ("motor.2", "splice.1"),
    ("motor.3", "splice.1"),
    ("motor.4", "switch.t1"),
    ("motor.5", "fancap.2"),
    ("switch.t1", "fancap.1"),
    GROUND,
]
BESIDE = [
    ("motor.1", "switch.t2"),
    ("motor.3", "switch.t2"),
    ("motor.2", "switch.t1"),
    ("motor.4", "switch.t1"),
    ("motor.5", "fancap.2"),
    ("switch.t1", "fancap.1"),
    GROUND,
]


@pytest.mark.parametrize(
    ("pairs", "volts", "severity", "per_turn"),
    [
        (SERIES, 230, None, None),
        (BESIDE, 120, None, None),
        (BESIDE, 230, "danger", (2.0, 1.0)),
        (SERIES, 120, "wrong", (0.5, 1.0)),
        (
            [*BESIDE[:1], ("motor.3", "switch.t1"), ("motor.2", "switch.t1"), ("motor.4", "switch.t2"), *BESIDE[4:]],
            120,
            "danger",
            None,
        ),
    ],
)
def test_two_halves_are_strapped_for_their_supply(pairs, volts, severity, per_turn):
    if volts == 120:
        pairs = [(a, "line.n" if b == "switch.t2" else b) for a, b in pairs]
    call = make_call(
        motor=DUAL_VOLTS,
        unit={"supply_v": volts, "phase": 1, "hz": 60},
        capacitor={},
        hookup={"leads": HALVES, "planned": wires(pairs)},
    )
    answer = check_call(call)
    assert faults(answer).get("wrong_strapping") == severity
    joined = joins(call.hookup.planned, "hookup.planned")
    leads = leads_for(call, call.motor, {wire.lead for wire in joined if wire.lead})
    assert volts_per_turn(call, call.motor, leads, joined, planned=True) == per_turn
    if severity is None:
        assert (answer.runs, answer.turns) == (True, "right")
        assert answer.currents_a.line == pytest.approx(6.0 if volts == 120 else 3.0, rel=0.12)


@pytest.mark.parametrize(
    ("rotation", "plug", "turns"),
    [
        ({"sense": "reversible"}, None, "unknown"),
        ({"sense": "reversible", "shipped": "ccw", "seen_from": "shaft_end"}, None, "right"),
        ({"sense": "reversible", "shipped": "ccw", "seen_from": "shaft_end"}, "swapped", "wrong"),
        ({"sense": "reversible", "shipped": "ccw", "seen_from": "lead_end"}, None, "wrong"),
        ({"sense": "reversible", "shipped": "cw", "seen_from": "shaft_end"}, "swapped", "right"),
    ],
)
def test_the_reversing_plug_turns_it_round(rotation, plug, turns):
    new = {
        "kind": "psc",
        "hp": 0.25,
        "volts": "208-230",
        "amps_a": 1.4,
        "phase": 1,
        "hz": 60,
        "rpm": 1090,
        "capacitor_uf": 5,
        "capacitor_v": 370,
        "rotation": rotation,
    }
    call = planned(*RIGHT, chosen_motor=new)
    call = call.model_copy(update={"hookup": call.hookup.model_copy(update={"plug": plug})})
    answer = check_call(call)
    assert answer.turns == turns
    assert ("reversed" in faults(answer)) == (turns == "wrong")


def test_as_found_with_its_label_and_a_plan_with_the_motors_value():
    call = planned(*RIGHT, capacitor__label=[{"section": "fan", "uf": 2.5}, {"section": "herm", "uf": 40}])
    found = call.model_copy(update={"hookup": call.hookup.model_copy(update={"found": call.hookup.planned})})
    assert check_call(found, planned=False).rpm < check_call(found).rpm


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        ({"hookup": {"leads": THREE, "planned": wires([("motor.black", "contactor.t1")])}}, "hookup.planned.0.to"),
        ({"hookup": {"leads": THREE, "planned": wires([("switch.t1", "switch.t1")])}}, "hookup.planned.0.to"),
        ({"hookup": {"leads": [{"lead": "a", "ends": ["main.9"]}], "planned": wires(RIGHT)}}, "hookup.leads.0.ends.0"),
        (
            {
                "hookup": {
                    "leads": [{"lead": "a", "ends": ["main.1"]}, {"lead": "b", "ends": ["aux.1"]}],
                    "planned": wires(RIGHT),
                }
            },
            "hookup.leads",
        ),
        ({"hookup": {"leads": [{"lead": "a", "ends": ["main.1", "main.2"]}], "planned": wires(RIGHT)}}, "hookup.leads"),
        ({"hookup": {"leads": THREE, "planned": wires([("motor.violet", "switch.t1")])}}, "hookup.leads"),
        ({"hookup": {"leads": THREE, "planned": []}}, "hookup.planned"),
        (
            {
                "motor__kind": "ecm",
                "hookup": {
                    "leads": [{"lead": "l1", "ends": ["power.1"]}, {"lead": "l2", "ends": ["power.2"]}],
                    "planned": wires([("motor.l1", "capacitor.fan"), ("motor.l2", "switch.t2")]),
                },
            },
            "hookup.planned.0.to",
        ),
    ],
)
def test_what_cannot_be_a_hook_up_is_said_plainly(changes, path):
    with pytest.raises(InvalidField) as error:
        check_call(make_call(**changes))
    assert error.value.errors[0].path == path
    assert error.value.errors[0].expected


TERMINALS = [
    "switch.t1",
    "switch.t2",
    "line.l1",
    "line.l2",
    "line.n",
    "capacitor.common",
    "capacitor.fan",
    "capacitor.herm",
    "fancap.1",
    "fancap.2",
    "splice.1",
    "cap.1",
    "ground.frame",
    "compressor.s",
    "motor.black",
    "motor.white",
    "motor.brown",
    "motor.brown/white",
    "motor.green",
]
ANY_WIRES = st.lists(
    st.tuples(st.sampled_from(TERMINALS), st.sampled_from(TERMINALS)).filter(lambda pair: pair[0] != pair[1]),
    min_size=1,
    max_size=12,
)


@settings(max_examples=60)
@given(ANY_WIRES, st.booleans())
def test_random_wirings_never_crash_and_no_short_is_ever_safe(pairs, right_besides):
    answer = check_call(planned(*pairs, *(RIGHT if right_besides else ()), leads=FOUR))
    dangers = [item for item in answer.findings if item.severity == "danger"]
    assert not (answer.runs and dangers)
    joined = {}

    def root(name):
        while name in joined:
            name = joined[name]
        return name

    for a, b in [
        *pairs,
        *UNIT,
        *(RIGHT if right_besides else ()),
        ("switch.t1", "line.l1"),
        ("switch.t2", "line.l2"),
        ("motor.white", "motor.brown/white"),
    ]:
        if root(a) != root(b):
            joined[root(a)] = root(b)
    lines = [root(line) for line in ("line.l1", "line.l2", "line.n")]
    if len(set(lines)) < 3:
        assert not answer.runs
        assert faults(answer)["line_short"] == "danger"
    for amps in answer.currents_a.model_dump().values():
        assert amps is None or (np.isfinite(amps) and amps >= 0)


LINES_3 = [(f"motor.t{n}", f"switch.t{n}") for n in (1, 2, 3)]
ECM_LEADS = {
    "leads": [
        {"lead": "l1", "ends": ["power.1"]},
        {"lead": "l2", "ends": ["power.2"]},
        {"lead": "green", "ends": ["frame"]},
    ]
}


@pytest.mark.parametrize(
    ("extra", "fault"),
    [
        ([], None),
        ([("switch.t1", "ground.frame")], "ground_fault"),
        ([("switch.t1", "line.n")], "line_short"),
        ([("switch.t1", "switch.t2")], "line_short"),
    ],
)
@pytest.mark.parametrize("kind", ["three_phase", "ecm"])
def test_a_live_frame_and_a_short_are_danger_on_motors_that_no_circuit_is_solved_for(kind, extra, fault):
    pairs = LINES_3 if kind == "three_phase" else [("motor.l1", "switch.t1"), ("motor.l2", "switch.t2"), GROUND]
    leads = {"leads": [{"lead": f"t{n}", "ends": [f"t{n}"]} for n in (1, 2, 3)]} if kind == "three_phase" else ECM_LEADS
    call = make_call(
        motor__kind=kind,
        motor__phase=3 if kind == "three_phase" else 1,
        unit__phase=3 if kind == "three_phase" else 1,
        capacitor={},
        hookup={**leads, "planned": wires([*pairs, *extra])},
    )
    answer = check_call(call)
    assert answer.runs == (fault is None)
    assert faults(answer).get(fault) == ("danger" if fault else None)


def test_the_table_of_faults_is_whole():
    assert {row.severity for row in FAULTS.values()} == {"danger", "wrong", "untidy"}
    assert len(FAULTS) == 19


def by_ngspice(text, coils, folder):
    (folder / "hookup.cir").write_text(text)
    out = subprocess.run(
        [shutil.which("ngspice"), "-b", "hookup.cir"], cwd=folder, capture_output=True, text=True, check=True
    )
    numbers = [float(value) for value in re.findall(r"\(i\(vc\d+\)\)\s*=\s*([-+\d.e]+)", out.stdout)]
    assert len(numbers) == 2 * coils, out.stdout + out.stderr
    return [complex(*numbers[2 * n : 2 * n + 2]) for n in range(coils)]


SWAPPED = [("motor.black", "switch.t2"), ("motor.white", "capacitor.fan"), ("motor.brown", "capacitor.common")]
CIRCUITS = {
    "right": (planned(*RIGHT), False),
    "swapped": (planned(*SWAPPED), False),
    "on herm": (planned(*BLACK_WHITE, ("motor.brown", "capacitor.herm")), False),
    "taps": (blower(*GOOD_BLOWER), False),
    "low tap": (blower(*GOOD_BLOWER), True),
    "taps joined": (blower(*[p for p in GOOD_BLOWER if p[0] != "motor.blue"], ("motor.blue", "board.cool")), False),
    "halves": (make_call(motor=DUAL_VOLTS, capacitor={}, hookup={"leads": HALVES, "planned": wires(SERIES)}), False),
}


@pytest.mark.parametrize("slip", [1.0, 0.09, 1.5])
@pytest.mark.parametrize("name", CIRCUITS)
def test_ngspice_on_the_exported_netlist_agrees(name, slip, tmp_path):
    call, heat = CIRCUITS[name]
    rows = joins(call.hookup.planned, "hookup.planned")
    leads = leads_for(call, call.motor, {row.lead for row in rows if row.lead})
    laid = circuit(
        call, call.motor, leads, rows, "board.heat" if heat else "board.cool" if "tap" in name else None, planned=True
    )
    windings = halves(model_for(call, call.motor).fit.windings, False)
    found = solve_network(windings, *laid.parts(), np.array([slip])).coil_a[0]
    spice = by_ngspice(netlist(laid, windings, slip, name), len(laid.coils), tmp_path)
    most = max(abs(amps) for amps in found)
    for ours, theirs in zip(found, spice, strict=True):
        assert theirs == pytest.approx(complex(ours), rel=0.01, abs=0.001 * most)


def test_leads_that_say_the_same_thing_twice_are_refused():
    with pytest.raises(InvalidField):
        read_leads(make_call(hookup={"leads": [*THREE, THREE[0]]}).hookup.leads)
