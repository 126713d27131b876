"""Pieces of a photographed plate as lines of text: a caption and the figure beside or under it belong together."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from .pieces import Frame, Piece, part_of
from .tokens import line_of
from .words import Segment, segmented

ALSO_CAPTIONS = ("ROT", "ROTATION", "INS", "INSULATION", "DUTY", "TIME")
_A_CLASS = re.compile(r"(?:INS\w*|CL|CLASS)\W*[ABFH]\s*$")
"""An insulation class with its letter, which is also the letter of amps or of degrees."""
WITH_THE_ONE_BEFORE = ("celsius", "fahrenheit")
FAR_RIGHT, FAR_UNDER, MOST_UNDER, LONGEST = 16.0, 2.4, 14.0, 28
"""How far a value stands from its caption at most, in heights: beside it, right under it, down its column."""


@dataclass(frozen=True)
class Cell:
    """A part of a piece that stands by itself: the piece, where it begins and ends in its text."""

    piece: int
    start: int
    end: int
    text: str
    is_caption: bool


@dataclass(frozen=True)
class Joined:
    """A line of text made of cells, each with the place where it begins."""

    text: str
    parts: tuple[tuple[Cell, int], ...]

    def spans(self, start: int, end: int) -> list[tuple[int, int, int]]:
        """The pieces that a part of the line comes from: piece, start and end in its own text."""
        found = []
        for cell, begins in self.parts:
            first, last = max(start - begins, 0), min(end - begins, len(cell.text))
            if last > first:
                found.append((cell.piece, cell.start + first, cell.start + last))
        return found


def joined_lines(pieces: Sequence[Piece]) -> list[Joined]:
    """The text of a plate, each value with its caption before it; captions that name nothing stay out.

    Whose row it is (COMPRESSOR, FAN MOTOR) is put before every value of that row.
    """
    cells = [cell for at, piece in enumerate(pieces) for cell in _cells(at, piece)]
    placed = [cell for cell in cells if pieces[cell.piece].is_placed]
    frame = Frame([part_of(pieces[cell.piece], cell.start, cell.end) for cell in placed])
    table = _Table(placed, frame)
    found: list[Joined] = []
    for line in table.lines:
        owner: int | None = None
        for at in line:
            owner = at if _row_word(placed[at].text) else owner
            if placed[at].is_caption:
                continue
            caption = None if _names_itself(placed[at].text) else table.caption_of(at)
            head = [one for one in (owner, caption) if one is not None and one != at]
            found.append(_join([placed[one] for one in [*dict.fromkeys(head), at]]))
    return found + [_join([cell]) for cell in cells if not pieces[cell.piece].is_placed]


class _Table:
    """Where captions and values of a plate stand to each other."""

    def __init__(self, cells: Sequence[Cell], frame: Frame) -> None:
        self._cells, self._frame = cells, frame
        self.lines = frame.lines()
        self._line_of = {at: number for number, line in enumerate(self.lines) for at in line}
        self._left = {at: line[order - 1] for line in self.lines for order, at in enumerate(line) if order}
        self._beside = {at: caption for at, caption in self._left.items() if self._names(caption, at)}

    def caption_of(self, at: int) -> int | None:
        """The caption of a value: beside it, else over its column."""
        beside = self._beside.get(at)
        return self._over(at) if beside is None or _row_word(self._cells[beside].text) else beside

    def _names(self, caption: int, at: int) -> bool:
        """Whether a caption names the value at its right, and not one right under itself."""
        if self._cells[at].is_caption or not self._cells[caption].is_caption:
            return False
        one, other = self._frame.spots[caption], self._frame.spots[at]
        gap = self._frame.between(one, other)[0] - (one.width + other.width) / 2
        return gap < FAR_RIGHT * max(one.height, other.height) and not self._heads(caption)

    def _heads(self, caption: int) -> bool:
        """Whether a caption stands over its value: what is right under it is one, and has no other caption beside."""
        one = self._frame.spots[caption]
        for at, other in self._frame.spots.items():
            along, under = self._frame.between(one, other)
            begins = abs((along - other.width / 2) + one.width / 2)
            near = 0.5 * one.height < under < FAR_UNDER * one.height and begins < 1.2 * other.height
            if near and not self._cells[at].is_caption and not self._is_caption(self._left.get(at)):
                return True
        return False

    def _is_caption(self, at: int | None) -> bool:
        return at is not None and self._cells[at].is_caption

    def _over(self, at: int) -> int | None:
        """The caption at the head of a value's column: of the nearest line above that has captions free for it."""
        one = self._frame.spots[at]
        taken = set(self._beside.values())
        best: tuple[float, int] | None = None
        for caption, other in self._frame.spots.items():
            if not self._cells[caption].is_caption or caption in taken or _row_word(self._cells[caption].text):
                continue
            along, under = self._frame.between(other, one)
            if not 0.35 * min(one.height, other.height) < under < MOST_UNDER * other.height:
                continue
            if self._in_column(along, caption, at) and (best is None or under < best[0]):
                best = (under, caption)
        return best[1] if best else None

    def _in_column(self, along: float, caption: int, at: int) -> bool:
        """Whether a value's middle lies between its caption's beginning and the beginning of the next on that line."""
        one, value = self._frame.spots[caption], self._frame.spots[at]
        line = self.lines[self._line_of[caption]]
        after = line[line.index(caption) + 1 :]
        begins = along - value.width / 2 + one.width / 2
        if begins < -1.5 * one.height - value.width / 2:
            return False
        if not after:
            return along - value.width / 2 < one.width / 2 + 4 * one.height
        right = self._frame.spots[after[0]]
        to_next = self._frame.between(one, right)[0] - right.width / 2
        return along < to_next


