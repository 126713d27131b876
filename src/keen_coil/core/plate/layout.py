"""Pieces of a photographed plate as lines of text: a caption and the figure beside or under it belong together."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from .pieces import Piece, in_reading_order, placed
from .tokens import line_of
from .words import segmented

_LETTERS = re.compile(r"[^A-ZØ]")
NEAR_ROW, FAR_RIGHT, FAR_UNDER = 0.6, 16.0, 2.4


@dataclass(frozen=True)
class Joined:
    """A line of text made of pieces: for each, its place in the photograph's pieces and where it begins."""

    text: str
    parts: tuple[tuple[int, int], ...]

    def spans(self, start: int, end: int, pieces: Sequence[Piece]) -> list[tuple[int, int, int]]:
        """The pieces that a part of the line comes from: piece, start and end in its own text."""
        found = []
        for at, begins in self.parts:
            first, last = max(start - begins, 0), min(end - begins, len(pieces[at].text))
            if last > first:
                found.append((at, first, last))
        return found


def is_caption(text: str) -> bool:
    """Whether a piece only names what stands beside or under it."""
    if any(sign.isdigit() for sign in text.replace("CAPACIT0R", "")) and not _is_word_with_slip(text):
        return False
    letters = _LETTERS.sub("", _as_letters(text))
    if not letters or len(letters) > 28:
        return False
    words = segmented(letters)
    if any(word is None for _, _, word, _ in words):
        return False
    kinds = {word.kind for _, _, word, _ in words if word}
    return bool(kinds & {"label", "caption", "other", "row"}) or letters in ("ROT", "ROTATION", "INS", "DUTY", "TIME")


def _is_word_with_slip(text: str) -> bool:
    digits = sum(sign.isdigit() for sign in text)
    return digits == 1 and len(text) > 5 and re.search(r"[A-Za-z]\d[A-Za-z]", text) is not None


def _as_letters(text: str) -> str:
    return text.upper().replace("0", "O").replace("µ", "U").replace("\u03bc", "U")


def joined_lines(pieces: Sequence[Piece]) -> list[Joined]:
    """The text of a photograph, each value with its caption before it; captions that name nothing stay out.

    Whose row it is (COMPRESSOR, FAN MOTOR) is put before every piece of that row.
    """
    rows = {row.at: row for row in placed(pieces)}
    captions = {at for at, piece in enumerate(pieces) if is_caption(piece.text)}
    found: list[Joined] = []
    for line in in_reading_order(pieces):
        owner: int | None = None
        for order, at in enumerate(line):
            if _row_word(pieces[at].text):
                owner = at
            if at in captions:
                continue
            head = [owner] if owner is not None and owner != at else []
            caption = _caption_of(at, line[:order], rows, captions) if at in rows else None
            head += [caption] if caption is not None and caption not in head else []
            found.append(_join([*head, at], pieces))
    return found


def _row_word(text: str) -> bool:
    return any(token.word is not None and token.word.kind == "row" for token in line_of(text).tokens)


def _caption_of(at: int, left: Sequence[int], rows: dict, captions: set[int]) -> int | None:  # type: ignore[type-arg]
    """The caption that a piece stands beside, else the one above it in its column."""
    one = rows[at]
    if left and left[-1] in captions and one.left - rows[left[-1]].right < FAR_RIGHT * one.height:
        return left[-1]
    above = one
    for _ in range(8):
        over = [
            other
            for other in rows.values()
            if 0.4 * above.height < above.y - other.y < FAR_UNDER * max(above.height, other.height)
            and min(above.right, other.right) - max(above.left, other.left) > 0.25 * min(above.width, other.width)
        ]
        if not over:
            return None
        above = max(over, key=lambda other: other.y)
        if above.at in captions:
            return int(above.at)
    return None


def _join(parts: Sequence[int], pieces: Sequence[Piece]) -> Joined:
    text, begins = "", []
    for at in parts:
        text += " " if text else ""
        begins.append((at, len(text)))
        text += pieces[at].text
    return Joined(text, tuple(begins))
