"""What a reading is about, whatever its shape: a list of three, three single ones, with or without a section.

Two readings are about the same thing when they share a subject; `[AB, BC, CA]` is the same as three single pairs.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..call import Call
from ..readings import LoadPair, Reading
from ..uncertainty import span
from ..units import Span

Subject = tuple[object, ...]
Value = Span | str | bool | None
WARM_STEP_C, COOL_MINUTES = 5, 60.0
PAIRS = (("A", "B"), ("B", "C"), ("A", "C"))
_ANY = "any of three"


def subjects(reading: Reading, call: Call) -> Iterator[tuple[Subject, Value]]:
    """Each thing a reading is about, with its interval, or its word; a pair of amps and volts has no interval."""
    base = _base(reading, call)
    if isinstance(reading.value, list):
        for place, value in enumerate(reading.value):
            yield (*base, _place(reading, place)), _value(value, reading, call)
    elif isinstance(reading.value, LoadPair):
        yield (*base, None), None
    else:
        yield (*base, _single(reading, call)), _value(reading.value, reading, call)


def _value(value: object, reading: Reading, call: Call) -> Value:
    if isinstance(value, (bool, str)) and value in (True, False, *reading.row.words):
        return value
    return span(float(value), reading, call.meters)  # type: ignore[arg-type]


def _base(reading: Reading, call: Call) -> Subject:
    """Kind and qualifiers, the contract's defaults filled in."""
    section = section_of(reading, call) if reading.kind.startswith("capacit") else None
    return (
        reading.kind,
        reading.place if reading.row.at or reading.at else None,
        reading.when or "standing",
        reading.across or "line",
        section,
        reading.lead,
        reading.leg or "whole",
        reading.speed,
        reading.tap,
        reading.with_ or "load",
        reading.stage or "found",
        bool(reading.dried),
        _warmth(reading),
    )


def section_of(reading: Reading, call: Call) -> str:
    """The section of a capacitor a reading is about; all of one that serves the compressor only is the compressor's."""
    if call.unit.run_capacitor == "compressor_only":
        return "herm"
    fan = "fan" if call.unit.run_capacitor == "dual" or call.capacitor.section_uf("fan") else "single"
    return "herm" if reading.section == "herm" else fan


def _warmth(reading: Reading) -> Subject:
    """Ohms of a warm motor and of a cool one are two things: an open overload closes in between."""
    if reading.kind != "winding_ohm":
        return ()
    warm = None if reading.temperature_c is None else round(float(reading.temperature_c) / WARM_STEP_C)
    return warm, None if reading.minutes_off is None else float(reading.minutes_off) >= COOL_MINUTES


def _place(reading: Reading, place: int) -> object:
    return frozenset(PAIRS[place]) if reading.kind == "winding_ohm" else place


def _single(reading: Reading, call: Call) -> object:
    if reading.pair:
        return frozenset(named(lead, call) for lead in reading.pair)
    return None


def named(lead: str, call: Call) -> str:
    """A lead's name, as A, B, C where the motor's three pairs are also given as a list."""
    names = call.once("three names", lambda: _three_names(call))
    return names.get(lead, lead)


def _three_names(call: Call) -> dict[str, str]:
    rows = call.standing("winding_ohm")
    leads = sorted({lead for _, r in rows for lead in r.pair or ()})
    listed = any(isinstance(r.value, list) for _, r in rows)
    return dict(zip(leads, "ABC", strict=True)) if listed and len(leads) == 3 else {}


def disagree(one: Value, other: Value) -> bool:
    """Whether two answers about one thing cannot both be true: words that differ, intervals that do not meet."""
    if one is None or other is None:
        return False
    if isinstance(one, Span) and isinstance(other, Span):
        return one.apart(other)
    return bool(type(one) is not type(other) or one != other)


def groups(call: Call) -> dict[Subject, list[tuple[int, Value]]]:
    """Standing readings by what they are about, each group in order of time; those taken by a wrong method left out."""
    found: dict[Subject, list[tuple[int, Value]]] = {}
    lists: list[tuple[Subject, int, Value]] = []
    for index, reading in call.standing():
        if reading.wrong_power or reading.row.many:
            continue
        for subject, value in subjects(reading, call):
            found.setdefault(subject, []).append((index, value))
            if isinstance(reading.value, list) and reading.kind != "winding_ohm":
                lists.append((subject, index, value))
    _singles_beside_lists(found, lists)
    return {subject: rows for subject, rows in found.items() if len(rows) > 1}


def _singles_beside_lists(
    found: dict[Subject, list[tuple[int, Value]]], lists: list[tuple[Subject, int, Value]]
) -> None:
    """A single value beside a list of three excludes it when it meets none of the three."""
    by_list: dict[tuple[Subject, int], list[Value]] = {}
    for subject, index, value in lists:
        by_list.setdefault((subject[:-1], index), []).append(value)
    for (base, index), values in by_list.items():
        spans_ = [value for value in values if isinstance(value, Span)]
        for other, value in found.get((*base, None), ()):
            if isinstance(value, Span) and spans_ and all(value.apart(one) for one in spans_):
                nearest = min(spans_, key=lambda one: min(abs(one.low - value.high), abs(one.high - value.low)))
                found.setdefault((*base, _ANY, index, other), []).extend([(index, nearest), (other, value)])