def _cells(at: int, piece: Piece) -> list[Cell]:
    """A piece as it is, or the captions that stand in it beside each other (VOLTS PH HZ over a table)."""
    if not piece.is_placed:
        return [Cell(at, 0, len(piece.text), piece.text, False)]
    words = _caption_words(piece.text)
    if not words:
        return [Cell(at, 0, len(piece.text), piece.text, False)]
    starts = [start for start, key in words if key not in WITH_THE_ONE_BEFORE]
    if len(starts) < 2:
        return [Cell(at, 0, len(piece.text), piece.text, True)]
    starts[0] = 0
    ends = [*starts[1:], len(piece.text)]
    return [Cell(at, a, b, piece.text[a:b].rstrip(), True) for a, b in zip(starts, ends, strict=True)]


def _caption_words(text: str) -> list[tuple[int, str]]:
    """Where each caption of a text begins, with its key; empty where the text is more than captions."""
    if _A_CLASS.search(text.upper()):
        return []
    if any(sign.isdigit() for sign in text) and not re.fullmatch(r"(?=.{6,})[^\d]+[A-Za-z]\d[A-Za-z][^\d]*", text):
        return []
    places = [at for at, sign in enumerate(_as_letters(text)) if re.match(r"[A-ZØ%]", sign)]
    letters = "".join(_as_letters(text)[at] for at in places)
    if not letters or len(letters) > LONGEST:
        return []
    words = segmented(letters, [order for order, at in enumerate(places) if order and at - places[order - 1] > 1])
    if any(word is None for _, _, word, _ in words) or _is_odd(words, text, places):
        return []
    return [
        (places[start], word.key)
        for start, end, word, _ in words
        if word and _names_something(word.kind, letters[start:end])
    ]


def _names_something(kind: str, letters: str) -> bool:
    return kind in ("label", "caption", "other", "row") or letters in ALSO_CAPTIONS


def _is_odd(words: Sequence[Segment], text: str, places: Sequence[int]) -> bool:
    """Words that only seem captions: slips among several, single letters that do not stand alone (CW/CCW, INS CL B)."""
    if len(words) < 2:
        return False
    for start, end, _, wrong in words:
        around = text[places[start] - 1 : places[start]] + text[places[end - 1] + 1 : places[end - 1] + 2]
        if wrong or (end - start < 3 and around.strip()):
            return True
    return False


def _as_letters(text: str) -> str:
    return text.upper().replace("0", "O").replace("µ", "U").replace("\u03bc", "U")


def _names_itself(text: str) -> bool:
    """Whether a piece has its words in it: HP 1/4, 1075RPM."""
    tokens = line_of(text).tokens
    kinds = {token.word.kind for token in tokens if token.word is not None}
    return any(token.is_figure for token in tokens) and bool(kinds & {"label", "other"})


def _row_word(text: str) -> bool:
    return any(token.word is not None and token.word.kind == "row" for token in line_of(text).tokens)


def _join(cells: Sequence[Cell]) -> Joined:
    text, parts = "", []
    for cell in cells:
        text += " " if text else ""
        parts.append((cell, len(text)))
        text += cell.text
    return Joined(text, tuple(parts))
