"""Pieces of text as they were found on a plate, and where they stand to each other."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

Point = tuple[float, float]
LONG = 1.8
"""A piece so many times as wide as high says at which angle its line runs."""


@dataclass(frozen=True)
class Piece:
    """A piece of text; from a photograph also its corners (clockwise from the top left) and how sure each sign is."""

    text: str
    corners: tuple[Point, Point, Point, Point] | None = None
    sure: tuple[float, ...] = ()

    @property
    def is_placed(self) -> bool:
        """Whether it is known where it stands."""
        return self.corners is not None

    def sure_of(self, start: int, end: int) -> float:
        """How sure the least sure sign of a part of it is, 0 to 1; typed text is sure."""
        part = [sure for sign, sure in zip(self.text[start:end], self.sure[start:end], strict=False) if sign != " "]
        return min(part, default=1.0)


def part_of(piece: Piece, start: int, end: int) -> Piece:
    """A part of a piece, its corners by its share of the text."""
    if piece.corners is None or (start, end) == (0, len(piece.text)):
        return piece
    a, b, c, d = piece.corners
    first, last = start / len(piece.text), end / len(piece.text)
    corners = (_on(a, b, first), _on(a, b, last), _on(d, c, last), _on(d, c, first))
    return Piece(piece.text[start:end], corners, piece.sure[start:end])


def _on(one: Point, other: Point, share: float) -> Point:
    return one[0] + (other[0] - one[0]) * share, one[1] + (other[1] - one[1]) * share


def box_of(corners: Sequence[Point]) -> tuple[int, int, int, int]:
    """The upright rectangle around corners: x, y, width, height in whole pixels."""
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    left, top = math.floor(min(xs)), math.floor(min(ys))
    return left, top, math.ceil(max(xs)) - left, math.ceil(max(ys)) - top


@dataclass(frozen=True)
class Spot:
    """Where a piece stands: its middle, width and height, in pixels."""

    at: int
    middle: Point
    width: float
    height: float


class Frame:
    """The places of pieces to each other, whatever angle the plate was photographed at.

    Lines of a plate seen askew run together: their angle is fitted as a plane over the picture.
    """

    def __init__(self, pieces: Sequence[Piece]) -> None:
        self.spots: dict[int, Spot] = {}
        rows, leans, weights = [], [], []
        for at, piece in enumerate(pieces):
            if piece.corners is None:
                continue
            a, b, c, d = piece.corners
            width, height = (math.dist(a, b) + math.dist(d, c)) / 2, (math.dist(a, d) + math.dist(b, c)) / 2
            middle = ((a[0] + b[0] + c[0] + d[0]) / 4, (a[1] + b[1] + c[1] + d[1]) / 4)
            self.spots[at] = Spot(at, middle, width, height)
            if width > LONG * height:
                rows.append(middle)
                leans.append((math.atan2(b[1] - a[1], b[0] - a[0]), math.atan2(c[1] - d[1], c[0] - d[0])))
                weights.append(width)
        self._base, self._tilt, self._middle = _fitted(rows, leans, weights)

    def lean(self, place: Point) -> float:
        """The angle at which a line runs there, radians."""
        dx, dy = place[0] - self._middle[0], place[1] - self._middle[1]
        return self._base + self._tilt[0] * dx + self._tilt[1] * dy

    def between(self, one: Spot, other: Spot) -> tuple[float, float]:
        """How far `other` stands along the line from `one`, and how far under it: middle to middle, pixels."""
        dx, dy = other.middle[0] - one.middle[0], other.middle[1] - one.middle[1]
        angle = self.lean(((one.middle[0] + other.middle[0]) / 2, (one.middle[1] + other.middle[1]) / 2))
        c, s = math.cos(angle), math.sin(angle)
        return dx * c + dy * s, dy * c - dx * s

    def lines(self) -> list[list[int]]:
        """The pieces line by line from the top, each from left to right."""
        if not self.spots:
            return []
        first = next(iter(self.spots.values()))
        lines: list[list[Spot]] = []
        for spot in sorted(self.spots.values(), key=lambda s: self.between(first, s)[0]):
            near = [
                (abs(self.between(line[-1], spot)[1]), line)
                for line in lines
                if abs(self.between(line[-1], spot)[1]) < 0.5 * min(line[-1].height, spot.height)
                and self.between(line[-1], spot)[0] > 0
            ]
            if near:
                min(near, key=lambda way: way[0])[1].append(spot)
            else:
                lines.append([spot])
        lines.sort(key=lambda line: self.between(first, line[0])[1])
        return [[spot.at for spot in line] for line in lines]


def _fitted(
    places: Sequence[Point], leans: Sequence[tuple[float, float]], weights: Sequence[float]
) -> tuple[float, tuple[float, float], Point]:
    """The angle of the lines as a plane: at the middle, its change along x and y, the middle."""
    if not places:
        return 0.0, (0.0, 0.0), (0.0, 0.0)
    turn = math.atan2(
        sum(w * math.sin(a) for (a, _), w in zip(leans, weights, strict=True)),
        sum(w * math.cos(a) for (a, _), w in zip(leans, weights, strict=True)),
    )
    off = np.array([[math.remainder(a - turn, math.tau) for a in pair] for pair in leans]).mean(axis=1)
    spot = np.array(places)
    middle = spot.mean(axis=0)
    if len(places) < 5:
        return turn + float(np.median(off)), (0.0, 0.0), (float(middle[0]), float(middle[1]))
    share = np.sqrt(np.array(weights))
    columns = np.column_stack([np.ones(len(spot)), spot - middle])
    held = np.diag([0.0, *np.maximum(spot.std(axis=0), 1.0)]) * 0.5  # a change of angle has to be seen, not guessed
    scaled = np.vstack([columns * share[:, None], held])
    known = np.concatenate([off * share, np.zeros(3)])
    found = np.linalg.lstsq(scaled, known, rcond=None)[0]
    return turn + float(found[0]), (float(found[1]), float(found[2])), (float(middle[0]), float(middle[1]))
