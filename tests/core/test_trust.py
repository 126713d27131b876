"""The finding can be trusted: each rule of the engine on both sides, and as a property of whatever was read."""

from itertools import permutations

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from keen_coil.core.changes import CHANGES
from keen_coil.core.diagnosis.applies import HAS, has
from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.diagnosis.case import Case
from keen_coil.core.diagnosis.evidence import QUESTIONS, question
from keen_coil.core.diagnosis.faults import AMBIGUOUS_GROUPS, FAULTS, TRIPS, odds
from keen_coil.core.diagnosis.parts import parts_of
from keen_coil.core.diagnosis.sentence import sentence
from keen_coil.core.field_tests import TESTS
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.proof.plan import needed_for, proof_reading
from tests.calls import FREE, GOOD_CAPACITOR, GOOD_WINDINGS, VOLTS_AT_MOTOR, make_call, pair, reading
from tests.core.test_any_call import UNITS, any_reading
from tests.core.test_faults import BLOWER, CALLED, ECM, FED, GOOD_PHASES, INDUCER, NOT, THREE

RIGHT, CLEAR = reading("turns_way", "right"), reading("ground_ohm", "OL", lead="brown")
LOOKS = [reading("load_look", "sound"), reading("air_path", "clear")]
PROVED = [VOLTS_AT_MOTOR, *GOOD_CAPACITOR, *GOOD_WINDINGS, *FREE, CLEAR, *LOOKS, CALLED, RIGHT]
PROVED_3 = [*GOOD_PHASES, *FREE, *LOOKS, CALLED, RIGHT, reading("supply_v", [460, 461, 459], at="motor")]
OTHER, OTHER_3 = {"complaint__symptom": "other"}, {**THREE, "complaint": {"symptom": "other"}}
PLATE_3 = THREE["motor"]["amps_a"] / 2  # 208-230/460 on 460 V


def found(*rows, **changes):
    return assess(make_call(*rows, **changes))


def at(row, minute):
    return {**row, "taken_at": f"2026-03-14T09:{minute:02d}:00Z"}


def changed(*acts):
    return [{"what": what, "at": f"2026-03-14T09:{minute:02d}:00Z"} for what, minute in acts]


# amps


@pytest.mark.parametrize("times", [0.97, 2, 2.5, 3, 4, 5])
def test_amps_far_over_the_plate_are_never_passed_over(times):
    one = found(*PROVED, reading("run_amps_a", round(1.4 * times, 2)), **OTHER)
    three = found(
        *PROVED_3, reading("run_amps_a", [round(PLATE_3 * times * share, 2) for share in (1, 0.99, 1)]), **OTHER_3
    )
    for answer in (one, three):
        assert (answer.verdict == "no_fault_found") == (times < 1)
        assert answer.verdict in ("no_fault_found", "not_proved")
        if times > 1:
            assert "within its plate" not in sentence(answer)
            assert answer.judgements[len(answer.judgements) - 1].state in ("failed", "suspect")
            assert answer.next_tests[0].kind == "run_amps_a"


@pytest.mark.parametrize(
    ("legs", "state"), [((0.9, 0.89, 0.9), "normal"), ((0.9, 0.80, 0.77), "borderline"), ((0.95, 0.7, 0.6), "failed")]
)
def test_legs_that_differ_with_even_volts(legs, state):
    answer = found(*PROVED_3, reading("run_amps_a", [round(PLATE_3 * leg, 2) for leg in legs]), **OTHER_3)
    assert answer.judgements[-1].state == state
    assert (answer.verdict == "no_fault_found") == (state == "normal")


@pytest.mark.parametrize(
    ("amps", "beside", "state"),
    [
        (reading("run_amps_a", 6.9), [], "suspect"),  # five turns, not written down
        (reading("run_amps_a", 1.36, turns=5), [], "suspect"),  # divided already
        (reading("run_amps_a", 6.8, turns=5), [], "normal"),
        (reading("run_amps_a", 2.7), [RIGHT, reading("run_rpm", 1088)], "suspect"),  # twice its amps at its own speed
        (reading("run_amps_a", 2.7), [RIGHT, reading("shell_c", 36)], "suspect"),  # and cool
        (reading("run_amps_a", 2.7), [RIGHT, reading("sister_amps_a", 1.36)], "suspect"),
        (reading("run_amps_a", 2.7), [RIGHT, reading("run_rpm", 960), reading("shell_c", 110)], "failed"),
        (reading("run_amps_a", 3.1), [NOT], "failed"),  # standing still it draws that
        (reading("run_amps_a", 14.0), [NOT], "suspect"),  # not even standing still: the compressor's lead
        (reading("run_amps_a", 1.7), [RIGHT], "failed"),
    ],
)
def test_amps_nobody_should_believe_are_asked_about(amps, beside, state):
    answer = found(amps, *beside, VOLTS_AT_MOTOR, unit__sisters=1)
    assert answer.judgements[0].state == state
    if state == "suspect":
        assert "?" in answer.judgements[0].says
        assert answer.verdict not in ("condemn_motor", "no_fault_found")


