"""A spectrum made small enough to keep with a call: the strongest line in each of a few hundred steps of pitch."""

from __future__ import annotations

import base64
from itertools import pairwise

import numpy as np

from .spectrum import Floats, Spectrum

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
