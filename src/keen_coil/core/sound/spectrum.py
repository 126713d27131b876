"""A recording as its power over the smooth background, on a logarithmic axis of frequency.

On that axis the harmonics of a tone stand at the same distances whatever its pitch, so that a comb is summed by
shifting. Each cell holds the mean power of the lines that fall into it, over the background there, in dB.

References:
[1] Harris, On the use of windows for harmonic analysis with the discrete Fourier transform, Proc. IEEE 66 (1978).
[2] Noll, Pitch determination of human speech by the harmonic product spectrum, 1969 (sums over harmonics).
"""

from __future__ import annotations

import base64
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
LEAST_HZ, MOST_HZ = 12.0, 3000.0
CELL = 0.0005
"""Width of a cell, as a share of its frequency."""
LOUDNESS_S = 0.5
"""Loud stretches, gusts and bangs, are brought down to the usual loudness in pieces of this length."""
MEDIAN_OF_MEAN = float(np.log(2))
"""Median over mean of the power of noise in one line of a spectrum (exponential)."""


@dataclass(frozen=True)
class Spectrum:
    """`hz` and `power` of every line; `background` at them; `cells_db` over the background on the logarithmic axis.

    `cell_hz` is the middle of each cell; `resolution_hz` how far apart two tones must be to be told apart.
    """

    hz: Floats
    power: Floats
    background: Floats
    cell_hz: Floats
    cells_db: Floats
    resolution_hz: float

    def over_db(self, hz: float, within: float) -> float:
        """The strongest line within so many hertz of a frequency, dB over the background; -inf off the spectrum."""
        low, high = np.searchsorted(self.hz, (hz - within, hz + within))
        if high <= low or hz > self.hz[-1]:
            return float("-inf")
        return float(10 * np.log10(np.max(self.power[low:high] / self.background[low:high])))


def levelled(samples: Floats, rate: int) -> Floats:
    """Samples with loud stretches brought down to the usual loudness; the quiet ones stay.

    A gust shakes the whole spectrum for a second. Weighted by its loudness it would count more than all the rest.
    """
    length = max(int(LOUDNESS_S * rate), 1)
    pieces = len(samples) // length
    if pieces < 4:
        return samples
    rms = np.sqrt(np.mean(samples[: pieces * length].reshape(pieces, length) ** 2, axis=1))
    usual = float(np.median(rms))
    if usual <= 0:
        return samples
    gain = np.minimum(1.0, usual / np.maximum(rms, 1e-12))
    at = (np.arange(pieces) + 0.5) * length
    return np.asarray(samples * np.interp(np.arange(len(samples)), at, gain))


def spectrum_of(samples: Floats, rate: int) -> Spectrum:
    """The spectrum of a recording by one Hann window over all of it [1]. Samples of any scale; rate in Hz."""
    from scipy import fft, signal

    level = levelled(samples - samples.mean(), rate)
    size = fft.next_fast_len(len(level), real=True)
    lines = fft.rfft(level * signal.windows.hann(len(level), sym=False), size)
    hz = np.arange(len(lines)) * rate / size
    most = int(np.searchsorted(hz, min(MOST_HZ * 1.05, 0.47 * rate)))
    hz, power = hz[:most], np.abs(lines[:most]) ** 2 + 1e-30
    background = _background(hz, power)
    edges = np.exp(np.arange(np.log(LEAST_HZ), np.log(min(MOST_HZ, float(hz[-1]) * 0.99)), CELL))
    return Spectrum(
        hz=hz,
        power=power,
        background=background,
        cell_hz=np.sqrt(edges[1:] * edges[:-1]),
        cells_db=_cells(hz, power / background, edges),
        resolution_hz=2.0 * rate / len(level),
    )


def _background(hz: Floats, power: Floats) -> Floats:
    """The smooth part: medians of pieces that grow with frequency, straight between on a logarithmic scale."""
    step = float(hz[1] - hz[0])
    edges, at = [], 4.0
    while at < hz[-1]:
        edges.append(at)
        at += max(5.0, 0.07 * at)
    marks = np.unique(np.minimum((np.array([*edges, hz[-1]]) / step).astype(int), len(hz) - 1))
    levels = np.array([np.median(power[a:b]) for a, b in pairwise(marks)])
    middles = 0.5 * (hz[marks[:-1]] + hz[marks[1:]])
    smooth = np.log(np.maximum(levels, 1e-30) / MEDIAN_OF_MEAN)
    if len(smooth) > 4:
        lower = np.minimum(smooth, np.convolve(np.pad(smooth, 1, mode="edge"), np.ones(3) / 3, mode="valid") + 0.7)
        smooth = np.asarray(lower)
    return np.asarray(np.exp(np.interp(hz, middles, smooth)))


def _cells(hz: Floats, over: Floats, edges: Floats) -> Floats:
    """Mean of the lines within each cell, between lines where a cell is narrower than their distance; in dB."""
    step = float(hz[1] - hz[0])
    summed = np.concatenate([[0.0], np.cumsum(over)]) * step
    at = np.interp(edges, np.arange(len(summed)) * step - 0.5 * step, summed)
    return np.asarray(10 * np.log10(np.maximum(np.diff(at) / np.diff(edges), 1e-6)))


FIRST_HZ, LAST_HZ, STEPS, MOST_DB = 15.0, 1500.0, 320, 85


def sketch_hz() -> Floats:
    """The middle of each step, Hz."""
    edges = np.geomspace(FIRST_HZ, LAST_HZ, STEPS + 1)
    return np.asarray(np.sqrt(edges[1:] * edges[:-1]))


def sketched(spectrum: Spectrum) -> str:
    """The spectrum in whole dB over its background, a byte a step, as base64 text."""
    edges = np.searchsorted(spectrum.hz, np.geomspace(FIRST_HZ, LAST_HZ, STEPS + 1))
    over = 10 * np.log10(np.maximum(spectrum.power / spectrum.background, 1.0))
    steps = [over[a : max(b, a + 1)].max(initial=0.0) for a, b in pairwise(edges)]
    return base64.b64encode(np.clip(np.round(steps), 0, MOST_DB).astype(np.uint8).tobytes()).decode()


def sketch_db(kept: str) -> Floats:
    """The dB of each step of a kept spectrum; steps that a cut text has not got are 0."""
    found = np.frombuffer(base64.b64decode(kept), dtype=np.uint8)[:STEPS].astype(np.float64)
    return np.pad(found, (0, STEPS - len(found)))