@given(
    st.floats(0.05, 30),
    st.sampled_from([None, 2, 3, 5, 10]),
    st.lists(
        st.sampled_from(
            [
                RIGHT,
                NOT,
                reading("run_rpm", 1088),
                reading("run_rpm", 950),
                reading("shell_c", 38),
                reading("shell_c", 120),
                reading("noise", "hum"),
                reading("sister_amps_a", 1.35),
            ]
        ),
        max_size=4,
        unique_by=lambda row: row["kind"],
    ),
)
@settings(max_examples=40, deadline=None)
def test_running_readings_alone_never_condemn_but_with_ohms_or_a_sister(amps, turns, beside):
    rows = [row for row in PROVED if row["kind"] != "turns_way"]
    answer = found(
        *rows, reading("run_amps_a", round(amps, 2), **({"turns": turns} if turns else {})), *beside, unit__sisters=1
    )
    sister = any(row["kind"] == "sister_amps_a" for row in beside)
    stands = NOT in beside and not any(row["kind"] == "run_rpm" for row in beside)
    assert answer.verdict != "condemn_motor" or sister or stands


def test_what_the_plate_cannot_give_is_asked_of_the_plate():
    answer = found(reading("run_amps_a", 1.35), motor__amps_a=14.0)
    assert (answer.judgements[0].state, "plate" in answer.judgements[0].says) == ("suspect", True)


def test_within_the_plate_is_said_of_what_lies_within_it():
    low, over = (
        found(reading("run_amps_a", amps), motor__amps_a=1.1, motor__hp=None).judgements[0] for amps in (1.08, 1.14)
    )
    assert (low.finding, over.finding) == ("good", "watch")
    assert low.says.startswith("Within plate amps")


# contradictions


CONTRADICTIONS = [
    (
        [
            pair("C", "R", "OL", minutes_off=80, temperature_c=32),
            pair("C", "R", 7.9, minutes_off=80, temperature_c=32),
            pair("C", "S", 38),
        ],
        {},
    ),
    ([reading("spin", "locked", with_="bare_shaft"), reading("run_rpm", 890)], {}),
    ([reading("capacitance_uf", 2.1), reading("capacitance_uf", 5.0, section="fan")], {}),
    (
        [reading("winding_ohm", [6.1, 6.1, 6.2]), pair("T1", "T2", 3.0), pair("T2", "T3", 6.1), pair("T1", "T3", 6.2)],
        OTHER_3,
    ),
    ([reading("ground_ohm", 300, lead="brown"), reading("ground_ohm", "OL", lead="brown")], {}),
    ([reading("turns_way", "right"), NOT], {}),
    ([reading("supply_v", 0.3, at="unit"), reading("supply_v", 238, at="motor"), CALLED], {}),
]


@pytest.mark.parametrize(("rows", "unit"), CONTRADICTIONS)
def test_a_contradiction_comes_first_and_its_repeat_is_next(rows, unit):
    for order in permutations(rows):
        answer = found(*order, **unit)
        assert answer.verdict == "not_proved"
        assert answer.contradictions
        assert answer.next_tests[0].kind in {row["kind"] for row in rows}
        assert sentence(answer).endswith(answer.contradictions[0].says)


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(UNITS, st.lists(any_reading(), max_size=9), st.randoms(use_true_random=False))
def test_the_order_of_entry_changes_nothing(unit, rows, chance):
    mixed = rows[:]
    chance.shuffle(mixed)
    first, second = found(*rows, **unit), found(*mixed, **unit)
    assert (first.verdict, first.leading_fault, first.confidence, first.also) == (
        second.verdict,
        second.leading_fault,
        second.confidence,
        second.also,
    )
    assert first.path == second.path
    assert [(t.kind, t.at, t.with_) for t in first.next_tests] == [(t.kind, t.at, t.with_) for t in second.next_tests]
    assert sorted(j.says for j in first.judgements) == sorted(j.says for j in second.judgements)


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(UNITS, st.lists(any_reading(), max_size=12))
def test_no_verdict_stands_on_either_side_of_a_contradiction_and_no_fault_on_a_failed_reading(unit, rows):
    call = make_call(*rows, **unit)
    answer = assess(call)
    counted = {i for i, _ in Case(call, DEFAULTS).counting}
    if answer.verdict == "no_fault_found":
        assert not answer.contradictions
        assert not [j for j in answer.judgements if j.state == "failed" and j.reading in counted]
    if answer.verdict != "not_proved":
        for row in answer.contradictions:
            for index in row.readings:
                other = assess(call.without(frozenset({index})))
                assert other.verdict in (answer.verdict, "not_proved") or not {index} <= counted


