"""The run proof: every check against the plate of the motor that is in."""

import pytest

from keen_coil.core.proof.run_test import HIGH_AMPS, prove_run
from tests.calls import make_call, reading

NEW = {"kind": "psc", "volts": "208-230", "amps_a": 1.5, "rpm": 1075, "phase": 1, "hz": 60, "capacitor_uf": 7.5}
RUN = {
    "turns_way": reading("turns_way", "right", stage="proof"),
    "supply_v": reading("supply_v", 237.0, at="switch_load", when="running", stage="proof"),
    "run_amps_a": reading("run_amps_a", 7.2, turns=5, stage="proof"),
    "noise": reading("noise", "quiet", stage="proof"),
}


def proof(*extra, **changes):
    rows = [row for row in {**RUN, **changes}.values() if row]
    return prove_run(make_call(*rows, *extra, chosen_motor=NEW))


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
        ("run_amps_a", reading("run_amps_a", 0.7, stage="proof"), "look"),
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
