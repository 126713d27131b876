"""Speed: synchronous speed, poles from the plate, slip.

n = 120 f / poles; plate slip of these motors lies between 2 and 20 %.
"""

from __future__ import annotations

MOST_POLES = 24


def synchronous_speed(poles: int, hz: float) -> float:
    """Synchronous speed in rpm: 120 * hz / poles."""
    return 120 * hz / poles


def poles_of(rpm: float | None, hz: float | None) -> int | None:
    """Even pole count whose synchronous speed is the lowest above the plate rpm; None when not known.

    1090 rpm at 60 Hz: 6. 830: 8. 1625: 4. 3350: 2.
    """
    if rpm is None or hz is None:
        return None
    counts = [poles for poles in range(2, MOST_POLES + 1, 2) if synchronous_speed(poles, hz) > rpm]
    return max(counts) if counts else None


def slip(rpm: float, poles: int, hz: float) -> float:
    """Slip as a fraction: 1 - rpm / n. 1090 rpm, 6 poles, 60 Hz: 0.092."""
    return 1 - rpm / synchronous_speed(poles, hz)