GOOD = [
    *PROVED,
    reading("run_amps_a", 1.3),
    reading("noise", "quiet"),
    reading("capacitor_case_ohm", "OL"),
    reading("connection", "sound"),
    reading("conductor", "sound"),
    reading("breaker", "closed"),
    reading("disconnect", "closed"),
    reading("supply_v", 238, at="unit"),
    reading("supply_v", 238, at="switch_line"),
    reading("supply_v", 238, at="switch_load"),
    reading("shell_c", 36),
    reading("insulation_mohm", "OL", lead="brown"),
]


@settings(max_examples=40, deadline=None)
@given(st.lists(any_reading(), max_size=8), st.sampled_from(GOOD))
def test_an_added_good_reading_never_unproves(rows, good):
    same = {(row["kind"], row.get("at"), str(row.get("pair")), row.get("section"), row.get("lead")) for row in rows}
    assume((good["kind"], good.get("at"), str(good.get("pair")), good.get("section"), good.get("lead")) not in same)
    before, after = found(*rows), found(*rows, good)
    assume(after.judgements[-1].state == "normal")
    assume(len(after.contradictions) == len(before.contradictions))
    fell = [
        j
        for b, j in zip(before.judgements, after.judgements, strict=False)
        if b.state == "normal" and j.state in ("failed", "borderline")
    ]
    welded = next((row.probability for row in after.ranked if row.fault == "switch_welded"), 0.0)
    assume(welded < 0.5)  # right volts where there should be none, whatever else leads
    assume(not fell)  # volts that are lower than the new ones: a drop was found
    lost = {
        link for link, report in before.path.items() if report.state == "proved" and after.path[link].state != "proved"
    }
    assert not lost


# trips


@pytest.mark.parametrize(
    ("row", "unit"),
    [
        (reading("breaker", "tripped"), {}),
        (reading("fuse", "open", leg="L2"), OTHER_3),
        (reading("starter_overload", "tripped"), OTHER_3),
    ],
)
def test_a_trip_is_not_an_acquittal(row, unit):
    answer = found(row, **unit)
    assert (answer.verdict, answer.leading_fault in TRIPS) == ("not_proved", True)
    assert {test.power for test in answer.next_tests} <= {"dead", "any"}
    assert answer.next_tests[0].kind in ("ground_ohm", "insulation_mohm")
    assert not any(text in sentence(answer) for text in ("not the motor", "leave the motor"))
    motor = GOOD_PHASES if unit else [CLEAR, *GOOD_WINDINGS]
    half = found(row, *motor, **unit)
    assert half.verdict == "not_proved"
    assert {"conductor", "ground_ohm"} & {test.kind for test in half.next_tests[:2]}
    assert found(row, *motor, reading("conductor", "sound"), **unit).verdict == "not_the_motor"


def test_a_chafed_wire_does_not_speak_for_a_missing_call():
    answer = found(reading("conductor", "chafed"), reading("control_call", "absent"), complaint__symptom="trips")
    row = next(row for row in answer.ranked if row.fault == "control_call_absent")
    assert not any("conductor" in says for says in row.speaks_for)
    assert answer.still_open == ["wire chafed"]
    assert any("rubbed through" in text for text in answer.cautions)


# volts


@pytest.mark.parametrize(
    ("place", "links"),
    [
        ("unit", {"supply"}),
        ("switch_load", {"supply", "protection", "disconnect", "control", "switching"}),
        ("motor", {"supply", "wiring", "connections", "switching"}),
    ],
)
def test_volts_prove_against_the_units_own_while_the_plate_is_not_read(place, links):
    answer = found(reading("supply_v", 238, at=place), motor__volts=None)
    assert links <= {link for link, report in answer.path.items() if report.state == "proved"}
    low = found(reading("supply_v", 150, at=place), CALLED, motor__volts=None)
    assert low.judgements[0].state == "failed"
    assert (
        found(reading("supply_v", 238, at=place), motor__volts=None, unit__supply_v=None).judgements[0].state
        == "unjudged"
    )


@settings(max_examples=40, deadline=None)
@given(UNITS, st.lists(any_reading(), max_size=8))
def test_nothing_ahead_of_a_proved_point_is_asked_for_again(unit, rows):
    answer = found(*rows, **unit)
    repeats = {kind for row in answer.contradictions for kind in (rows[i]["kind"] for i in row.readings)}
    for test in answer.next_tests:
        links = next((row.proves for row in TESTS if (row.kind, row.at) == (test.kind, test.at) and row.proves), ())
        if (
            test.kind in ("supply_v", "breaker", "disconnect", "control_call", "hold", "safety")
            and test.kind not in repeats
            and links
        ):
            assert any(answer.path[link].state != "proved" for link in links) or answer.leading_fault == "switch_welded"


@pytest.mark.parametrize(
    ("place", "volts", "state"),
    [
        ("motor", 120, "normal"),
        ("switch_load", 121, "normal"),
        ("motor", 0.5, "failed"),
        ("motor", 60, "borderline"),
        ("unit", 119, "normal"),
    ],
)
def test_volts_to_ground_tell_of_one_leg(place, volts, state):
    answer = found(CALLED, reading("supply_v", volts, at=place, across="ground"))
    assert answer.judgements[1].state == state
    assert answer.path["supply"].state != "proved"


