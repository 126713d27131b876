"""Plate volts such as `208-230/460`: what they allow, which current belongs to which.

Limits: plate volts +/-10 % (NEMA MG 1, voltage variation).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from itertools import pairwise

KNOWN = ("115", "230", "277", "460", "575", "208-230", "200-230", "220-240", "115/230", "208-230/460")
PLATE_TOLERANCE_PCT = 10.0
LOW_LINE_V, LINE_277_V = 150.0, (260.0, 300.0)
"""A supply up to the first, or within the second, is one line against the neutral (trade)."""


def is_line_to_neutral(volts: float) -> bool:
    """Whether a single-phase supply of these volts is one hot leg and the neutral; else it is two hot legs."""
    return volts <= LOW_LINE_V or LINE_277_V[0] <= volts <= LINE_277_V[1]


@dataclass(frozen=True)
class Range:
    """One connection of a motor: nominal low and high volts of the plate."""

    low: float
    high: float

    def window(self, tolerance_pct: float = PLATE_TOLERANCE_PCT) -> tuple[float, float]:
        """Volts at which the motor may run; 208-230 gives 187.2 to 253."""
        return round(self.low * (1 - tolerance_pct / 100), 6), round(self.high * (1 + tolerance_pct / 100), 6)

    def __str__(self) -> str:
        """As on the plate."""
        return f"{self.low:g}" if self.low == self.high else f"{self.low:g}-{self.high:g}"


@cache
def ranges(volts: str) -> tuple[Range, ...]:
    """The connections of a plate string, lowest first. Raises `ValueError` when it is none."""
    found = tuple(_range(part) for part in volts.split("/"))
    if not 1 <= len(found) <= 3 or any(a.high >= b.low for a, b in pairwise(found)):
        raise ValueError("not plate volts")
    return found


def _range(part: str) -> Range:
    ends = part.split("-")
    if not 1 <= len(ends) <= 2 or not all(end.isascii() and end.isdigit() and len(end) <= 3 for end in ends):
        raise ValueError("not plate volts")
    low, high = float(ends[0]), float(ends[-1])
    if not 20 <= low <= high <= 999 or (len(ends) == 2 and (low == high or high > low * 1.35)):
        raise ValueError("not plate volts")
    return Range(low, high)


def as_printed(volts: str) -> str:
    """A plate string as it is kept: without the unit and blanks that plates print, `208 - 230 V` is `208-230`."""
    bare = re.sub(r"(?i)\s*(volts|volt|vac|v)\b\.?", "", volts.strip())
    return re.sub(r"\s*([-/])\s*", r"\1", re.sub(r"[\u2010-\u2015\u2212]", "-", bare)).strip()


def plate_volts(volts: str) -> str:
    """The plate string as it is kept when it can be read; otherwise `ValueError` with what is expected."""
    found = as_printed(volts)
    try:
        ranges(found)
    except ValueError:
        raise ValueError("plate volts such as " + ", ".join(KNOWN)) from None
    return found


def range_for(volts: str, supply_v: float | None) -> Range | None:
    """The connection that belongs to a supply: the one that holds it, else the nearest.

    Args: volts, the plate string; supply_v, volts, or None when unknown.
    Returns None when the plate has several and the supply is unknown.
    """
    found = ranges(volts)
    if len(found) == 1:
        return found[0]
    if supply_v is None:
        return None
    return min(found, key=lambda r: max(r.window()[0] - supply_v, supply_v - r.window()[1], 0.0))


def is_low_connection(volts: str, supply_v: float | None) -> bool | None:
    """Whether a supply belongs to the low connection of a dual-voltage plate.

    Args: volts, the plate string; supply_v, volts, or None when unknown.
    Returns None when the plate has one connection only, or the supply is unknown.
    """
    chosen = range_for(volts, supply_v)
    return None if chosen is None or len(ranges(volts)) < 2 else chosen == ranges(volts)[0]


def plate_amps(
    volts: str | None, amps_a: float | None, amps_high_a: float | None, supply_v: float | None
) -> float | None:
    """Full-load amps that belong to the supply; half on the high connection unless stated.

    Returns amps, or None when the plate is silent or a dual-voltage plate has no known supply.
    """
    if amps_a is None or volts is None or len(ranges(volts)) == 1:
        return amps_a
    chosen = range_for(volts, supply_v)
    if chosen is None:
        return None
    if chosen is ranges(volts)[0]:
        return amps_a
    return amps_high_a if amps_high_a is not None else amps_a / 2


_AMPS = r"(\d*\.?\d+)(?:\s*-\s*\d*\.?\d+)?"
_TWO_AMPS = re.compile(rf"\s*{_AMPS}\s*(?:/\s*{_AMPS}\s*)?(?:A|a|amps?)?\s*")


def amps_as_on_plate(text: str) -> tuple[str, str]:
    """The amps of a plate as typed, on its low and on its high connection ("12.4/6.2", "3.6-3.4/1.7"), as text.

    The second is "" where the plate has one figure; what is no such text comes back as it is, to be refused where it
    is read. Of a range the first counts: it belongs to the lowest volts.
    """
    found = _TWO_AMPS.fullmatch(text)
    return (found[1], found[2] or "") if found and (found[2] or "-" in text) else (text, "")
