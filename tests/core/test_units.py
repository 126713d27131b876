"""Numbers keep their digits; a reading becomes an interval."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic_core import PydanticCustomError

from keen_coil.core.plates import Accuracy
from keen_coil.core.readings import Reading
from keen_coil.core.uncertainty import default_u, span
from keen_coil.core.units import Figure, Number, Span, horsepower_text
from keen_coil.core.voltage import plate_amps, plate_volts, range_for, ranges
from keen_coil.formats.dotted import fraction


def test_typed_digits_stay():
    assert str(Figure("2.10")) == "2.10"
    assert Figure("2.10") == 2.1


@given(st.floats(min_value=0.001, max_value=9999).map(lambda x: f"{x:.3f}"))
def test_any_decimal_text_is_the_number_it_says(text):
    assert float(Number(0, 1e6).take(text)) == float(text)
    assert str(Number(0, 1e6).take(text)) == text


@pytest.mark.parametrize(
    "value", ["23O", "", "1e9", "nan", "inf", "0x1", "1_0", True, None, [], math.nan, math.inf, -1]
)
def test_what_is_no_number_is_refused(value):
    with pytest.raises(PydanticCustomError):
        Number(0, 1000).take(value)


def test_uncertainty_worked_example():
    meter = {"clamp": {"amps": Accuracy(accuracy_pct=2, counts=3, resolution=0.01)}}
    five = span(8.10, Reading(kind="run_amps_a", value=8.10, turns=5, meter="clamp"), meter)
    assert five.mid == pytest.approx(1.620)
    assert five.u == pytest.approx(0.038, abs=0.0005)
    one = span(1.62, Reading(kind="run_amps_a", value=1.62, meter="clamp"), meter)
    assert one.u == pytest.approx(0.062, abs=0.0005)


@pytest.mark.parametrize(
    ("value", "unit", "u"),
    [(1.0, "A", 0.05), (230, "V", 2.6), (10, "ohm", 0.45), (5, "µF", 0.13), (60, "µF", 1.5), (40, "C", 2.0)],
)
def test_default_meter(value, unit, u):
    assert default_u(value, unit) == pytest.approx(u)


def test_stated_uncertainty_wins_and_is_divided_by_turns():
    assert span(9.0, Reading(kind="run_amps_a", value=9.0, u=0.5, turns=5), {}).u == pytest.approx(0.1)


def test_span_inside_outside_straddling():
    limits = (4.7, 5.3)
    assert Span(4.7, 5.3).within(*limits)
    assert Span(2.0, 4.69).outside(*limits)
    assert not Span(4.6, 4.8).within(*limits)
    assert not Span(4.6, 4.8).outside(*limits)


@pytest.mark.parametrize(
    ("hp", "text"),
    [(0.25, "1/4"), (0.333, "1/3"), (0.75, "3/4"), (1, "1"), (1.5, "1.5"), (0.02, "1/50"), (0.28, "0.28")],
)
def test_horsepower_as_on_plates(hp, text):
    assert horsepower_text(hp) == text


@pytest.mark.parametrize(("text", "number"), [("1/4", 0.25), ("1 1/2", 1.5), ("1/0", "1/0"), ("0.5", "0.5")])
def test_fractions_from_forms(text, number):
    assert fraction(text) == number


@pytest.mark.parametrize(
    ("volts", "window"),
    [("208-230", (187.2, 253)), ("230", (207, 253)), ("115", (103.5, 126.5)), ("460", (414, 506))],
)
def test_supply_windows(volts, window):
    assert ranges(volts)[0].window() == pytest.approx(window)


@pytest.mark.parametrize("volts", ["23O", "0", "230/115", "", "208-", "230-208", "2300", "-230", "115/230/460/575"])
def test_plate_volts_that_are_none(volts):
    with pytest.raises(ValueError, match="plate volts such as"):
        plate_volts(volts)


def test_dual_voltage_amps_follow_the_supply():
    assert plate_amps("208-230/460", 3.2, None, 230) == 3.2
    assert plate_amps("208-230/460", 3.2, None, 460) == 1.6
    assert plate_amps("208-230/460", 3.2, 1.7, 455) == 1.7
    assert plate_amps("115/230", 4.0, None, None) is None
    assert str(range_for("115/230", 236)) == "230"
