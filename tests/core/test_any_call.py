"""Whatever is read on whatever unit: an answer, sound probabilities, and no condemnation past the gate."""

from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.diagnosis.condemn import DEFINITE
from keen_coil.core.diagnosis.faults import FAULTS
from keen_coil.core.readings import KINDS
from tests.calls import COOL, call_data, make_call, reading
from tests.core.test_faults import BLOWER, ECM, INDUCER, THREE

UNITS = st.sampled_from(
    [
        {},
        BLOWER,
        THREE,
        ECM,
        INDUCER,
        {"unit__run_capacitor": "compressor_only"},
        {"motor": {}, "unit": {}, "capacitor": {}},
    ]
)
LEADS = st.sampled_from([["A", "B"], ["B", "C"], ["A", "C"]])
PLACES = {
    "hold": ("defrost", "delay", "fan_control", "leak_lockout", "board_lockout", "door_switch"),
    "supply_v": ("unit", "switch_line", "switch_load", "motor"),
}


@st.composite
def any_reading(draw):
    row = KINDS[draw(st.sampled_from(sorted(KINDS)))]
    numbers = st.one_of(
        st.floats(max(row.low, 0), min(row.high, 500)).map(lambda x: round(x, 2)),
        st.sampled_from([n for n in (0, 0.1, 5, 14.2, 38, 118, 238) if n <= row.high] or [0]),
    )
    options = (
        [st.booleans()] * row.yes_no
        + [st.sampled_from(row.words)] * bool(row.words)
        + [numbers] * (row.is_number and not row.many)
    )
    value = draw(
        st.lists(st.integers(-500, 900), min_size=1, max_size=8)
        if row.many
        else st.one_of(options or [st.just({"amps_a": 1.3, "volts_v": 400})])
    )
    more = {"at": draw(st.sampled_from(PLACES[row.name]))} if row.name in PLACES else {}
    if row.name == "winding_ohm":
        more["pair"] = draw(LEADS)
    if row.name == "insulation_mohm":
        more["temperature_c"] = 40
    if row.name == "spin":
        more["with_"] = draw(st.sampled_from(["load", "bare_shaft"]))
    more |= draw(st.sampled_from([{}, {}, {"isolated": False}, COOL, {"power": "live"}, {"power": "dead"}]))
    if row.name == "ecm_winding_ohm":
        value = draw(st.sampled_from([[6.1, 6.1, 6.2], [6.1, 6.0, "OL"], [6.1, 6.1, 2.0]]))
    return reading(row.name, value, **more)


@settings(max_examples=60)
@given(UNITS, st.lists(any_reading(), max_size=14))
def test_an_answer_for_any_call(unit, rows):
    answer = assess(make_call(*rows, **unit))
    assert len(answer.judgements) == len(rows)
    assert all(0 <= row.probability <= 1 for row in answer.ranked)
    assert [row.probability for row in answer.ranked] == sorted(
        (row.probability for row in answer.ranked), reverse=True
    )
    assert {row.fault for row in answer.ranked} <= set(FAULTS)
    if answer.leading_fault is None and answer.verdict != "not_proved":
        assert answer.verdict in ("not_the_motor", "replace_capacitor", "condemn_motor")
    if answer.verdict != "not_proved":
        assert answer.confidence >= 0.8
    if answer.verdict in ("condemn_motor", "replace_module"):
        ahead = [
            answer.path[link].state in ("proved", "not_applicable")
            for link in ("supply", "switching", "wiring", "connections", "capacitor")
        ]
        definite = answer.leading_fault in DEFINITE and any(judged.state == "failed" for judged in answer.judgements)
        assert all(ahead) or definite
    for test in answer.next_tests:
        assert test.power == KINDS[test.kind].power


@settings(max_examples=30)
@given(UNITS, st.lists(any_reading(), max_size=10), st.randoms(use_true_random=False))
def test_the_order_in_which_a_file_lists_other_things_changes_no_probability(unit, rows, chance):
    one_each = list({(row["kind"], row.get("at"), row.get("with"), str(row.get("pair"))): row for row in rows}.values())
    mixed = one_each[:]
    chance.shuffle(mixed)
    first, second = assess(make_call(*one_each, **unit)), assess(make_call(*mixed, **unit))
    assert first.verdict == second.verdict
    again = {row.fault: row.probability for row in second.ranked}
    assert all(abs(row.probability - again.get(row.fault, 0.0)) < 0.03 for row in first.ranked)


@given(st.sampled_from(sorted(KINDS)), st.sampled_from(["", "abc", "-5", -5, 1e12, True, [], {}, None, "1e3", "٣"]))
def test_values_that_cannot_be_are_refused_with_their_path_and_nothing_else_happens(kind, value):
    from keen_coil.core.call import read_call
    from keen_coil.core.errors import InvalidField

    row = KINDS[kind]
    fine = (
        (row.yes_no and isinstance(value, bool))
        or (row.low < 0 and value in ("-5", -5))
        or (row.many and value in ("-5", -5))
    )
    try:
        read_call(call_data({"kind": kind, "value": value}))
    except InvalidField as error:
        assert all(fault.path.startswith("readings.0.value") for fault in error.errors)
        assert all(fault.expected for fault in error.errors)
    else:
        assert fine, (kind, value)
