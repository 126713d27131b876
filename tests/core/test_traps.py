"""The traps: what has condemned good motors before. One test each."""

from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.readings import KINDS
from tests.calls import FREE, GOOD_CAPACITOR, GOOD_WINDINGS, VOLTS_AT_MOTOR, make_call, pair, reading
from tests.core.test_faults import BLOWER, CALLED, ECM, FED, INDUCER, MODULE_OFF, NOT, THREE


def found(*rows, **changes):
    return assess(make_call(*rows, **changes))


def live(answer):
    return [test.kind for test in answer.next_tests if KINDS[test.kind].power == "live"]


def test_a_dead_test_on_a_wire_still_joined_to_something_else():
    for row in (
        reading("ground_ohm", 300, lead="brown", isolated=False),
        reading("capacitance_uf", 0.1, section="fan", isolated=False),
    ):
        answer = found(row)
        assert answer.judgements[0].state == "suspect"
        assert answer.verdict == "not_proved"


def test_a_breaker_that_tripped_is_never_energised_first():
    for changes in ({}, THREE, BLOWER):
        assert live(found(reading("breaker", "tripped"), **changes)) == []
        assert live(found(reading("fuse", "open"), **changes)) == []
    assert live(found(**{**BLOWER, "complaint": {"symptom": "trips"}})) == []


def test_a_two_lead_or_star_point_overload_is_not_a_winding():
    two = found(pair("A", "B", "OL", minutes_off=20, temperature_c=60), **INDUCER)
    star = found(reading("winding_ohm", ["OL", "OL", "OL"], minutes_off=20, temperature_c=70), **THREE)
    assert {two.verdict, star.verdict} == {"cool_and_retest"}
    no_overload = {**INDUCER, "motor": {**INDUCER["motor"], "protection": "impedance"}}
    assert found(pair("A", "B", "OL", minutes_off=75, temperature_c=24), **no_overload).verdict == "condemn_motor"


def test_an_overload_ten_minutes_after_switching_off_and_one_hot():
    rows = (pair("C", "R", "OL"), pair("C", "S", "OL"), pair("R", "S", 52))
    for when in ({"minutes_off": 10, "temperature_c": 33}, {"minutes_off": 90, "temperature_c": 62}, {}):
        answer = found(*({**row, **when} for row in rows))
        assert answer.verdict == "cool_and_retest"
        assert {"shell_c", "winding_ohm"} == {test.kind for test in answer.next_tests}


def test_a_one_shot_fuse_never_closes_again():
    rows = [pair("C", "R", "OL"), pair("C", "S", "OL"), pair("R", "S", 52), reading("conductor", "sound", leg="common")]
    assert found(*rows, motor__protection="fuse").leading_fault == "overload_open"


def test_a_single_pole_contactor_leaves_a_leg_live():
    assert any("one leg" in text for text in found(unit__switch={"kind": "contactor", "poles": 1}).cautions)


def test_a_fan_turned_backwards_by_the_wind_proves_no_wrong_rotation():
    rows = [VOLTS_AT_MOTOR, reading("turned_before_power", True), reading("turns_way", "wrong")]
    windy = found(*rows, complaint__symptom="runs_backwards")
    assert windy.leading_fault != "wrong_rotation"
    assert "capacitance_uf" in {test.kind for test in windy.next_tests}
    assert (
        found(*rows, reading("capacitance_uf", 3.1, section="fan"), complaint__symptom="runs_backwards").verdict
        == "replace_capacitor"
    )
    calm = [*rows[::2], *GOOD_CAPACITOR, *GOOD_WINDINGS, reading("turned_before_power", False)]
    assert found(*calm, complaint__symptom="runs_backwards").leading_fault == "wrong_rotation"


def test_ice_or_a_stone_locks_a_good_shaft():
    assert found(reading("spin", "locked"), reading("load_look", "iced"), VOLTS_AT_MOTOR).verdict == "not_the_motor"
    freed = found(
        reading("spin", "locked"), reading("spin", "free", with_="bare_shaft"), reading("load_look", "jammed")
    )
    assert freed.leading_fault == "load_jammed"
    assert found(reading("spin", "locked"), VOLTS_AT_MOTOR).verdict == "not_proved"


def test_a_commutated_motor_cogs_by_nature():
    answer = found(reading("spin", "rough"), **ECM)
    assert answer.judgements[0].state == "suspect"
    assert "bearings_worn" not in {row.fault for row in answer.ranked[:1]}
    assert answer.verdict == "not_proved"


def test_a_capacitor_grounded_to_its_can_at_normal_microfarads():
    answer = found(*GOOD_CAPACITOR, reading("capacitor_case_ohm", 2000), complaint__symptom="trips")
    assert (answer.verdict, answer.leading_fault) == ("replace_capacitor", "capacitor_grounded")
    assert answer.path["capacitor"].state == "failed"
    assert live(answer) == []


