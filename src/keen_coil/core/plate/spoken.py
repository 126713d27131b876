"""Numbers as they are spoken: "ten seventy five" is 1075, "two oh eight" 208, "three quarters" 3/4."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

SMALL = {
    word: number
    for number, word in enumerate(
        "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen "
        "seventeen eighteen nineteen".upper().split()
    )
}
TENS = {word: 10 * (at + 2) for at, word in enumerate("TWENTY THIRTY FORTY FIFTY SIXTY SEVENTY EIGHTY NINETY".split())}
PARTS = {"HALF": 2, "THIRD": 3, "QUARTER": 4, "FOURTH": 4, "FIFTH": 5, "SIXTH": 6, "EIGHTH": 8, "TENTH": 10}
PARTS |= {"TWELFTH": 12, "FIFTEENTH": 15, "TWENTIETH": 20, "THIRTIETH": 30, "FORTIETH": 40}
PARTS |= {f"{word}S": parts for word, parts in PARTS.items() if word != "HALF"} | {"HALVES": 2}
BETWEEN = {"TO": "-", "THROUGH": "-", "THRU": "-", "DASH": "-", "HYPHEN": "-", "SLASH": "/", "OVER": "/", "PLUS": "+"}
_WORD = re.compile(r"[A-Z]+|\d+(?:\.\d+)?")
ROUND = {115, 120, 208, 220, 230, 240, 250, 277, 330, 370, 380, 400, 440, 450, 460, 480, 550, 570, 575}
"""Volts that are said by themselves: "two thirty five mike" is 230 and 5, "eight twenty five" one number."""
Words = list[tuple[str, int, int]]


def with_figures(text: str) -> tuple[str, list[tuple[int, int]]]:
    """Text in capitals with its spoken numbers as figures, and for each sign the part of the text it came from."""
    out: list[str] = []
    places: list[tuple[int, int]] = []
    at = 0
    for start, end, figures in _spoken(text):
        out += [text[at:start], figures]
        places += [(place, place + 1) for place in range(at, start)]
        places += [(start, end)] * len(figures)
        at = end
    out.append(text[at:])
    places += [(place, place + 1) for place in range(at, len(text))]
    return "".join(out), places


def _spoken(text: str) -> Iterator[tuple[int, int, str]]:
    """Runs of number words: start, end, the figures they say."""
    words = [(m[0], m.start(), m.end()) for m in _WORD.finditer(text)]
    at = 0
    while at < len(words):
        end, figures = _one(words, at, text)
        if end > at:
            yield words[at][1], words[end - 1][2], figures
            at = end
        else:
            at += 1


def _near(words: Words, at: int, text: str) -> bool:
    """Whether a word follows the one before it with nothing but a blank or a hyphen between."""
    return 0 < at < len(words) and re.fullmatch(r"[ \-]+", text[words[at - 1][2] : words[at][1]]) is not None


def _one(words: Words, at: int, text: str) -> tuple[int, str]:
    """The number that begins with this word: where it ends, its figures; nothing where none begins."""

    def word(place: int) -> str:
        if place >= len(words):
            return ""
        return words[place][0] if place == at or _near(words, place, text) else ""

    first = words[at][0]
    part = _part(first, at, word)
    if part[0] > at:
        return part
    if first == "POINT":
        return _decimals("0", at, words, word)
    end, value = _whole(at, words, word)
    if end == at:
        return at, ""
    if word(end) in PARTS and value.isdigit() and 0 < int(value) < 4:
        return end + 1, f"{value}/{PARTS[word(end)]}"
    if word(end) == "POINT" and int(value) not in ROUND:
        return _decimals(value, end, words, word)
    half = end + 2 if word(end + 1) in ("A", "AN", "ONE") else end + 1
    if word(end) == "AND" and word(half) in ("HALF", "QUARTER"):
        return half + 1, f"{int(value) + 1 / PARTS[word(half)]:g}"
    return (end, value) if not first.isdigit() else (at, "")


def _part(first: str, at: int, word: Callable[[int], str]) -> tuple[int, str]:
    """A part of a whole that is said alone: "quarter", "a third", "one twenty-fifth"; the start where none is."""
    of = at + 1 if first in ("ONE", "A") and word(at + 1) in TENS else at
    if word(of) in TENS and word(of + 1) == "FIFTH":
        return of + 2, f"1/{TENS[word(of)] + 5}"
    if first in PARTS and (first != "THIRD" or word(at + 1) in ("HORSE", "HORSEPOWER", "HP", "H", "OF", "")):
        return at + 1, f"1/{PARTS[first]}"
    if first in ("A", "AN") and word(at + 1) in PARTS:
        return at + 2, f"1/{PARTS[word(at + 1)]}"
    return at, ""


def _decimals(whole: str, point: int, words: Words, word: Callable[[int], str]) -> tuple[int, str]:
    """Figures after "point", each said by itself: "one point two five"."""
    end, digits = point + 1, ""
    while word(end) in SMALL or word(end) in ("OH", "O") or word(end).isdigit():
        digits += word(end) if word(end).isdigit() else str(SMALL.get(word(end), 0))
        end += 1
        if len(digits) > 1:
            break
    return (end, f"{whole}.{digits}") if digits else (point, whole if whole != "0" else "")


def _whole(at: int, words: Words, word: Callable[[int], str]) -> tuple[int, str]:
    """A whole number as the trade says it: "two thirty", "ten seventy five", "eleven hundred", "two oh eight"."""
    first = word(at)
    if first.isdigit():
        return at + 1, first
    two, end = _two(at, words, word)
    if end == at:
        return at, ""
    if word(end) == "THOUSAND":
        rest, after = _two(end + 1, words, word)
        if word(after) == "HUNDRED":
            more, last = _two(after + 1, words, word)
            return max(last, after + 1), str(two * 1000 + rest * 100 + more)
        return max(after, end + 1), str(two * 1000 + rest)
    if word(end) == "HUNDRED":
        place = end + 2 if word(end + 1) == "AND" else end + 1
        more, after = _two(place, words, word)
        return (after, str(two * 100 + more)) if after > place else (end + 1, str(two * 100))
    if word(end) in ("OH", "O", "ZERO") and word(end + 1) in SMALL and two < 20:
        return end + 2, str(two * 100 + SMALL[word(end + 1)])
    if two < 20:
        more, after = _two(end, words, word)
        alone = more - more % 10
        if after == end + 2 and (word(after) == "POINT" or two * 100 + alone in ROUND):
            more, after = alone, end + 1
        if after > end and more >= 10:
            return after, str(two * 100 + more)
    return end, str(two)


def _two(at: int, words: Words, word: Callable[[int], str]) -> tuple[int, int]:
    """A number below a hundred and where it ends; the start again where none stands."""
    first = word(at)
    if first in SMALL:
        return SMALL[first], at + 1
    if first in TENS:
        if 0 < SMALL.get(word(at + 1), 0) < 10:
            return TENS[first] + SMALL[word(at + 1)], at + 2
        return TENS[first], at + 1
    return 0, at
