"""Where a motor runs: states, stability, backwards, and conditions beyond reason."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.machine.conditions import as_plate
from keen_coil.core.machine.curves import sweep, torque_curve
from keen_coil.core.machine.expected import load_of
from keen_coil.core.machine.operating_point import STATES, Feed, backwards_points, flow, operating_points, surplus_nm
from tests.motors import fitted

FIT = fitted()


def run(volts=230.0, uf=5.0, share=1.0, drag=0.0, **feed):
    return operating_points(FIT.windings, Feed(volts, uf, **feed), load_of(FIT, share, drag))


def state(points):
    return STATES[int(points.state[0])]


def test_the_plate_is_where_it_runs():
    points = run()
    assert state(points) == "starts_and_runs"
    assert points.rpm[0] == pytest.approx(1090, abs=1)
    assert points.shaft_w[0] == pytest.approx(0.25 * 745.7, rel=0.01)


@pytest.mark.parametrize(
    ("conditions", "expected"),
    [
        ({}, "starts_and_runs"),
        ({"uf": 4}, "starts_and_runs"),
        ({"uf": 0}, "runs_only_if_pushed"),
        ({"uf": 0.1}, "runs_only_if_pushed"),
        ({"drag": 0.5}, "runs_only_if_pushed"),
        ({"drag": 1.5}, "stalled"),
        ({"volts": 60}, "stalled"),
        ({"volts": 0}, "stalled"),
        ({"share": 2.26}, "starts_and_runs"),
        ({"share": 0}, "starts_and_runs"),
        ({"share": 1000}, "starts_and_runs"),
        ({"uf": np.inf}, "runs_only_if_pushed"),
        ({"aux_ohm": np.inf}, "runs_only_if_pushed"),
        ({"main_ohm": np.inf}, "stalled"),
        ({"swapped": True}, "starts_and_runs"),
    ],
)
def test_three_states_of_starting(conditions, expected):
    assert state(run(**conditions)) == expected


def test_a_stalled_motor_is_given_at_rest():
    points = run(drag=1.5)
    assert points.rpm[0] == 0
    assert points.shaft_w[0] == 0
    assert abs(points.solved.line_a[0]) == pytest.approx(abs(flow(FIT.windings, Feed(230.0, 5.0), 1.0).line_a))


def test_a_wrong_speed_blade_slows_it_and_costs_amps():
    right, wrong = run(), run(share=2.26)
    assert wrong.rpm[0] < 0.85 * right.rpm[0]
    assert abs(wrong.solved.line_a[0]) > 1.5 * abs(right.solved.line_a[0])


def test_swapped_leads_feed_the_wrong_winding():
    right, swapped = run(), run(swapped=True)
    assert abs(swapped.solved.aux_a[0]) > 1.5 * abs(right.solved.aux_a[0])
    assert swapped.starting_nm[0] < right.starting_nm[0]


def test_a_fan_blown_backwards_runs_on_with_a_weak_capacitor_and_not_with_a_good_one():
    back = backwards_points(FIT.windings, Feed(230.0, np.array([5.0, 1.0, 0.0])), load_of(FIT))
    assert list(back.runs) == [False, True, True]
    assert (back.rpm[1:] < -700).all()
    assert abs(back.rpm[2]) == pytest.approx(run(uf=0.0).rpm[0], rel=1e-4)


@given(st.floats(100, 280), st.floats(0, 20, width=32), st.floats(0, 3), st.floats(0, 1.2))
def test_where_it_runs_torque_and_load_balance_and_a_shove_comes_back(volts, uf, share, drag):
    points = run(volts, uf, share, drag)
    if points.state[0] == 2:
        return
    feed, load, slip = Feed(volts, uf), load_of(FIT, share, drag), float(points.slip[0])
    scale = FIT.rated_torque_nm
    assert abs(float(surplus_nm(FIT.windings, feed, load, slip))) < 1e-4 * scale
    step = 0.002
    assert float(surplus_nm(FIT.windings, feed, load, min(slip + step, 1.0))) > -1e-3 * scale
    if slip > step:
        assert float(surplus_nm(FIT.windings, feed, load, slip - step)) < 1e-3 * scale
    input_w = float(points.solved.input_w[0])
    assert 0 <= points.shaft_w[0] < input_w


@settings(max_examples=15)
@given(st.lists(st.tuples(st.floats(60, 280), st.floats(0, 20), st.floats(0, 3)), min_size=2, max_size=12))
def test_many_at_once_are_each_of_them_alone(rows):
    volts, uf, share = (np.array(column) for column in zip(*rows, strict=True))
    together = operating_points(FIT.windings, Feed(volts, uf), load_of(FIT, share))
    for i, row in enumerate(rows):
        alone = run(*row)
        assert alone.state[0] == together.state[i]
        assert alone.rpm[0] == pytest.approx(together.rpm[i], abs=0.2)


@given(st.floats(150, 280), st.floats(1, 15), st.floats(0.2, 1.8))
def test_roughly_is_within_one_per_cent(volts, uf, share):
    exact = run(volts, uf, share)
    rough = operating_points(FIT.windings, Feed(volts, uf), load_of(FIT, share), roughly=True)
    if exact.state[0] == rough.state[0]:
        assert abs(rough.solved.line_a[0]) == pytest.approx(abs(exact.solved.line_a[0]), rel=0.02)


def test_the_curve_crosses_the_load_where_it_runs():
    at = as_plate(FIT.rated)
    curve = torque_curve(FIT, at, 2000)
    over = curve.motor_nm > curve.load_nm
    crossing = curve.rpm[np.flatnonzero(over)[-1]]
    assert crossing == pytest.approx(1090, abs=2)


@pytest.mark.parametrize("over", ["capacitor_uf", "volts_v", "load_pct", "drag_pct"])
def test_a_sweep_goes_from_nothing_to_beyond_reason_without_failing(over):
    most = {"capacitor_uf": 500, "volts_v": 600, "load_pct": 1000, "drag_pct": 400}[over]
    found = sweep(FIT, as_plate(FIT.rated), over, np.linspace(0, most, 40))
    assert all(np.isfinite(values).all() for values in found.values.values())
    assert set(found.states) <= set(STATES)
    assert len(found.states) == 40