def test_one_leg_of_the_pair_at_a_commutated_motors_plug_is_no_power():
    half, whole = (found(reading("ecm_power", "present", volts_v=volts), NOT, **ECM) for volts in (119, 236))
    assert (half.judgements[0].state, half.leading_fault) == ("failed", "ecm_power_absent")
    assert whole.judgements[0].state == "normal"


def test_volts_behind_a_switch_without_a_call_are_welded_contacts():
    rows = [
        reading("control_call", "absent"),
        reading("switch_pulled_in", False),
        reading("supply_v", 238, at="switch_load"),
    ]
    answer = found(*rows, **OTHER)
    assert (answer.verdict, answer.leading_fault, answer.path["switching"].state) == (
        "not_the_motor",
        "switch_welded",
        "failed",
    )
    assert any("welded" in text for text in answer.cautions)
    assert found(CALLED, reading("switch_pulled_in", True), rows[2], **OTHER).leading_fault != "switch_welded"
    assert (
        found(rows[0], rows[1], reading("supply_v", 0.2, at="switch_load"), **OTHER).leading_fault
        == "control_call_absent"
    )


# what explains the complaint


@pytest.mark.parametrize(
    ("uf", "verdict"),
    [(4.5, "not_proved"), (4.2, "not_proved"), (2.5, "replace_capacitor"), (0.05, "replace_capacitor")],
)
def test_a_part_a_little_weak_does_not_take_over_the_verdict_of_a_motor_that_stands(uf, verdict):
    answer = found(
        reading("capacitance_uf", uf, section="fan"), reading("capacitor_look", "sound"), VOLTS_AT_MOTOR, NOT
    )
    assert answer.verdict == verdict
    assert ("capacitor_weak" in answer.also) == (verdict == "not_proved")
    runs = found(reading("capacitance_uf", uf, section="fan"), VOLTS_AT_MOTOR, RIGHT, complaint__symptom="slow_start")
    assert runs.verdict == "replace_capacitor"


@settings(max_examples=40, deadline=None)
@given(st.lists(any_reading(), max_size=8), st.sampled_from(["hums_no_start", "slow_start", "quiet"]))
def test_evidence_is_measured_against_a_healthy_unit(rows, symptom):
    answer = found(*rows, complaint__symptom=symptom)
    for row in answer.ranked:
        fault = row.fault if row.fault not in AMBIGUOUS_GROUPS else AMBIGUOUS_GROUPS[row.fault][0]
        for says in (*row.speaks_for, *row.speaks_against):
            if (
                says.startswith("capacitor")
                and "µF of" in says
                and fault in FAULTS
                and FAULTS[fault].link in ("bearings", "load", "air", "control")
            ):
                assert fault not in QUESTIONS["cap"].rows
                raise AssertionError((fault, says))
        if row.fault in ("capacitor_weak", "capacitor_open") and symptom == "hums_no_start":
            assert not any(says.startswith("complaint") for says in row.speaks_against)


def test_label_plate_and_reading_that_disagree_name_the_value():
    for uf in (6.8, 7.5, 8.4):
        answer = found(
            reading("capacitance_uf", uf, section="fan"),
            motor__capacitor_uf=4,
            capacitor__label=[{"section": "fan", "uf": 7.5}],
        )
        assert (answer.verdict, answer.leading_fault, answer.judgements[0].finding) == (
            "replace_capacitor",
            "capacitor_wrong_value",
            "wrong_value",
        )
    assert found(reading("capacitance_uf", 4.4, section="fan")).judgements[0].finding == "weak"


# tried and changed


@pytest.mark.parametrize(
    ("rows", "unit", "verdict", "fault"),
    [
        (
            [
                NOT,
                VOLTS_AT_MOTOR,
                reading("trial", "runs", with_="good_capacitor"),
                reading("capacitance_uf", 1.0, section="fan"),
            ],
            {},
            "replace_capacitor",
            "capacitor_weak",
        ),
        (
            [*FED, NOT, reading("spin", "free"), reading("trial", "runs", with_="other_module")],
            ECM,
            "replace_module",
            "ecm_module",
        ),
        (
            [*FED, NOT, reading("spin", "free"), reading("trial", "no_change", with_="other_module")],
            ECM,
            "condemn_motor",
            "ecm_module_or_motor",
        ),
        (
            [
                NOT,
                reading("supply_v", 119, at="motor"),
                reading("trial", "runs", with_="other_speed"),
                pair("A", "B", "OL", speed=1),
                pair("A", "C", 9.0, speed=2),
            ],
            {**BLOWER, "motor": {**BLOWER["motor"], "speeds": 2}},
            "usable_limited",
            "winding_tap_open",
        ),
    ],
)
def test_what_was_tried_is_evidence(rows, unit, verdict, fault):
    answer = found(*rows, **unit)
    assert (answer.verdict, answer.leading_fault) == (verdict, fault)
    assert not answer.contradictions


