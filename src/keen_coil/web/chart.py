"""A line chart as SVG, the same on the page and as a file; the band of a limit, the figure read off a chart."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from ..core.judge.judged import Band, Judgement
from ..core.units import fixed


@dataclass(frozen=True)
class Stop:
    """A place along the axis: its x in the picture, the values in words, and where each value lies with its kind."""

    x: float
    says: str
    dots: tuple[tuple[float, str], ...] = ()


def readout(stops: Iterable[Stop], top: float, bottom: float) -> str:
    """Stops as the page's script reads them, with the ends of the line that is drawn through one."""
    rows = [
        [round(stop.x, 1), stop.says, [[round(y, 1), kind] for y, kind in stop.dots]]
        for stop in sorted(stops, key=lambda stop: stop.x)
    ]
    return json.dumps({"top": round(top, 1), "bottom": round(bottom, 1), "stops": rows}, ensure_ascii=False)


def with_unit(title: str, value: str) -> str:
    """A value with the unit of an axis title: `speed, rpm` and 825 are `825 rpm`; one without a unit is named."""
    name, comma, unit = title.rpartition(", ")
    return f"{value} {unit}" if comma and name else f"{title} {value}"


WIDTH, BAND_LEFT, RIGHT = 320.0, 12.0, 308.0


@dataclass(frozen=True)
class BandPicture:
    """Places on the scale, in units of the picture."""

    ticks: list[tuple[float, str]]
    low: float
    high: float
    mark: tuple[float, float] | None
    text: str
    source: str


def band_picture(band: Band | None, interval: tuple[float, float] | None, sign: str = "") -> BandPicture | None:
    """The picture of a band with both ends known, a sign behind each figure of its scale; None otherwise."""
    if band is None or math.isinf(band.low) or math.isinf(band.high):
        return None
    top = max(band.high * 1.2, interval[1] * 1.05 if interval else 0.0)
    step = round_step(top / 6)
    scale = (RIGHT - BAND_LEFT) / top
    ticks = [(BAND_LEFT + i * step * scale, f"{i * step:g}{sign}") for i in range(int(top / step) + 1)]
    mark = None
    if interval:
        mark = BAND_LEFT + max(interval[0], 0) * scale, BAND_LEFT + min(interval[1], top) * scale
    return BandPicture(ticks, BAND_LEFT + band.low * scale, BAND_LEFT + band.high * scale, mark, band.text, band.source)


def judged_picture(judgement: Judgement) -> BandPicture | None:
    """The picture of a judgment on its own band; None where the band has an open end."""
    if judgement.band is None or None in judgement.band:
        return None
    low, high = (float(end) for end in judgement.band if end is not None)
    return band_picture(
        Band(low, high, judgement.limit or "", judgement.source or ""),
        judgement.interval,
        " °C" * (judgement.unit == "C"),
    )


def round_step(raw: float, rounds: tuple[float, ...] = (1.0, 2.0, 5.0)) -> float:
    """The next round step at or above a raw one."""
    power = 10.0 ** math.floor(math.log10(raw))
    return power * next((round_ for round_ in rounds if raw <= round_ * power), 10.0)


LEFT, FOOT, PLOT = 54.0, 40.0, 220.0
WIDE, NARROW = 720.0, 372.0
ROW, FIRST_ROW = 22.0, 14.0
STOPS = 33
"""So many places along the axis can be asked."""
LETTER = 7.4
"""About the width of a letter of the key."""


@dataclass(frozen=True)
class Series:
    """A line: its name, values, and the kind its stroke shows (`found`, `should`, `fan`, `second`, `third`)."""

    name: str
    x: Sequence[float]
    y: Sequence[float]
    kind: str


@dataclass(frozen=True)
class Mark:
    """A point that stands out, with a word beside it."""

    x: float
    y: float
    kind: str
    says: str


@dataclass(frozen=True)
class Zone:
    """A stretch of the axis in which something holds, such as `stalled`."""

    low: float
    high: float
    says: str
    kind: str = ""


@dataclass(frozen=True)
class Placed:
    """A word at its place."""

    x: float
    y: float
    says: str
    anchor: str = "middle"
    kind: str = ""


@dataclass(frozen=True)
class Chart:
    """Everything by its place in the picture."""

    says: str
    lines: list[tuple[str, str]]
    marks: list[tuple[float, float, str]]
    zones: list[tuple[float, float, str]]
    x_ticks: list[tuple[float, str]]
    y_ticks: list[tuple[float, str]]
    words: list[Placed]
    keys: list[tuple[float, float, str, str]]
    width: float
    top: float
    bottom: float
    stops: list[Stop]

    @property
    def readout(self) -> str:
        """Its values along the axis, for pointer and keys."""
        return readout(self.stops, self.top, self.bottom)

    @property
    def right(self) -> float:
        """The right end of the axis."""
        return self.width - 14

    @property
    def height(self) -> float:
        """The whole picture's height."""
        return self.bottom + FOOT


