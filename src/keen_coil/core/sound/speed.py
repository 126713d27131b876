"""The speed of a fan by its sound: the blade tone's comb, held against every other comb that would do.

f = B n / 60; n = (120 f_line / poles)(1 - s), s above 0 and to 0.4 for induction motors. Sure only where one comb
stands clear of the others: a neighbor's unit, a compressor, the line's own hum.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..speed import synchronous_speed
from .comb import Axis, Comb, axis_of, comb_at, scores, without
from .spectrum import CELL, Spectrum

LEAST_SLIP, MOST_SLIP = 0.005, 0.4
USUAL_SLIP = ((0.0, 0.4), (0.02, 0.6), (0.035, 0.85), (0.05, 1.0), (0.2, 1.0), (0.3, 0.85), (0.4, 0.7))
"""Weight of a comb by the slip it means (trade): fan motors run between 5 and 20 %, hardly ever nearer to the field."""
COMPRESSOR, COMPRESSOR_POLES = (0.948, 0.99), (2, 4)
"""Turns of a compressor of these poles, of its synchronous ones (trade)."""
COMPRESSOR_WEIGHT = 0.72
RIVAL = 0.8
"""Another comb with this share of the score would do as well: suspect."""
WEAK_RIVAL = 0.6
"""What is left without the comb's lines, at this share, is another fan or a compressor: suspect."""
LEAST_WEIGHT = 0.75
FRACTIONS, FRACTION_SHARE, OWN_FRACTION_SHARE = (2, 3), 0.6, 0.9
"""Lines between the harmonics, at halves and thirds, standing this high beside them: the tone is another machine's
harmonic, such as a compressor's. Thirds of three blades are the fan's own turns."""
LEAST_HARMONICS, CLEAR_DB = 2, 6.0
LEAST_SCORE = 12.0
MOST_COMBS = 4
OWN_TURNS = 0.002
APART = 0.01
HUM_PULL = 0.0035
"""The line's frequency lies within this share of its name."""


@dataclass(frozen=True)
class Bounds:
    """What is asked: blades; the speeds that the motor can have, rpm; the synchronous one, None where there is none.

    compressor_off: nothing else of the unit turns, by the word of who records it.
    """

    blades: int
    low_rpm: float
    high_rpm: float
    synchronous_rpm: float | None
    line_hz: float
    compressor_off: bool = False

    def hz(self, rpm: float) -> float:
        """The blade tone at a speed, Hz."""
        return self.blades * rpm / 60

    def rpm(self, hz: float) -> float:
        """The speed of a blade tone, rpm."""
        return 60 * hz / self.blades


def induction_bounds(blades: int, poles: int, line_hz: float) -> Bounds:
    """Bounds of an induction motor: slip from nearly none to 0.4."""
    synchronous = synchronous_speed(poles, line_hz)
    return Bounds(blades, synchronous * (1 - MOST_SLIP), synchronous * (1 - LEAST_SLIP), synchronous, line_hz)


@dataclass(frozen=True)
class SpeedHeard:
    """The comb that answers best, and what speaks against being sure of it. `rivals` are the other combs, in Hz.

    `half_rpm`: half the width of its interval. `why` is a key: `clear`, `rival`, `neighbour`, `compressor`, `hum`,
    `few`, `unusual`.
    """

    comb: Comb
    rpm: float
    half_rpm: float
    why: str
    rivals: tuple[Comb, ...]
    line_hz: float


def line_frequency(spectrum: Spectrum, named_hz: float) -> float:
    """The supply's frequency by the lines at twice and four times it, where they stand; else its name."""
    found = []
    for m in (2, 4, 6):
        low, high = np.searchsorted(spectrum.hz, (m * named_hz * (1 - HUM_PULL), m * named_hz * (1 + HUM_PULL)))
        if high > low + 1:
            over = spectrum.power[low:high] / spectrum.background[low:high]
            if 10 * np.log10(over.max()) > 15:
                found.append((float(over.max()), float(spectrum.hz[low + int(over.argmax())]) / m))
    return max(found)[1] if found else named_hz


def speed_heard(spectrum: Spectrum, bounds: Bounds) -> SpeedHeard | None:
    """The speed within the bounds that the sound speaks for; None where no comb stands at all."""
    line = line_frequency(spectrum, bounds.line_hz)
    axis = axis_of(spectrum, line)
    least = 1.2 * spectrum.resolution_hz
    combs = _combs(axis, bounds, least)
    if not combs:
        return None
    worth = [comb.score * _weight(bounds, comb.hz) for comb in combs]
    best = combs[int(np.argmax(worth))]
    others = [(value, comb) for value, comb in zip(worth, combs, strict=True) if comb is not best]
    rivals = [(value, comb) for value, comb in others if not _of_its_turns(best, comb, bounds.blades)]
    rpm = bounds.rpm(best.hz)
    half = rpm * np.hypot(CELL, best.spread) + 60 / bounds.blades * spectrum.resolution_hz / 8
    second = max((value for value, _ in rivals), default=0.0) / max(worth)
    why = _why(axis, spectrum, bounds, best, second, line)
    return SpeedHeard(best, float(rpm), float(half), why, tuple(comb for _, comb in rivals), line)


