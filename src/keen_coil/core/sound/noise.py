"""What else is in the sound: hum of the supply, squeal, grind of a bearing, rub once a turn, rattle.

A squeal is a line far up the spectrum; what touches once a turn, and the balls of a worn bearing, beat the hiss above
1 kHz in their own time, which shows in the spectrum of its envelope [1].

References:
[1] Randall and Antoni, Rolling element bearing diagnostics, a tutorial, Mech. Syst. Signal Process. 25 (2011).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from .spectrum import Floats

HISS_HZ = (1000.0, 6000.0)
SQUEAL_HZ = (1000.0, 9000.0)
SQUEAL_DB, BEAT_DB, CLIPPED_BEAT_DB = 18.0, 16.0, 14.0
"""The last is added where the recording is overdriven: its tones beat upon each other then."""
RATTLE_CREST = 9.0
"""Fourth moment of the hiss's envelope over its square's square: about 2 for hiss, far above it for bangs."""
BEARING_TURNS = (2.2, 14.0)
"""Balls pass a spot of a race so many times a turn, never a whole number of times."""
MOST_OVERTONE = 24
ENVELOPE_RATE = 1000.0
MOST_BEAT_HZ = 300.0


@dataclass(frozen=True)
class Line:
    """A line of a spectrum: its frequency, Hz, and how far it stands over what is around it, dB."""

    hz: float
    db: float


@dataclass(frozen=True)
class Hiss:
    """The sound above 1 kHz: its lines, and the envelope with its spectrum."""

    samples: Floats
    rate: int

    @cached_property
    def envelope(self) -> tuple[Floats, float]:
        """How loud the hiss is from moment to moment, and at how many values a second."""
        from scipy import fft, signal

        high = min(HISS_HZ[1], 0.45 * self.rate)
        if high < 1.3 * HISS_HZ[0]:
            return np.zeros(0), ENVELOPE_RATE
        lines = fft.fft(self.samples, fft.next_fast_len(len(self.samples)))
        hz = fft.fftfreq(len(lines), 1 / self.rate)
        band = np.where((hz > HISS_HZ[0]) & (hz < high), 2.0, 0.0)
        loud = np.abs(fft.ifft(lines * band))[: len(self.samples)]
        step = max(int(self.rate / ENVELOPE_RATE), 1)
        kept = loud[: len(loud) // step * step].reshape(-1, step).mean(axis=1)
        rate = self.rate / step
        slow = signal.savgol_filter(kept, int(rate / 4) | 1, 1)
        return np.asarray(kept / np.maximum(slow, 1e-12)), rate

    @cached_property
    def beats(self) -> tuple[Floats, Floats]:
        """Spectrum of the envelope: Hz, and dB over the middle of what is around."""
        from scipy import fft, signal

        loud, rate = self.envelope
        if len(loud) < 4 * rate / 2:
            return np.zeros(0), np.zeros(0)
        size = fft.next_fast_len(len(loud), real=True)
        power = np.abs(fft.rfft((loud - loud.mean()) * signal.windows.hann(len(loud), sym=False), size)) ** 2
        hz = np.arange(len(power)) * rate / size
        most = int(np.searchsorted(hz, MOST_BEAT_HZ))
        return hz[:most], np.asarray(10 * np.log10(power[:most] / _around(power[:most], 101) + 1e-12))

    @cached_property
    def crest(self) -> float:
        """Fourth moment of the envelope over the square of its second: about 2 for steady hiss."""
        loud, _ = self.envelope
        return float(np.mean(loud**4) / np.mean(loud**2) ** 2) if len(loud) else 0.0

    def squeals(self) -> list[Line]:
        """Lines far above what is around them, strongest first."""
        from scipy import signal

        high = min(SQUEAL_HZ[1], 0.45 * self.rate)
        hz, power = signal.welch(self.samples, self.rate, nperseg=min(4096, len(self.samples)))
        over = 10 * np.log10(power / _around(power, 41) + 1e-12)
        inside = (hz > SQUEAL_HZ[0]) & (hz < high)
        peaks, _ = signal.find_peaks(np.where(inside, over, 0.0), height=SQUEAL_DB, distance=8)
        return sorted((Line(float(hz[i]), float(over[i])) for i in peaks), key=lambda line: -line.db)

    def rattles(self) -> bool:
        """Whether the hiss comes in knocks rather than steadily."""
        return self.crest > RATTLE_CREST

    def beat_db(self, hz: float) -> float:
        """How far the hiss's loudness beats at a frequency, dB; within half a per cent of it."""
        at, db = self.beats
        if not len(at):
            return 0.0
        within = max(0.25, 0.006 * hz)
        low, high = np.searchsorted(at, (hz - within, hz + within))
        return float(db[low:high].max()) if high > low else 0.0


def _around(power: Floats, size: int) -> Floats:
    """The middle of the lines around each one."""
    from scipy import ndimage

    return np.asarray(ndimage.median_filter(power, size=size, mode="nearest")) + 1e-30


def apart_from(hz: float, unit: float) -> bool:
    """Whether a frequency is no multiple of another."""
    return abs(hz - round(hz / unit) * unit) > max(0.4, 0.006 * hz)


def is_overtone(hz: float, unit: float) -> bool:
    """Whether a high line may be one of the first harmonics of a tone that is overdriven."""
    return hz < MOST_OVERTONE * unit and not apart_from(hz, unit)


def rubs(hiss: Hiss, turns_hz: float, blades: int, least_db: float = BEAT_DB) -> list[Line]:
    """Beats of the hiss once a turn and at its multiples, those of the blades left out."""
    lines = [Line(k * turns_hz, hiss.beat_db(k * turns_hz)) for k in (1, 2, 3, 4) if k % blades or blades == 1]
    return [line for line in lines if line.db >= least_db]


def grinds(hiss: Hiss, turns_hz: float, line_hz: float, least_db: float = BEAT_DB) -> list[Line]:
    """Beats of the hiss in no whole relation to the turns or to the supply: the balls of a bearing."""
    from scipy import signal

    at, db = hiss.beats
    if not len(at):
        return []
    inside = (at > BEARING_TURNS[0] * turns_hz) & (at < BEARING_TURNS[1] * turns_hz)
    peaks, _ = signal.find_peaks(np.where(inside, db, 0.0), height=least_db, distance=5)
    lines = [Line(float(at[i]), float(db[i])) for i in peaks]
    found = [line for line in lines if apart_from(line.hz, turns_hz) and apart_from(line.hz, line_hz)]
    return sorted(found, key=lambda line: -line.db)
