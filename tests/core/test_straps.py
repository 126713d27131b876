"""Straps between terminals: solved as a network they come to what the answer says. Renewal, shape and height."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.capacitors.needed import needed, stays
from keen_coil.core.capacitors.parts import CapacitorPart, Need, sections_of, van_sections
from keen_coil.core.capacitors.strap import Terminal, strapped, strapped_both
from keen_coil.core.capacitors.substitute import substitutes, suits
from keen_coil.core.plates import CapacitorLabel
from tests.calls import GOOD_CAPACITOR, make_call, reading
from tests.core.test_match import TWIN

VAN = [
    CapacitorPart(part_no=name, sections_uf=sections, volts_v=440, quantity=quantity)
    for name, sections, quantity in [
        ("A", "5", 3),
        ("B", "10", 2),
        ("C", "15", 1),
        ("D", "30+5", 2),
        ("E", "40+7.5", 1),
        ("U", "2.5|5|10", 1),
        ("F", "30", 1),
    ]
]
SECTIONS = {part.part_no: tuple(name for name, _ in sections_of(part.sections_uf)) for part in VAN}
UF = {(part.part_no, name): uf for part in VAN for name, uf in sections_of(part.sections_uf)}


def network_uf(found, used):
    """µF between the line and the motor's lead, every section a capacitor between its two terminals, straps as wire."""
    joined = {}

    def root(terminal):
        while terminal in joined:
            terminal = joined[terminal]
        return terminal

    for a, b in found.straps:
        if root(a) != root(b):
            joined[root(a)] = root(b)
    edges = []
    for number, can in enumerate(found.cans):
        for name in can.used:
            section = "single" if can.terminals == ("1", "2") else name
            edges.append(
                (root(Terminal(number, can.terminals[0])), root(Terminal(number, name)), UF[can.part_no, section])
            )
    ends = dict(found.leads)
    return reduced(edges, root(ends["line"]), root(ends["motor"]))


def reduced(edges, line, motor):
    """Series and parallel reduction until one capacitor is left between the ends."""
    while len(edges) > 1:
        for i, (a, b, c) in enumerate(edges):
            twin = next((j for j, e in enumerate(edges) if j != i and {e[0], e[1]} == {a, b}), None)
            if twin is not None:
                rest = [e for k, e in enumerate(edges) if k not in (i, twin)]
                edges = [*rest, (a, b, c + edges[twin][2])]
                break
        else:
            node = next(
                n for e in edges for n in e[:2] if n not in (line, motor) and sum(n in x[:2] for x in edges) == 2
            )
            one, two = (e for e in edges if node in e[:2])
            outer = [n for e in (one, two) for n in e[:2] if n != node]
            edges = [*(e for e in edges if e not in (one, two)), (*outer, 1 / (1 / one[2] + 1 / two[2]))]
    assert {edges[0][0], edges[0][1]} == {line, motor}
    return edges[0][2]


@given(st.sampled_from([5, 7.5, 10, 12.5, 15, 20, 3.33, 35, 45, 4.3, 17.5, 6]))
def test_every_answer_strapped_comes_to_its_value(uf):
    for answer in substitutes(Need(uf, 100), van_sections(VAN)).answers[:60]:
        used = [(part.part_no, part.section) for part in answer.parts]
        found = strapped(used, answer.join, SECTIONS)
        assert sorted(name for can in found.cans for name in can.used) == sorted(
            "2" if s == "single" else s for _, s in used
        )
        assert network_uf(found, used) == pytest.approx(answer.uf, rel=1e-6)


def test_one_can_for_both_shares_its_common_and_two_have_theirs_joined():
    one = strapped_both([("E", "herm")], [("E", "fan")], SECTIONS)
    assert len(one.cans) == 1
    assert one.straps == ()
    two = strapped_both([("D", "herm")], [("A", "single")], SECTIONS)
    assert two.straps == ((Terminal(0, "common"), Terminal(1, "1")),)
    assert dict(two.leads) == {
        "line": Terminal(0, "common"),
        "compressor": Terminal(0, "herm"),
        "motor": Terminal(1, "2"),
    }


def test_the_need_is_the_new_motors_and_the_can_for_both_keeps_the_labels_volts():
    call = make_call(
        chosen_motor={k: v for k, v in TWIN.items() if k not in ("price", "lead_days")} | {"capacitor_uf": 7.5}
    )
    found = needed(call)
    assert (found.fan.uf, found.fan.volts_v) == (7.5, 370)
    assert (found.both.herm_uf, found.both.uf, found.both.volts_v) == (40, 7.5, 440)
    assert needed(make_call(unit__run_capacitor="own")).both is None
    assert needed(make_call(motor__capacitor_uf=None)) is None
    assert needed(make_call(motor__kind="three_phase")) is None


@pytest.mark.parametrize(
    ("rows", "changes", "renewal", "may"),
    [
        (GOOD_CAPACITOR, {}, "outside_label", True),
        (GOOD_CAPACITOR, {}, "always", True),
        (GOOD_CAPACITOR, {"chosen_motor": {"kind": "psc", "capacitor_uf": 5, "capacitor_v": 370}}, "always", False),
        (
            GOOD_CAPACITOR,
            {"chosen_motor": {"kind": "psc", "capacitor_uf": 5, "capacitor_v": 370}},
            "outside_label",
            True,
        ),
        (
            GOOD_CAPACITOR,
            {"chosen_motor": {"kind": "psc", "capacitor_uf": 7.5, "capacitor_v": 370}},
            "outside_label",
            False,
        ),
        (
            GOOD_CAPACITOR,
            {"chosen_motor": {"kind": "psc", "capacitor_uf": 5, "capacitor_v": 450}},
            "outside_label",
            False,
        ),
        ((), {}, "outside_label", False),
        (
            (reading("capacitance_uf", 4.95, section="fan"), reading("capacitor_look", "bulged")),
            {},
            "outside_label",
            False,
        ),
        ((reading("capacitance_uf", 4.5, section="fan"),), {}, "outside_label", False),
        ((reading("capacitance_uf", 4.65, section="fan"),), {"capacitor__tolerance_pct": 15}, "outside_label", True),
        ((reading("capacitance_uf", 4.40, section="fan"),), {"capacitor__tolerance_pct": 15}, "outside_label", True),
        ((reading("capacitance_uf", 4.40, section="fan"),), {"capacitor__tolerance_pct": 15}, "ten_low", False),
        ((reading("capacitance_uf", 4.95, section="herm"),), {}, "outside_label", False),
    ],
)
def test_what_is_there_stays_by_policy_value_volts_and_reading(rows, changes, renewal, may):
    found = stays(make_call(*rows, **changes), renewal)
    assert found.may == may, found.because


def test_shape_and_height_in_the_old_ones_place():
    old = CapacitorLabel.model_validate({"shape": "round", "height_in": 3.5})
    assert suits("X", "round", 3.6, old, beside=False).as_it_is
    assert "strap" in suits("X", "oval", 3.0, old, beside=False).says
    assert "lid" in suits("X", "round", 3.7, old, beside=False).says
    assert not suits("X", None, None, CapacitorLabel(), beside=False).as_it_is
    assert "behind the sheet" in suits("X", "round", 3.0, old, beside=True).says