CURES = [
    (
        "coil_cleaned",
        "air_restricted",
        {"complaint__symptom": "weak_air"},
        [RIGHT, VOLTS_AT_MOTOR, reading("run_amps_a", 1.75), reading("air_path", "dirty")],
        [RIGHT, reading("run_amps_a", 1.33), reading("air_path", "clear")],
    ),
    (
        "filter_changed",
        "air_restricted",
        {"complaint__symptom": "weak_air"},
        [reading("air_path", "blocked")],
        [reading("air_path", "clear")],
    ),
    (
        "capacitor_changed",
        "capacitor_weak",
        {},
        [reading("capacitance_uf", 2.1, section="fan"), NOT, VOLTS_AT_MOTOR],
        [reading("capacitance_uf", 5.05, section="fan"), RIGHT, reading("run_amps_a", 1.3)],
    ),
    (
        "load_freed",
        "load_jammed",
        {},
        [reading("spin", "locked"), reading("load_look", "iced")],
        [reading("spin", "free"), reading("load_look", "sound"), RIGHT],
    ),
    (
        "connection_remade",
        "connection_bad",
        {},
        [reading("connection", "burnt"), NOT],
        [reading("connection", "sound"), RIGHT],
    ),
    (
        "belt_set",
        "belt_bad",
        {**THREE, "complaint": {"symptom": "noisy"}},
        [reading("belt_look", "slack")],
        [reading("belt_look", "sound")],
    ),
    (
        "drain_cleared",
        "vent_or_drain_blocked",
        INDUCER,
        [reading("vent_drain", "blocked")],
        [reading("vent_drain", "clear")],
    ),
]


@pytest.mark.parametrize(("what", "fault", "unit", "before", "after"), CURES, ids=[row[0] for row in CURES])
def test_what_was_cured_is_the_finding_and_the_later_readings_its_proof(what, fault, unit, before, after):
    rows = [at(row, 2 + i) for i, row in enumerate(before)] + [at(row, 12 + i) for i, row in enumerate(after)]
    answer = found(*rows, changes=changed((what, 9)), **unit)
    assert not answer.contradictions
    assert (answer.leading_fault, fault in answer.cured) == (fault, True)
    assert "fixed" in sentence(answer)
    worse = [*rows[: len(before)], *(at(row, 12 + i) for i, row in enumerate(before))]
    assert fault not in found(*worse, changes=changed((what, 9)), **unit).cured


def test_damage_that_nobody_changed_stays_open_and_a_change_that_did_not_help_is_no_cure():
    rows = [
        at(reading("conductor", "chafed"), 2),
        at(reading("capacitance_uf", 2.1, section="fan"), 3),
        at(reading("capacitance_uf", 5.0, section="fan"), 12),
        at(RIGHT, 13),
    ]
    answer = found(*rows, changes=changed(("capacitor_changed", 9)))
    assert answer.still_open == ["wire chafed"]
    assert (answer.leading_fault, "capacitor_weak" in answer.also) == ("conductor_chafed", True)
    mended = found(
        *rows, at(reading("conductor", "sound"), 20), changes=changed(("capacitor_changed", 9), ("wire_repaired", 18))
    )
    assert mended.still_open == []
    hums = [
        at(reading("capacitance_uf", 2.1, section="fan"), 3),
        at(VOLTS_AT_MOTOR, 4),
        at(reading("capacitance_uf", 5.0, section="fan"), 12),
        at(NOT, 13),
        at(reading("spin", "locked", with_="bare_shaft"), 15),
    ]
    still = found(*hums, changes=changed(("capacitor_changed", 9)))
    assert (still.verdict, still.leading_fault, still.also) == ("condemn_motor", "bearings_seized", ["capacitor_weak"])


def test_what_was_read_since_a_change_proves_the_run_of_a_motor_that_stays():
    rows = [
        at(reading("run_amps_a", 1.75), 3),
        at(reading("air_path", "dirty"), 4),
        at(reading("run_amps_a", 1.33), 12),
        at(RIGHT, 13),
    ]
    call = make_call(*rows, changes=changed(("coil_cleaned", 9)))
    amps, way = (
        proof_reading(next(row for row in needed_for(call) if row.kind == kind), call)
        for kind in ("run_amps_a", "turns_way")
    )
    assert (amps[0], way[0]) == (2, 3)
    assert proof_reading(next(row for row in needed_for(call) if row.kind == "run_amps_a"), make_call(*rows)) is None
    new = make_call(*rows, changes=changed(("coil_cleaned", 9)), chosen_motor={"kind": "psc", "amps_a": 1.4})
    assert proof_reading(next(row for row in needed_for(new) if row.kind == "run_amps_a"), new) is None


