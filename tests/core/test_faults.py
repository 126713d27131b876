"""Every fault of the contract is reached by what a technician would read, in calls of every role and kind."""

import re
import typing
from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.diagnosis.faults import FAULTS
from keen_coil.core.diagnosis.plain import JUDGED, LOOKED, NOT_YET, PLAIN, plain_finding, what_was_done
from keen_coil.core.diagnosis.wiring_found import wiring_found
from keen_coil.core.readings import KINDS
from tests.calls import COOL, FREE, GOOD_CAPACITOR, GOOD_WINDINGS, LEADS, VOLTS_AT_MOTOR, make_call, pair, reading

CLEAR = reading("ground_ohm", "OL", lead="black")
CALLED = reading("control_call", "present")
RIGHT_VOLTS = (CALLED, VOLTS_AT_MOTOR)
BLOWER = {
    "complaint": {"symptom": "quiet"},
    "unit": {
        "kind": "furnace",
        "supply_v": 120,
        "phase": 1,
        "hz": 60,
        "ambient_c": 22,
        "run_capacitor": "own",
        "switch": {"kind": "board"},
        "tons": 3,
        "speeds_used": [1, 3],
    },
    "motor": {
        "role": "indoor_blower",
        "kind": "psc",
        "fan": "forward_curved",
        "hp": 0.5,
        "volts": "115",
        "amps_a": 7.5,
        "speed_amps_a": [7.5, 6.0, 4.8],
        "phase": 1,
        "hz": 60,
        "rpm": 1075,
        "speeds": 3,
        "capacitor_uf": 10,
        "capacitor_v": 370,
    },
    "capacitor": {"label": [{"section": "single", "uf": 10}], "volts_v": 370},
}
THREE = {
    "complaint": {"symptom": "quiet"},
    "unit": {
        "kind": "package_unit",
        "supply_v": 460,
        "phase": 3,
        "hz": 60,
        "ambient_c": 30,
        "switch": {"kind": "starter", "poles": 3},
    },
    "motor": {
        "role": "indoor_blower",
        "kind": "three_phase",
        "drive": "belt",
        "hp": 3,
        "volts": "208-230/460",
        "amps_a": 9.0,
        "phase": 3,
        "hz": 60,
        "rpm": 1750,
    },
    "capacitor": {"label": []},
}
ECM = {
    "complaint": {"symptom": "quiet"},
    "unit": {
        "kind": "split_condenser",
        "supply_v": 230,
        "phase": 1,
        "hz": 60,
        "ambient_c": 30,
        "switch": {"kind": "board"},
    },
    "motor": {
        "role": "condenser_fan",
        "kind": "ecm",
        "ecm_control": "constant_speed",
        "fan": "propeller",
        "hp": 0.33,
        "volts": "208-230",
        "amps_a": 2.8,
        "phase": 1,
        "hz": 60,
        "rpm": 1075,
    },
    "capacitor": {"label": []},
}
INDUCER = {
    "complaint": {"symptom": "other"},
    "unit": {"kind": "furnace", "supply_v": 120, "phase": 1, "hz": 60, "ambient_c": 20, "switch": {"kind": "board"}},
    "motor": {
        "role": "inducer",
        "kind": "shaded_pole",
        "fan": "inducer_wheel",
        "volts": "115",
        "amps_a": 1.3,
        "phase": 1,
        "hz": 60,
        "rpm": 3000,
        "leads": 2,
    },
    "capacitor": {"label": []},
}
HEAT_PUMP = {"unit__kind": "heat_pump_outdoor"}
FED = (reading("ecm_power", "present", volts_v=236), reading("ecm_command", "present"))
NOT = reading("turns_way", "not_turning")
MODULE_OFF = (reading("ecm_winding_ohm", [6.1, 6.1, 6.2]), reading("ecm_ground_ohm", "OL"))
GOOD_PHASES = (reading("winding_ohm", [6.1, 6.1, 6.2]), reading("insulation_mohm", 500, temperature_c=40))

