"""Pieces of text as they were found on a plate, and their order: which figure stands beside or under which word."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

Point = tuple[float, float]


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


@dataclass(frozen=True)
class _Placed:
    """A piece in a frame that stands upright: middle, width and height."""

    at: int
    x: float
    y: float
    width: float
    height: float

    @property
    def left(self) -> float:
        return self.x - self.width / 2

    @property
    def right(self) -> float:
        return self.x + self.width / 2


def box_of(corners: Sequence[Point]) -> tuple[int, int, int, int]:
    """The upright rectangle around corners: x, y, width, height in whole pixels."""
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    left, top = math.floor(min(xs)), math.floor(min(ys))
    return left, top, math.ceil(max(xs)) - left, math.ceil(max(ys)) - top


def slope_of(pieces: Sequence[Piece]) -> float:
    """The angle at which the lines of text run, radians; the long ones count."""
    leans = []
    for piece in pieces:
        if piece.corners is None:
            continue
        (ax, ay), (bx, by) = piece.corners[0], piece.corners[1]
        if math.hypot(bx - ax, by - ay) > 1.5 * math.hypot(piece.corners[3][0] - ax, piece.corners[3][1] - ay):
            leans.append(math.atan2(by - ay, bx - ax))
    return median(leans) if leans else 0.0


def placed(pieces: Sequence[Piece]) -> list[_Placed]:
    """The pieces that have a place, turned upright."""
    lean = slope_of(pieces)
    turned = []
    for at, piece in enumerate(pieces):
        if piece.corners is None:
            continue
        points = [_turned(point, -lean) for point in piece.corners]
        width = (math.dist(points[0], points[1]) + math.dist(points[3], points[2])) / 2
        height = (math.dist(points[0], points[3]) + math.dist(points[1], points[2])) / 2
        x, y = sum(p[0] for p in points) / 4, sum(p[1] for p in points) / 4
        turned.append(_Placed(at, x, y, width, height))
    return turned


def _turned(point: Point, angle: float) -> Point:
    c, s = math.cos(angle), math.sin(angle)
    return point[0] * c - point[1] * s, point[0] * s + point[1] * c


def neighbors(pieces: Sequence[Piece]) -> dict[int, tuple[int | None, int | None]]:
    """For each placed piece the one right of it on its line, and the one right under it; None where there is none."""
    found: dict[int, tuple[int | None, int | None]] = {}
    rows = placed(pieces)
    for one in rows:
        right = [
            (other.left - one.right, other.at)
            for other in rows
            if other.at != one.at
            and other.x > one.x
            and -one.height < other.left - one.right < 14 * one.height
            and abs(other.y - one.y - _drift(one, other, rows)) < 0.6 * max(one.height, other.height)
        ]
        under = [
            (other.y - one.y, other.at)
            for other in rows
            if other.at != one.at
            and 0.5 * one.height < other.y - one.y < 2.2 * max(one.height, other.height)
            and min(one.right, other.right) - max(one.left, other.left) > 0.2 * min(one.width, other.width)
        ]
        found[one.at] = (min(right)[1] if right else None, min(under)[1] if under else None)
    return found


def _drift(one: _Placed, other: _Placed, rows: Sequence[_Placed]) -> float:
    """Nothing: lines are taken as straight once turned."""
    return 0.0


def in_reading_order(pieces: Sequence[Piece]) -> list[list[int]]:
    """The pieces line by line, each from left to right; pieces without a place are lines of their own."""
    lines: list[list[_Placed]] = []
    for one in sorted(placed(pieces), key=lambda row: row.y):
        home = next((line for line in lines if abs(line[-1].y - one.y) < 0.5 * min(line[-1].height, one.height)), None)
        if home is None:
            lines.append([one])
        else:
            home.append(one)
    ordered = [[row.at for row in sorted(line, key=lambda row: row.x)] for line in lines]
    return ordered + [[at] for at, piece in enumerate(pieces) if piece.corners is None]
