"""Heat and life: the worked figures, and what may never be the other way round."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.machine.conditions import Conditions, Model, Span, heat_plate, model_of
from keen_coil.core.machine.effects import QUESTIONS
from keen_coil.core.machine.expected import Range
from keen_coil.core.machine.fit import fit_plate
from keen_coil.core.machine.rated import rated
from keen_coil.core.plates import Motor
from keen_coil.core.swap.recorded import minutes_to_cool
from keen_coil.core.thermal.cost import WIRINGS, cost_of_wiring, heat_sentence
from keen_coil.core.thermal.winding import cooling_minutes, heat_of, life_of_plate, temperature_c
from tests.calls import make_call

MOTOR = {
    "kind": "psc",
    "hp": 0.25,
    "volts": "208-230",
    "amps_a": 1.4,
    "rpm": 1075,
    "hz": 60,
    "capacitor_uf": 5,
    "capacitor_v": 370,
}
PLATES = (
    {"hp": 0.25, "amps_a": 1.4, "rpm": 1075, "capacitor_uf": 5},
    {"hp": 0.167, "amps_a": 1.1, "rpm": 825, "capacitor_uf": 5},
    {"hp": 0.5, "amps_a": 3.2, "rpm": 1090, "capacitor_uf": 7.5},
)
plates = st.sampled_from(PLATES)


def at_plate(plate=PLATES[0], **more):
    """A motor on its plate's own point: its volts, its capacitor, its blade, 40 C."""
    motor = Motor(
        **{"kind": "psc", "volts": "208-230", "hz": 60, "capacitor_v": 370, "role": "condenser_fan"} | plate | more
    )
    point = rated(motor)
    volts, uf = (Span(value, value) for value in (point.volts_v, point.capacitor_uf))
    return Model(fit_plate(point), Conditions(volts, uf, load_low=1.0), (), heat_plate(motor))


def under(model, **changes):
    """The same motor under changed conditions."""
    return heat_of(replace(model, conditions=replace(model.conditions, **changes)))


@pytest.mark.parametrize(("letter", "most"), [("A", 100), ("B", 120), ("F", 145), ("H", 165), (None, 120)])
@given(plate=plates)
def test_at_its_plate_a_motor_rises_by_its_class_at_most_and_lives_its_life(letter, most, plate):
    heat = heat_of(at_plate(plate, insulation_class=letter))
    assert heat.winding_c.high == pytest.approx(most, abs=1)
    assert heat.winding_c.low == pytest.approx(40 + 0.6 * (most - 40), abs=1)
    assert heat.life_of_plate.ends == pytest.approx((1, 1, 1), abs=0.03)
    assert heat.overload.trips_after_min is None


def test_twenty_per_cent_more_loss_leaves_a_third_of_the_life():
    assert temperature_c(40, 80, np.array(0.0), np.array(1.2), 120) == pytest.approx(136)
    assert life_of_plate(Range(16, 16, 16)).ends == pytest.approx((0.25, 0.33, 0.40), abs=0.005)
    assert temperature_c(40, 80, np.array(0.6), np.array(0.6), 120) > 136  # copper warms what it is made of


@given(plate=plates, letter=st.sampled_from("ABFH"), less=st.floats(0, 30))
def test_a_plate_that_allows_a_warmer_place_allows_that_much_less_rise(plate, letter, less):
    usual, warm = (heat_of(at_plate(plate, insulation_class=letter, ambient_limit_c=c)) for c in (40, 40 + less))
    assert warm.plate_c.high == pytest.approx(usual.plate_c.high)


@given(plate=plates, one=st.floats(-20, 60), more=st.floats(0.5, 20))
def test_warmer_air_more_load_more_drag_and_less_air_are_never_cooler(plate, one, more):
    model = at_plate(plate)
    here = under(model, ambient_c=one)
    assert under(model, ambient_c=one + more).winding_c.mid > here.winding_c.mid
    assert under(model, ambient_c=one + more).life_of_plate.mid < here.life_of_plate.mid
    assert under(model, ambient_c=one, load=1 + more / 50).winding_c.mid > here.winding_c.mid
    assert under(model, ambient_c=one, drag=more / 50).winding_c.mid > here.winding_c.mid
    assert under(model, ambient_c=one, air=1 / (1 + more / 10)).winding_c.mid > here.winding_c.mid


@given(plate=plates, low=st.floats(0.7, 0.9))
def test_far_from_its_volts_it_is_hotter_the_farther(plate, low):
    model = at_plate(plate)
    volts = model.fit.rated.volts_v
    lower, low_ = (under(model, volts_v=Span(volts * x, volts * x)).winding_c.mid for x in (low - 0.05, low))
    assert lower > low_


def test_out_of_the_air_stream_less_air_changes_nothing():
    model = at_plate(enclosure="enclosed")
    assert under(model, air=0.3).winding_c.mid == heat_of(model).winding_c.mid


@given(plate=plates, question=st.sampled_from([row for row in QUESTIONS if row.name != "volts_low"]))
def test_every_band_is_in_order_and_says_so_in_words(plate, question):
    model = at_plate(plate)
    heat = heat_of(replace(model, conditions=question.change(model.conditions, model.fit.rated)))
    for band in (heat.winding_c, heat.shell_c, heat.life_of_plate, heat.overload.opens_c):
        assert band.low <= band.mid <= band.high
    assert heat.ambient_c <= heat.shell_c.low < heat.winding_c.high
    assert "year" not in heat_sentence(heat)