def chart(
    series: list[Series],
    x_title: str,
    y_title: str,
    marks: Sequence[Mark] = (),
    zones: Sequence[Zone] = (),
    says: str = "",
    width: float = WIDE,
    counts: bool = False,
) -> Chart:
    """Place series, marks and zones; the y axis starts at 0 or below, the key wraps to the width.

    With `counts` the x axis counts things and is marked at whole numbers only.
    """
    keys = _keys([(row.name, row.kind) for row in series], width)
    top, right = keys[-1][1] + 42, width - 14
    bottom = top + PLOT
    high_x = max(max(row.x) for row in series)
    low_x = min(min(row.x) for row in series)
    every = [y for row in series for y in row.y] + [mark.y for mark in marks]
    ticks_y = _ticks(min(0.0, *every), max(*every, 1e-6))
    low_y, high_y = ticks_y[0], ticks_y[-1]

    def px(x: float) -> float:
        return LEFT + (right - LEFT) * (x - low_x) / ((high_x - low_x) or 1.0)

    def py(y: float) -> float:
        return bottom - (bottom - top) * (y - low_y) / ((high_y - low_y) or 1.0)

    lines = [(_way([(px(x), py(y)) for x, y in zip(row.x, row.y, strict=True)]), row.kind) for row in series]
    words = [Placed(10, top - 10, y_title, "start", "title"), Placed(right, bottom + FOOT - 5, x_title, "end", "title")]
    for zone in zones:
        inside = [py(y) for row in series for x, y in zip(row.x, row.y, strict=True) if zone.low <= x <= zone.high]
        is_low = sum(inside) > len(inside) * (top + bottom) / 2
        words.append(_in_zone(px(zone.low), px(zone.high), right, top + 18 if is_low else bottom - 10, zone.says))
    words += _beside([(px(mark.x), py(mark.y), mark) for mark in marks], (LEFT + right) / 2, top, bottom)
    x_ticks = _ticks(low_x, high_x, 6 if width == WIDE else 4)
    return Chart(
        says=says,
        lines=lines,
        marks=[(px(mark.x), py(mark.y), mark.kind) for mark in marks],
        zones=[(px(zone.low), px(zone.high) - px(zone.low), zone.kind) for zone in zones],
        x_ticks=[(px(x), f"{x:g}") for x in x_ticks if low_x <= x <= high_x and not (counts and x % 1)],
        y_ticks=[(py(y), f"{y:g}") for y in ticks_y],
        words=words,
        keys=keys,
        width=width,
        top=top,
        bottom=bottom,
        stops=[
            Stop(px(x), _says_at(x, found, x_title, y_title), tuple((py(y), row.kind) for row, y in found))
            for x in _asked_at(series, marks, counts)
            if (found := _values_at(series, x))
        ],
    )


def _asked_at(series: list[Series], marks: Sequence[Mark], counts: bool) -> list[float]:
    """Where a chart can be asked: evenly along its axis, and at its marks; where it counts, at each number."""
    low, high = min(min(row.x) for row in series), max(max(row.x) for row in series)
    if counts:
        return sorted({float(x) for row in series for x in row.x})
    even = {low + (high - low) * n / (STOPS - 1) for n in range(STOPS)}
    return sorted(even | {mark.x for mark in marks if low <= mark.x <= high})


def _values_at(series: list[Series], x: float) -> list[tuple[Series, float]]:
    """The value of each line that reaches so far; between two points on the straight line."""
    return [(row, float(np.interp(x, row.x, row.y))) for row in series if min(row.x) <= x <= max(row.x)]


def _says_at(x: float, found: list[tuple[Series, float]], x_title: str, y_title: str) -> str:
    values = "; ".join(f"{row.name} {fixed(y)}" if row.name else fixed(y) for row, y in found)
    unit = y_title.rpartition(", ")[2]
    return f"{with_unit(x_title, f'{x:.4g}')}: {values} {unit}"


def _way(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def _beside(marks: list[tuple[float, float, Mark]], middle: float, top: float, bottom: float) -> list[Placed]:
    """Words beside marks, on the side with room; of two that lie near each other one goes above, one below."""
    found = []
    for x, y, mark in marks:
        near = [oy for ox, oy, other in marks if other is not mark and abs(ox - x) < 150 and abs(oy - y) < 40]
        above = all(y < oy or (y == oy and mark is marks[0][2]) for oy in near)
        place = min(max(y - 12 if above else y + 24, top + 12), bottom - 8)
        right = x < middle
        found.append(Placed(x + (10 if right else -10), place, mark.says, "start" if right else "end", mark.kind))
    return found


def _in_zone(low: float, high: float, right: float, y: float, says: str) -> Placed:
    """A zone's word at its left end, or before its right end where the picture ends; above or below its lines."""
    if low + LETTER * len(says) > right:
        return Placed(high - 5, y, says, "end", "zone")
    return Placed(low + 5, y, says, "start", "zone")


def _keys(rows: list[tuple[str, str]], width: float) -> list[tuple[float, float, str, str]]:
    """The key along the top, row under row: place of its stroke, name, kind."""
    found: list[tuple[float, float, str, str]] = []
    x, y = 10.0, FIRST_ROW
    for name, kind in rows:
        wide = LETTER * len(name) + 50
        if x + wide - 18 > width and found:
            x, y = 10.0, y + ROW
        found.append((x, y, name, kind))
        x += wide
    return found


def _ticks(low: float, high: float, steps: int = 6) -> list[float]:
    """Round values from at or below `low` to at or above `high`, about so many steps."""
    step = round_step((high - low) / steps or 1.0, (1.0, 2.0, 2.5, 5.0))
    first, last = math.floor(low / step + 1e-9), math.ceil(high / step - 1e-9)
    return [round(i * step, 10) for i in range(first, last + 1)]
