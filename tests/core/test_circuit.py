"""The two-winding circuit: the published motor, what must always hold, and two solutions of other make."""

import math
from dataclasses import replace

import numpy as np
import pytest
from bench.true_motor import TrueMotor
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.machine.answer import circuit_answer, read_circuit
from keen_coil.core.machine.circuit import capacitor_ohm, fields, solve
from tests.motors import MICROFARADS, PUBLISHED, SLIPS, circuits

CIRCUIT = {
    "v": 110,
    "hz": 60,
    "poles": 4,
    "slip": 0.05,
    "r1_ohm": 2.02,
    "x1_ohm": 2.79,
    "r2_ohm": 4.12,
    "x2_ohm": 2.12,
    "xm_ohm": 66.8,
    "turns_ratio": 1,
    "r1a_ohm": 2,
    "x1a_ohm": 2,
    "capacitor_uf": None,
    "core_w": 24,
    "friction_w": 13,
}


def test_the_published_motor_within_one_per_cent():
    answer = circuit_answer(read_circuit(CIRCUIT))
    assert answer.line_a[0] == pytest.approx(3.6, rel=0.01)
    assert answer.power_factor == pytest.approx(0.62, rel=0.01)
    assert answer.rpm == pytest.approx(1710)
    assert answer.shaft_w == pytest.approx(147, rel=0.01)
    assert answer.shaft_torque_nm == pytest.approx(0.82, rel=0.01)
    assert answer.efficiency == pytest.approx(0.60, rel=0.01)
    assert answer.capacitor_v is None
    assert answer.aux_a[0] == 0


@given(circuits(), st.floats(20, 500), SLIPS, MICROFARADS)
def test_what_goes_in_comes_out(windings, volts, slip, uf):
    found = solve(windings, volts, slip, uf)
    out = found.copper_w + found.rotor_w + (1 - slip) * found.air_gap_w()
    assert float(found.input_w) == pytest.approx(float(out), rel=1e-9, abs=1e-9)


@given(circuits(), SLIPS, MICROFARADS)
def test_turned_round_in_space_and_direction_it_is_the_same_motor(windings, slip, uf):
    there = solve(windings, 230, slip, uf).torque_nm
    back = solve(replace(windings, turns_ratio=-windings.turns_ratio), 230, 2 - slip, uf).torque_nm
    assert float(there) == pytest.approx(-float(back), rel=1e-9, abs=1e-12)


@given(circuits(), SLIPS, st.floats(1, 60))
def test_amps_go_with_volts_and_torque_with_their_square(windings, slip, uf):
    one, two = solve(windings, 100, slip, uf), solve(windings, 200, slip, uf)
    assert abs(two.line_a) == pytest.approx(2 * abs(one.line_a), rel=1e-9)
    assert float(two.torque_nm) == pytest.approx(4 * float(one.torque_nm), rel=1e-9, abs=1e-12)


@given(circuits(), SLIPS)
def test_a_shorted_capacitor_is_the_limit_of_a_large_one(windings, slip):
    shorted, large = solve(windings, 230, slip, math.inf), solve(windings, 230, slip, 1e9)
    assert abs(shorted.line_a) == pytest.approx(abs(large.line_a), rel=1e-4)
    assert float(shorted.capacitor_v) == 0


def test_the_limits_at_both_synchronous_speeds():
    forward, backward = fields(PUBLISHED, 0.0)
    assert complex(forward) == pytest.approx(0.5j * 66.8)
    assert complex(backward) == pytest.approx(complex(fields(PUBLISHED, 2.0)[0]))
    assert np.isfinite(solve(PUBLISHED, 110, np.array([0.0, 2.0]), 10).torque_nm).all()


def test_without_a_capacitor_there_is_no_torque_at_rest_and_with_one_there_is():
    assert float(solve(PUBLISHED, 110, 1.0, None).torque_nm) == pytest.approx(0, abs=1e-12)
    assert float(solve(PUBLISHED, 110, 1.0, 40).torque_nm) > 0.1