def _of_its_turns(best: Comb, other: Comb, blades: int) -> bool:
    """Whether another comb is the same fan's: multiples of its turns, or its drifting speed."""
    turns = other.hz / (best.hz / blades)
    return abs(turns - round(turns)) < OWN_TURNS * turns or abs(other.hz / best.hz - 1) < APART


def _combs(axis: Axis, bounds: Bounds, least_hz: float) -> list[Comb]:
    """The best comb, then the best of what is left without its lines, and so on."""
    found: list[Comb] = []
    rest = axis
    for _ in range(MOST_COMBS):
        hz, score, width = scores(rest, bounds.hz(bounds.low_rpm), bounds.hz(bounds.high_rpm))
        if not len(score) or score.max() < LEAST_SCORE:
            break
        at = int(score.argmax())
        found.append(comb_at(rest, float(hz[at]), float(score[at]), int(width[at])))
        rest = without(rest, found[-1], least_hz)
    return found


def _weight(bounds: Bounds, hz: float) -> float:
    """How usual the speed is that a comb means."""
    weight = 1.0
    if bounds.synchronous_rpm is not None:
        slip = 1 - bounds.rpm(hz) / bounds.synchronous_rpm
        slips, weights = zip(*USUAL_SLIP, strict=True)
        weight = float(np.interp(slip, slips, weights))
    return weight * (COMPRESSOR_WEIGHT if _as_compressor(bounds, hz) else 1.0)


def _as_compressor(bounds: Bounds, hz: float) -> bool:
    turns = [hz * poles / 2 / bounds.line_hz for poles in COMPRESSOR_POLES]
    return not bounds.compressor_off and any(COMPRESSOR[0] < share < COMPRESSOR[1] for share in turns)


def _why(axis: Axis, spectrum: Spectrum, bounds: Bounds, best: Comb, second: float, line_hz: float) -> str:
    """What keeps the comb from being sure, as a key; `clear` where nothing does."""
    if best.standing(CLEAR_DB) < LEAST_HARMONICS:
        return "few"
    hz, score, _ = scores(axis, bounds.hz(bounds.low_rpm), bounds.hz(bounds.high_rpm))
    own = float(score[np.abs(hz - best.hz).argmin()])
    far = np.abs(hz / best.hz - 1) > APART
    if far.any() and score[far].max() >= RIVAL * own:
        return "rival"
    if second >= WEAK_RIVAL:
        return "neighbour"
    if _weight(bounds, best.hz) < LEAST_WEIGHT:
        return "compressor" if _as_compressor(bounds, best.hz) else "unusual"
    if not bounds.compressor_off and _is_a_harmonic(axis, bounds, best):
        return "compressor"
    if _hidden_in_hum(spectrum, bounds, best, line_hz):
        return "hum"
    return "clear"


def _is_a_harmonic(axis: Axis, bounds: Bounds, best: Comb) -> bool:
    """Whether the comb is every second or third line of a lower one."""
    own = _mean_db(best)
    for m in FRACTIONS:
        lower = comb_at(axis, best.hz / m, 0.0, 1)
        between = Comb(lower.hz, 0.0, tuple((k, db) for k, db in lower.harmonics if k % m), lower.spread)
        share = OWN_FRACTION_SHARE if m == bounds.blades else FRACTION_SHARE
        if between.standing(CLEAR_DB) >= 2 and _mean_db(between) >= share * own:
            return True
    return False


def _mean_db(comb: Comb) -> float:
    """How far its lines stand on average, those of the strongest half."""
    found = sorted((max(db, 0.0) for _, db in comb.harmonics), reverse=True)
    half = found[: max(len(found) // 2, 1)]
    return sum(half) / len(half) if half else 0.0


def _hidden_in_hum(spectrum: Spectrum, bounds: Bounds, best: Comb, line_hz: float) -> bool:
    """Whether a blade tone may lie on the line's own frequency, which is not hum: hum is at twice it.

    The odd multiples of the line within the bounds stand about as high as the comb's own harmonics.
    """
    for m in (1, 2, 3, 4):
        tone = m * line_hz
        if not bounds.hz(bounds.low_rpm) <= tone * 1.01 or not tone * 0.99 <= bounds.hz(bounds.high_rpm):
            continue
        odd = [k * tone for k in range(1, 9) if round(k * m) % 2]
        stand = [spectrum.over_db(hz, spectrum.resolution_hz) for hz in odd if hz < spectrum.hz[-1]]
        own = [db for _, db in best.harmonics[: len(stand)]]
        if stand and sum(max(db, 0) for db in stand) >= WEAK_RIVAL * sum(max(db, 0) for db in own) * len(stand) / len(
            own
        ):
            return True
    return False
