"""No column is forgotten: each of a call and its rows, filled, comes back from a call file and from an archive."""

import io
from datetime import UTC, date, datetime, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import inspect

from keen_coil.core.call import read_call
from keen_coil.core.record import KeptOutcome, KeptPlan, RecordFollowUp
from keen_coil.core.tables import TableError
from keen_coil.services.calls import whole_call
from keen_coil.services.calls.call_files import export_call, import_call
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.log.archive import export_log, import_log
from keen_coil.store import tables
from tests.calls import make_call
from tests.fixtures import stamp

NOW = datetime(2026, 7, 1, 10, tzinfo=UTC)
TABLES = (tables.Call, tables.Step, tables.FollowUp, tables.PartUsed)
MADE_ANEW = {"id", "call_id", "motor_id", "technician_id", "version", "search_text", "uid"}
"""What is numbered or counted where a file comes in; identities are held by the tests of syncing."""
moments = st.integers(1, 50_000).map(lambda minutes: NOW + timedelta(minutes=minutes))
words = st.text("abcdefg hij", min_size=1, max_size=20).map(lambda text: f"x{text.strip()}")
WRITTEN = {
    "opened_at": moments,
    "closed_at": moments,
    "power": st.just("dead"),
    "power_at": moments,
    "school": st.sampled_from(["like", "hp_amps", "ten_percent"]),
    "plan": st.just(KeptPlan(renewal="ten_low", on_van=2, lead_days=3.0)),
    "outcome": words.map(lambda text: KeptOutcome(verdict="condemn_motor", unfinished=text)),
    "van": words,
    "complaint": st.just({"symptom": "noisy", "says": "It rattles."}),
    "meters": st.just({"clamp": {"run_amps_a": {"accuracy_pct": 2.0}}}),
    "chosen": st.just({"part_no": "AL-77", "kind": "psc"}),
    "changes": st.just({"made": [{"what": "coil_cleaned", "at": "2026-07-01T10:00:00Z"}]}),
    "practice": st.just(False),
    "station": st.just("swap"),
    "step": words,
    "done_at": moments,
    "skipped": words,
    "kind": st.just("watch"),
    "says": words,
    "due_on": st.just(date(2026, 8, 9)),
    "settled_at": moments,
    "settled": words,
    "part_no": words,
    "quantity": st.integers(2, 9),
    "source": words,
    "booked_at": moments,
}


def filled(table):
    """A strategy of values for every column that is not made anew."""
    names = [column.key for column in inspect(table).columns if column.key not in MADE_ANEW]
    return st.fixed_dictionaries({name: WRITTEN[name] for name in names})


def said(value):
    """What JSON says without what it leaves to the default."""
    return (
        {key: said(inner) for key, inner in value.items() if inner not in ([], 0)} if isinstance(value, dict) else value
    )


def kept(db, call_id):
    with db.reading() as session:
        call = session.get(tables.Call, call_id)
        rows = [call, call.steps[0], call.follow_ups[0], call.parts[0]]
        return [
            {c.key: said(getattr(row, c.key)) for c in inspect(type(row)).columns if c.key not in MADE_ANEW}
            for row in rows
        ]


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.tuples(*(filled(table) for table in TABLES)))
def test_every_column_comes_back_from_a_call_file_and_from_an_archive(stocked, db, values):
    number = import_call(stocked, stamp(0), make_call(), "one.call.json")
    with stocked.writing() as session:
        call = session.get(tables.Call, number)
        for name, value in values[0].items():
            setattr(call, name, value)
        for table, fields in zip(TABLES[1:], values[1:], strict=True):
            session.add(table(call_id=number, **fields))
    before = kept(stocked, number)
    file = read_call(export_call(open_call_view(stocked, number)))
    assert kept(db, import_call(db, stamp(0), file, "one.call.json")) == before
    packed = io.BytesIO()
    export_log(stocked, packed, NOW)
    import_log(db, stamp(0), io.BytesIO(packed.getvalue()), replace=True)
    with db.reading() as session:
        uid = open_call_view(stocked, number).row.uid
        there = session.query(tables.Call).where(tables.Call.uid == uid).one().id
    assert kept(db, there) == before


def test_a_column_without_a_field_in_the_call_file_is_no_program(monkeypatch):
    monkeypatch.setitem(whole_call._RECORDS, tables.Step, (RecordFollowUp, set()))
    with pytest.raises(TableError, match=r"Step: .*station"):
        whole_call.columns_of(tables.Step)
