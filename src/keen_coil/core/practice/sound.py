"""The practice unit as a microphone hears it: blade tones of its true speed, hum, its bearing or rub, wind, a neighbor.

Made by numpy from draws of the case, so that one case sounds the same every time. No recording of anything real.
"""

from __future__ import annotations

import numpy as np

from ..sound.spectrum import Floats
from .running import pulled_in, run_of
from .senses import seen
from .unit_state import UnitState
from .windings import overload_open

RATE, SECONDS = 16_000, 10.0
HARMONICS, FALL_DB = 10, 4.0
WHEEL_BLADES, INDUCER_BLADES = 36, 12
SQUEAL_HZ, RING_HZ = 2300.0, 2100.0
NEIGHBOR_SHARE = 0.25
"""Cases in which another unit runs within hearing."""


def blades_of(truth: UnitState) -> int:
    """Blades of the practice unit's fan: 3, 4 on eight poles and more, a wheel's many."""
    motor = truth.call.motor
    if motor.fan == "forward_curved":
        return WHEEL_BLADES
    if motor.fan == "inducer_wheel":
        return INDUCER_BLADES
    return 4 if float(motor.rpm or 1075) < 950 else 3


def unit_sound(truth: UnitState, minutes: float, energised: bool) -> Floats:
    """Ten seconds at 16 kHz, full scale 1, so many minutes into the visit; with the power off only what is about."""
    chance = np.random.default_rng(int(truth.chance.unit("sound") * 2**32))
    n = int(RATE * SECONDS)
    t = np.arange(n) / RATE
    found = 0.3 * _wind(chance, n)
    if truth.chance.happens("neighbor", NEIGHBOR_SHARE):
        rpm = truth.chance.between("neighbor rpm", 800, 1130)
        found = found + 0.1 * _tones(chance, 4 * rpm / 60 * np.ones(n))
    if not energised or not pulled_in(truth):
        return _scaled(found)
    run = run_of(truth, open_overload=overload_open(truth, minutes))
    line = float(truth.call.unit.hz or 60)
    noise = seen(truth, "noise", None, None, None, None, minutes)
    loud = 6.0 if noise == "hum" else 0.3
    if max(run.amps, default=0.0) > 0:
        found = found + loud * sum(np.sin(4 * np.pi * m * line * t + m) / m**2 for m in range(1, 5))
    if run.turns:
        turns = run.rpm / 60 * (1 + 0.0004 * np.sin(2 * np.pi * 0.13 * t))
        found = found + _tones(chance, blades_of(truth) * turns) + _trouble(chance, str(noise), turns, t)
    return _scaled(found)


def _wind(chance: np.random.Generator, n: int) -> Floats:
    """Air and street: noise that falls with pitch, louder in gusts."""
    lines = np.fft.rfft(chance.normal(size=n))
    hz = np.fft.rfftfreq(n, 1 / RATE)
    noise = np.fft.irfft(lines / np.sqrt(np.maximum(hz, 20.0)), n)
    gusts = 1 + 0.4 * np.sin(2 * np.pi * np.arange(n) / n * 3 + chance.uniform(0, 6))
    return np.asarray(noise / noise.std() * gusts)


def _tones(chance: np.random.Generator, hz: Floats) -> Floats:
    """A tone with its harmonics, each at its own level."""
    phase = 2 * np.pi * np.cumsum(hz) / RATE
    found = np.zeros(len(hz))
    for k in range(1, HARMONICS + 1):
        if k * float(hz.max()) < 0.45 * RATE:
            found += 10 ** ((-FALL_DB * np.log2(k) + chance.normal(0, 2)) / 20) * np.sin(k * phase)
    return np.asarray(found)


def _trouble(chance: np.random.Generator, noise: str, turns_hz: Floats, t: Floats) -> Floats:
    """What a bearing, a rub or something loose adds."""
    hiss = np.diff(chance.normal(size=len(t) + 1))
    phase = 2 * np.pi * np.cumsum(turns_hz) / RATE
    if noise == "squeal":
        return np.asarray(0.4 * np.sin(2 * np.pi * SQUEAL_HZ * t + 0.5 * np.sin(phase)))
    if noise == "rub":
        return np.asarray(0.25 * hiss * np.maximum(np.cos(phase), 0) ** 3)
    if noise not in ("grind", "rattle"):
        return np.zeros(len(t))
    knocks = np.zeros(len(t))
    every = 3.57 * float(turns_hz.mean())
    at = np.arange(0, SECONDS, 1 / every) if noise == "grind" else np.sort(chance.uniform(0, SECONDS, 45))
    knocks[np.minimum((at * RATE).astype(int), len(t) - 1)] = chance.uniform(0.7, 1.3, len(at))
    ring = np.exp(-np.arange(400) / 60) * np.sin(2 * np.pi * RING_HZ * np.arange(400) / RATE)
    return np.asarray((2.5 if noise == "grind" else 5.0) * np.convolve(knocks, ring)[: len(t)])


def _scaled(samples: Floats) -> Floats:
    return np.asarray(0.5 * samples / np.abs(samples).max())