def test_every_change_of_the_contract_has_its_row_and_its_question():
    from typing import get_args

    from keen_coil.core.changes import ChangeKind

    assert set(CHANGES) == set(get_args(ChangeKind))
    assert all(set(row.cures) <= set(FAULTS) for row in CHANGES.values())
    assert all(f"cured_{what}" in QUESTIONS for what in CHANGES)


# each number by its method


def test_temperature_and_minutes_noted_once_serve_all_pairs_of_the_visit():
    rows = [
        pair("C", "R", "OL", minutes_off=75, temperature_c=33),
        pair("C", "S", "OL"),
        pair("R", "S", 52),
        reading("conductor", "sound", leg="common"),
    ]
    assert found(*rows).verdict == "condemn_motor"
    assert found({**rows[0], "minutes_off": 5}, *rows[1:]).verdict == "cool_and_retest"


def test_capacitor_under_load_obeys_turns_u_meter_and_hertz():
    load = {"amps_a": 0.74, "volts_v": 392}
    one = found(reading("capacitor_load", load)).judgements[0]
    five = found(reading("capacitor_load", {**load, "amps_a": 3.70}, turns=5)).judgements[0]
    assert five.interval[0] > one.interval[0]
    assert five.interval[1] < one.interval[1]
    assert sum(five.interval) / 2 == pytest.approx(sum(one.interval) / 2, rel=0.01)
    fifty = found(reading("capacitor_load", load), unit__hz=50).judgements[0]
    assert sum(fifty.interval) / 2 == pytest.approx(1.2 * sum(one.interval) / 2, rel=0.01)
    assert found(reading("capacitor_load", load, u=0.2)).judgements[0].interval[0] < one.interval[0]
    fine = {
        "clamp": {
            "amps": {"accuracy_pct": 0.5, "counts": 1, "resolution": 0.001},
            "volts": {"accuracy_pct": 0.5, "counts": 1, "resolution": 0.1},
        }
    }
    assert found(reading("capacitor_load", load), meters=fine).judgements[0].state == "normal"
    edge = found(reading("capacitor_load", {"amps_a": 0.70, "volts_v": 390}))
    assert (edge.judgements[0].state, edge.next_tests[0].kind) == ("borderline", "capacitance_uf")


def test_other_hertz_are_judged_and_the_model_follows_them():
    sixty, fifty = (
        found(VOLTS_AT_MOTOR, reading("run_amps_a", 1.35)),
        found(VOLTS_AT_MOTOR, reading("run_amps_a", 1.35), unit__hz=50),
    )
    assert fifty.leading_fault == "wrong_motor_fitted"
    assert fifty.model.expected["whole"] != sixty.model.expected["whole"]
    assert found(reading("run_rpm", 905), unit__hz=50).judgements[0].state != "failed"
    assert found(reading("run_rpm", 905)).judgements[0].state == "failed"


@pytest.mark.parametrize(
    ("ohms", "state"),
    [
        (["1.0", "1.0", "1.0"], "normal"),
        (["1.0", "1.1", "1.0"], "normal"),
        (["1.00", "1.09", "1.00"], "failed"),
        (["1.0", "1.6", "1.0"], "failed"),
    ],
)
def test_low_pairs_are_compared_by_the_meters_resolution(ohms, state):
    assert found(reading("ecm_winding_ohm", ohms), **ECM).judgements[0].state == state


def test_a_module_at_fault_is_the_module():
    even = [*FED, NOT, reading("spin", "free"), reading("ecm_winding_ohm", [6.1, 6.1, 6.2])]
    assert found(*even, **ECM).verdict == "replace_module"
    assert found(*FED, NOT, reading("spin", "locked"), **ECM).verdict == "not_proved"
    assert found(*FED, NOT, **ECM).verdict == "not_proved"  # a jammed wheel holds a good motor as well


@pytest.mark.parametrize(
    ("mohm", "temperature", "state"),
    [(3100, None, "normal"), (60, None, "unjudged"), (3, None, "unjudged"), (0.05, None, "failed"), (60, 20, "normal")],
)
def test_insulation_is_judged_where_no_plausible_temperature_changes_it(mohm, temperature, state):
    more = {} if temperature is None else {"temperature_c": temperature}
    assert found(reading("insulation_mohm", mohm, test_v=1000, lead="T1", **more), **THREE).judgements[0].state == state


def test_hot_and_standing_still_cools_first_and_a_locked_blade_seen_sound_wants_the_bare_shaft():
    hot = found(NOT, reading("shell_c", 93), VOLTS_AT_MOTOR)
    assert (hot.judgements[1].state, hot.next_tests[0].kind) == ("failed", "shell_c")
    assert hot.next_tests[0].minutes > 60
    assert found(RIGHT, reading("shell_c", 93), VOLTS_AT_MOTOR, **OTHER).judgements[1].state == "normal"
    locked = found(reading("spin", "locked"), reading("load_look", "sound"))
    assert (locked.next_tests[0].kind, locked.next_tests[0].with_) == ("spin", "bare_shaft")


