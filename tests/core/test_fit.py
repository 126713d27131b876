"""The fit from the plate: what fits, what is refused and why, and the behaviours that must come out of it."""

import pickle
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.machine.circuit import solve
from keen_coil.core.machine.conditions import Model, as_plate
from keen_coil.core.machine.expected import expected, load_of
from keen_coil.core.machine.fit import Ohms, fit_plate
from keen_coil.core.machine.load import blade_share
from keen_coil.core.machine.operating_point import STATES, Feed, operating_points
from keen_coil.core.machine.rated import NoModel, rated, usual_efficiency
from keen_coil.formats.catalogue_csv import read_catalogue
from keen_coil.services.demo.demo import DATA
from tests.motors import fitted, plate

CATALOGUE = [motor for motor in read_catalogue((DATA / "motors.csv").read_bytes()) if motor.kind == "psc"]
SIZES = [
    (hp, amps, uf, rpm)
    for hp, rows in {
        1 / 6: [(1.0, 5), (1.1, 5), (0.95, 4)],
        1 / 5: [(1.2, 5), (1.4, 5)],
        1 / 4: [(1.4, 5), (1.7, 7.5), (1.9, 5)],
        1 / 3: [(1.9, 5), (2.2, 7.5), (2.5, 7.5)],
        1 / 2: [(2.8, 7.5), (3.0, 10), (3.4, 7.5)],
        3 / 4: [(3.9, 10), (4.3, 15), (4.3, 7.5)],
        1: [(4.8, 15), (5.6, 20), (5.0, 10)],
    }.items()
    for amps, uf in rows
    for rpm in (1075, 1100)
]


def test_the_demo_catalogue_is_wide_and_nearly_all_of_it_fits():
    fits = refused = 0
    for motor in CATALOGUE:
        try:
            found = fit_plate(rated(motor))
        except NoModel as error:
            assert motor.volts == "460", error.because
            refused += 1
            continue
        fits += 1
        assert max(abs(miss) for miss in found.misses.values()) < 2
    assert fits >= 0.95 * len(CATALOGUE)
    assert refused
    assert min(m.hp for m in CATALOGUE) <= 1 / 40 and max(m.hp for m in CATALOGUE) >= 1  # noqa: PT018
    assert {rated(m).poles for m in CATALOGUE if m.volts != "460"} == {2, 4, 6, 8}
    assert {"115", "208-230", "460"} <= {m.volts for m in CATALOGUE}


def _changes(found):
    """Amps and speed against the plate's, starting torque against its own, under what the trade asks about."""
    uf, volts = found.rated.capacitor_uf, found.rated.volts_v
    feed = Feed(volts, np.array([1, 0.8, 0.5, 0, 1, 1]) * uf)
    points = operating_points(found.windings, feed, load_of(found, np.array([1, 1, 1, 1, 1.15, 0.7])))
    amps = 100 * (np.abs(points.solved.line_a) / abs(points.solved.line_a[0]) - 1)
    return points, amps, 100 * (points.starting_nm / points.starting_nm[0] - 1)


@pytest.mark.parametrize(("hp", "amps", "uf", "rpm"), SIZES)
def test_behaviours_of_six_pole_fan_motors(hp, amps, uf, rpm):
    points, change, start = _changes(fitted(hp=hp, amps_a=amps, capacitor_uf=uf, rpm=rpm))
    assert [STATES[state] for state in points.state[[0, 3]]] == ["starts_and_runs", "runs_only_if_pushed"]
    assert points.rpm[1] < points.rpm[0]
    assert -3 <= change[1] <= 12
    assert -30 <= start[1] <= -15
    assert 10 <= change[2] <= 30
    assert start[3] == pytest.approx(-100)
    assert points.solved.capacitor_v[0] > 1.2 * 230
    assert 4 <= change[4] <= 15
    assert -28 <= change[5] <= -8


@pytest.mark.parametrize("motor", [m for m in CATALOGUE if m.volts != "460"], ids=lambda m: m.part_no)
def test_everywhere_the_signs_of_speed_and_start(motor):
    points, _, start = _changes(fit_plate(rated(motor)))
    assert STATES[points.state[0]] == "starts_and_runs"
    assert points.rpm[0] == pytest.approx(motor.rpm, rel=0.005)
    assert points.rpm[1] < points.rpm[0]
    assert start[1] < 0
    assert points.rpm[4] < points.rpm[0] < points.rpm[5]


def test_a_fit_meets_plate_amps_and_power_at_plate_slip():
    found = fitted()
    at = solve(found.windings, 230, found.rated.slip, 5)
    assert abs(at.line_a) == pytest.approx(1.4, rel=0.01)
    shaft = (1 - found.rated.slip) * at.air_gap_w() - found.windings.core_w - found.windings.friction_w
    assert float(shaft) == pytest.approx(0.25 * 745.7, rel=0.01)
    assert 0.75 * 370 <= float(at.capacitor_v) <= 0.95 * 370
    for windings in (found.members, found.draws):
        every = solve(windings, 230, found.rated.slip, 5)
        assert np.allclose(np.abs(every.line_a), 1.4, rtol=0.05)


