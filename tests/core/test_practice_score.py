"""The score of a practice case, and the replay against the engine's belief."""

import pytest

from keen_coil.core.call import read_call
from keen_coil.core.practice.case import read_case, write_case
from keen_coil.core.practice.ladder import BY_NAME
from keen_coil.core.practice.play import engine_plays
from keen_coil.core.practice.score import Done, right_verdict, score


def case(*faults, unit="condenser", **more):
    call = {"format": "keen-coil/call", "version": 1, **BY_NAME[unit].call}
    rows = [{"fault": fault, "size_pct": 60} for fault in faults]
    return read_case(
        {"format": "keen-coil/case", "version": 1, "title": "t", "seed": 4, "call": call, "faults": rows, **more}
    )


def played(hidden, most=16):
    """The call with the readings the engine took."""
    return read_call({**write_case(hidden)["call"], "readings": engine_plays(hidden, most).readings})


def made(*kinds, slip=""):
    return [Done(do="test", kind=kind, name=kind, minutes=5, slip=slip) for kind in kinds]


@pytest.mark.parametrize(
    ("faults", "verdict"),
    [
        (("capacitor_weak",), "replace_capacitor"),
        (("capacitor_weak", "winding_start_open"), "condemn_motor"),
        (("winding_grounded", "breaker_tripped"), "condemn_motor"),
        (("capacitor_grounded", "breaker_tripped"), "replace_capacitor"),
        (("bearings_worn",), "runs_worn"),
        (("safety_open",), "not_the_motor"),
        ((), "no_fault_found"),
    ],
)
def test_the_right_verdict_is_that_of_the_cause_first_in_the_contracts_order(faults, verdict):
    assert right_verdict(case(*faults)) == verdict


def test_right_and_proved_beside_the_programs_own_play():
    hidden = case("capacitor_open")
    found = score(hidden, played(hidden), made("capacitance_uf", "spin"), "replace_capacitor", ["capacitor_open"])
    assert (found.is_right, found.proved, found.missed, found.good_parts_condemned) == (True, True, [], [])
    assert (found.tests, found.minutes) == (2, 10)
    assert found.engine_tests >= 1
    assert found.engine_verdict == "replace_capacitor"
    assert found.replay[found.telling].kind == "capacitance_uf"


def test_a_good_motor_condemned_is_said_and_a_good_capacitor_too():
    hidden = case("switch_contacts_bad")
    found = score(hidden, played(hidden), [], "condemn_motor", ["winding_start_open"])
    assert (found.is_right, found.good_parts_condemned) == (False, ["motor"])
    assert found.missed == ["switch_contacts_bad"]
    assert found.wrongly_said == ["winding_start_open"]
    assert score(hidden, played(hidden), [], "replace_capacitor", ["capacitor_weak"]).good_parts_condemned == [
        "run capacitor"
    ]
    both = case("capacitor_weak", "winding_start_open")
    assert score(both, played(both), [], "replace_capacitor", ["capacitor_weak"]).good_parts_condemned == []


def test_condemned_by_luck_names_what_was_not_proved():
    hidden = case("winding_turns_shorted")
    begun = read_call(write_case(hidden)["call"])
    found = score(hidden, begun, [], "condemn_motor", ["winding_turns_shorted"])
    assert found.is_right
    assert not found.proved
    assert {"supply", "capacitor"} <= set(found.not_yet_proved)


def test_of_two_one_is_not_all_and_the_consequence_alone_is_not_the_cause():
    two = case("capacitor_weak", "bearings_worn")
    found = score(two, played(two), [], "replace_capacitor", ["capacitor_weak"])
    assert (found.found, found.missed, found.is_right) == (["capacitor_weak"], ["bearings_worn"], False)
    tripped = case("winding_grounded", "breaker_tripped")
    only = score(tripped, played(tripped), [], "not_the_motor", ["breaker_tripped"])
    assert only.missed == ["winding_grounded"]
    assert score(tripped, played(tripped), [], "condemn_motor", ["winding_grounded"]).is_right


def test_slips_are_counted_by_kind():
    hidden = case("capacitor_weak")
    done = [*made("capacitance_uf", slip="not_bled"), *made("winding_ohm", "winding_ohm", slip="live_ohms")]
    assert score(hidden, played(hidden), done, "replace_capacitor", ["capacitor_weak"]).slips == {
        "live_ohms": 2,
        "not_bled": 1,
    }


def test_the_replay_follows_belief_reading_by_reading():
    hidden = case("winding_start_open")
    call = played(hidden)
    steps = score(hidden, call, [], "condemn_motor", ["winding_start_open"]).replay
    assert steps[-1].truth > 0.8
    assert steps[-1].verdict == "condemn_motor"
    total = sum(step.moved_bits for step in steps)
    assert total == pytest.approx(max(step.truth for step in steps[-1:]) and total)
    assert all(step.next_test or step.verdict != "not_proved" for step in steps)
