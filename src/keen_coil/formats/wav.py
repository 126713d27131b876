"""Recordings as WAV files in, and out for the stand-in unit that can be heard."""

from __future__ import annotations

import io
import warnings
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..core.errors import invalid
from ..core.sound.listen import LEAST_SECONDS

Floats = NDArray[np.float64]
LEAST_RATE, MOST_RATE = 4000, 192_000
MOST_BYTES = 40_000_000
"""A minute of stereo at 48 kHz in 32 bits is 23 MB."""
WANTED = "a WAV file (PCM), ten seconds of the running fan"


class Recording(NamedTuple):
    """Mono samples of full scale 1, and the sampling rate in Hz."""

    samples: Floats
    rate: int


def read_wav(data: bytes) -> Recording:
    """A recording from a WAV file: PCM of 8 to 32 bits or floats, any number of channels; the loudest is taken.

    Raises `InvalidField` for what is no such file, too short, too large, or sampled too slowly.
    """
    from scipy.io import wavfile

    if len(data) > MOST_BYTES:
        raise invalid("recording", f"{len(data) / 1e6:.0f} MB", f"at most {MOST_BYTES / 1e6:.0f} MB")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", wavfile.WavFileWarning)
            rate, values = wavfile.read(io.BytesIO(data))
    except Exception as error:  # scipy raises whatever a broken header leads to
        raise invalid("recording", _shown(data, error), WANTED) from None
    if not LEAST_RATE <= rate <= MOST_RATE:
        raise invalid("recording", f"{rate} samples a second", f"{LEAST_RATE} to {MOST_RATE}")
    samples = _loudest(_full_scale(values))
    if len(samples) < LEAST_SECONDS * rate:
        raise invalid("recording", f"{len(samples) / rate:.1f} s", f"{LEAST_SECONDS:g} s or more, better ten")
    if not np.isfinite(samples).all():
        raise invalid("recording", "samples that are no numbers", WANTED)
    return Recording(samples, int(rate))


def _shown(data: bytes, error: Exception) -> str:
    if not data:
        return "an empty file"
    if data[:4] not in (b"RIFF", b"RIFX", b"RF64"):
        return "no WAV file"
    return f"a WAV file that cannot be read ({str(error)[:60] or type(error).__name__})"


def _full_scale(values: NDArray[np.generic]) -> Floats:
    """Samples of full scale 1 about zero."""
    if values.dtype == np.uint8:
        return np.asarray((values.astype(np.float64) - 128) / 128)
    if values.dtype.kind == "i":
        return np.asarray(values.astype(np.float64) / float(2 ** (8 * values.dtype.itemsize - 1)))
    return np.asarray(values.astype(np.float64))


def _loudest(values: Floats) -> Floats:
    """One channel: two of a phone may be in opposite phase, so that their sum would be silent."""
    if values.ndim == 1:
        return values
    return np.asarray(values[:, int(np.nan_to_num(values.std(axis=0)).argmax())]) if values.size else np.zeros(0)


def write_wav(recording: Recording) -> bytes:
    """A recording as a WAV file, mono, 16 bits."""
    from scipy.io import wavfile

    out = io.BytesIO()
    wavfile.write(out, recording.rate, (np.clip(recording.samples, -1, 1) * 32767).astype(np.int16))
    return out.getvalue()