def test_measured_ohms_take_the_place_of_the_priors():
    free = fitted()
    ohms = Ohms(1.25 * free.windings.r1_ohm, 0.03, 1.2 * free.windings.r1a_ohm, 0.03)
    found = fit_plate(rated(plate()), ohms)
    assert found.measured_ohms
    assert found.windings.r1_ohm == pytest.approx(ohms.main_ohm, rel=0.03)
    assert found.windings.r1a_ohm == pytest.approx(ohms.aux_ohm, rel=0.03)
    assert max(abs(miss) for miss in found.misses.values()) < 2


def test_a_low_volts_motor_on_a_370_capacitor_has_a_far_larger_ratio():
    low = fitted(volts="115", amps_a=2.96, capacitor_uf=7.5).windings.turns_ratio
    assert low > 1.7 * fitted().windings.turns_ratio
    assert low <= 4


@pytest.mark.parametrize(
    ("changes", "field", "expected"),
    [
        ({"hp": 1}, "motor.hp", "volts times amps"),
        ({"rpm": 1800, "poles": 4}, "motor.rpm", "below 1800"),
        ({"rpm": 3700}, "motor.rpm", "below 3600"),
        ({"capacitor_uf": 500}, "motor.capacitor_uf", "at most"),
        ({"volts": "460", "amps_a": 0.75}, "motor.capacitor_v", "tapped feed"),
        ({"kind": "shaded_pole"}, "motor.kind", "plate rules"),
        ({"kind": "ecm"}, "motor.kind", "plate rules"),
        ({"phase": 3}, "motor.phase", "1"),
        ({"amps_a": None}, "motor.amps_a", "plate's value"),
        ({"capacitor_uf": None}, "motor.capacitor_uf", "plate's value"),
        ({"hp": None}, "motor.hp", "plate's value"),
    ],
)
def test_plates_no_motor_can_have_are_refused_by_field(changes, field, expected):
    with pytest.raises(NoModel) as refused:
        rated(plate(**changes))
    fault = refused.value.errors[0]
    assert fault.path == field
    assert expected in fault.expected
    assert re.search(r"from the plate|on the plate|for this kind", refused.value.because), refused.value.because
    assert "_" not in refused.value.because, "a plate has no field names"
    assert pickle.loads(pickle.dumps(refused.value)).errors == refused.value.errors  # noqa: S301


def test_every_field_in_the_way_is_named_at_once():
    with pytest.raises(NoModel) as refused:
        rated(plate(hp=None, rpm=None, volts=None))
    assert {fault.path for fault in refused.value.errors} == {"motor.hp", "motor.rpm", "motor.volts"}


def test_a_plate_that_the_model_misses_by_more_than_five_per_cent_is_refused():
    with pytest.raises(NoModel, match="plate rules only") as refused:
        fitted(hp=0.4, amps_a=1.4, capacitor_uf=0.5)
    assert refused.value.errors[0].path == "motor"
    with pytest.raises(NoModel):
        fitted(hp=0.4, amps_a=1.4, capacitor_uf=0.5)


@settings(max_examples=25)
@given(
    st.floats(1e-4, 5),
    st.floats(0.01, 60),
    st.floats(50, 3599),
    st.floats(0.01, 100),
    st.sampled_from([None, 230, 370, 440, 660]),
    st.sampled_from(["115", "208-230", "277", "460", "115/230"]),
    st.sampled_from([50, 60, None]),
)
def test_any_plate_has_a_fit_or_a_reason(hp, amps, rpm, uf, cap_v, volts, hz):
    try:
        found = fit_plate(
            rated(plate(hp=hp, amps_a=amps, rpm=rpm, capacitor_uf=uf, capacitor_v=cap_v, volts=volts, hz=hz))
        )
    except NoModel as error:
        assert all(fault.path.startswith("motor") and fault.expected for fault in error.errors)
        return
    should = expected(Model(found, as_plate(found.rated)))
    bands = [*should.run_amps_a.values(), should.run_rpm, should.shaft_w, should.starting_torque_pct]
    assert all(
        np.isfinite([band.low, band.mid, band.high]).all() and band.low <= band.mid <= band.high for band in bands
    )


def test_the_connection_that_belongs_to_the_supply_is_fitted():
    both = plate(volts="115/230", amps_a=2.8)
    assert (rated(both, 118).volts_v, rated(both, 118).amps_a) == (115, 2.8)
    assert (rated(both, 238).volts_v, rated(both, 238).amps_a) == (230, 1.4)
    assert rated(plate()).volts_v == 230
    assert rated(plate(volts="220-240", hz=50, rpm=910)).poles == 6


def test_what_was_taken_for_granted_is_said():
    assert rated(plate(hz=None)).assumed == ("60 Hz",)
    assert rated(plate(hz=None), hz=50.0).assumed == ()
    assert "370" in rated(plate(capacitor_v=None)).assumed[0]
    assert "poles" in rated(plate(rpm=950)).doubts[0]


def test_usual_efficiency_and_the_cube_of_speed():
    assert [usual_efficiency(watts) for watts in (20, 100, 750)] == pytest.approx([0.35, 0.55, 0.70])
    assert usual_efficiency(45) == pytest.approx(0.45, abs=0.01)
    assert blade_share(1090, 830) == pytest.approx(2.26, abs=0.01)


def test_the_even_points_are_those_of_scipy():
    from scripts import even_points

    assert even_points.FILE.read_text(encoding="utf-8") == even_points.text()
