"""Three pairs: which lead is which, what is open, what is only an overload."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.diagnosis.case import Case
from keen_coil.core.judge.pairs import terminals
from keen_coil.core.judge.windings import judge_windings
from keen_coil.core.limits import DEFAULTS
from tests.calls import COOL, LEADS, make_call, pair, reading


def signals(*rows, **changes):
    return set(Case(make_call(*rows, **changes), DEFAULTS).signals)


@given(st.floats(3, 60), st.floats(1.3, 5), st.permutations(["A", "B", "C"]))
def test_common_is_outside_the_largest_pair_whatever_the_names(run, ratio, names):
    common, run_lead, start_lead = names
    start = run * ratio + 2
    call = make_call(
        pair(common, run_lead, round(run, 2)),
        pair(common, start_lead, round(start, 2)),
        pair(run_lead, start_lead, round(run + start, 2)),
    )
    found = terminals(call)
    assert found.common == common
    assert (found.run, found.start) in {(run_lead, start_lead), (None, None)}
    if start > run * 1.2 + 1:
        assert found.start == start_lead


def test_near_equal_windings_leave_start_and_run_unnamed():
    found = terminals(make_call(pair("A", "B", 20.1), pair("A", "C", 20.4), pair("B", "C", 40.5)))
    assert (found.common, found.run, found.start) == ("A", None, None)


def test_sum_check_passes_within_its_allowance_and_not_beyond():
    good = (pair("A", "B", 14.2), pair("A", "C", 38.1), pair("B", "C", 52.9))
    assert "winding.good" in signals(*good)
    off = (pair("A", "B", 14.2), pair("A", "C", 38.1), pair("B", "C", 60.0))
    assert "winding.sum_off" in signals(*off)


def test_common_open_to_both_with_run_start_through_is_the_overload():
    rows = (pair("black", "white", "OL"), pair("black", "brown", "OL"), pair("brown", "white", 52))
    assert "winding.common_open" in signals(*rows, hookup__leads=LEADS)
    cool = [{**row, **COOL} for row in rows]
    assert "winding.common_open_cool" in signals(*cool, hookup__leads=LEADS)


def test_start_winding_open_needs_a_cool_motor_to_count():
    rows = (pair("black", "white", 14), pair("black", "brown", "OL"), pair("brown", "white", "OL"))
    assert "winding.start_open" in signals(*rows, hookup__leads=LEADS)
    assert "winding.start_open_cool" in signals(*[{**row, **COOL} for row in rows], hookup__leads=LEADS)


def test_two_readings_suffice_once_one_lead_is_cut_off():
    rows = [{**row, **COOL} for row in (pair("C", "R", 14), pair("C", "S", "OL"))]
    assert "winding.start_open_cool" in signals(*rows)


def test_free_names_leave_the_winding_unnamed():
    rows = [{**row, **COOL} for row in (pair("A", "B", 14), pair("A", "C", "OL"), pair("B", "C", "OL"))]
    assert "winding.lead_open_cool" in signals(*rows)


def test_the_wire_at_the_fan_terminal_is_the_start_lead():
    found = {"found": [{"from": "motor.C", "to": "capacitor.fan"}]}
    rows = [{**row, **COOL} for row in (pair("A", "B", 14), pair("A", "C", "OL"), pair("B", "C", "OL"))]
    assert "winding.start_open_cool" in signals(*rows, hookup=found)


def test_one_open_pair_beside_two_closed_ones_cannot_be():
    rows = (pair("A", "B", 14), pair("A", "C", 38), pair("B", "C", "OL"))
    assert judge_windings(make_call(*rows), DEFAULTS)[2].judgement.state == "suspect"
    assert not {key for key in signals(*rows) if "open" in key}


@pytest.mark.parametrize("how", [{"isolated": False}, {"at": "switch_load"}, {"power": "live"}])
def test_an_open_reading_off_isolated_leads_opens_nothing(how):
    rows = [{**row, **COOL, **how} for row in (pair("C", "R", "OL"), pair("C", "S", "OL"), pair("R", "S", "OL"))]
    assert not {key for key in signals(*rows) if "open" in key}


def test_a_cool_shell_later_does_not_cool_an_earlier_reading():
    early, late = "2026-07-01T10:00:00Z", "2026-07-01T11:20:00Z"
    rows = [
        pair("C", "R", "OL", taken_at=early, minutes_off=5),
        pair("C", "S", "OL", taken_at=early, minutes_off=5),
        pair("R", "S", 52, taken_at=early),
        reading("shell_c", 32, minutes_off=85, taken_at=late),
    ]
    assert "winding.common_open" in signals(*rows)


def test_three_phase_pairs():
    three = {"motor__kind": "three_phase", "motor__phase": 3, "unit__phase": 3}
    fine = {"u": 0.01}
    assert "winding.good" in signals(reading("winding_ohm", [10, 10.1, 10.05], **fine), **three)
    assert "winding.phase_off" in signals(reading("winding_ohm", [10, 10, 12], **fine), **three)
    assert "winding.two_lead_open" in signals(reading("winding_ohm", ["OL", "OL", "OL"]), **three)