Case = tuple[str, list, dict, str]
CASES: list[Case] = [
    ("supply_missing", [reading("supply_v", 0.4, at="unit")], BLOWER, "not_the_motor"),
    ("supply_low", [reading("supply_v", 101, at="unit")], BLOWER, "not_the_motor"),
    ("supply_high", [reading("supply_v", 262, at="unit")], {"complaint__symptom": "stops_hot"}, "not_the_motor"),
    ("voltage_unbalance", [reading("supply_v", [460, 430, 405], at="unit")], THREE, "not_the_motor"),
    ("phase_lost", [reading("supply_v", [462, 12, 9], at="unit")], THREE, "not_the_motor"),
    ("breaker_tripped", [reading("breaker", "tripped")], BLOWER, "not_proved"),
    ("disconnect_open", [reading("disconnect", "open")], {}, "not_the_motor"),
    ("fuse_open", [reading("fuse", "open", leg="L2")], THREE, "not_proved"),
    ("starter_overload_tripped", [reading("starter_overload", "tripped")], THREE, "not_proved"),
    ("switch_not_pulled_in", [CALLED, reading("switch_pulled_in", False)], {}, "not_the_motor"),
    ("switch_contacts_bad", [reading("contact_drop_v", 3.2)], {}, "not_the_motor"),
    (
        "switch_welded",
        [
            reading("control_call", "absent"),
            reading("switch_pulled_in", False),
            reading("supply_v", 238, at="switch_load"),
        ],
        {"complaint__symptom": "other"},
        "not_the_motor",
    ),
    ("control_call_absent", [reading("control_call", "absent")], BLOWER, "not_the_motor"),
    ("defrost_hold", [reading("hold", True, at="defrost")], HEAT_PUMP, "not_the_motor"),
    ("delay_hold", [reading("hold", True, at="delay")], BLOWER, "not_the_motor"),
    ("fan_control_hold", [reading("hold", True, at="fan_control")], {}, "not_the_motor"),
    ("leak_lockout_hold", [reading("hold", True, at="leak_lockout")], {}, "not_the_motor"),
    ("board_lockout", [reading("hold", True, at="board_lockout")], INDUCER, "not_the_motor"),
    ("door_switch_open", [reading("hold", True, at="door_switch")], BLOWER, "not_the_motor"),
    ("safety_open", [reading("safety", "open", at="high_pressure")], {}, "not_the_motor"),
    (
        "pressure_switch_stuck",
        [reading("safety", "closed", at="pressure_switch", when="rest")],
        INDUCER,
        "not_the_motor",
    ),
    ("conductor_open", [reading("conductor", "open", leg="black")], {}, "not_the_motor"),
    ("conductor_chafed", [reading("conductor", "chafed", leg="L1")], THREE, "not_the_motor"),
    ("connection_bad", [reading("connection", "burnt")], BLOWER, "not_the_motor"),
    (
        "miswired",
        [],
        {
            "hookup": {
                "leads": LEADS,
                "found": [
                    {"from": "motor.brown", "to": "capacitor.herm"},
                    {"from": "motor.white", "to": "switch.t2"},
                    {"from": "motor.black", "to": "capacitor.common"},
                ],
            }
        },
        "not_the_motor",
    ),
    ("capacitor_open", [reading("capacitance_uf", 0.1, section="fan")], {}, "replace_capacitor"),
    ("capacitor_weak", [reading("capacitance_uf", 7.1, section="single")], BLOWER, "replace_capacitor"),
    (
        "capacitor_weak",
        [reading("capacitor_load", {"amps_a": 0.45, "volts_v": 402}, section="fan")],
        {},
        "replace_capacitor",
    ),
    (
        "capacitor_high",
        [reading("capacitance_uf", 6.1, section="fan")],
        {"complaint__symptom": "stops_hot"},
        "replace_capacitor",
    ),
    ("capacitor_shorted", [reading("capacitance_uf", "shorted", section="fan")], {}, "replace_capacitor"),
    ("capacitor_grounded", [reading("capacitor_case_ohm", 900)], {"complaint__symptom": "trips"}, "replace_capacitor"),
    ("capacitor_damaged", [reading("capacitor_look", "leaking")], BLOWER, "replace_capacitor"),
    (
        "capacitor_wrong_value",
        [reading("capacitance_uf", 7.5, section="fan")],
        {"capacitor__label": [{"section": "fan", "uf": 7.5}]},
        "replace_capacitor",
    ),
    ("capacitor_under_rated", [], {"capacitor__volts_v": 330, "complaint__symptom": "stops_hot"}, "replace_capacitor"),
    (
        "winding_run_open",
        [{**r, **COOL} for r in (pair("C", "R", "OL"), pair("C", "S", 38), pair("R", "S", "OL"))],
        {},
        "condemn_motor",
    ),
    (
        "winding_start_open",
        [{**r, **COOL} for r in (pair("C", "R", 14), pair("C", "S", "OL"), pair("R", "S", "OL"))],
        {},
        "condemn_motor",
    ),
    ("winding_open", [pair("A", "B", "OL", minutes_off=90, temperature_c=22)], INDUCER, "condemn_motor"),
    (
        "winding_open",
        [reading("winding_ohm", [6.1, "OL", "OL"], minutes_off=90, temperature_c=32)],
        THREE,
        "condemn_motor",
    ),
    (
        "winding_tap_open",
        [
            pair("white", "black", 3.1, speed=1),
            pair("white", "blue", 4.4, speed=2),
            pair("white", "red", "OL", speed=3),
        ],
        BLOWER,
        "usable_limited",
    ),
    ("winding_turns_shorted", [reading("winding_ohm", [6.1, 6.1, 5.0])], THREE, "condemn_motor"),
    ("winding_turns_shorted", [*RIGHT_VOLTS, *GOOD_CAPACITOR, *GOOD_WINDINGS, *FREE, CLEAR, NOT], {}, "condemn_motor"),
    ("winding_grounded", [reading("ground_ohm", 400, lead="brown")], BLOWER, "condemn_motor"),
    ("winding_grounded", [reading("insulation_mohm", 0.02, temperature_c=30, lead="T1")], THREE, "condemn_motor"),
    ("insulation_low", [reading("insulation_mohm", 2.0, temperature_c=40)], THREE, "dry_and_retest"),
    ("overload_tripped", [pair("C", "R", "OL"), pair("C", "S", "OL"), pair("R", "S", 52)], {}, "cool_and_retest"),
    ("overload_tripped", [reading("winding_ohm", ["OL", "OL", "OL"])], THREE, "cool_and_retest"),
    ("overload_tripped", [pair("A", "B", "OL", minutes_off=10)], INDUCER, "cool_and_retest"),
    (
        "overload_open",
        [
            *({**r, **COOL} for r in (pair("C", "R", "OL"), pair("C", "S", "OL"), pair("R", "S", 52))),
            reading("conductor", "sound", leg="common"),
        ],
        {},
        "condemn_motor",
    ),
    (
        "bearings_worn",
        [reading("spin", "rough"), reading("side_play", "much"), reading("turns_way", "right")],
        {"complaint__symptom": "noisy"},
        "runs_worn",
    ),
    ("bearings_seized", [reading("spin", "locked", with_="bare_shaft")], INDUCER, "condemn_motor"),
    ("load_damaged", [reading("load_look", "cracked")], {"complaint__symptom": "noisy"}, "not_the_motor"),
    ("load_jammed", [reading("load_look", "iced"), reading("spin", "locked")], HEAT_PUMP, "not_the_motor"),
    ("load_rubbing", [reading("load_look", "rubbing")], {"complaint__symptom": "noisy"}, "not_the_motor"),
    ("hub_loose", [reading("load_look", "hub_loose")], {"complaint__symptom": "weak_air"}, "not_the_motor"),
    ("belt_bad", [reading("belt_look", "broken")], {**THREE, "complaint": {"symptom": "weak_air"}}, "not_the_motor"),
    (
        "wrong_rotation",
        [reading("turns_way", "wrong"), *GOOD_PHASES],
        {**THREE, "complaint": {"symptom": "weak_air"}},
        "not_the_motor",
    ),
    ("wrong_motor_fitted", [], {"unit__fan_rpm": 825, "complaint__symptom": "stops_hot"}, "replace_wrong_motor"),
    ("air_restricted", [reading("air_path", "blocked")], {"complaint__symptom": "weak_air"}, "not_the_motor"),
    ("ecm_command_absent", [CALLED, FED[0], reading("ecm_command", "absent")], ECM, "not_the_motor"),
    ("ecm_power_absent", [reading("ecm_power", "absent")], ECM, "not_the_motor"),
    ("ecm_module", [*FED, *MODULE_OFF, reading("spin", "free"), NOT], ECM, "replace_module"),
    ("ecm_motor", [reading("ecm_winding_ohm", [6.1, 6.1, 2.2])], ECM, "condemn_motor"),
    ("ecm_motor", [reading("ecm_ground_ohm", 220)], ECM, "condemn_motor"),
    ("ecm_module_or_motor", [*FED, reading("spin", "free"), NOT], ECM, "condemn_motor"),
    ("vent_or_drain_blocked", [reading("vent_drain", "blocked")], INDUCER, "not_the_motor"),
    (
        "parallel_load_fault",
        [reading("capacitance_uf", 12, section="herm")],
        {"complaint__symptom": "other"},
        "not_the_motor",
    ),
    (
        "none",
        [
            *RIGHT_VOLTS,
            *GOOD_CAPACITOR,
            *GOOD_WINDINGS,
            *FREE,
            CLEAR,
            reading("load_look", "sound"),
            reading("air_path", "clear"),
            reading("turns_way", "right"),
            reading("run_amps_a", 1.3),
        ],
        {},
        "no_fault_found",
    ),
]