def test_what_stops_when_hot_is_told_from_what_never_would():
    model = at_plate()
    wrong = next(row for row in QUESTIONS if row.name == "wrong_speed")
    overloaded = heat_of(replace(model, conditions=wrong.change(model.conditions, model.fit.rated)))
    trips = overloaded.overload.trips_after_min
    assert trips is not None
    assert trips.high < 60
    assert overloaded.burns
    assert heat_of(at_plate(protection="none")).overload is None


@given(hot=st.floats(46, 180), air=st.floats(-20, 40), more=st.floats(1, 60))
def test_a_hotter_motor_takes_longer_to_cool_to_a_hands_touch(hot, air, more):
    assert cooling_minutes(hot, air).mid < cooling_minutes(hot + more, air).mid
    assert cooling_minutes(40, air).ends == (0, 0, 0)
    assert cooling_minutes(hot, 50) is None


def test_a_wrong_wiring_that_the_model_knows_costs_the_winding_and_others_are_left_to_the_check():
    call = make_call(motor=MOTOR, capacitor={"label": [{"section": "herm", "uf": 40}, {"section": "fan", "uf": 5}]})
    for fault in WIRINGS:
        assert cost_of_wiring([fault], call, planned=False)
    assert cost_of_wiring(["reversed", "wrong_section"], call, planned=False) == cost_of_wiring(
        ["wrong_section"], call, planned=False
    )
    assert cost_of_wiring(["reversed", "ground_missing"], call, planned=False) == ""
    assert cost_of_wiring([], call, planned=False) == ""


@given(st.floats(51, 140), st.floats(-10, 60))
def test_the_cooling_step_waits_until_a_hand_can_rest_on_it_or_the_air_is_as_warm(shell, air):
    call = make_call(unit={"ambient_c": air}, readings=[{"kind": "shell_c", "value": shell}])
    minutes = minutes_to_cool(call)
    assert 0 <= minutes < 400
    assert minutes_to_cool(make_call(unit={"ambient_c": air}, readings=[{"kind": "shell_c", "value": 49}])) == 0
    hotter = make_call(unit={"ambient_c": air}, readings=[{"kind": "shell_c", "value": shell + 5}])
    assert minutes_to_cool(hotter) >= minutes


def warm_call(share, meter_u=0.005, off=1.0, hot_at="2026-07-01T10:00:00Z", **readings):
    """A condenser fan whose rise is a share of its class's, with hot and cold ohms of one pair read on it."""
    looked = {"air_path": "clear", "spin": "free", "run_rpm": 1075} | readings
    rows = [{"kind": kind, "value": value} for kind, value in looked.items()]
    cold = {"kind": "winding_ohm", "pair": ["black", "white"], "value": 40.0, "u": meter_u, "temperature_c": 24}
    cold["taken_at"] = "2026-07-01T12:00:00Z"
    call = make_call(*rows, cold, motor={**MOTOR, "role": "condenser_fan"}, unit={"ambient_c": 30, "supply_v": 230})
    model = model_of(call)
    runs = heat_of(replace(model, conditions=replace(model.conditions, load_low=1.0))).winding_c
    at = runs.low + (runs.high - runs.low) * (share - 0.6) / 0.4
    hot = {"kind": "winding_ohm", "pair": ["white", "black"], "u": meter_u, "minutes_off": off, "taken_at": hot_at}
    value = 40.0 * (234.5 + at) / (234.5 + 24)
    return make_call(
        *rows,
        cold,
        {**hot, "value": value},
        motor={**MOTOR, "role": "condenser_fan"},
        unit={"ambient_c": 30, "supply_v": 230},
    ), at


@settings(max_examples=12, deadline=None)
@given(share=st.floats(0.62, 0.95), hot_at=st.sampled_from(["2026-07-01T10:00:00Z", "2026-07-01T13:00:00Z"]))
def test_hot_and_cold_ohms_narrow_the_rise_of_a_motor_that_nothing_else_heats(share, hot_at):
    call, at = warm_call(share, hot_at=hot_at)
    usual, found = (heat_of(replace(model_of(call), warmth=warm)) for warm in (None, model_of(call).warmth))
    assert found.narrowed_by == "ohms"
    assert found.winding_c.low <= at <= found.winding_c.high
    assert found.winding_c.high - found.winding_c.low < usual.winding_c.high - usual.winding_c.low
    for spoiled in ({"air_path": "dirty"}, {"spin": "stiff"}, {"off": 45.0}, {"meter_u": 4.0}, {"run_rpm": 0}):
        assert heat_of(model_of(warm_call(share, **spoiled)[0])).narrowed_by == "", spoiled


def test_a_strap_or_a_tap_on_the_wrong_volts_costs_what_the_model_says_and_the_right_one_nothing():
    motor = {**MOTOR, "volts": "115/230", "amps_a": 2.8}
    call = make_call(motor=motor, unit={"supply_v": 230}, capacitor={})
    assert "hotter" in cost_of_wiring(["wrong_strapping"], call, False, (2.0, 1.0))
    assert cost_of_wiring([], call, False, (1.0, 1.0)) == ""
    slow = cost_of_wiring(["wrong_speed"], call, False, (1 / 1.28, 1.0))
    assert slow != cost_of_wiring(["wrong_speed"], call, False, (1.0, 1 / 1.28))
