"""The blade tone and its harmonics: which comb, among the speeds the motor can have, the sound is made of.

f = B n / 60 for B blades at n rpm, with harmonics k f. A comb's score is the sum, over its harmonics, of how far each
stands out of the background; lines of the supply are left out of the sum, so that hum is never heard as a speed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .spectrum import CELL, Floats, Spectrum

MOST_HARMONICS = 16
CLEAR_DB, MOST_DB = 5.0, 50.0
"""Below the first a harmonic counts nothing (noise reaches it), above the second it counts no more."""
FALL = 0.7
"""Weight of harmonic k is k to the minus this."""
WIDTHS = (1, 5, 11)
"""Cells over which a tone may be spread by a speed that drifts."""
HUM_WIDTH_HZ, MOST_SKIRT_HZ, SKIRT_STEP_HZ, RISE_DB = 0.5, 1.6, 0.1, 3.0
"""A line of the supply hides what is near it; a loud one has a skirt, which ends where the sound rises again."""
MOST_HUM_HZ = 1500.0


@dataclass(frozen=True)
class Comb:
    """A comb found: its fundamental in Hz, its score, dB of each of its harmonics over the background.

    `harmonics` are those that could be seen: inside the spectrum and off the lines of the supply. `spread` is the share
    of its frequency over which its lines lie.
    """

    hz: float
    score: float
    harmonics: tuple[tuple[int, float], ...]
    spread: float

    def standing(self, over_db: float = 6.0) -> int:
        """How many harmonics stand so far clear of the background."""
        return sum(db >= over_db for _, db in self.harmonics)


@dataclass(frozen=True)
class Axis:
    """The cells in dB, smoothed over each of `WIDTHS`, and where the lines of the supply hide them."""

    first_hz: float
    smoothed: tuple[Floats, ...]
    seen: NDArray[np.bool_]


def axis_of(spectrum: Spectrum, line_hz: float) -> Axis:
    """The axis to look for combs on. line_hz: the supply's own frequency as found."""
    hz = spectrum.cell_hz
    seen = np.ones(len(hz), dtype=bool)
    least = 1.2 * spectrum.resolution_hz
    for m in range(1, int(MOST_HUM_HZ / line_hz) + 1):
        wide = max(HUM_WIDTH_HZ, least, 0.0008 * m * line_hz)
        for side in (-1, 1):
            end = m * line_hz + side * _skirt(spectrum, m * line_hz, side, wide)
            seen &= (hz < min(m * line_hz, end)) | (hz > max(m * line_hz, end))
    return Axis(float(hz[0]), _smoothed(np.where(seen, 10 ** (spectrum.cells_db / 10), 1.0)), seen)


def _smoothed(power: Floats) -> tuple[Floats, ...]:
    """Cells in dB over each of `WIDTHS`; what is hidden counts as background, so that it spills into no neighbor."""
    means = [np.convolve(power, np.ones(width) / width, mode="same") if width > 1 else power for width in WIDTHS]
    return tuple(np.asarray(10 * np.log10(np.maximum(mean, 1e-6))) for mean in means)


def _skirt(spectrum: Spectrum, line_hz: float, side: int, wide: float) -> float:
    """How far to one side of a line of the supply its own skirt reaches, Hz; at least `wide`."""
    least = spectrum.over_db(line_hz + side * wide, SKIRT_STEP_HZ)
    while wide < MOST_SKIRT_HZ and least > CLEAR_DB:
        here = spectrum.over_db(line_hz + side * (wide + SKIRT_STEP_HZ), SKIRT_STEP_HZ)
        if here > least + RISE_DB:
            break
        least, wide = min(least, here), wide + SKIRT_STEP_HZ
    return wide


def without(axis: Axis, comb: Comb, least_hz: float) -> Axis:
    """The axis with a comb's lines taken out: what is left for another."""
    hz = axis.first_hz * np.exp(CELL * np.arange(len(axis.seen)))
    seen = axis.seen.copy()
    for k in range(1, int(hz[-1] / comb.hz) + 1):
        seen &= np.abs(hz - k * comb.hz) > max(least_hz, (comb.spread + 0.002) * k * comb.hz)
    return Axis(axis.first_hz, axis.smoothed, seen)


def scores(axis: Axis, low_hz: float, high_hz: float) -> tuple[Floats, Floats, NDArray[np.int64]]:
    """Score of every fundamental from low to high: the fundamentals in Hz, their scores, and which width fits best."""
    first, last = _cell(axis, low_hz), _cell(axis, high_hz) + 1
    first, last = max(first, 0), min(last, len(axis.seen))
    if last - first < 3:
        return np.zeros(0), np.zeros(0), np.zeros(0, dtype=np.int64)
    counted = [np.where(axis.seen, np.clip(db - CLEAR_DB, 0, MOST_DB - CLEAR_DB), 0.0) for db in axis.smoothed]
    found = np.zeros((len(WIDTHS), last - first))
    for k in range(1, MOST_HARMONICS + 1):
        shift = round(float(np.log(k)) / CELL)
        end = min(last + shift, len(axis.seen))
        if end <= first + shift:
            break
        for i, db in enumerate(counted):
            found[i, : end - first - shift] += k**-FALL * db[first + shift : end]
    best = found.argmax(axis=0)
    return axis.first_hz * np.exp(CELL * np.arange(first, last)), found.max(axis=0), best


def comb_at(axis: Axis, hz: float, score: float, width: int) -> Comb:
    """What stands of the comb with a fundamental."""
    db = axis.smoothed[width]
    harmonics = []
    for k in range(1, MOST_HARMONICS + 1):
        cell = _cell(axis, k * hz)
        if cell >= len(db):
            break
        if cell >= 0 and axis.seen[cell]:
            harmonics.append((k, float(db[max(cell - 1, 0) : cell + 2].max())))
    return Comb(hz, score, tuple(harmonics), WIDTHS[width] * CELL / 2)


def _cell(axis: Axis, hz: float) -> int:
    return round(float(np.log(hz / axis.first_hz)) / CELL)
