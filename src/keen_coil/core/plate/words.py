"""The words of plates, from `words.toml`, and the phrases that say something by themselves, from `phrases.toml`."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Literal

from ..tables import listed, records, table

PACKAGE = "keen_coil.core.plate"
LONG = 5
"""A word of so many letters is known also with one letter lost."""
BLANK = r"[\s.:,\-]*"
_LOOK_BEHIND = re.compile(r"\(\?<[=!][^)]*\)")
_LIKE = str.maketrans("0QDI1L!|58Z", "OOOIIIIISBZ")
"""Signs that cameras take for one another, each by one of its kind."""


@dataclass(frozen=True)
class Label:
    """A word beside a figure: what the figure may be, on which side it stands."""

    words: list[str]
    fields: tuple[str, ...] = ()
    side: Literal["before", "behind", "any"] = "any"


@dataclass(frozen=True)
class Word:
    """A known word: its kind (label, other, row, filler), its key in the table, its label."""

    kind: str
    key: str
    label: Label


@dataclass(frozen=True)
class Phrase:
    """A phrase and what it says; `weak` where it only makes it likely."""

    field: str
    value: str
    patterns: tuple[str, ...]
    weak: bool = False


@dataclass(frozen=True)
class Lexicon:
    """All words by their letters, and by the letters a camera may have made of them."""

    exact: dict[str, Word]
    alike: dict[str, Word]
    longest: int


@lru_cache(maxsize=1)
def lexicon() -> Lexicon:
    """The words of `words.toml`. Raises `TableError` where the table is wrong."""
    data = table(PACKAGE, "words")
    exact: dict[str, Word] = {}
    for kind in ("filler", "caption", "other", "row", "label"):
        rows = {kind: data[kind]} if kind in ("filler", "caption") else data[kind]
        for key, label in records(Label, rows, "words").items():
            exact |= {word: Word(kind, key, label) for word in label.words}
    alike = {like(word): found for word, found in exact.items() if len(word) > 2}
    for word, found in exact.items():
        for at in range(len(word)) if len(word) >= LONG else ():
            alike.setdefault(like(word[:at] + word[at + 1 :]), found)
    return Lexicon(exact, alike, max(map(len, exact)))


def like(letters: str) -> str:
    """Letters with those that cameras confuse made the same."""
    return letters.translate(_LIKE)


@lru_cache(maxsize=1)
def phrases() -> tuple[tuple[Phrase, re.Pattern[str]], ...]:
    """The phrases, each with its pattern. Raises `TableError` where the table is wrong."""
    rows = listed(Phrase, table(PACKAGE, "phrases")["phrase"], "phrases")
    return tuple((row, re.compile("|".join(f"(?:{_spread(pattern)})" for pattern in row.patterns))) for row in rows)


def _spread(pattern: str) -> str:
    """A pattern whose blanks are any run of blanks and points; a look behind keeps its own."""
    kept = _LOOK_BEHIND.findall(pattern)
    parts = _LOOK_BEHIND.split(pattern)
    out = parts[0].replace(" ", BLANK)
    for look, part in zip(kept, parts[1:], strict=True):
        out += look + part.replace(" ", BLANK)
    return out


Segment = tuple[int, int, "Word | None", bool]
SHORT = 4
"""A shorter word inside a longer one that is not known says nothing: HELLO holds no LO."""


def segmented(letters: str, blanks: Sequence[int] = ()) -> list[Segment]:
    """A run of letters as known words: start, end, word (None for letters that are none), whether it was misread.

    Args: letters, without blanks; blanks, where those stood. Cameras lose blanks: MAXAMB is one word, COMPRESSORRLA
    two. Known words that cover most are taken, few before many.
    """
    found = _covered(letters)
    edges = sorted({0, *blanks, len(letters)})
    for first, last in pairwise(edges):
        inside = [row for row in found if row[0] < last and row[1] > first]
        if any(row[2] is None for row in inside) and all(row[2] is None or row[1] - row[0] < SHORT for row in inside):
            start, end = min(inside[0][0], first), max(inside[-1][1], last)
            found = [
                *(r for r in found if r[1] <= start),
                (start, end, None, False),
                *(r for r in found if r[0] >= end),
            ]
    return found


def _covered(letters: str) -> list[Segment]:
    known = lexicon()
    best: list[tuple[float, list[tuple[int, int, Word | None, bool]]]] = [(0.0, [])]
    for end in range(1, len(letters) + 1):
        cost, path = best[end - 1]
        open_run = bool(path) and path[-1][2] is None
        found = (
            cost + (0.9 if open_run else 3.0),
            [*path[:-1], (path[-1][0], end, None, False)] if open_run else [*path, (end - 1, end, None, False)],
        )
        for start in range(max(0, end - known.longest), end):
            part = letters[start:end]
            word, wrong = known.exact.get(part), False
            if word is None and end - start > 2:
                word, wrong = known.alike.get(like(part)), True
            if word is None:
                continue
            price = best[start][0] + 1.0 + 0.4 * wrong + (1.2 if end - start == 1 and len(letters) > 1 else 0.0)
            if price < found[0]:
                found = (price, [*best[start][1], (start, end, word, wrong)])
        best.append(found)
    return best[-1][1]