# partial jobs


def test_volts_lost_on_the_way_are_not_the_motor_while_wire_and_joint_share_the_blame():
    answer = found(CALLED, reading("supply_v", 238, at="switch_load"), reading("supply_v", 2, at="motor"))
    assert (answer.verdict, answer.leading_fault) == ("not_the_motor", None)
    assert answer.confidence >= 0.8
    assert {"conductor", "connection"} <= {test.kind for test in answer.next_tests}
    assert "Not pinned down yet" in sentence(answer)


@settings(max_examples=40, deadline=None)
@given(UNITS, st.lists(any_reading(), max_size=10))
def test_what_was_just_answered_is_not_asked_and_a_found_fault_ends_other_questions(unit, rows):
    call = make_call(*rows, **unit)
    answer = assess(call)
    doubtful = {j.reading for j in answer.judgements if j.state in ("suspect", "borderline")}
    contradicted = {i for row in answer.contradictions for i in row.readings}
    again = {"winding_ohm", "shell_c"}  # read once more when the motor has cooled
    for test in answer.next_tests:
        made = [
            i
            for i, r in call.standing(test.kind)
            if (r.at or None) == test.at
            and (r.section or test.section) == test.section
            and r.with_ == test.with_
            and not r.wrong_power
            and r.isolated is not False
        ]
        assert (
            not made
            or test.kind in again
            or set(made) & (doubtful | contradicted)
            or all(answer.judgements[i].state == "unjudged" for i in made)
        )
    if answer.verdict == "runs_worn" and answer.confidence > 0.97:
        assert not {"breaker", "disconnect", "control_call", "supply_v"} & {test.kind for test in answer.next_tests}


# tables


def test_every_fault_that_is_weighed_can_be_tested_here_and_every_test_has_its_part_drawn():
    for changes in (
        {},
        BLOWER,
        THREE,
        ECM,
        INDUCER,
        {"unit__kind": "heat_pump_outdoor"},
        {"unit__kind": "package_unit"},
        {"unit__kind": "fan_coil", "motor__role": "indoor_blower"},
    ):
        call = make_call(**changes)
        offered = [row for row in TESTS if has(call, row.needs)]
        named = {fault for row in offered if row.question in QUESTIONS for fault in QUESTIONS[row.question].rows}
        told = {
            fault
            for name in (
                "symptom",
                "plate_fit",
                "wired",
                "wired_color",
                "cap_label",
                "cap_volts",
                "amps",
                "amps_wheel",
                "amps_ecm",
                "welded",
                "dead",
            )
            for fault in QUESTIONS[name].rows
        }
        assert set(odds(call)) - named - told <= {"none"}, changes
        drawn = {part.link for part in parts_of(call)}
        links = {link for row in offered if row.detail == "" and "running" not in row.links for link in row.links}
        assert links <= drawn | {"load", "capacitor"}, changes


def test_rows_of_the_evidence_table_sum_to_one_or_say_why_and_name_their_answers():
    assert {row.needs for row in TESTS} | {row.needs for row in FAULTS.values()} <= set(HAS)
    assert all(row.question in QUESTIONS for row in TESTS if row.question and row.question != "wind")
    asked = {"title": "title", "normal": ["good"], "abnormal": ["bad"]}
    for chances, expected in (
        ({"good": 0.5, "bad": 0.4}, r"sum to 0\.9000"),
        ({"good": 0.5, "worse": 0.5}, "one of good, bad"),
    ):
        with pytest.raises(ValueError, match=expected):
            question({**asked, "chances": {"other": chances}})


@pytest.mark.parametrize("clock", [None, 1, 95])
@pytest.mark.parametrize("opens_up", [False, True])
def test_what_was_read_hot_is_out_of_date_once_it_was_read_cool(clock, opens_up):
    """By the minutes without power beside the readings, whether they came with times or were typed together later."""

    def at(minutes):
        return {} if clock is None else {"taken_at": f"2026-07-01T{10 + minutes // 60}:{minutes % 60:02}:00Z"}

    hot = [reading("winding_ohm", "OL", pair=pair, minutes_off=3, **at(0)) for pair in (["a", "b"], ["a", "c"])]
    cool = [
        reading("winding_ohm", value, pair=pair, minutes_off=98, **at(clock or 0))
        for pair, value in ((["a", "b"], 14.2 if opens_up else "OL"), (["a", "c"], 30.1 if opens_up else "OL"))
    ]
    answer = found(
        reading("shell_c", 88, minutes_off=3, **at(0)),
        *hot,
        reading("winding_ohm", 44.2, pair=["b", "c"], minutes_off=3, **at(0)),
        reading("shell_c", 27, minutes_off=98, **at(clock or 0)),
        *cool,
        unit__ambient_c=24,
    )
    assert answer.contradictions == []
    assert (answer.verdict, answer.leading_fault) == (
        ("not_proved", None) if opens_up else ("condemn_motor", "winding_open")
    )