@pytest.mark.parametrize(
    ("fault", "rows", "changes", "verdict"), CASES, ids=[f"{i}-{row[0]}" for i, row in enumerate(CASES)]
)
def test_each_fault_is_reached_by_its_evidence(fault, rows, changes, verdict):
    answer = assess(make_call(*rows, **changes))
    assert (answer.verdict, answer.leading_fault) == (verdict, fault), [
        (r.fault, r.probability) for r in answer.ranked[:4]
    ]
    assert answer.confidence >= 0.8


def test_every_fault_of_the_contract_is_among_the_cases():
    assert {row[0] for row in CASES} == set(FAULTS)


@pytest.mark.parametrize(
    ("brown", "white", "wrong"),
    [
        ("capacitor.fan", "switch.t2", ""),
        ("capacitor.herm", "switch.t2", "compressor's section"),
        ("switch.t1", "switch.t2", "straight on the line"),
        ("capacitor.fan", "capacitor.herm", "in series"),
        ("cap.1", "switch.t2", "no capacitor terminal"),
    ],
)
def test_the_wiring_as_found_is_looked_over(brown, white, wrong):
    found = [
        {"from": "motor.brown", "to": brown},
        {"from": white, "to": "motor.white"},
        {"from": "motor.black", "to": "capacitor.common"},
        {"from": "switch.t1", "to": "capacitor.common"},
    ]
    says = wiring_found(make_call(hookup={"leads": LEADS, "found": found}))
    assert says is not None
    assert wrong in says.wrong
    assert bool(says.wrong) == bool(wrong)
    assert says.by == "written"
    assert wiring_found(make_call(hookup={"leads": LEADS})) is None


