"""What is asked about before it is kept: ohms that look like kilohm or megohm typed as ohm."""

from __future__ import annotations

import math

from ..limits import Limits
from ..readings import Reading
from ..units import plain

TO_FRAME = ("ground_ohm", "capacitor_case_ohm")


def ask_about(reading: Reading, limits: Limits) -> str:
    """What is odd about a reading's unit, as a question; empty when nothing is (trade; `limits.ask_*`, ohms)."""
    if reading.kind not in ("winding_ohm", *TO_FRAME) or not reading.numbers or isinstance(reading.value, list):
        return ""
    ohms = reading.numbers[0]
    odd_winding = math.isfinite(ohms) and (ohms > limits.ask_winding_ohm or 0 < ohms < limits.ask_winding_least_ohm)
    if reading.kind == "winding_ohm" and odd_winding:
        return f"{plain(ohms)} ohm for a winding. Is the meter in kohm? Pick its unit, or confirm it."
    if reading.kind in TO_FRAME and ohms < limits.ask_frame_ohm:
        return f"{plain(ohms)} ohm to ground. Is the meter in ohm, kohm or Mohm? Pick its unit, or confirm it."
    return ""
