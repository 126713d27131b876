"""What on the van serves a need, itself or in combinations flagged temporary; and how its can suits the old one."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

from pydantic import BaseModel

from ..plates import CapacitorLabel
from ..units import fixed
from ..vocabulary import DualSection
from .combine import WINDOW_PCT, Combination, Join, combinations_near
from .parts import Need, Section

MOST_ANSWERS = 200
MOST_STRAPPED = 4
"""So many sections of a can are strapped for one value at most."""
_SAME = 1e-6


class UsedSection(BaseModel):
    """A section used, and what it serves in a can for two."""

    part_no: str
    section: str
    serves: DualSection = "fan"


class NeedAnswer(BaseModel):
    """The need as understood; `herm_uf` when the can also serves the compressor."""

    uf: float
    volts_v: float
    herm_uf: float | None = None


class Answer(BaseModel):
    """Parts that serve: how joined, what they come to, how far off in per cent, volts on each, whether it may stay."""

    parts: list[UsedSection]
    join: Join
    uf: float
    off_pct: float
    volts_on_v: list[float]
    permanent: bool
    says: str

    def band_uf(self, tolerance_pct: float) -> tuple[float, float]:
        """µF at either end when every part is off by its tolerance in per cent the same way."""
        return self.uf * (1 - tolerance_pct / 100), self.uf * (1 + tolerance_pct / 100)


class CapacitorAnswer(BaseModel):
    """Every answer of the van, best first: fewest parts, then closest, then what it leaves; `more` over 200."""

    need: NeedAnswer
    answers: list[Answer]
    more: int = 0


def substitutes(need: Need, sections: list[Section]) -> CapacitorAnswer:
    """What serves a need from these sections. Never below its volts; exact, or a combination within 5 % (trade)."""
    count = 0
    if need.herm_uf is not None:
        answers, count = _for_both(need, sections)
    else:
        alone = [s for s in sections if _serves(s, need.uf, need.volts_v)]
        joined = combinations_near(sections, need.uf, need.volts_v, MOST_ANSWERS)
        answers = [_alone(s, need) for s in sorted(alone, key=_order)] + [_joined(row, need) for row in joined.best]
        count = joined.count - len(joined.best)
    return CapacitorAnswer(
        need=NeedAnswer(uf=need.uf, volts_v=need.volts_v, herm_uf=need.herm_uf),
        answers=answers[:MOST_ANSWERS],
        more=count + max(0, len(answers) - MOST_ANSWERS),
    )


def _serves(section: Section, uf: float, volts_v: float) -> bool:
    return abs(section.uf - uf) <= _SAME * uf and section.volts_v >= volts_v


def _order(section: Section) -> tuple[object, ...]:
    """A part of its own before a section of a can, then the one with most in stock, then the part number."""
    return section.name != "single", -section.stock, section.part_no, section.name


def _alone(section: Section, need: Need) -> Answer:
    which = "" if section.name == "single" else f", {_name(section)} only, the other sections left empty"
    return Answer(
        parts=[UsedSection(part_no=section.part_no, section=section.name)],
        join="single",
        uf=section.uf,
        off_pct=0.0,
        volts_on_v=[need.volts_v],
        permanent=True,
        says=f"Exact value: {section.uf:g} µF{which}.",
    )


def _joined(row: Combination, need: Need) -> Answer:
    off = 100 * (row.uf / need.uf - 1)
    off = 0.0 if abs(off) < 100 * _SAME else off
    strapped = row.one_part and row.join == "parallel" and off == 0
    sums = (" + " if row.join == "parallel" else " and ").join(f"{section.uf:g}" for section in row.sections)
    how = "in parallel" if row.join == "parallel" else "in series"
    volts = (
        "" if row.join == "parallel" else ", " + " and ".join(f"{share:.1f}" for share in row.volts_on_v) + " V on them"
    )
    stays = "Made to be strapped this way." if strapped else "Temporary. Set a date for the right part."
    near = "exact" if off == 0 else f"{off:+.1f} %, inside {WINDOW_PCT:g}"
    return Answer(
        parts=[UsedSection(part_no=section.part_no, section=section.name) for section in row.sections],
        join=row.join,
        uf=round(row.uf, 6),
        off_pct=round(off, 6),
        volts_on_v=[round(share, 6) for share in row.volts_on_v],
        permanent=strapped,
        says=f"{sums} µF {how}: {fixed(row.uf)} µF, {near}{volts}. {stays}",
    )


def _for_both(need: Need, sections: list[Section]) -> tuple[list[Answer], int]:
    """One can for compressor and fan; else a section for each, common joined to common. The best, how many more."""
    herm_uf = need.herm_uf or 0.0
    herm = sorted((s for s in sections if _serves(s, herm_uf, need.volts_v)), key=_order)
    fan = sorted((s for s in sections if _serves(s, need.uf, need.volts_v)), key=_order)
    by_part: dict[str, list[Section]] = {}
    for section in fan:
        by_part.setdefault(section.part_no, []).append(section)
    cans = [(one, two) for one in herm for two in by_part.get(one.part_no, ()) if one.name != two.name]
    most = MOST_ANSWERS + 1
    beside = [
        (one, two)
        for one in herm[:most]
        for two in fan[:most]
        if one.part_no != two.part_no or (one is two and one.stock >= 2)
    ]
    alone = sum(one.stock < 2 for one in herm for two in by_part.get(one.part_no, ()) if one is two)
    straps = _strapped_cans(need, sections)
    pairs = [*cans, *beside]
    count = len(herm) * len(fan) - alone
    answers = [
        *(_both(one, two, need) for one, two in cans),
        *straps,
        *(_both(one, two, need) for one, two in beside),
    ]
    return answers[:MOST_ANSWERS], count + len(straps) - min(len(pairs) + len(straps), MOST_ANSWERS)


def _strapped_cans(need: Need, sections: list[Section]) -> list[Answer]:
    """Cans made to be strapped that serve compressor and fan at once: some sections for each, none for both.

    Fewest sections first; of one can the first so found.
    """
    by_part: dict[str, list[Section]] = {}
    for section in sections:
        if section.volts_v >= need.volts_v and section.name.isdigit():
            by_part.setdefault(section.part_no, []).append(section)
    found = []
    for own in by_part.values():
        splits = (
            (herm, fan)
            for herm in _summing(own, need.herm_uf or 0.0)
            for fan in _summing([section for section in own if section not in herm], need.uf)
        )
        best = min(splits, key=lambda split: len(split[0]) + len(split[1]), default=None)
        if best is not None and len(best[0]) + len(best[1]) > 2:
            found.append((best, own[0].stock))
    found.sort(key=lambda item: (len(item[0][0]) + len(item[0][1]), -item[1], item[0][0][0].part_no))
    return [_strapped(herm, fan, need) for (herm, fan), _ in found]


def _summing(sections: list[Section], uf: float) -> list[tuple[Section, ...]]:
    """Sections of one can that come to a value in parallel, fewest first."""
    return [
        chosen
        for many in range(1, MOST_STRAPPED + 1)
        for chosen in combinations(sections, many)
        if abs(sum(section.uf for section in chosen) - uf) <= _SAME * uf
    ]


def _strapped(herm: tuple[Section, ...], fan: tuple[Section, ...], need: Need) -> Answer:
    texts = [
        " + ".join(f"{section.uf:g}" for section in own) + (" strapped" if len(own) > 1 else "") for own in (herm, fan)
    ]
    used = [(section, "herm") for section in herm] + [(section, "fan") for section in fan]
    says = f"One can, strapped for both: {texts[0]} for the compressor ({need.herm_uf:g} µF),"
    return Answer(
        parts=[UsedSection(part_no=one.part_no, section=one.name, serves=serves) for one, serves in used],
        join="parallel",
        uf=need.uf,
        off_pct=0.0,
        volts_on_v=[need.volts_v] * len(used),
        permanent=True,
        says=f"{says} {texts[1]} for the fan ({need.uf:g} µF). Made to be strapped this way.",
    )


def _both(one: Section, two: Section, need: Need) -> Answer:
    """A section for the compressor and one for the fan."""
    same = one.part_no == two.part_no and one.name != two.name
    return Answer(
        parts=[
            UsedSection(part_no=one.part_no, section=one.name, serves="herm"),
            UsedSection(part_no=two.part_no, section=two.name, serves="fan"),
        ],
        join="single",
        uf=need.uf,
        off_pct=0.0,
        volts_on_v=[need.volts_v] * 2,
        permanent=True,
        says=f"One can: {need.herm_uf:g} + {need.uf:g} µF."
        if same
        else f"{need.herm_uf:g} µF for the compressor, {need.uf:g} µF for the fan beside it, commons connected.",
    )


def _name(section: Section) -> str:
    return {"herm": "its compressor section", "fan": "its fan section"}.get(section.name, f"section {section.name}")


HEIGHT_IN = 0.125
"""A part may stand so much higher than the old one without a look (trade)."""


@dataclass(frozen=True)
class Suits:
    """Fit of one part: whether it goes in as it is, and what to do or look at."""

    part_no: str
    as_it_is: bool
    says: str


def suits(part_no: str, shape: str | None, height_in: float | None, old: CapacitorLabel, beside: bool) -> Suits:
    """Fit of a part by shape and height in inches; `beside`: it goes in besides the old one's place."""
    if beside:
        return Suits(
            part_no, False, "It needs its own spot. Check what is behind the sheet metal before you drive a screw."
        )
    says = []
    if shape is None or old.shape is None:
        says.append("compare the shapes")
    elif shape != old.shape:
        says.append(f"{shape}, was {old.shape}: needs another strap")
    if height_in is not None and old.height_in is not None and height_in > old.height_in + HEIGHT_IN:
        says.append(f"{height_in - old.height_in:.1f} in taller: make sure the lid clears the terminals")
    elif height_in is None or old.height_in is None:
        says.append("measure the height" if height_in is None else f"{height_in:g} in high: make sure it fits")
    if not says:
        return Suits(part_no, True, "Same shape, no taller. The old strap holds it.")
    text = "; ".join(says)
    return Suits(part_no, False, text[0].upper() + text[1:] + ".")