def test_a_pressure_switch_closed_at_rest_is_stuck_and_an_open_one_is_as_it_should_be():
    stuck = found(reading("safety", "closed", at="pressure switch", when="rest"), **INDUCER)
    assert stuck.leading_fault == "pressure_switch_stuck"
    rest = found(reading("safety", "open", at="pressure switch", when="rest"), **INDUCER)
    assert rest.judgements[0].state == "normal"
    assert rest.leading_fault is None
    refrigerant = found(reading("safety", "open", at="high_pressure"))
    assert refrigerant.leading_fault == "safety_open"


def test_full_volts_through_a_burnt_contact_without_load():
    standing = [
        CALLED,
        reading("switch_pulled_in", True),
        reading("supply_v", 239, at="switch_line"),
        reading("supply_v", 238, at="switch_load"),
    ]
    assert found(*standing).path["switching"].state == "proved"
    answer = found(*standing, reading("supply_v", 205, at="switch_load", when="running"))
    assert answer.path["switching"].state == "failed"
    assert answer.ranked[0].fault == "switch_contacts_bad"
    burnt = found(*standing, reading("supply_v", 205, at="switch_load", when="running"), reading("contact_drop_v", 30))
    assert (burnt.verdict, burnt.leading_fault) == ("not_the_motor", "switch_contacts_bad")


def test_rain_wet_insulation_that_dries_is_good_again():
    wet = reading("insulation_mohm", 1.5, temperature_c=40, lead="T1")
    assert found(wet, **THREE).verdict == "dry_and_retest"
    dry = found(wet, reading("insulation_mohm", 300, temperature_c=40, lead="T1", dried=True), **THREE)
    assert dry.path["insulation"].state == "proved"
    assert dry.verdict == "not_proved"
    still = found(wet, reading("insulation_mohm", 1.4, temperature_c=40, lead="T1", dried=True), **THREE)
    assert still.verdict == "condemn_motor"


def test_a_slipping_hub_beside_a_healthy_sister():
    rows = [
        reading("run_amps_a", 0.85),
        reading("sister_amps_a", 1.35),
        reading("turns_way", "right"),
        *FREE,
        VOLTS_AT_MOTOR,
    ]
    answer = found(*rows, complaint__symptom="weak_air", unit__sisters=1)
    assert answer.ranked[0].fault == "hub_loose"
    assert answer.judgements[1].state == "failed"
    assert found(*rows, reading("load_look", "hub_loose"), complaint__symptom="weak_air").verdict == "not_the_motor"


def test_a_healthy_new_motor_six_per_cent_over_its_plate():
    over = found(reading("run_amps_a", 1.48, turns=1, u=0.01)).judgements[0]
    assert (over.state, over.finding) == ("normal", "watch")


def test_one_speed_tap_open_leaves_the_others():
    rows = [
        pair("white", "black", 3.1, speed=1),
        pair("white", "blue", "OL", speed=2),
        pair("white", "red", 6.0, speed=3),
    ]
    answer = found(*rows, **BLOWER)
    assert (answer.verdict, answer.leading_fault) == ("usable_limited", "winding_tap_open")
    all_open = [{**row, "value": "OL"} for row in rows]
    assert found(*all_open, **BLOWER).verdict == "cool_and_retest"


def test_supply_absent_because_of_defrost_delay_or_an_open_safety():
    gone = [reading("supply_v", 0.2, at="motor"), reading("supply_v", 238, at="unit")]
    for why, fault in (
        (reading("hold", True, at="defrost"), "defrost_hold"),
        (reading("hold", True, at="delay"), "delay_hold"),
        (reading("safety", "open", at="high_pressure"), "safety_open"),
    ):
        answer = found(*gone, why, unit__kind="heat_pump_outdoor")
        assert (answer.verdict, answer.leading_fault) == ("not_the_motor", fault)
        assert answer.judgements[0].state == "unjudged"


def test_a_dual_whose_compressor_section_alone_is_bad():
    answer = found(
        reading("capacitance_uf", 12, section="herm"),
        reading("capacitance_uf", 5, section="fan"),
        reading("capacitor_look", "sound"),
    )
    assert answer.verdict != "replace_capacitor"
    assert answer.path["capacitor"].state == "proved"
    assert "parallel_load_fault" in {answer.leading_fault, *answer.also}


def test_a_capacitor_that_serves_the_compressor_only():
    only = {"unit__run_capacitor": "compressor_only", "motor__capacitor_uf": None, "motor__kind": "shaded_pole"}
    answer = found(reading("capacitance_uf", 12, section="herm"), **only)
    assert answer.path["capacitor"].state == "not_applicable"
    assert answer.verdict != "replace_capacitor"


def test_label_equal_to_measurement_but_not_what_the_motor_asks_for():
    answer = found(
        reading("capacitance_uf", 7.5, section="fan"),
        reading("capacitor_look", "sound"),
        capacitor__label=[{"section": "fan", "uf": 7.5}],
    )
    assert answer.leading_fault == "capacitor_wrong_value"
    assert answer.path["capacitor"].state == "failed"
    stated = found(capacitor__label=[{"section": "fan", "uf": 7.5}])
    assert (stated.verdict, stated.next_tests[0].kind) == ("not_proved", "capacitance_uf")
    mistyped = found(reading("capacitance_uf", 5.0, section="fan"), capacitor__label=[{"section": "fan", "uf": 7.5}])
    assert mistyped.judgements[0].state == "suspect"


