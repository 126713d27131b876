"""The call file: what it takes, what it refuses and by which path."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.call import read_call, write_call
from keen_coil.core.errors import InvalidField
from keen_coil.core.readings import KINDS, Reading
from keen_coil.formats.call_file import dump_call, load_call
from tests.calls import call_data, make_call, reading


def faults(data):
    with pytest.raises(InvalidField) as error:
        read_call(data)
    return {fault.path: fault for fault in error.value.errors}


def test_the_contract_example_round_trips_with_its_digits():
    data = call_data(
        reading("capacitance_uf", "2.10", section="fan", power="dead"), reading("winding_ohm", "OL", pair=["A", "B"])
    )
    text = dump_call(read_call(data))
    assert json.loads(text)["readings"][0]["value"] == "2.10"
    assert dump_call(load_call(text.encode())) == text


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"motor__rpm": 0}, "motor.rpm"),
        ({"motor__volts": "23O"}, "motor.volts"),
        ({"motor__colour": "blue"}, "motor.colour"),
        ({"motor__phase": 2}, "motor.phase"),
        ({"motor__hp": "1/0"}, "motor.hp"),
        ({"unit__switch": {"kind": "knife"}}, "unit.switch.kind"),
        ({"version": 2}, "version"),
        ({"version": True}, "version"),
        ({"format": "other"}, "format"),
        ({"capacitor__label": [{"section": "fan"}]}, "capacitor.label.0.uf"),
        ({"complaint__says": "\ud800"}, "complaint.says"),
    ],
)
def test_a_bad_field_is_named(change, path):
    found = faults(call_data(**change))
    assert path in found
    assert found[path].expected


@pytest.mark.parametrize(
    ("row", "path"),
    [
        (reading("capacitance_uf", -2), "value"),
        (reading("telepathy", 1), "kind"),
        (reading("spin", "wobbly"), "value"),
        (reading("hold", "true", at="defrost"), "value"),
        (reading("hold", True, at="lunch"), "at"),
        (reading("supply_v", "OL"), "value"),
        (reading("supply_v", True), "value"),
        (reading("run_amps_a", [1, 2]), "value"),
        (reading("supply_v", 230, at="roof"), "at"),
        (reading("winding_ohm", 5, pair=["A"]), "pair"),
        (reading("winding_ohm", 5, pair=["A", "A"]), "pair"),
        (reading("run_amps_a", 5, turns=0), "turns"),
        (reading("capacitor_load", {"amps_a": 1, "volts_v": 0}), "value.volts_v"),
        (reading("supply_v", 230, turnz=2), "turnz"),
    ],
)
def test_a_bad_reading_is_named_by_its_index(row, path):
    assert f"readings.1.{path}" in faults(call_data(reading("spin", "free"), row))


def test_every_fault_is_told_at_once():
    found = faults(call_data(reading("spin", "wobbly"), motor__rpm=0, motor__volts="x"))
    assert set(found) == {"readings.0.value", "motor.rpm", "motor.volts"}


def test_three_values_on_a_single_phase_unit_are_refused():
    assert "readings.0.value" in faults(call_data(reading("supply_v", [230, 231, 229])))
    assert make_call(reading("supply_v", [230, 231, 229]), motor__phase=3, unit__phase=3)


def test_a_correction_withdraws_an_earlier_reading_of_the_same_kind():
    call = make_call(reading("spin", "locked"), reading("spin", "free", replaces=0))
    assert [index for index, _ in call.standing("spin")] == [1]
    assert "readings.0.replaces" in faults(call_data(reading("spin", "free", replaces=0)))
    assert "readings.1.replaces" in faults(call_data(reading("spin", "free"), reading("noise", "hum", replaces=0)))


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"{",
        b"[]",
        b"null",
        b'{"format": NaN}',
        b'{"a":1,"a":2}',
        b"\xff\xfe",
        b"[" * 5000,
        b'{"v": 1e999}',
        b"9" * 9000,
    ],
)
def test_hostile_bytes_are_refused_in_words(data):
    with pytest.raises(InvalidField) as error:
        load_call(data)
    assert error.value.errors[0].expected


@settings(max_examples=25)
@given(st.sampled_from(sorted(KINDS)), st.recursive(st.none() | st.booleans() | st.floats() | st.text(), st.lists))
def test_any_value_is_taken_or_refused_never_worse(kind, value):
    data = call_data({"kind": kind, "value": value})
    try:
        call = read_call(data)
    except InvalidField as error:
        assert all(fault.path.startswith("readings.0") for fault in error.errors)
    else:
        assert read_call(write_call(call)) == call


def test_power_state_of_the_table_holds_when_a_reading_is_silent():
    assert Reading(kind="supply_v", value=230).power_state == "live"
    assert Reading(kind="winding_ohm", value=5, power="live").wrong_power
    assert not Reading(kind="spin", value="free").wrong_power
