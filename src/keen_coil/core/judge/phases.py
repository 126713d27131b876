"""Three equal pairs of a three-phase winding (and of an ECM with its module off).

Difference in per cent: 100 * max|R - mean| / mean; up to 3 % normal, above 5 % failed (trade). One meter reads
all three: its gain and zero error move them alike, so what may set them apart is half a digit each.
"""

from __future__ import annotations

import math

from ..limits import Limits
from ..readings import Reading
from ..uncertainty import Meters, digit
from .judged import State


def phase_difference_pct(ohms: list[float]) -> float:
    """Difference of three phase pairs in per cent: 100 * max|R - mean| / mean."""
    mean = sum(ohms) / len(ohms)
    return 100 * max(abs(r - mean) for r in ohms) / mean if mean else 0.0


def difference_u_pct(ohms: list[float], u: float) -> float:
    """Uncertainty of that difference in per cent, each pair uncertain by u ohms on its own.

    R - mean holds 2/3 of one reading and 1/3 of each of the others: sqrt(6) / 3 of u.
    """
    mean = sum(ohms) / len(ohms)
    return 100 * u * math.sqrt(6) / 3 / mean if mean else 0.0


ALIKE_DIGITS = 1.001


def phase_state(ohms: list[float], reading: Reading, meters: Meters, limits: Limits) -> tuple[float, State]:
    """Difference in per cent, and its state: wholly under 3 % normal, wholly above 5 % failed.

    Pairs that the meter shows alike, or one digit apart, are alike: low ohms are compared by its resolution.
    """
    share, step = phase_difference_pct(ohms), _digit(reading, meters)
    u = difference_u_pct(ohms, min(step / 2, float(reading.u)) if reading.u is not None else step / 2)
    if share + u <= limits.phase_ohm_normal_pct or max(ohms) - min(ohms) <= step * ALIKE_DIGITS:
        return share, "normal"
    return share, "failed" if share - u > limits.phase_ohm_pct else "borderline"


def _digit(reading: Reading, meters: Meters) -> float:
    """The last digit shown, ohms: the meter's, or the finest that was typed."""
    values = reading.value if isinstance(reading.value, list) else [reading.value]
    typed = [len(str(value).partition(".")[2].rstrip()) for value in values if "." in str(value)]
    return min(digit(reading, meters), 10.0 ** -max(typed, default=0)) if typed else digit(reading, meters)
