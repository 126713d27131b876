"""Many readings about the same thing: the same readings are doubted and out of date as when every pair is held together."""

from datetime import UTC, datetime, timedelta
from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.diagnosis.case import APART_MINUTES, EVERY_PAIR, Case
from keen_coil.core.judge.subjects import disagree
from keen_coil.core.judge.subjects import groups as groups_of
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.readings import minutes_between
from tests.calls import make_call, reading

AT = datetime(2026, 3, 14, 9, 0, tzinfo=UTC)
VALUES = {
    "supply_v": st.floats(200, 260).map(lambda v: round(v, 1)),
    "capacitance_uf": st.one_of(st.floats(0.1, 9).map(lambda v: round(v, 2)), st.just("shorted")),
    "winding_ohm": st.one_of(st.floats(1, 60).map(lambda v: round(v, 1)), st.just("OL")),
    "run_amps_a": st.floats(0.1, 4).map(lambda v: round(v, 2)),
    "spin": st.sampled_from(["free", "stiff", "rough", "locked"]),
    "breaker": st.sampled_from(["closed", "tripped"]),
}


@st.composite
def groups(draw):
    kind = draw(st.sampled_from(sorted(VALUES)))
    more = {"pair": ["A", "B"]} if kind == "winding_ohm" else {}
    rows = []
    for value in draw(st.lists(VALUES[kind], min_size=EVERY_PAIR - 3, max_size=24)):
        minutes = draw(st.one_of(st.none(), st.integers(0, 30)))
        when = {} if minutes is None else {"taken_at": (AT + timedelta(minutes=minutes)).isoformat()}
        rows.append(reading(kind, value, **more, **when))
    return rows


@given(groups())
def test_of_a_large_group_the_same_readings_are_doubted_as_pair_by_pair(rows):
    case = Case(make_call(*rows), DEFAULTS)
    ((_, values),) = groups_of(case.whole).items()
    group, value = [index for index, _ in values], dict(values)
    readings = case.whole.readings
    old = set()
    for one, other in combinations(group, 2):
        gap = minutes_between(readings[one], readings[other]) or 0.0
        if abs(gap) >= APART_MINUTES:
            old.add(one if gap > 0 else other)
    assert case.superseded == old
    pairs = [
        tuple(sorted(pair))
        for pair in combinations(group, 2)
        if not set(pair) & old and disagree(value[pair[0]], value[pair[1]])
    ]
    found = [row.readings for row in case.contradictions if "can't both be right" in row.says]
    assert {index for row in found for index in row} == {index for pair in pairs for index in pair}
    assert all(tuple(row) in pairs for row in found)
    assert len(found) <= max(len(group), EVERY_PAIR * (EVERY_PAIR - 1) // 2)