def test_an_open_winding_carries_nothing():
    main_only = solve(PUBLISHED, 110, 0.05, 40, aux_ohm=np.inf)
    assert abs(main_only.aux_a) == 0
    assert abs(main_only.line_a) == pytest.approx(3.6049, abs=1e-3)
    aux_only = solve(PUBLISHED, 110, 0.05, 40, main_ohm=np.inf)
    assert abs(aux_only.main_a) == 0
    assert abs(aux_only.line_a) == pytest.approx(abs(aux_only.aux_a))


def test_a_capacitor_by_its_reactance():
    assert complex(capacitor_ohm(5.0, 60)) == pytest.approx(-530.516j, abs=1e-3)
    assert np.isinf(complex(capacitor_ohm(None, 60)).imag)
    assert complex(capacitor_ohm(math.inf, 60)) == 0


@given(circuits(), st.floats(1, 60))
def test_coupled_circuits_with_speed_voltages_give_the_same(windings, uf):
    """Stator and rotor in two axes, as four coupled circuits: another form of the same machine."""
    w = windings
    motor = TrueMotor(
        230,
        w.hz,
        w.poles,
        w.r1_ohm,
        w.x1_ohm,
        w.r2_ohm,
        w.x2_ohm,
        w.xm_ohm,
        w.turns_ratio,
        w.r1a_ohm,
        w.x1a_ohm,
        uf,
        0,
        0.25,
        1.4,
        1090,
        180,
        2.0,
    )
    speed = np.array([-0.8, -0.5, 0.0, 0.5, 0.9, 0.95])
    main, aux, torque = motor.flows(230, uf, speed)
    found = solve(w, 230, 1 - speed, uf)
    assert np.allclose(np.abs(main), np.abs(found.main_a), rtol=1e-9)
    assert np.allclose(np.abs(aux), np.abs(found.aux_a), rtol=1e-9)
    assert np.allclose(torque, found.torque_nm, rtol=1e-7, atol=1e-9)


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"poles": 5}, "poles"),
        ({"poles": 0}, "poles"),
        ({"slip": 2.5}, "slip"),
        ({"slip": -0.1}, "slip"),
        ({"r1_ohm": 0}, "r1_ohm"),
        ({"v": "abc"}, "v"),
        ({"v": -5}, "v"),
        ({"xm_ohm": None}, "xm_ohm"),
        ({"turns_ratio": 0}, "turns_ratio"),
        ({"capacitor_uf": "open"}, "capacitor_uf"),
        ({"extra": 1}, "extra"),
        ({"core_w": True}, "core_w"),
    ],
)
def test_a_circuit_that_cannot_be_is_refused_by_its_field(change, path):
    with pytest.raises(InvalidField) as refused:
        read_circuit({**CIRCUIT, **change})
    assert [fault.path for fault in refused.value.errors] == [path]


def test_a_missing_value_of_a_circuit_is_named():
    with pytest.raises(InvalidField, match="capacitor_uf: got nothing; expected a value"):
        read_circuit({key: value for key, value in CIRCUIT.items() if key != "capacitor_uf"})
    with pytest.raises(InvalidField, match="an object"):
        read_circuit([1])


@pytest.mark.parametrize("slip", [0, 0.4, 1, 1.5, 2])
def test_a_circuit_answers_at_every_slip(slip):
    answer = circuit_answer(read_circuit({**CIRCUIT, "slip": slip, "capacitor_uf": 30}))
    assert answer.rpm == pytest.approx(1800 * (1 - slip))
    assert answer.capacitor_v > 0
    if slip == 1:
        assert answer.shaft_w == 0
        assert answer.shaft_torque_nm > 0
    else:
        assert answer.shaft_w == pytest.approx(answer.shaft_torque_nm * answer.rpm * math.pi / 30)
