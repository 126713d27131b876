"""A recording heard out: speed with its interval, what makes it doubtful, noise, and the tones by name."""

from __future__ import annotations

import numpy as np

from ..vocabulary import NoiseHeard
from .answer import SoundHeard, Tone, What
from .noise import BEAT_DB, CLIPPED_BEAT_DB, Hiss, Line, grinds, is_overtone, rubs
from .spectrum import Floats, Spectrum, spectrum_of
from .speed import Bounds, SpeedHeard, line_frequency, speed_heard

LEAST_SECONDS, MOST_SECONDS = 2.0, 30.0
HUM_DB = 12.0
"""The supply's hum this far over the blade tone is what one hears."""
HUM_STANDS_DB, HUM_ALONE_DB = 20.0, 15.0
LEAST_LEVEL = 3e-5
"""RMS of a recording in which nothing is, of full scale."""
CLIPPED_SHARE = 0.02
TONE_DB, MOST_TONES, MOST_OTHER = 8.0, 24, 4

BECAUSE = {
    "clear": "One blade tone stands clear of everything else.",
    "rival": "Another speed fits the sound about as well.",
    "neighbour": "A second fan, or a compressor, is about as loud.",
    "compressor": "This could be a two-pole or a four-pole compressor's own tone.",
    "unusual": "A fan motor hardly ever runs this near to, or this far below, its synchronous speed.",
    "hum": "A tone lies on the supply's own frequency, where a blade tone cannot be told from it.",
    "few": "Fewer than two harmonics stand clear of the background.",
    "none": "No blade tone stands out of the background.",
    "silent": "The recording is silent.",
}
"""Why an answer is sure or not, by key."""
DO = {
    "rival": "Check the blade count. Move closer and record again.",
    "neighbour": "Shut off or shield the other unit, or stop the compressor, and record again close to this fan.",
    "compressor": "Stop the compressor, let the fan run, and record again.",
    "unusual": "Check blades and poles, or use a tachometer.",
    "hum": "Use a tachometer, or record again at another load.",
    "few": "Hold the phone closer to the fan, out of the air stream, and record again.",
    "none": "Hold the phone closer to the fan, out of the air stream, for ten seconds.",
    "silent": "Check the microphone and its permission.",
}


def listen(samples: Floats, rate: int, bounds: Bounds) -> tuple[SoundHeard, Spectrum]:
    """Hear a recording out. samples: mono, full scale 1; rate in Hz; bounds: blades, and the speeds that may be.

    Returns the answer and the spectrum it is read from. Recordings longer than 30 s are heard to that.
    """
    samples = np.asarray(samples[: int(MOST_SECONDS * rate)], dtype=np.float64)
    spectrum = spectrum_of(samples, rate)
    silent = float(samples.std()) < LEAST_LEVEL
    speed = None if silent else speed_heard(spectrum, bounds)
    why = "silent" if silent else "none" if speed is None else speed.why
    noise, noise_why, lines = ("quiet", "", []) if silent else _noise(samples, rate, spectrum, bounds, speed)
    return SoundHeard(
        rpm=None if speed is None else _interval(speed, bounds),
        state="unjudged" if speed is None else "normal" if why == "clear" else "suspect",
        because=BECAUSE[why],
        do=DO.get(why, ""),
        noise=noise,
        noise_because=noise_why,
        tones=[] if silent else _tones(spectrum, bounds, speed, lines),
        other_rpm=[] if speed is None else [round(bounds.rpm(comb.hz), 1) for comb in speed.rivals],
        seconds=round(len(samples) / rate, 2),
        clipped=not silent and is_clipped(samples),
    ), spectrum


def is_clipped(samples: Floats) -> bool:
    """Whether the microphone was overdriven: many samples stand at the largest value."""
    most = float(np.abs(samples).max(initial=0.0))
    return float(np.mean(np.abs(samples) > 0.995 * most)) > CLIPPED_SHARE


