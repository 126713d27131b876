"""Pieces of a photographed plate as lines of text: a caption and the figure beside or under it belong together."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from .pieces import Frame, Piece
from .tokens import line_of
from .words import segmented

ALSO_CAPTIONS = ("ROT", "ROTATION", "INS", "DUTY", "TIME")
_LETTERS = re.compile(r"[^A-ZØ]")
FAR_RIGHT, FAR_UNDER, MOST_ROWS = 16.0, 2.4, 8


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
    if any(sign.isdigit() for sign in text) and not re.fullmatch(r"(?=.{6,})[^\d]+[A-Za-z]\d[A-Za-z][^\d]*", text):
        return False
    letters = _LETTERS.sub("", _as_letters(text))
    if not letters or len(letters) > 28:
        return False
    words = segmented(letters)
    if any(word is None or (end - start == 1 and len(letters) > 1) for start, end, word, _ in words):
        return False
    kinds = {word.kind for _, _, word, _ in words if word}
    return bool(kinds & {"label", "caption", "other", "row"}) or letters in ALSO_CAPTIONS


def _as_letters(text: str) -> str:
    return text.upper().replace("0", "O").replace("µ", "U").replace("\u03bc", "U")


def joined_lines(pieces: Sequence[Piece]) -> list[Joined]:
    """The text of a plate, each value with its caption before it; captions that name nothing stay out.

    Whose row it is (COMPRESSOR, FAN MOTOR) is put before every piece of that row.
    """
    frame = Frame(pieces)
    captions = {at for at, piece in enumerate(pieces) if piece.is_placed and is_caption(piece.text)}
    lines = frame.lines()
    left = {at: line[order - 1] for line in lines for order, at in enumerate(line) if order}
    beside = {
        at: caption
        for at, caption in left.items()
        if at not in captions
        and caption in captions
        and _is_near(frame, caption, at)
        and not _heads(caption, frame, captions, left)
    }
    free = captions - set(beside.values())
    found: list[Joined] = []
    for line in lines:
        owner: int | None = None
        for at in line:
            owner = at if _row_word(pieces[at].text) else owner
            if at in captions:
                continue
            head = [owner] if owner is not None and owner != at else []
            caption = beside.get(at)
            if caption is None or pieces[caption].text and _row_word(pieces[caption].text):
                caption = _above(at, frame, captions, free) or caption
            head += [caption] if caption is not None and caption not in head else []
            found.append(_join([*head, at], pieces))
    return found + [_join([at], pieces) for at, piece in enumerate(pieces) if not piece.is_placed]


def _row_word(text: str) -> bool:
    return any(token.word is not None and token.word.kind == "row" for token in line_of(text).tokens)


def _is_near(frame: Frame, caption: int, at: int) -> bool:
    one, other = frame.spots[caption], frame.spots[at]
    gap = frame.between(one, other)[0] - (one.width + other.width) / 2
    return gap < FAR_RIGHT * max(one.height, other.height)


def _heads(caption: int, frame: Frame, captions: set[int], left: dict[int, int]) -> bool:
    """Whether a caption stands over its value: what is right under it is none, begins with it, has no other beside."""
    one = frame.spots[caption]
    for other in frame.spots.values():
        along, under = frame.between(one, other)
        begins = abs((along - other.width / 2) + one.width / 2)
        near = 0.5 * one.height < under < FAR_UNDER * one.height and begins < 1.2 * other.height
        if near and other.at not in captions and left.get(other.at) not in captions:
            return True
    return False


def _above(at: int, frame: Frame, captions: set[int], free: set[int]) -> int | None:
    """The caption at the head of a piece's column, over pieces that are none; only one that names nothing beside it."""
    one = frame.spots[at]
    for _ in range(MOST_ROWS):
        over = []
        for other in frame.spots.values():
            along, under = frame.between(other, one)
            overlap = (one.width + other.width) / 2 - abs(along)
            if 0.35 * min(one.height, other.height) < under < FAR_UNDER * max(
                one.height, other.height
            ) and overlap > 0.25 * min(one.width, other.width):
                over.append((under, other.at))
        if not over:
            return None
        near = min(over)[1]
        if near in captions:
            return near if near in free else None
        one = frame.spots[near]
    return None


def _join(parts: Sequence[int], pieces: Sequence[Piece]) -> Joined:
    text, begins = "", []
    for at in parts:
        text += " " if text else ""
        begins.append((at, len(text)))
        text += pieces[at].text
    return Joined(text, tuple(begins))
