"""The band picture of the pad: limits as a box on a scale, the reading with its error as a mark."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..core.judge.judged import Band, Judgement

WIDTH, LEFT, RIGHT = 320.0, 12.0, 308.0


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
    scale = (RIGHT - LEFT) / top
    ticks = [(LEFT + i * step * scale, f"{i * step:g}{sign}") for i in range(int(top / step) + 1)]
    mark = None
    if interval:
        mark = LEFT + max(interval[0], 0) * scale, LEFT + min(interval[1], top) * scale
    return BandPicture(ticks, LEFT + band.low * scale, LEFT + band.high * scale, mark, band.text, band.source)


def judged_picture(judgement: Judgement) -> BandPicture | None:
    """The picture of a judgement on its own band; None where the band has an open end."""
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
