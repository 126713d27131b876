"""What is done to a unit and what is read of it, in the order of the acts, however quick the thumb."""

from datetime import timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keen_coil.core.changes import state_of
from keen_coil.services.calls import changes, readings
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.calls import open_call
from tests.fixtures import NOW, stamp

SITE = {"site": "Net loft", "unit": "roof", "technician": "Corin Hask", "role": "condenser_fan", "symptom": "stops_hot"}
STEPS = st.lists(st.tuples(st.sampled_from(["read", "clean"]), st.integers(0, 1_400_000)), min_size=2, max_size=7)


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(STEPS, st.integers(0, 999_999))
def test_a_reading_stands_after_the_changes_made_before_it_and_before_those_made_after(db, steps, start):
    """Acts follow each other within one second or the next: the file's seconds do not turn them round."""
    now, made, expected = NOW + timedelta(microseconds=start), 0, []
    call = open_call(db, stamp(0, now=now), {**SITE, "unit": f"roof {stamp().act_id}"})
    for act, microseconds in steps:
        now += timedelta(microseconds=microseconds)
        version = open_call_view(db, call).row.version
        if act == "read":
            fields = {"kind": "air_path", "value": "dirty", "sure": "yes", "anyway": "yes"}
            readings.take_reading(db, call, stamp(version, now=now), fields)
            expected.append(made)
        else:
            changes.note_change(db, call, stamp(version, now=now), {"what": "coil_cleaned"})
            made += 1
    found = open_call_view(db, call).call
    assert [state_of(reading, found.changes_in_order) for reading in found.readings] == expected
    assert all("stepped back" not in (reading.note or "") for reading in found.readings)
