"""Capacitors from the van: the arithmetic, the volts on each, and a search that leaves nothing out."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.capacitors import combine
from keen_coil.core.capacitors.combine import combinations_near, joined_uf, shares_v, worst_shares_v
from keen_coil.core.capacitors.parts import CapacitorPart, Need, read_need, sections_of, van_sections
from keen_coil.core.capacitors.strap import strapped_both
from keen_coil.core.capacitors.substitute import MOST_ANSWERS, substitutes
from keen_coil.core.errors import InvalidField

ALL = 10**6


def part(part_no, sections, volts=370, quantity=1):
    return CapacitorPart(part_no=part_no, sections_uf=sections, volts_v=volts, quantity=quantity)


def answers(need, *parts):
    return substitutes(read_need(need), van_sections(list(parts))).answers


def used(answer):
    return [(p.part_no, p.section) for p in answer.parts]


def test_worked_figures():
    assert joined_uf([10, 30], "series") == pytest.approx(7.5)
    assert joined_uf([5, 2.5], "parallel") == 7.5
    assert shares_v([10, 30], 370, "series") == pytest.approx([277.5, 92.5])
    assert shares_v([5, 2.5], 370, "parallel") == [370, 370]
    worst = worst_shares_v(np.array([10.0, 30.0]), 370, "series")
    assert worst[0] > 277.5
    assert worst[1] > 92.5


@pytest.mark.parametrize(
    ("text", "sections"),
    [
        ("7.5", [("single", 7.5)]),
        ("40+5", [("herm", 40), ("fan", 5)]),
        ("2.5|5|10", [("1", 2.5), ("2", 5), ("3", 10)]),
    ],
)
def test_sections_as_a_label_writes_them(text, sections):
    assert sections_of(text) == sections


@pytest.mark.parametrize(
    "text", ["", "x", "40+5+3", "2|", "0", "-3", "nan", "inf", "600", "40+5|3", "|".join(["1"] * 13)]
)
def test_sections_that_cannot_be(text):
    with pytest.raises(ValueError, match=r"such as 7\.5"):
        sections_of(text)
    with pytest.raises(InvalidField, match=r"van\.0\.sections_uf"):
        van_sections([part("A", text or "?")])


@pytest.mark.parametrize(
    "text", ["", "7.5", "@370", "7.5@", "7.5@0", "7.5@2000", "a@370", "1+2+3@370", None, 7.5, "7.5@370@2", "nan@370"]
)
def test_a_need_that_cannot_be(text):
    with pytest.raises(InvalidField, match=r"need: got .*; expected µF@volts"):
        read_need(text)


def test_the_value_itself_first_then_a_section_then_combinations_flagged():
    found = answers(
        "7.5@370",
        part("SUM-5", "5"),
        part("DUAL", "40+7.5", 440),
        part("ONE", "7.5"),
        part("SUM-2", "2.5"),
        part("LOW", "7.5", 250),
    )
    assert [used(row) for row in found[:3]] == [
        [("ONE", "single")],
        [("DUAL", "fan")],
        [("SUM-2", "single"), ("SUM-5", "single")],
    ]
    assert [row.permanent for row in found[:3]] == [True, True, False]
    assert "the other sections left empty" in found[1].says
    assert "Temporary" in found[2].says
    assert all("LOW" not in str(used(row)) for row in found)


def test_series_takes_each_at_its_share():
    (found,) = answers("7.5@370", part("TEN", "10", 370), part("THIRTY", "30", 250))
    assert (found.join, found.uf, found.off_pct) == ("series", 7.5, 0)
    assert found.volts_on_v == pytest.approx([92.5, 277.5]) or found.volts_on_v == pytest.approx([277.5, 92.5])
    assert answers("7.5@370", part("TEN", "10", 250), part("THIRTY", "30", 370)) == []


def test_a_share_that_only_fits_at_the_label_is_refused():
    assert answers("5@370", part("A", "10", 190, 2)) == []
    assert [row.join for row in answers("5@370", part("A", "10", 200, 2))] == ["series"]


def test_a_part_to_strap_is_made_for_it_and_sections_of_one_part_share_a_terminal():
    strap = answers("17.5@370", part("STRAP", "2.5|5|10"))
    assert (used(strap[0]), strap[0].permanent) == ([("STRAP", "1"), ("STRAP", "2"), ("STRAP", "3")], True)
    assert answers("1.43@370", part("STRAP", "2.5|5|10")) == []
    around_common = answers("4.44@370", part("DUAL", "40+5", 440))
    assert [(row.join, used(row)) for row in around_common] == [("series", [("DUAL", "fan"), ("DUAL", "herm")])] or (
        sorted(used(around_common[0])) == [("DUAL", "fan"), ("DUAL", "herm")]
    )


def test_as_many_as_the_van_has():
    assert answers("10@370", part("FIVE", "5")) == []
    assert len(answers("10@370", part("FIVE", "5", quantity=2))) == 1
    assert answers("10@370", part("FIVE", "5", quantity=0)) == []
    assert len(answers("15@370", part("FIVE", "5", quantity=1), part("FIVE", "5", quantity=2))) == 1
    with pytest.raises(InvalidField, match=r"van\.1\.part_no"):
        answers("10@370", part("FIVE", "5"), part("FIVE", "6"))


def test_compressor_and_fan_of_one_can_or_a_can_beside():
    found = answers(
        "40+7.5@440", part("A", "40+7.5", 440), part("B", "40+5", 440), part("C", "7.5", 440), part("D", "40+7.5", 370)
    )
    assert used(found[0]) == [("A", "herm"), ("A", "fan")]
    assert [p.serves for p in found[0].parts] == ["herm", "fan"]
    assert used(found[1]) in ([("A", "herm"), ("C", "single")], [("B", "herm"), ("C", "single")])
    assert all(p.part_no != "D" for row in found for p in row.parts)


def test_a_can_of_several_sections_is_strapped_for_both():
    found = answers("35+5@440", part("U", "5|5|10|25", 440), part("H", "35", 440), part("F", "5", 440))
    first = found[0]
    assert [(p.section, p.serves) for p in first.parts] == [("3", "herm"), ("4", "herm"), ("1", "fan")]
    assert first.permanent
    assert used(found[1]) == [("H", "single"), ("F", "single")]
    assert not answers("35+5@440", part("U", "5|5|10|25", 370)), "never less volts"
    assert used(answers("35+5@440", part("D", "35+5", 440), part("U", "5|5|10|25", 440))[0]) == [
        ("D", "herm"),
        ("D", "fan"),
    ]


@given(st.lists(st.sampled_from([2.5, 5, 7.5, 10, 15, 20, 25]), min_size=2, max_size=6), st.data())
def test_whatever_a_can_can_be_strapped_for_is_found(ufs, data):
    whose = data.draw(st.lists(st.sampled_from(["herm", "fan", ""]), min_size=len(ufs), max_size=len(ufs)))
    need = {who: [uf for uf, served in zip(ufs, whose, strict=True) if served == who] for who in ("herm", "fan")}
    if not all(1 <= len(values) <= 4 for values in need.values()):
        return
    asked = f"{sum(need['herm']):g}+{sum(need['fan']):g}@370"
    found = answers(asked, part("U", "|".join(f"{uf:g}" for uf in ufs), 370))
    assert found
    sections = [p.section for p in found[0].parts]
    assert len(set(sections)) == len(sections), "no section serves twice"
    assert len(sections) <= sum(map(len, need.values())), "no more straps than it takes"
    for who, values in need.items():
        mine = [ufs[int(p.section) - 1] for p in found[0].parts if p.serves == who]
        assert sum(mine) == pytest.approx(sum(values))
    drawn = strapped_both(
        *([("U", p.section) for p in found[0].parts if p.serves == who] for who in ("herm", "fan")),
        {"U": tuple(str(n + 1) for n in range(len(ufs)))},
    )
    assert len(drawn.cans) == 1
    assert len(drawn.straps) == len(sections) - 2
    assert {what for what, _ in drawn.leads} == {"line", "compressor", "motor"}


PARTS = st.lists(
    st.tuples(
        st.sampled_from(["2", "2.5", "5", "7.5", "10", "30", "40+5", "35+7.5", "2.5|5|10"]),
        st.sampled_from([200, 250, 370, 440]),
        st.integers(0, 3),
    ),
    min_size=1,
    max_size=6,
)


def brute(sections, uf, volts):
    """Every two and three sections, one by one."""
    found = set()
    for size in (2, 3):
        for rows in itertools.combinations_with_replacement(range(len(sections)), size):
            chosen = [sections[i] for i in rows]
            if any(rows.count(i) > sections[i].stock for i in rows):
                continue
            for join in ("parallel", "series"):
                values = [s.uf for s in chosen]
                if abs(joined_uf(values, join) / uf - 1) > 0.05 + 1e-9:
                    continue
                if join == "series":
                    by_part = {s.part_no: sum(o.part_no == s.part_no for o in chosen) for s in chosen}
                    if any(by_part[s.part_no] > 2 * s.stock for s in chosen):
                        continue
                    worst = []
                    for i, value in enumerate(values):
                        own = 1 / (value * 0.94)
                        worst.append(volts * own / (own + sum(1 / (v * 1.06) for j, v in enumerate(values) if j != i)))
                else:
                    worst = [volts] * size
                if all(s.volts_v >= w - 1e-9 for s, w in zip(chosen, worst, strict=True)):
                    found.add((join, tuple(sorted((s.part_no, s.name) for s in chosen))))
    return found


@given(PARTS, st.sampled_from([3.75, 4, 5, 7.5, 10, 12.5, 15, 40, 45]), st.sampled_from([250, 370, 440]))
def test_the_search_equals_looking_at_every_one(rows, uf, volts):
    sections = van_sections([part(f"P{i}", s, v, q) for i, (s, v, q) in enumerate(rows)])
    found = combinations_near(sections, uf, volts, ALL)
    listed = [(row.join, tuple(sorted((s.part_no, s.name) for s in row.sections))) for row in found.best]
    assert len(listed) == len(set(listed)) == found.count
    assert set(listed) == brute(sections, uf, volts)


@given(PARTS, st.sampled_from([5, 7.5, 10, 12.5]), st.randoms(use_true_random=False))
def test_no_part_stands_more_than_its_volts_and_order_does_not_depend_on_the_list(rows, uf, chance):
    parts = [part(f"P{i}", s, v, q) for i, (s, v, q) in enumerate(rows)]
    need = Need(uf, 370)
    found = substitutes(need, van_sections(parts))
    volts = {p.part_no: p.volts_v for p in parts}
    for row in found.answers:
        assert all(share <= volts[p.part_no] for p, share in zip(row.parts, row.volts_on_v, strict=True))
        assert abs(row.off_pct) <= 5 + 1e-6
        assert row.uf == pytest.approx(
            joined_uf([s for s in _ufs(row, parts)], "series" if row.join == "series" else "parallel"), rel=1e-5
        )
    assert [len(row.parts) for row in found.answers] == sorted(len(row.parts) for row in found.answers)
    shuffled = list(parts)
    chance.shuffle(shuffled)
    assert substitutes(need, van_sections(shuffled)) == found


def _ufs(row, parts):
    by_no = {p.part_no: dict(sections_of(p.sections_uf)) for p in parts}
    return [by_no[p.part_no][p.section] for p in row.parts]


def test_a_full_van_is_counted_to_the_last_and_the_best_come_first():
    parts = [part(f"P{i:03}", "5", 440, 3) for i in range(60)]
    found = substitutes(Need(15, 370), van_sections(parts))
    assert len(found.answers) == MOST_ANSWERS
    assert len(found.answers) + found.more == 60 * 61 * 62 // 6
    assert used(found.answers[0]) == [("P000", "single")] * 3


@given(PARTS, st.sampled_from([4, 5, 7.5, 10, 12.5]), st.integers(1, 6))
def test_of_a_large_stock_the_best_are_the_same_as_when_all_of_it_is_looked_at(rows, uf, most):
    """Taken as large from the first section on: identical parts count once, the window is narrowed."""
    sections = van_sections([part(f"P{i}", s, v, q) for i, (s, v, q) in enumerate(rows * 2)])
    whole = combinations_near(sections, uf, 370, most)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(combine, "WHOLE", 0)
        large = combinations_near(sections, uf, 370, most)
    assert large.best == whole.best
    assert len(large.best) <= large.count <= whole.count


def test_two_of_a_large_stock_for_both_are_counted_and_the_cans_come_first():
    parts = (
        [part(f"C{i:03}", "40+5", 440, 1) for i in range(30)]
        + [part(f"S{i:03}", "40", 440, 2) for i in range(300)]
        + [part(f"F{i:03}", "5", 440, 2) for i in range(300)]
    )
    found = substitutes(Need(5, 440, 40), van_sections(parts))
    assert [row.says for row in found.answers[:30]] == ["One can: 40 + 5 µF."] * 30
    assert len(found.answers) == MOST_ANSWERS
    assert len(found.answers) + found.more == 330 * 330
