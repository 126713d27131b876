"""A plate's diagram as it is typed: lines read, read back the same, refused by line."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.hookup.diagram import read_table, table_text
from keen_coil.core.installation import DiagramTable

SEVEN = {
    "low": "3-5 to L1 and capacitor\n4 to L2\n1-6-8 together\n2 to capacitor",
    "high": "5 to L1\n4 to L2\n1-8 together\n3-6 to capacitor\n2 to capacitor",
}
GOES = ["together", "alone", "to L1", "to L2", "to capacitor", "to L1 and capacitor", "to neutral"]


@given(
    st.lists(
        st.tuples(
            st.lists(st.sampled_from("ABCDEFGHJKLM"), min_size=1, max_size=4, unique=True), st.sampled_from(GOES)
        ),
        max_size=6,
    )
)
def test_what_is_typed_is_kept_or_refused_by_its_line(lines):
    text = "\n".join(f"{'-'.join(leads)} {goes}" for leads, goes in lines)
    try:
        table = read_table(text, "diagram.low")
    except InvalidField as error:
        assert all(fault.path == "diagram.low" and fault.expected for fault in error.errors)
        return
    typed = {lead for leads, _ in lines for lead in leads}
    if table is None:
        assert not typed
        return
    kept = {lead for group in [*table["joins"], table["l1"], table["l2"], *table["capacitor"]] for lead in group}
    assert typed <= kept
    model = DiagramTable.model_validate(table)
    again = DiagramTable.model_validate(read_table(table_text(model), "diagram.low"))
    assert {lead for lead in kept if lead not in ("l1", "l2")} <= {
        lead for group in [*again.joins, again.l1, again.l2, *again.capacitor] for lead in group
    }
    assert (set(again.l1), set(again.l2)) == (set(model.l1), set(model.l2))


@pytest.mark.parametrize(
    "text",
    [
        "1, 6 & 8 together\n3 and 5 to line 1 and the capacitor\n2 to cap\n4 to L2",
        "1+6+8 together\n3 5 to L1, capacitor\n2 to run capacitor\n4 to neutral",
    ],
)
def test_the_same_in_other_words(text):
    assert sorted(read_table(text, "x")["capacitor"]) == [["2"], ["l1"]]
    assert read_table(text, "x")["joins"] == [["1", "6", "8"]]
