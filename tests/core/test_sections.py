"""Windings in sections: one section is the two-winding motor, halves in series are the whole, shorted turns a ring."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.machine.circuit import capacitor_ohm, solve
from keen_coil.core.machine.operating_point import solve_shorted
from keen_coil.core.machine.sections import Branch, Coil, Source, leakage, solve_network
from tests.motors import SLIPS, circuits, fitted

UF = 5.0
WHOLE = (Coil("main", "l", "n"), Coil("aux", "c", "n"))
SHARES = st.floats(0.05, 0.95)


def wired(windings, coils, slip, *more, volts=230.0):
    """The coils on a line from l to n, the capacitor between l and c."""
    capacitor = Branch("l", "c", complex(capacitor_ohm(UF, windings.hz)))
    return solve_network(windings, coils, (capacitor, *more), (Source("l", "n", volts),), slip)


@given(circuits(), SLIPS)
def test_one_section_is_the_two_winding_motor(windings, slip):
    found, whole = wired(windings, WHOLE, slip), solve(windings, 230, slip, UF)
    assert found.coil_a[0] == pytest.approx(complex(whole.main_a), rel=1e-6)
    assert found.coil_a[1] == pytest.approx(complex(whole.aux_a), rel=1e-6)
    assert float(found.torque_nm) == pytest.approx(float(whole.torque_nm), rel=1e-6, abs=1e-9)
    assert found.source_a[0] == pytest.approx(-complex(whole.line_a), rel=1e-6)


@given(circuits(), SLIPS, SHARES)
def test_sections_in_series_are_the_whole_wherever_it_is_cut(windings, slip, share):
    coils = (Coil("main", "l", "tap", share), Coil("main", "tap", "n", 1 - share), Coil("aux", "c", "n"))
    found, whole = wired(windings, coils, slip), solve(windings, 230, slip, UF)
    assert found.coil_a[0] == pytest.approx(complex(whole.main_a), rel=1e-6)
    assert found.coil_a[1] == pytest.approx(found.coil_a[0], rel=1e-6)
    assert float(found.torque_nm) == pytest.approx(float(whole.torque_nm), rel=1e-6, abs=1e-9)


def test_halves_in_parallel_on_half_the_volts_take_twice_the_amps_for_the_same_torque():
    windings = fitted().windings
    series = (Coil("main", "l", "m", 0.5), Coil("main", "m", "n", 0.5))
    parallel = (Coil("main", "l", "n", 0.5), Coil("main", "l", "n", 0.5))
    slip = np.array([0.09, 0.5, 1.0])
    high = solve_network(windings, series, (), (Source("l", "n", 230.0),), slip)
    low = solve_network(windings, parallel, (), (Source("l", "n", 115.0),), slip)
    assert np.allclose(np.abs(low.source_a), 2 * np.abs(high.source_a), rtol=1e-6)
    assert np.allclose(low.torque_nm, high.torque_nm, rtol=1e-6, atol=1e-9)


@given(circuits(), SLIPS, SHARES)
def test_shorted_turns_are_a_section_with_its_ends_joined(windings, slip, share):
    coils = (Coil("main", "l", "n", 1 - share), Coil("main", "n", "ring", share), Coil("aux", "c", "n"))
    ring = wired(windings, coils, slip, Branch("n", "ring", 1e-9))
    found = solve_shorted(windings, 230.0, slip, UF, share)
    assert ring.coil_a[0] == pytest.approx(complex(found.main_a), rel=1e-5)
    assert float(ring.torque_nm) == pytest.approx(float(found.torque_nm), rel=1e-5, abs=1e-8)


def test_shorted_turns_take_more_amps_the_more_there_are_and_power_still_balances():
    windings = fitted().windings
    amps = [abs(solve_shorted(windings, 230.0, 0.09, UF, share).line_a) for share in (0.01, 0.05, 0.1, 0.2)]
    assert amps == sorted(amps)
    assert amps[0] == pytest.approx(abs(solve(windings, 230, 0.09, UF).line_a), rel=0.1)
    found = solve_shorted(windings, 230.0, 0.09, UF, 0.1)
    out = found.copper_w + found.rotor_w + 0.91 * found.air_gap_w()
    assert float(found.input_w) == pytest.approx(float(out), rel=1e-9)


def test_shorted_turns_with_an_open_capacitor_run_on_the_main_winding_alone():
    windings = fitted().windings
    opened = solve_shorted(windings, 230.0, 0.09, None, 0.1)
    assert abs(opened.aux_a) < 1e-5
    assert abs(opened.line_a) > abs(solve(windings, 230, 0.09, None).line_a)


@given(st.lists(st.floats(0.05, 1), min_size=1, max_size=5), st.floats(0.1, 20), st.floats(1, 400))
def test_the_sections_leakage_adds_up_to_the_windings(parts, x, xm):
    turns = [part / sum(parts) for part in parts]
    own, mutual = leakage(turns, x, xm)
    total = sum(a * b * (own if i == j else mutual) for i, a in enumerate(turns) for j, b in enumerate(turns))
    assert total == pytest.approx(x, rel=1e-9)
    if len(turns) == 1:
        assert own == pytest.approx(x)


def test_a_node_left_hanging_has_a_voltage_and_no_current():
    windings = fitted().windings
    coils = (
        Coil("main", "l", "tap", 0.7),
        Coil("main", "tap", "n", 0.3),
        Coil("main", "n", "loose", 0.2, fitted=False),
    )
    found = solve_network(windings, coils, (), (Source("l", "n", 230.0),), 0.1)
    assert abs(found.coil_a[2]) < 1e-6
    assert 20 < abs(found.node_v["loose"] - found.node_v["n"]) < 80