def _interval(speed: SpeedHeard, bounds: Bounds) -> tuple[float, float, float]:
    low = max(speed.rpm - speed.half_rpm, 0.0)
    return round(low, 1), round(speed.rpm, 1), round(speed.rpm + speed.half_rpm, 1)


def _noise(
    samples: Floats, rate: int, spectrum: Spectrum, bounds: Bounds, speed: SpeedHeard | None
) -> tuple[NoiseHeard, str, list[Line]]:
    """What one hears beside the blades, why, and its lines; what beats with the turns only where the speed is known."""
    hiss = Hiss(samples, rate)
    line = speed.line_hz if speed else line_frequency(spectrum, bounds.line_hz)
    squeals = [row for row in hiss.squeals() if not speed or not is_overtone(row.hz, speed.comb.hz)]
    if squeals:
        return "squeal", f"A line at {squeals[0].hz:.0f} Hz stands {squeals[0].db:.0f} dB clear.", squeals
    if speed is not None:
        turns = speed.rpm / 60
        least = BEAT_DB + (CLIPPED_BEAT_DB if is_clipped(samples) else 0.0)
        once, balls = rubs(hiss, turns, bounds.blades, least), grinds(hiss, turns, line, least)
        if once and (not balls or once[0].db >= balls[0].db - 3):
            return "rub", f"The hiss beats once a turn, {once[0].db:.0f} dB clear.", once
        if balls:
            return "grind", f"The hiss beats {balls[0].hz / turns:.2f} times a turn, as a worn bearing's does.", balls
    if hiss.rattles():
        return "rattle", "Short knocks at no fixed beat.", []
    blade = _power(spectrum, [k * speed.comb.hz for k, _ in speed.comb.harmonics]) if speed else 0.0
    hum = _power(spectrum, [2 * m * line for m in range(1, 6)])
    stands = max(spectrum.over_db(2 * m * line, spectrum.resolution_hz) for m in (1, 2, 3))
    loud = stands > (HUM_STANDS_DB if speed else HUM_ALONE_DB) and (not blade or 10 * np.log10(hum / blade) > HUM_DB)
    if loud:
        return "hum", f"{2 * line:.0f} Hz and its harmonics are louder than the blades.", []
    return "quiet", "Nothing but air and blades stands out.", []


def _power(spectrum: Spectrum, hz: list[float]) -> float:
    """Power of lines above the background, all together."""
    found = 0.0
    for one in hz:
        low, high = np.searchsorted(spectrum.hz, (one - spectrum.resolution_hz, one + spectrum.resolution_hz))
        found += float(np.maximum(spectrum.power[low:high] - 2 * spectrum.background[low:high], 0).sum())
    return found


def _tones(spectrum: Spectrum, bounds: Bounds, speed: SpeedHeard | None, lines: list[Line]) -> list[Tone]:
    """The lines by name, in the order of their pitch."""
    found: list[Tone] = []
    line = speed.line_hz if speed else line_frequency(spectrum, bounds.line_hz)
    near = 1.2 * spectrum.resolution_hz
    if speed is not None:
        found += [_tone(k * speed.comb.hz, db, "blade") for k, db in speed.comb.harmonics if db >= TONE_DB]
    for m in range(1, 7):
        db = spectrum.over_db(m * line, near)
        if db >= TONE_DB:
            found.append(_tone(m * line, db, "line"))
    found += [_tone(row.hz, row.db, "bearing") for row in lines[:MOST_OTHER]]
    others = [
        _tone(comb.hz, comb.harmonics[0][1], "other") for comb in (speed.rivals if speed else ()) if comb.harmonics
    ]
    return sorted((found + others[:MOST_OTHER])[:MOST_TONES], key=lambda tone: tone.hz)


def _tone(hz: float, db: float, what: What) -> Tone:
    return Tone(hz=round(hz, 2), db=round(db, 1), what=what)