def test_a_motor_wired_wrong_by_its_colors_is_suspected_and_the_ohms_settle_it():
    found = [
        {"from": "motor.black", "to": "switch.t1"},
        {"from": "motor.brown", "to": "capacitor.common"},
        {"from": "motor.blue", "to": "capacitor.fan"},
        {"from": "switch.t2", "to": "capacitor.common"},
    ]
    call = make_call(hookup__found=found, complaint__symptom="runs_backwards")
    answer = assess(call)
    before = {row.fault: row.probability for row in assess(make_call(complaint__symptom="runs_backwards")).ranked}
    now = {row.fault: row.probability for row in answer.ranked}
    assert now["miswired"] > before.get("miswired", 0) + 0.2
    assert answer.next_tests[0].kind == "winding_ohm"
    ohms = [
        reading("winding_ohm", value, pair=pair, power="dead")
        for pair, value in ((["black", "blue"], 12.0), (["black", "brown"], 31.0), (["brown", "blue"], 43.0))
    ]
    settled = assess(make_call(*ohms, hookup__found=found, complaint__symptom="runs_backwards"))
    assert settled.ranked[0].fault == "miswired"
    assert next(row.probability for row in settled.ranked if row.fault == "miswired") > 0.9


def test_miswired_is_what_is_left_when_all_parts_are_good_and_it_turns_wrong_and_hot():
    rows = [
        *RIGHT_VOLTS,
        *GOOD_CAPACITOR,
        *GOOD_WINDINGS,
        *FREE,
        CLEAR,
        reading("turns_way", "wrong"),
        reading("turned_before_power", False),
    ]
    ranked = {row.fault: row.probability for row in assess(make_call(*rows, hookup__leads=LEADS)).ranked}
    assert "miswired" in ranked
    assert typing.cast(float, ranked["wrong_rotation"]) > ranked["miswired"]


