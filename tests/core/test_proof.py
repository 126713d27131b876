"""The run proof: every check against the plate of the motor that is in."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.proof.run_test import HIGH_AMPS, prove_run
from tests.calls import make_call, reading

NEW = {"kind": "psc", "volts": "208-230", "amps_a": 1.5, "rpm": 1075, "phase": 1, "hz": 60, "capacitor_uf": 7.5}
RUN = {
    "turns_way": reading("turns_way", "right", stage="proof"),
    "supply_v": reading("supply_v", 237.0, at="switch_load", when="running", stage="proof"),
    "run_amps_a": reading("run_amps_a", 7.2, turns=5, stage="proof"),
    "noise": reading("noise", "quiet", stage="proof"),
}


def proof(*extra, new=None, **changes):
    rows = [row for row in {**RUN, **changes}.values() if row]
    return prove_run(make_call(*rows, *extra, chosen_motor={**NEW, **(new or {})}))


def test_all_four_checks_pass():
    assert proof().passed
    assert proof().check_next == []


@pytest.mark.parametrize("name", sorted(RUN))
def test_each_missing_check_is_asked_for(name):
    answer = proof(**{name: None})
    assert not answer.passed
    assert len(answer.check_next) == 1


@pytest.mark.parametrize(
    ("name", "row", "state"),
    [
        ("turns_way", reading("turns_way", "wrong", stage="proof"), "failed"),
        ("turns_way", reading("turns_way", "not_turning", stage="proof"), "failed"),
        ("supply_v", reading("supply_v", 180, at="switch_load", when="running", stage="proof"), "failed"),
        ("run_amps_a", reading("run_amps_a", 1.9, stage="proof"), "failed"),
        ("noise", reading("noise", "rattle", stage="proof"), "failed"),
        ("noise", reading("noise", "hum", stage="proof"), "look"),
    ],
)
def test_each_check_can_fail(name, row, state):
    answer = proof(**{name: row})
    assert not answer.passed
    assert next(check for check in answer.checks if check.name == name).state == state
    assert answer.check_next


def test_a_healthy_new_motor_six_per_cent_over_its_plate_passes():
    assert proof(run_amps_a=reading("run_amps_a", 7.95, turns=5, stage="proof")).passed


def test_high_amps_walk_the_list_cheapest_first():
    assert proof(run_amps_a=reading("run_amps_a", 1.9, stage="proof")).check_next == list(HIGH_AMPS)


def test_the_wrong_place_leg_or_stage_proves_nothing():
    assert not proof(supply_v=reading("supply_v", 237, at="unit", when="running", stage="proof")).passed
    assert not proof(run_amps_a=reading("run_amps_a", 1.4, leg="winding", stage="proof")).passed
    assert not proof(noise=reading("noise", "quiet")).passed


def test_a_drop_from_standing_to_running_is_looked_at():
    standing = reading("supply_v", 240, at="switch_load", when="standing", stage="proof")
    assert proof(standing).passed
    sagging = reading("supply_v", 225, at="switch_load", when="running", stage="proof")
    assert not proof(standing, supply_v=sagging).passed


def test_without_a_new_motor_the_old_plate_holds():
    rows = {**RUN, "run_amps_a": reading("run_amps_a", 1.35, stage="proof")}
    assert prove_run(make_call(*rows.values())).passed


def run_of(*rows, **changes):
    return prove_run(make_call(*rows, chosen_motor={**NEW, **changes.pop("new", {})}, **changes))


def states(found):
    return {check.name: check.state for check in found.checks}


TWO_SPEEDS = {"motor__role": "indoor_blower", "motor__speeds": 3, "unit__speeds_used": [1, 3]}


def test_a_blower_is_read_on_every_speed_that_is_used():
    rows = [RUN["turns_way"], RUN["supply_v"], RUN["noise"], reading("run_amps_a", 1.45, speed=1, stage="proof")]
    found = run_of(*rows, new={"speeds": 3}, **TWO_SPEEDS)
    assert (found.passed, states(found)["run_amps_a.3"]) == (False, "missing")
    slow = reading("run_amps_a", 0.9, speed=3, stage="proof")
    assert run_of(*rows, slow, new={"speeds": 3}, **TWO_SPEEDS).passed


@pytest.mark.parametrize(("amps", "state"), [(1.0, "passed"), (1.6, "look"), (2.4, "failed")])
def test_a_slower_speed_without_plate_amps_is_held_to_the_highest(amps, state):
    found = run_of(reading("run_amps_a", amps, speed=3, stage="proof"), new={"speeds": 3}, **TWO_SPEEDS)
    assert states(found)["run_amps_a.3"] == state


def test_modes_name_the_speeds_and_two_on_one_speed_are_read_once():
    found = run_of(unit__modes={"cooling": 1, "heating": 3, "fan": 3}, motor__speeds=3, new={"speeds": 3})
    titles = [check.title for check in found.checks if check.name.startswith("run_amps_a")]
    assert titles == ["Amps, cooling (speed 1)", "Amps, heating and fan (speed 3)"]


INDUCER = {"motor__role": "inducer", "motor__kind": "shaded_pole", "new": {"kind": "shaded_pole", "capacitor_uf": None}}


def test_an_inducer_is_proved_by_its_draught_and_its_vent():
    found = run_of(*RUN.values(), **INDUCER)
    assert {name for name, state in states(found).items() if state == "missing"} >= {"draught", "vent"}
    assert not found.passed
    chain = [
        reading("draught_inwc", -0.9, needs_inwc=-0.6, stage="proof"),
        reading("vent_drain", "clear", stage="proof"),
    ]
    assert not run_of(*RUN.values(), *chain, **INDUCER).passed, "no run of a burner without its carbon monoxide"
    chain.append(reading("co_ppm", 3, at="room", stage="proof"))
    poison = reading("co_ppm", 60, at="room", stage="proof")
    assert states(run_of(*RUN.values(), *chain[:2], poison, **INDUCER))["room_co"] == "failed"
    assert run_of(*RUN.values(), *chain, **INDUCER).passed
    weak = [reading("draught_inwc", -0.4, needs_inwc=-0.6, stage="proof"), *chain[1:]]
    found = run_of(*RUN.values(), *weak, **INDUCER)
    assert not found.passed
    assert "Never jumper the switch" in found.check_next[0]


def test_what_is_only_wanted_bars_nothing_until_it_fails():
    assert states(proof())["heat"] == "missing"
    assert proof().passed
    cool, hot = (reading("shell_c", c, stage="proof") for c in (48, 140))
    assert proof(cool).passed
    found = proof(hot)
    assert (found.passed, states(found)["heat"]) == (False, "failed")


def test_a_commutated_motor_is_read_at_its_own_plug():
    rows = [
        RUN["turns_way"],
        RUN["noise"],
        RUN["run_amps_a"],
        reading("supply_v", 237, at="motor", when="running", stage="proof"),
    ]
    assert run_of(*rows, motor__kind="ecm", new={"kind": "ecm", "capacitor_uf": None}).passed


@given(st.floats(0.05, 1.3), st.sampled_from(["psc", "ecm", "shaded_pole"]), st.sampled_from([None, 1]))
def test_low_amps_are_a_question_and_never_a_failed_run(share, kind, speed):
    plate = {"kind": kind, **({} if kind == "psc" else {"capacitor_uf": None})}
    amps = reading("run_amps_a", round(1.45 * share, 3), stage="proof", **({"speed": speed} if speed else {}))
    at = "motor" if kind == "ecm" else "switch_load"
    volts = reading("supply_v", 237.0, at=at, when="running", stage="proof")
    found = proof(run_amps_a=amps, supply_v=volts, new=plate)
    check = next(check for check in found.checks if check.name == "run_amps_a")
    if check.judgement.finding == "low":
        assert found.passed
        assert (check.state, found.check_next == []) == (("passed", True) if kind == "ecm" else ("look", False))
    assert (check.state == "failed") == (check.judgement.finding in ("over", "open"))


@pytest.mark.parametrize(("amps", "state"), [(4.0, "passed"), (5.9, "failed"), (2.0, "look")])
def test_the_plate_amps_of_the_tap_in_use_decide(amps, state):
    new = {"speeds": 3, "amps_a": 7.5, "speed_amps_a": [7.5, 6.0, 4.8]}
    row = reading("run_amps_a", amps, speed=3, stage="proof")
    found = run_of(row, new=new, motor__speeds=3, unit__speeds_used=[3])
    check = next(check for check in found.checks if check.name == "run_amps_a")
    assert check.state == state
    unsaid = run_of(reading("run_amps_a", amps, stage="proof"), new=new, motor__speeds=3, unit__speeds_used=[3])
    assert states(unsaid)["run_amps_a"] != "missing"


def test_a_single_phase_fan_on_a_three_phase_unit_is_single_phase():
    found = run_of(unit__phase=3)
    assert not any("three legs" in check.title for check in found.checks)
    with pytest.raises(InvalidField, match="one value"):
        make_call(reading("run_amps_a", [1.4, 1.4, 1.4]), unit__phase=3)
    assert make_call(reading("supply_v", [230, 231, 229], at="unit"), unit__phase=3).readings, (
        "the unit has three lines"
    )


def test_what_a_blower_job_asks_for_is_asked_and_the_split_is_told():
    blower = {"motor__role": "indoor_blower", "motor__fan": "forward_curved", "unit__tons": 3}
    air = [
        reading("air_c", 13.0, at="supply", stage="proof"),
        reading("air_c", 24.0, at="return", stage="proof"),
        reading("air_speed_fpm", [600, 620, 610], free_area_ft2=2.0, stage="proof"),
    ]
    asked = states(run_of(*RUN.values(), **blower))
    assert {"air", "supply_air", "return_air"} <= {name for name, state in asked.items() if state == "missing"}
    found = run_of(*RUN.values(), *air, **blower)
    assert (
        next(check.says for check in found.checks if check.name == "split") == "11.0 degrees C cooler than the return."
    )
    assert "a ton" in next(check.says for check in found.checks if check.name == "air")
    assert found.passed
