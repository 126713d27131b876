"""From what a plate calls its leads to the winding ends they bring out; what only a resistance can tell is asked.

Words of plates and diagrams (trade). A capacitor lead that reads zero ohms to a line lead is the return; of two line
leads the one that reads more to the start lead is the run (reckoning, windings: the largest pair is run plus start).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal

from ..errors import FieldError
from ..installation import Lead
from ..motor_kinds import traits_of
from ..tables import complete
from ..vocabulary import LeadFunction, MotorKind, words_of

Ends = tuple[str, ...]
Ohms = Mapping[frozenset[str], float]
SPEEDS: tuple[LeadFunction, ...] = ("high", "medium_high", "medium", "medium_low", "low")
"""Highest first: the order of the taps."""
WORDS: dict[LeadFunction, str] = {
    "common": "common",
    "high": "high",
    "medium_high": "medium-high",
    "medium": "medium",
    "medium_low": "medium-low",
    "low": "low",
    "run": "run",
    "start": "start",
    "capacitor": "capacitor",
    "capacitor_return": "capacitor return",
    "line": "line",
    "neutral": "neutral",
    "ground": "ground",
    "reversing": "reversing plug",
}
complete(WORDS, words_of(LeadFunction), "WORDS")
BY_ENDS: dict[frozenset[str], LeadFunction] = {
    frozenset({"main.1", "aux.1"}): "common",
    frozenset({"main.2"}): "run",
    frozenset({"aux.2"}): "start",
    frozenset({"frame"}): "ground",
}
"""Ends that one word says, whatever the other leads are."""
SAME_POINT_OHM = 0.5
"""Leads nearer than this are one point, joined inside (reckoning: a lead at zero ohms to a line lead)."""


def word_of(ends: Iterable[str]) -> LeadFunction | Literal[""]:
    """The word of a plate for a lead with these winding ends, where one word alone says them; else empty."""
    return BY_ENDS.get(frozenset(ends), "")


@dataclass
class LeadsByFunction:
    """Leads by their functions: the ends of each, what is still open with the pairs that settle it, and the faults."""

    ends: dict[str, Ends] = field(default_factory=dict)
    questions: list[LeadQuestion] = field(default_factory=list)
    faults: list[FieldError] = field(default_factory=list)


@dataclass(frozen=True)
class LeadQuestion:
    """What the words leave open: in words, and the pairs of leads whose ohms settle it."""

    says: str
    pairs: tuple[tuple[str, str], ...]


def by_function(rows: list[Lead], kind: MotorKind | None, ohms: Ohms, path: str) -> LeadsByFunction:
    """The winding ends of leads that were named by what the plate says.

    Parameters: `ohms` between pairs of leads, as far as they were read. Leads whose ends are noted keep them. Faults
    name the lead and why it cannot be.
    """
    at: dict[LeadFunction, list[tuple[int, str]]] = {}
    for index, row in enumerate(rows):
        if row.says is not None and not row.ends:
            at.setdefault(row.says, []).append((index, row.lead))
    named = LeadsByFunction()
    for lead in _leads(at, "ground"):
        named.ends[lead] = ("frame",)
    for lead in _leads(at, "reversing"):
        named.ends[lead] = ()
    if traits_of(kind).is_electronic:
        _commutated(at, named)
    elif traits_of(kind).is_three_phase:
        for number, lead in enumerate(_leads(at, "line"), start=1):
            named.ends[lead] = (f"t{number}",)
    else:
        noted = {end for row in rows for end in row.ends}
        named.faults = [*_twice(at, path), *_cannot_be(at, noted, path)]
        if not named.faults:
            _single_phase(at, named, ohms, noted)
    return named


def _leads(at: Mapping[LeadFunction, list[tuple[int, str]]], *functions: LeadFunction) -> list[str]:
    return [lead for function in functions for _, lead in at.get(function, [])]


def _twice(at: Mapping[LeadFunction, list[tuple[int, str]]], path: str) -> Iterator[FieldError]:
    """Functions that one lead alone can have."""
    for function in ("common", "neutral", "run", "start", "capacitor_return", *SPEEDS):
        rows = at.get(function, [])
        for index, lead in rows[1:]:
            other = rows[0][1]
            expected = f"one lead on {WORDS[function]}: {other} is that already"
            yield FieldError(f"{path}.{index}.says", f"{lead}: {WORDS[function]}", expected)
    for function, most in (("line", 2), ("capacitor", 2)):
        for index, lead in at.get(function, [])[most:]:
            yield FieldError(f"{path}.{index}.says", f"{lead}: {WORDS[function]}", f"at most {most} leads of that name")


def _cannot_be(at: Mapping[LeadFunction, list[tuple[int, str]]], noted: set[str], path: str) -> Iterator[FieldError]:
    """Functions that do not make a motor together."""
    if any(end.startswith("main") for end in noted) or not at:
        return
    speeds = _leads(at, *SPEEDS)
    back = _leads(at, "common", "neutral")
    out = [*speeds, *_leads(at, "run", "line")]
    words = ", ".join(f"{lead} {WORDS[function]}" for function, rows in at.items() for _, lead in rows)
    if len(back) > 1:
        expected = f"a common or a neutral, not both: which of {back[0]} and {back[1]} is it"
        yield FieldError(path, words, expected)
    elif not out:
        yield FieldError(path, words, "a lead that takes the line: run, line, or a speed such as high")
    elif not back and len(_leads(at, "line", "run")) != (1 if speeds else 2):
        yield FieldError(path, words, "a common or a neutral: the lead that all the current returns on")
    elif _leads(at, "capacitor_return") and not _leads(at, "start", "capacitor"):
        yield FieldError(path, words, "the start lead, or the capacitor lead, that goes with the capacitor return")
    elif _leads(at, "start") and len(_leads(at, "capacitor", "capacitor_return")) > 1:
        yield FieldError(path, words, "with a start lead at most one more capacitor lead: the capacitor return")


def _single_phase(
    at: Mapping[LeadFunction, list[tuple[int, str]]], named: LeadsByFunction, ohms: Ohms, noted: set[str]
) -> None:
    """Common, line side, taps, start and capacitor leads of a single-phase motor."""
    speeds = [lead for function in SPEEDS for lead in _leads(at, function)]
    starts, returns = _leads(at, "start"), _leads(at, "capacitor_return")
    lines = [*_leads(at, "run"), *_leads(at, "line")]
    back = _leads(at, "common", "neutral")
    capacitors = _leads(at, "capacitor")
    if starts:
        returns, capacitors = [*returns, *capacitors], []
    elif len(capacitors) == 2:
        start, other = _start_of_two(capacitors, [*back, *lines, *speeds], ohms, named)
        starts, returns = [start], [other, *returns]
    else:
        starts = capacitors
    if not back and speeds:
        back, lines = lines, []
    elif not back and len(lines) == 2:
        back, lines = _common_of_two(lines, starts, ohms, named)
    has_start = bool(starts) or any(end.startswith("aux") for end in noted)
    for lead in back:
        named.ends[lead] = ("main.1", "aux.1") if has_start else ("main.1",)
    for number, lead in enumerate(speeds, start=1):
        named.ends[lead] = (f"main.s{number}",)
    for lead in lines:
        named.ends[lead] = ("main.2",)
    for lead in starts:
        named.ends[lead] = ("aux.2",)
    for lead in returns:
        named.ends[lead] = ("main.s1",) if speeds else ("main.2",)


def _start_of_two(pair: list[str], others: list[str], ohms: Ohms, named: LeadsByFunction) -> tuple[str, str]:
    """Of two capacitor leads the start lead and the return: the return reads zero ohms to another lead."""
    one, other = pair
    for lead, rest in ((one, other), (other, one)):
        if any(ohms.get(frozenset((lead, line)), 1e9) < SAME_POINT_OHM for line in others):
            return rest, lead
        if others and all(ohms.get(frozenset((lead, line)), 0.0) >= SAME_POINT_OHM for line in others):
            return lead, rest
    pairs = tuple((one, line) for line in others)
    says = f"{one} or {other}: the one at zero ohms to another lead is the capacitor return, the other the start"
    named.questions.append(LeadQuestion(says, pairs))
    return one, other


def _common_of_two(
    lines: list[str], starts: list[str], ohms: Ohms, named: LeadsByFunction
) -> tuple[list[str], list[str]]:
    """Of two line leads the common and the run: the run reads more to the start lead."""
    one, other = lines
    if not starts:
        return [one], [other]
    near, far = (ohms.get(frozenset((line, starts[0]))) for line in lines)
    if near is not None and far is not None and near != far:
        return ([one], [other]) if near < far else ([other], [one])
    pairs = ((one, starts[0]), (other, starts[0]))
    says = f"{one} or {other}: the one that reads more to {starts[0]} is the run, the other the common"
    named.questions.append(LeadQuestion(says, pairs))
    return [one], [other]


def _commutated(at: Mapping[LeadFunction, list[tuple[int, str]]], named: LeadsByFunction) -> None:
    """Power, taps and the low-volt common of a motor with electronics."""
    for number, lead in enumerate(_leads(at, "line", "neutral"), start=1):
        named.ends[lead] = (f"power.{number}",)
    speeds: Iterable[str] = (lead for function in SPEEDS for lead in _leads(at, function))
    for number, lead in enumerate(speeds, start=1):
        named.ends[lead] = (f"tap.{number}",)
    for number, lead in enumerate(_leads(at, "common", "run"), start=1):
        named.ends[lead] = (f"command.{number}",)