def test_every_fault_has_its_plain_words_for_the_customer():
    assert set(PLAIN) == set(FAULTS)
    trade = re.compile(r"\b(ohm|open|grounded|winding_|µF|overload|condemn|psc|ecm)\b", re.I)
    assert [fault for fault, says in PLAIN.items() if trade.search(says) and fault not in ("door_switch_open",)] == []


def test_how_we_know_names_each_thing_once():
    taken = [VOLTS_AT_MOTOR, reading("winding_ohm", 10, pair=["A", "B"]), reading("winding_ohm", 5, pair=["A", "C"])]
    said = what_was_done(make_call(*taken, reading("spin", "free")).readings)
    assert said == "We measured the voltage and the motor's windings. We turned the shaft by hand."
    assert what_was_done([]) == ""


@given(st.sets(st.sampled_from(sorted(KINDS)), max_size=8))
def test_nothing_is_said_to_be_done_that_no_reading_stands_behind(kinds):
    """What is said of some readings together is what is said of each alone, and every kind is said of or silent."""
    plain = {words for words, of in LOOKED if set(of) & kinds}
    said = what_was_done([SimpleNamespace(kind=kind, wrong_power=False, with_=None) for kind in kinds])
    sentences = said.lower().rstrip(".").split(". ")

    def is_said(words):
        verb = next(
            (verb for verb in ("we measured ", "we checked the ", "we looked over ") if words.startswith(verb)), words
        )
        return any(one.startswith(verb) and words.removeprefix(verb) in one for one in sentences)

    assert {words for words, _ in LOOKED if is_said(words)} == plain


@pytest.mark.parametrize("judged", [None, *JUDGED])
@pytest.mark.parametrize("renewed", [True, False])
def test_the_customer_never_reads_a_cause_that_is_neither_proved_nor_judged(judged, renewed):
    said = plain_finding("not_proved", "bearings_seized", judged, renewed, proved=False)
    assert (said == NOT_YET) == (judged is None and not renewed)
    assert ("judgment" in said) == (judged not in (None, "no_fault_found"))
    assert "seized" not in said


@pytest.mark.parametrize("verdict", sorted(set(JUDGED)))
def test_nothing_is_said_of_a_renewed_motor_as_if_it_were_still_there(verdict):
    every = [plain_finding(verdict, fault, None, True, proved=True, motor_in=True) for fault in (None, *PLAIN)]
    said = " ".join(every)
    assert not re.search(
        r"\b(are worn|is worn|still runs|will seize|may run again|must cool|must dry|still work)\b", said
    )


WIRES = [
    {"from": "switch.t2", "to": "capacitor.common"},
    {"from": "switch.t2", "to": "compressor.c"},
    {"from": "capacitor.herm", "to": "compressor.s"},
]


@pytest.mark.parametrize("words", [("common", "run", "start"), ("neutral", "line", "capacitor")])
def test_leads_named_by_the_plates_words_say_whether_it_is_wired_wrong(words):
    leads = [{"lead": name, "says": word} for name, word in zip(("tan", "pink", "grey"), words, strict=True)]

    def asked(run_on, start_on):
        found = [("tan", "switch.t1"), ("pink", run_on), ("grey", start_on)]
        wires = [*WIRES, *({"from": f"motor.{lead}", "to": end} for lead, end in found)]
        call = make_call(complaint__symptom="runs_backwards", hookup={"leads": leads, "found": wires})
        return {row.fault: row.probability for row in assess(call).ranked}

    assert asked("capacitor.fan", "capacitor.common")["miswired"] > 0.8
    assert asked("capacitor.common", "capacitor.fan").get("miswired", 0) < 0.1


@pytest.mark.parametrize(
    ("role", "kind", "never"),
    [
        ("inducer", "furnace", "coil"),
        ("indoor_blower", "furnace", "blade"),
        ("indoor_blower", "fan_coil", "freezes"),
        ("indoor_blower", "air_handler", "exchanger"),
        ("condenser_fan", "split_condenser", "wheel"),
    ],
)
def test_what_nobody_looked_at_and_what_is_done_meanwhile_is_of_this_motor(role, kind, never):
    answer = assess(make_call(reading("spin", "locked", with_="bare_shaft"), motor__role=role, unit__kind=kind))
    said = " ".join([cause.says + cause.do for cause in answer.causes] + answer.meanwhile)
    assert "not been checked yet" in said
    assert never not in said