def test_a_blown_fuse_with_a_good_motor_is_a_chafed_conductor():
    motor = [reading("winding_ohm", [6.1, 6.1, 6.2]), reading("insulation_mohm", 400, temperature_c=35), *FREE]
    rows = [reading("fuse", "open", leg="L2"), *motor, reading("ground_ohm", 150, lead="T2", at="switch_load")]
    answer = found(*rows, **THREE)
    assert answer.ranked[0].fault in ("conductor_chafed", "fuse_open")
    assert live(answer) == []
    proved = found(*rows, reading("conductor", "chafed", leg="T2"), **THREE)
    assert (proved.verdict, proved.leading_fault) == ("not_the_motor", "conductor_chafed")
    assert "fuse_open" in proved.also


def test_legs_that_differ_by_physics_are_not_compared_with_the_plate():
    rows = [
        reading("run_amps_a", 0.7, leg="capacitor"),
        reading("run_amps_a", 1.1, leg="winding"),
        reading("run_amps_a", 1.3),
    ]
    assert [row.state for row in found(*rows, motor__hp=None).judgements] == ["unjudged", "unjudged", "normal"]
    by_model = found(*rows)
    assert [row.state for row in by_model.judgements][2] == "normal"
    assert not {"failed", "suspect"} & {row.state for row in by_model.judgements}


def test_a_high_reading_with_a_high_background_is_suspect():
    answer = found(reading("background_amps_a", 0.4), reading("run_amps_a", 2.1))
    assert answer.judgements[1].state == "suspect"
    assert found(reading("background_amps_a", 0.03), reading("run_amps_a", 2.1)).judgements[1].state == "failed"


def test_dirty_coil_up_on_a_propeller_and_blocked_filter_down_on_a_wheel():
    def restricted(amps, **changes):
        ranked = {
            row.fault: row.probability
            for row in found(reading("run_amps_a", amps), reading("turns_way", "right"), **changes).ranked
        }
        return ranked.get("air_restricted", 0)

    weak = {"complaint__symptom": "weak_air"}
    assert restricted(1.9, **weak) > 2 * restricted(0.8, **weak)
    wheel = {**BLOWER, "complaint": {"symptom": "weak_air"}}
    assert restricted(4.6, **wheel) > 2 * restricted(9.5, **wheel)
    airflow = {**ECM, "complaint": {"symptom": "weak_air"}}
    airflow["motor"] = {
        **ECM["motor"],
        "role": "indoor_blower",
        "fan": "forward_curved",
        "ecm_control": "constant_airflow",
    }
    assert restricted(3.9, **airflow) > 2 * restricted(1.5, **airflow)


def test_a_motor_of_the_wrong_speed_class_fitted_earlier():
    assert found(unit__fan_rpm=825, complaint__symptom="stops_hot").verdict == "replace_wrong_motor"
    assert found(unit__fan_rpm=1100).leading_fault is None
    fitted = found(unit__supply_v=460)
    assert fitted.leading_fault == "wrong_motor_fitted"


def test_module_fault_only_after_power_and_command_are_proved():
    blind = found(*MODULE_OFF, reading("spin", "free"), NOT, **ECM)
    assert blind.verdict == "not_proved"
    assert {"ecm_power", "ecm_command"} & {test.kind for test in blind.next_tests}
    assert found(*MODULE_OFF, *FED, reading("spin", "free"), NOT, **ECM).verdict == "replace_module"
    assert found(FED[0], reading("ecm_command", "absent"), CALLED, NOT, **ECM).verdict == "not_the_motor"
    assert found(*MODULE_OFF, *FED, reading("spin", "free"), **ECM).verdict == "not_proved"
    half = found(FED[0], reading("spin", "free"), NOT, **ECM)
    assert half.verdict == "not_proved"
    assert "control" in half.before_condemning


def test_an_inducer_stopped_by_drain_or_vent():
    rows = [reading("vent_drain", "blocked"), reading("safety", "open", at="pressure switch", when="running")]
    answer = found(*rows, **INDUCER)
    assert answer.verdict == "not_the_motor"
    assert answer.leading_fault == "vent_or_drain_blocked"


def test_a_motor_recorded_as_turning_with_its_whole_current_lead_open():
    rows = [reading("turns_way", "right"), reading("conductor", "open", leg="whole")]
    answer = found(*rows)
    assert [row.readings for row in answer.contradictions] == [[0, 1]]
    assert answer.verdict == "not_proved"
    later = [{**rows[0], "taken_at": "2026-07-01T10:00:00Z"}, {**rows[1], "taken_at": "2026-07-01T10:30:00Z"}]
    assert found(*later).contradictions == []
