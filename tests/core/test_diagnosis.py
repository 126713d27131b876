"""From readings to a verdict: the gate, the links, the next test, the causes."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.diagnosis.case import Case
from keen_coil.core.diagnosis.evidence import QUESTIONS
from keen_coil.core.diagnosis.faults import FAULTS, ORDER
from keen_coil.core.diagnosis.next_test import no_live_tests
from keen_coil.core.diagnosis.sentence import sentence
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.readings import KINDS
from tests.calls import COOL, FREE, GOOD_CAPACITOR, GOOD_WINDINGS, LEADS, VOLTS_AT_MOTOR, make_call, pair, reading

CLEAR = reading("ground_ohm", "OL", lead="black")
CALLED = reading("control_call", "present")
START_OPEN = [{**row, **COOL} for row in (pair("C", "R", 14), pair("C", "S", "OL"), pair("R", "S", "OL"))]
OVERLOAD = [pair("C", "R", "OL"), pair("C", "S", "OL"), pair("R", "S", 52)]


def found(*rows, **changes):
    return assess(make_call(*rows, **changes))


@pytest.mark.parametrize(
    ("rows", "verdict", "fault"),
    [
        (
            [reading("capacitance_uf", 2.1, section="fan"), *GOOD_WINDINGS, *FREE, CLEAR, VOLTS_AT_MOTOR],
            "replace_capacitor",
            "capacitor_weak",
        ),
        ([reading("capacitor_look", "bulged")], "replace_capacitor", "capacitor_damaged"),
        ([reading("capacitor_case_ohm", 400)], "replace_capacitor", "capacitor_grounded"),
        (START_OPEN, "condemn_motor", "winding_start_open"),
        ([reading("spin", "locked", with_="bare_shaft")], "condemn_motor", "bearings_seized"),
        ([reading("ground_ohm", 300, lead="brown")], "condemn_motor", "winding_grounded"),
        ([reading("supply_v", 0.3, at="unit")], "not_the_motor", "supply_missing"),
        ([reading("control_call", "absent")], "not_the_motor", "control_call_absent"),
        ([reading("hold", True, at="defrost")], "not_the_motor", "defrost_hold"),
        ([CALLED, reading("switch_pulled_in", False)], "not_the_motor", "switch_not_pulled_in"),
        ([reading("breaker", "tripped")], "not_proved", "breaker_tripped"),
        (
            [reading("breaker", "tripped"), CLEAR, *GOOD_WINDINGS, reading("conductor", "sound")],
            "not_the_motor",
            "breaker_tripped",
        ),
        (OVERLOAD, "cool_and_retest", "overload_tripped"),
        ([reading("insulation_mohm", 2, temperature_c=40)], "dry_and_retest", "insulation_low"),
        ([reading("insulation_mohm", 2, temperature_c=40, dried=True)], "condemn_motor", "insulation_low"),
        ([reading("turns_way", "not_turning")], "not_proved", None),
        ([], "not_proved", None),
    ],
)
def test_each_in_its_own_verdict(rows, verdict, fault):
    answer = found(*rows)
    assert (answer.verdict, answer.leading_fault) == (verdict, fault)
    if fault:
        assert answer.confidence >= 0.8
        assert answer.ranked[0].speaks_for


def test_contacts_that_pull_in_and_do_not_pass():
    rows = [
        CALLED,
        reading("switch_pulled_in", True),
        reading("supply_v", 238, at="switch_line"),
        reading("supply_v", 1, at="switch_load"),
    ]
    answer = found(*rows)
    assert (answer.verdict, answer.leading_fault) == ("not_the_motor", "switch_contacts_bad")
    assert answer.path["switching"].state == "failed"
    assert answer.path["protection"].state == "proved"


def test_volts_lost_on_the_way_to_the_motor_leave_two_links_suspect():
    answer = found(CALLED, reading("supply_v", 238, at="switch_load"), reading("supply_v", 0, at="motor"))
    assert answer.verdict == "not_the_motor"
    assert {test.kind for test in answer.next_tests} & {"conductor", "connection"}
    assert {answer.path[link].state for link in ("wiring", "connections")} == {"suspect"}
    assert {"conductor_open", "connection_bad"} == {row.fault for row in answer.ranked[:2]}


def test_a_condemnation_by_a_dead_test_lists_what_to_prove_before_energising():
    answer = found(*START_OPEN)
    assert {"supply", "switching", "wiring", "connections", "capacitor", "air"} <= set(answer.before_energising)
    assert "windings" not in answer.before_energising
    assert answer.next_tests == []
    assert any(cause.cause == "drains" for cause in answer.causes)


def test_a_motor_that_merely_does_not_turn_names_what_to_prove():
    answer = found(reading("turns_way", "not_turning"), reading("spin", "free"))
    assert answer.before_condemning == ["supply", "switching", "wiring", "connections", "capacitor"]
    assert answer.next_tests


def test_not_turning_with_everything_ahead_proved_condemns_by_inference():
    rows = [VOLTS_AT_MOTOR, *GOOD_CAPACITOR, *GOOD_WINDINGS, *FREE, CLEAR, reading("turns_way", "not_turning")]
    assert found(*rows).verdict == "condemn_motor"
    without_capacitor = [row for row in rows if row not in GOOD_CAPACITOR]
    assert found(*without_capacitor).verdict == "not_proved"


def test_a_locked_blade_is_a_stone_until_the_blade_is_seen_clear_and_the_volts_are_right():
    locked = reading("spin", "locked")
    assert found(locked).verdict == "not_proved"
    assert found(locked, reading("load_look", "iced")).verdict == "not_the_motor"
    assert found(locked, reading("load_look", "sound")).verdict == "not_proved"
    assert found(locked, reading("load_look", "sound"), VOLTS_AT_MOTOR).verdict == "condemn_motor"


def test_an_open_winding_on_a_hot_motor_does_not_condemn():
    hot = [{**row, "minutes_off": 10, "temperature_c": 80} for row in START_OPEN]
    assert found(*hot).verdict == "not_proved"
    assert "shell_c" in {test.kind for test in found(*hot).next_tests}


def test_an_overload_still_open_when_cool_condemns_only_with_its_lead_proved_whole():
    cool = [{**row, **COOL} for row in OVERLOAD]
    assert found(*cool).verdict == "not_proved"
    answer = found(*cool, reading("conductor", "sound", leg="common"))
    assert (answer.verdict, answer.leading_fault) == ("condemn_motor", "overload_open")


@pytest.mark.parametrize("missing", ["minutes_off", "temperature_c", "ambient_c"])
def test_unknown_coolness_counts_as_not_yet(missing):
    rows = [{key: value for key, value in row.items() if key != missing} for row in START_OPEN]
    assert found(*rows, **({"unit__ambient_c": None} if missing == "ambient_c" else {})).verdict == "not_proved"


def test_a_contrary_reading_never_passes_the_gate():
    grounded, clear = reading("ground_ohm", 300, lead="brown"), reading("ground_ohm", "OL", lead="brown")
    answer = found(grounded, clear)
    assert answer.verdict == "not_proved"
    assert answer.contradictions[0].readings == [0, 1]
    assert found(grounded, {**clear, "replaces": 0}).contradictions == []


def test_ten_minutes_later_the_later_reading_counts():
    early = reading("capacitance_uf", 2.1, section="fan", taken_at="2026-07-01T10:00:00Z")
    late = reading("capacitance_uf", 5.0, section="fan", taken_at="2026-07-01T10:12:00Z")
    answer = found(early, late)
    assert answer.contradictions == []
    assert answer.verdict == "not_proved"
    assert found(early, {**late, "taken_at": "2026-07-01T10:05:00Z"}).contradictions


def test_turning_without_current_is_a_contradiction():
    assert found(reading("turns_way", "right"), reading("run_amps_a", 0)).contradictions


def test_a_tripped_breaker_or_failed_insulation_allows_no_live_test():
    for row in (reading("breaker", "tripped"), reading("insulation_mohm", 2, temperature_c=40)):
        answer = found(row)
        assert answer.next_tests
        assert all(KINDS[test.kind].power != "live" for test in answer.next_tests)
    assert no_live_tests(Case(make_call(reading("breaker", "tripped"), CLEAR), DEFAULTS)) is None


def test_volts_prove_everything_up_to_where_they_were_read():
    answer = found(reading("supply_v", 238, at="switch_line"))
    states = {link: report.state for link, report in answer.path.items()}
    assert [states[link] for link in ("supply", "protection", "disconnect")] == ["proved"] * 3
    assert [states[link] for link in ("control", "switching", "wiring")] == ["unproved"] * 3


def test_a_capacitor_is_proved_by_value_and_look_together():
    value, look = GOOD_CAPACITOR
    assert found(value).path["capacitor"].state == "unproved"
    assert found(value, look).path["capacitor"].state == "proved"
    assert found(motor__kind="shaded_pole").path["capacitor"].state == "not_applicable"
    only = {"unit__run_capacitor": "compressor_only", "motor__capacitor_uf": None}
    assert found(**only).path["capacitor"].state == "not_applicable"


def test_a_bad_compressor_section_is_not_the_fans():
    answer = found(reading("capacitance_uf", 12, section="herm"), reading("capacitance_uf", 5, section="fan"))
    assert answer.verdict == "not_proved"
    assert answer.path["capacitor"].state != "failed"


def test_insulation_by_ohmmeter_says_its_own_volts_and_is_not_enough_on_three_phase():
    assert "own volts" in found(CLEAR).path["insulation"].source
    assert found(CLEAR, motor__kind="three_phase").path["insulation"].state == "unproved"


def test_two_proved_faults_the_first_in_order_leads():
    answer = found(reading("capacitance_uf", 2.1, section="fan"), *START_OPEN, reading("air_path", "blocked"))
    assert answer.leading_fault == "winding_start_open"
    assert {"capacitor_weak", "air_restricted"} <= set(answer.also)
    assert any({"capacitor_weak", "winding_start_open"} == set(row.faults) for row in answer.together)


def test_worn_bearings_on_a_motor_that_turns_and_on_one_that_does_not():
    worn = (reading("spin", "rough"), reading("side_play", "much"))
    assert found(*worn, reading("turns_way", "right"), complaint__symptom="noisy").verdict == "runs_worn"
    assert found(*worn, complaint__symptom="hums_no_start").verdict == "not_proved"


def test_everything_proved_and_running_is_no_fault():
    rows = [
        VOLTS_AT_MOTOR,
        *GOOD_CAPACITOR,
        *GOOD_WINDINGS,
        *FREE,
        CLEAR,
        reading("load_look", "sound"),
        reading("air_path", "clear"),
        reading("turns_way", "right"),
        reading("run_amps_a", 1.3),
    ]
    assert found(*rows).verdict == "no_fault_found"
    assert found(*rows[:-2]).verdict == "not_proved"


def test_backwards_with_a_weak_capacitor_is_the_capacitor():
    answer = found(reading("turns_way", "wrong"), reading("capacitance_uf", 2.1, section="fan"))
    assert answer.leading_fault == "capacitor_weak"
    assert "wrong_rotation" not in answer.also


def test_proof_readings_never_enter_the_verdict():
    weak = reading("capacitance_uf", 2.1, section="fan", stage="proof")
    assert found(weak).verdict == "not_proved"


def test_a_single_pole_contactor_is_warned_about():
    assert any("one leg" in text for text in found().cautions)
    assert not any("one leg" in text for text in found(unit__switch={"kind": "contactor", "poles": 2}).cautions)


def test_following_the_next_test_ends_and_never_repeats_itself():
    good = {
        "capacitor_look": "sound",
        "spin": "free",
        "side_play": "none",
        "load_look": "sound",
        "air_path": "clear",
        "breaker": "closed",
        "disconnect": "closed",
        "control_call": "present",
        "switch_pulled_in": True,
        "connection": "sound",
        "ground_ohm": "OL",
        "turns_way": "right",
        "run_amps_a": 1.3,
        "supply_v": 238,
        "capacitance_uf": 4.98,
        "shell_c": 33,
        "noise": "quiet",
        "hold": False,
        "safety": "closed",
        "turned_before_power": False,
        "capacitor_case_ohm": "OL",
        "conductor": "sound",
        "insulation_mohm": "OL",
        "starts_with_push": False,
        "run_rpm": 1085,
        "air_speed_fpm": [900, 950],
        "contact_drop_v": 0.05,
        "fuse": "closed",
    }
    rows = []
    for _ in range(30):
        answer = found(*rows)
        if not answer.next_tests or answer.verdict != "not_proved":
            break
        test = answer.next_tests[0]
        if test.kind == "winding_ohm":
            rows += GOOD_WINDINGS
        else:
            places = {"at": test.at} if test.at else {"section": test.section} if test.section else {}
            value = 40.1 if test.section == "herm" else good[test.kind]
            rows.append(reading(test.kind, value, **places))
    assert answer.verdict == "no_fault_found"
    assert len(rows) <= 20


def test_tables_agree():
    for name, question in QUESTIONS.items():
        assert set(question.rows) <= set(FAULTS), name
        for row in (question.other, *question.rows.values()):
            assert len(row) == len(question.answers)
            assert all(0 <= chance <= 1 for chance in row)
    assert {row.verdict for row in FAULTS.values()} <= {*ORDER, "no_fault_found"}


_ROWS = st.sampled_from(
    [
        *GOOD_CAPACITOR,
        *GOOD_WINDINGS,
        *FREE,
        *START_OPEN,
        *OVERLOAD,
        CLEAR,
        CALLED,
        VOLTS_AT_MOTOR,
        reading("ground_ohm", 300, lead="brown"),
        reading("supply_v", 0, at="motor"),
        reading("spin", "locked"),
        reading("run_amps_a", 2.4),
        reading("capacitance_uf", 0.1, section="fan"),
        reading("turns_way", "not_turning"),
    ]
)


@given(st.lists(_ROWS, max_size=14), st.booleans())
def test_whatever_is_read_a_condemnation_stands_on_proof(rows, named):
    answer = found(*rows, **({"hookup__leads": LEADS} if named else {}))
    assert all(0 <= row.probability <= 1 for row in answer.ranked)
    if answer.verdict != "not_proved":
        assert answer.confidence >= 0.8
    if answer.verdict == "condemn_motor":
        gate = [
            answer.path[link].state in ("proved", "not_applicable") for link in ("supply", "switching", "capacitor")
        ]
        definite = {"winding_start_open", "winding_run_open", "winding_open", "winding_grounded", "bearings_seized"}
        assert all(gate) or answer.leading_fault in definite


def test_the_sentence_asks_for_the_path_only_before_a_motor_is_condemned():
    hub = sentence(
        found(reading("run_amps_a", 0.8), reading("turns_way", "right"), VOLTS_AT_MOTOR, complaint__symptom="weak_air")
    )
    assert "the hub slips" in hub
    assert "first prove" not in hub
    worn = sentence(found(reading("spin", "locked"), reading("load_look", "sound")))
    assert "first prove: supply, switching" in worn
    proved = [
        VOLTS_AT_MOTOR,
        *GOOD_CAPACITOR,
        *GOOD_WINDINGS,
        *FREE,
        CLEAR,
        reading("turns_way", "right"),
        reading("run_amps_a", 1.3),
    ]
    assert sentence(
        found(
            *proved,
            reading("noise", "quiet"),
            reading("air_path", "clear"),
            reading("connection", "sound"),
            CALLED,
            reading("capacitance_uf", 40, section="herm"),
            complaint__symptom="other",
        )
    ).endswith("Not checked: load.")