@pytest.mark.parametrize("taps", [["black", "blue", "red"], ["black", "yellow", "blue", "red"]])
@pytest.mark.parametrize("numbered", [False, True])
@pytest.mark.parametrize(("minutes", "shell"), [(4, 85), (95, 26)])
def test_a_line_lead_open_to_every_tap_is_the_overload_until_it_is_cool(taps, numbered, minutes, shell):
    """Whether the technician numbered the taps or only named the leads."""
    rows = [
        reading("winding_ohm", "OL", pair=["white", tap], minutes_off=minutes, **({"speed": n} if numbered else {}))
        for n, tap in enumerate(taps, start=1)
    ]
    answer = found(
        VOLTS_AT_MOTOR,
        *GOOD_CAPACITOR,
        *rows,
        reading("shell_c", shell, minutes_off=minutes),
        unit__ambient_c=24,
        motor={"kind": "psc", "volts": "208-230", "amps_a": 2.6, "hp": 0.33, "speeds": len(taps), "capacitor_uf": 5},
    )
    cool = minutes > 60
    assert answer.verdict == ("condemn_motor" if cool else "cool_and_retest")
    assert answer.ranked[0].fault == ("overload_open" if cool else "overload_tripped")


@pytest.mark.parametrize("again", [False, True])
def test_a_fuse_that_was_renewed_is_blown_no_more_unless_it_blows_again(again):
    rows = [
        at(reading("fuse", "open", leg="L2"), 0),
        at(reading("conductor", "chafed", leg="L2"), 2),
        *([at(reading("fuse", "open", leg="L2"), 30)] if again else [at(reading("conductor", "sound", leg="L2"), 30)]),
    ]
    answer = found(*rows, changes=changed(("wire_repaired", 10), ("protection_reset", 12)), **THREE)
    assert ("fuse_open" in [answer.leading_fault, *answer.also]) == again


@pytest.mark.parametrize(("shell", "minutes"), [(None, None), (24, 120), (60, 20)])
def test_no_current_in_a_cool_motor_with_power_condemns_and_a_warm_one_is_left_to_cool(shell, minutes):
    """Power at the motor, another speed and a good capacitor tried, free by hand, quiet: its circuit is open inside."""
    rows = [
        VOLTS_AT_MOTOR,
        reading("capacitance_uf", 4.62, section="fan"),
        reading("capacitor_look", "sound"),
        reading("trial", "no_change", with_="good_capacitor"),
        reading("trial", "no_change", with_="other_speed"),
        *FREE,
        reading("turns_way", "not_turning"),
        reading("run_amps_a", 0.0),
        *([] if shell is None else [reading("shell_c", shell, minutes_off=minutes)]),
    ]
    answer = found(*rows, motor__speeds=3, unit__ambient_c=22, complaint={"symptom": "quiet"})
    cool = shell == 24
    assert (answer.verdict == "condemn_motor") == cool
    assert answer.ranked[0].fault == ("winding_open" if cool else "overload_tripped")
    assert not answer.ranked[0].fault.startswith("capacitor"), "named, not blamed"


def test_module_or_motor_is_said_once_and_not_its_two_parts_beside_it():
    rows = [reading("ecm_power", "present"), reading("ecm_command", "present"), reading("spin", "free")]
    rows = [
        at(row, 0) for row in [*rows, reading("turns_way", "not_turning"), reading("conductor", "chafed", leg="line")]
    ]
    answer = found(*rows, at(reading("turns_way", "not_turning"), 30), changes=changed(("wire_repaired", 10)), **ECM)
    said = [answer.leading_fault, *answer.also]
    assert not ("ecm_module_or_motor" in said and {"ecm_module", "ecm_motor"} & set(said)), said


@pytest.mark.parametrize("stage", [None, "proof"])
@pytest.mark.parametrize("way", ["right", "wrong"])
def test_what_the_run_proves_after_a_change_is_what_was_cured(stage, way):
    """On the pad of the path or in the run proof: the same motor turns right after its wires were exchanged, or not."""
    wires = [("motor.black", "switch.t2"), ("motor.white", "capacitor.fan"), ("motor.brown", "capacitor.common")]
    rows = [at(row, 0) for row in (reading("turns_way", "wrong"), reading("supply_v", 237, at="switch_load"))]
    later = {"stage": stage} if stage else {}
    rows += [at(reading("turns_way", way, **later), 30), at(reading("noise", "quiet", **later), 31)]
    answer = found(
        *rows,
        changes=changed(("connection_remade", 10)),
        complaint={"symptom": "runs_backwards"},
        hookup={"found": [{"from": one, "to": other} for one, other in wires]},
    )
    assert bool(answer.cured) == (way == "right")
    assert ("Readings since then are good" in sentence(answer)) == (way == "right")
    assert (answer.leading_fault == "miswired") or way == "wrong"
