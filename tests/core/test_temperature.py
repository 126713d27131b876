"""Temperatures: typed in F or C, kept in C, shown as the shop reads its thermometers."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.temperature import as_shown, in_celsius, sentences


@given(st.integers(-60, 500))
def test_what_was_typed_in_f_comes_back_as_it_was_typed(degrees):
    assert as_shown(in_celsius(str(degrees), "F"), "F") == str(degrees)


@pytest.mark.parametrize(
    ("text", "degrees", "celsius"),
    [
        ("190", "F", "87.8"),
        ("88", "C", "88"),
        ("88.50", "", "88.50"),
        ("88 C", "F", "88"),
        ("190F", "C", "87.8"),
        ("190 °F", "C", "87.8"),
        ("hot", "F", "hot"),
        ("", "F", ""),
    ],
)
def test_a_unit_behind_the_figure_wins_and_what_is_no_figure_stays(text, degrees, celsius):
    assert in_celsius(text, degrees) == celsius


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("Shell 88 °C, at most 95 °C.", "Shell 190 °F, at most 203 °F."),
        ("88.5 ± 2.0 °C", "191.3 ± 3.6 °F"),
        ("Ours is +12 degrees C against the sister motor.", "Ours is +22 degrees F against the sister motor."),
        ("5.0 degrees C cooler than the return", "9.0 degrees F cooler than the return"),
        ("130 Mohm at 40 C, lead C, 5 C to R", "130 Mohm at 40 C, lead C, 5 C to R"),
    ],
)
def test_sentences_are_in_the_degrees_of_the_shop(text, shown):
    assert sentences(text, "F") == shown
    assert sentences(text, "C") == text
