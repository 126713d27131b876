"""Sounds of fan units made up by a generator that the analysis does not share, each with the truth about it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
SPANS = {2: (0.03, 0.2), 4: (0.03, 0.2), 6: (0.035, 0.22), 8: (0.04, 0.25)}
"""Slips of motors by poles, from a light load to a weak capacitor."""


@dataclass(frozen=True)
class Heard:
    """A recording, and what was turning: rpm, blades, poles, hertz of the line; what else was about."""

    samples: Floats
    rate: int
    rpm: float
    blades: int
    poles: int
    hz: int
    with_: frozenset[str]
    trouble: str


TROUBLES = ("quiet", "hum", "squeal", "rub", "grind", "rattle")


def _trouble(chance: np.random.Generator, which: str, n: int, rate: int, turns_hz: float) -> Floats:
    """What a bearing, a rub or a loose part adds, unit RMS; nothing for the others."""
    t = np.arange(n) / rate
    hiss = np.diff(_coloured(chance, n + 1, rate, 0.5))
    hiss /= hiss.std()
    if which == "squeal":
        phase = (
            2 * np.pi * np.cumsum(chance.uniform(1200, min(4500, 0.4 * rate)) * _wander(chance, n, rate, 5e-4)) / rate
        )
        found = np.sin(phase) * (1 + 0.3 * np.sin(2 * np.pi * turns_hz * t))
    elif which == "rub":
        found = hiss * (1 + np.cos(2 * np.pi * turns_hz * t)) ** chance.uniform(1, 5)
    elif which in ("grind", "rattle"):
        found = np.zeros(n)
        if which == "grind":
            every = 1 / (turns_hz * chance.uniform(2.6, 6.4))
            knocks = np.arange(0, n / rate, every) + chance.normal(0, 0.01 * every, int(np.ceil(n / rate / every)))
        else:
            knocks = chance.uniform(0, n / rate, int(chance.integers(20, 70)))
        at = (knocks * rate).astype(int)
        found[at[(at >= 0) & (at < n)]] = chance.uniform(0.6, 1.4, ((at >= 0) & (at < n)).sum())
        ring = np.exp(-np.arange(int(0.02 * rate)) / rate * 400) * np.sin(
            2 * np.pi * chance.uniform(1300, 3200) * np.arange(int(0.02 * rate)) / rate
        )
        found = np.convolve(found, ring)[:n] + 0.02 * hiss
    else:
        return np.zeros(n)
    return np.asarray(found / found.std())


def _coloured(chance: np.random.Generator, n: int, rate: int, power: float, least_hz: float = 20.0) -> Floats:
    """Noise whose power falls with frequency to a power, unit RMS."""
    spectrum = chance.normal(size=n // 2 + 1) + 1j * chance.normal(size=n // 2 + 1)
    f = np.fft.rfftfreq(n, 1 / rate)
    spectrum *= np.where(f > least_hz, np.maximum(f, least_hz) ** (-power / 2), 0.0)
    found = np.fft.irfft(spectrum, n)
    return found / found.std()


def _wander(chance: np.random.Generator, n: int, rate: int, share: float) -> Floats:
    """A slow drift about 1, of so much RMS."""
    knots = max(4, int(n / rate * 0.8))
    slow = np.interp(np.arange(n), np.linspace(0, n, knots), chance.normal(size=knots))
    return 1 + share * (slow - slow.mean())


def _comb(chance: np.random.Generator, hz: Floats, rate: int, most: int, fall: float, spread: float) -> Floats:
    """A fundamental of varying frequency with harmonics at random levels, unit RMS."""
    phase = 2 * np.pi * np.cumsum(hz) / rate
    found = np.zeros(len(hz))
    for k in range(1, most + 1):
        if k * hz.max() > 0.48 * rate:
            break
        found += 10 ** ((-fall * np.log2(k) + chance.normal(0, spread)) / 20) * np.sin(
            k * phase + chance.uniform(0, 2 * np.pi)
        )
    return found / found.std()


def _db(value: float) -> float:
    return float(10 ** (value / 20))


def heard(seed: int, snr_db: float, seconds: float = 10.0, trouble: str = "quiet", fan_runs: bool = True) -> Heard:
    """A unit: its blade tones at a level over the noise, and whatever else chance puts beside it.

    Without `fan_runs` only what is beside it is heard: nothing that is said of its speed can be right.
    """
    chance = np.random.default_rng(seed)
    rate = int(chance.choice([8000, 16000, 22050, 44100, 48000]))
    n, hz = int(rate * seconds), int(chance.choice([60, 60, 60, 50]))
    poles = int(chance.choice([4, 6, 6, 6, 8]))
    blades = int(chance.choice([2, 3, 3, 4, 4, 5]))
    rpm = 120 * hz / poles * (1 - chance.uniform(*SPANS[poles]))
    about: set[str] = set()
    speed = rpm / 60 * _wander(chance, n, rate, chance.uniform(0, 0.0015))
    fan = _comb(chance, blades * speed, rate, int(chance.integers(4, 14)), chance.uniform(2, 7), 4.0)
    if chance.random() < 0.3:
        about.add("unbalance")
        fan = fan + _db(chance.uniform(-24, -10)) * _comb(chance, speed, rate, 6, 4.0, 3.0)
    fan = fan * fan_runs
    noise = _coloured(chance, n, rate, 1.0)
    if chance.random() < 0.4:
        about.add("traffic")
        noise = noise + _db(chance.uniform(-6, 3)) * _coloured(chance, n, rate, 2.0, 30) * _wander(chance, n, rate, 0.4)
    noise = noise / noise.std()
    if chance.random() < 0.3:
        about.add("gusts")
        gust = np.maximum(_wander(chance, n, rate, 1.0) - 1, 0)
        noise = noise + 2 * gust * _coloured(chance, n, rate, 1.8)
        noise = noise / noise.std()
    heard_ = _db(snr_db) * fan + noise
    grid = hz * (1 + chance.normal(0, 0.0004))
    t = np.arange(n) / rate
    hum = sum(10 ** (chance.normal(-4 * m, 4) / 20) * np.sin(2 * np.pi * 2 * m * grid * t + m) for m in range(1, 5))
    heard_ = heard_ + _db(
        snr_db + (chance.uniform(16, 24) if trouble == "hum" else chance.uniform(-15, 6))
    ) * np.asarray(hum)
    heard_ = heard_ + _db(snr_db + chance.uniform(-6, 0)) * _trouble(chance, trouble, n, rate, rpm / 60)
    if chance.random() < 0.35:
        about.add("compressor")
        turns = 120 * hz / int(chance.choice([2, 4])) * (1 - chance.uniform(0.015, 0.05)) / 60
        comp = _comb(chance, turns * _wander(chance, n, rate, 0.0003), rate, 10, chance.uniform(2, 6), 4.0)
        heard_ = heard_ + _db(snr_db + chance.uniform(-18, 0)) * comp
    if chance.random() < 0.25 and fan_runs:
        about.add("second")
        other = rpm * (1 + chance.uniform(0.002, 0.06) * chance.choice([-1, 1]))
        other = min(other, 0.985 * 120 * hz / poles)
        second = _comb(chance, blades * other / 60 * _wander(chance, n, rate, 0.0008), rate, 8, 4.0, 4.0)
        heard_ = heard_ + _db(snr_db + chance.uniform(-20, -2)) * second
    if chance.random() < 0.6:
        about.add("phone")
        corner = chance.uniform(60, 180)
        f = np.fft.rfftfreq(n, 1 / rate)
        heard_ = np.fft.irfft(np.fft.rfft(heard_) * (f / np.hypot(f, corner)) ** 2, n)
    if chance.random() < 0.2:
        about.add("clipped")
        most = np.quantile(np.abs(heard_), chance.uniform(0.8, 0.97))
        heard_ = np.clip(heard_, -most, most)
    heard_ = 0.5 * heard_ / np.abs(heard_).max()
    return Heard(heard_, rate, rpm, blades, poles, hz, frozenset(about), trouble)
