"""Numbers keep their digits; a reading becomes an interval."""

import csv
import io
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic_core import PydanticCustomError

from keen_coil.core.errors import InvalidField
from keen_coil.core.plates import Accuracy
from keen_coil.core.readings import Reading
from keen_coil.core.uncertainty import default_u, span
from keen_coil.core.units import UNIT_WORDS, Figure, Number, Span, horsepower_text
from keen_coil.core.voltage import plate_amps, plate_volts, range_for, ranges
from keen_coil.formats.catalogue_csv import read_catalogue
from keen_coil.formats.dotted import fraction
from tests.calls import make_call, reading


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


PRINTED = [
    ({"volts": "208-230V"}, "volts", "208-230"),
    ({"volts": "208 - 230"}, "volts", "208-230"),
    ({"volts": "230 V"}, "volts", "230"),
    ({"volts": "208V-230V"}, "volts", "208-230"),
    ({"volts": "208\u2013230 VAC"}, "volts", "208-230"),
    ({"volts": "115 / 230 Volts"}, "volts", "115/230"),
    ({"hp": "1/4HP"}, "hp", 0.25),
    ({"hp": "1/4 hp"}, "hp", 0.25),
    ({"hp": "1 1/2 HP"}, "hp", 1.5),
    ({"hp": "0.50HP"}, "hp", 0.5),
    ({"rpm": "1075RPM"}, "rpm", 1075),
    ({"capacitor_uf": "5MFD"}, "capacitor_uf", 5),
    ({"capacitor_uf": "7.5 uf"}, "capacitor_uf", 7.5),
    ({"capacitor_v": "370VAC"}, "capacitor_v", 370),
    ({"amps_a": "1.40A"}, "amps_a", 1.4),
    ({"hz": "60Hz"}, "hz", 60),
    ({"phase": "1PH"}, "phase", 1),
    ({"ambient_limit_c": "60 C"}, "ambient_limit_c", 60),
    ({"body_diameter_in": '5 5/8"'}, "body_diameter_in", 5.625),
]


@pytest.mark.parametrize(("plate", "field", "value"), PRINTED)
def test_a_plate_means_what_it_prints_in_files_csv_and_pages(plate, field, value):
    in_file = make_call(**{f"motor__{name}": text for name, text in plate.items()}).motor
    assert getattr(in_file, field) == value
    columns = {
        "part_no": "P-1",
        "kind": "psc",
        "hp": "0.25",
        "volts": "230",
        "amps_a": "1.4",
        "phase": "1",
        "hz": "60",
        "rpm": "1075",
    } | plate
    row = io.StringIO(newline="")
    csv.writer(row).writerows([columns, columns.values()])
    assert getattr(read_catalogue(row.getvalue().encode())[0], field) == value


@given(st.sampled_from(sorted(UNIT_WORDS)), st.decimals(0, 400, places=2, allow_nan=False), st.data())
def test_the_unit_behind_a_number_never_changes_it(unit, number, data):
    word = data.draw(st.sampled_from(UNIT_WORDS[unit]))
    for text in (f"{number}{word}", f"{number} {word.upper()}", f" {number} {word} "):
        assert Number(0, 500, unit=unit).take(text) == float(number)
        assert str(Number(0, 500, unit=unit).take(text)) == str(number)


@pytest.mark.parametrize(
    "text", ["1400mA", "0.23kV", "5 mfd 370", "RPM", "1/0 HP", "1/4/2HP", "5V", "1,4A", "--4A", "4AA"]
)
def test_a_number_with_anything_else_behind_it_is_refused(text):
    with pytest.raises(InvalidField) as error:
        make_call(motor__amps_a=text)
    assert error.value.errors[0].path == "motor.amps_a"


@pytest.mark.parametrize(
    ("change", "slip"),
    [
        ({"motor__amps_a": 1400}, "mA"),
        ({"motor__rpm": 17250}, "decimal point"),
        ({"unit__ambient_c": 450}, "in F"),
        ({"motor__capacitor_uf": 5000}, "nF"),
        ({"readings": [reading("shell_c", 451)]}, "in F"),
        ({"readings": [reading("run_amps_a", 1350)]}, "mA"),
        ({"readings": [reading("supply_v", 23800)]}, "mV"),
    ],
)
def test_a_value_of_impossible_size_names_the_slip_it_probably_is(change, slip):
    with pytest.raises(InvalidField) as error:
        make_call(**change)
    assert slip in error.value.errors[0].expected


@pytest.mark.parametrize(("text", "stock"), [("true", 1), ("false", 0), ("TRUE", 1), ("3", 3), ("", None)])
def test_stock_is_a_number_or_yes_and_no(text, stock):
    data = f"part_no,kind,hp,volts,amps_a,phase,hz,rpm,on_van\nP-1,psc,1/4,208-230,1.40,1,60,1075,{text}\n"
    assert read_catalogue(data.encode())[0].on_van == stock
