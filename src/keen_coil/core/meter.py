"""Readings that a linked meter sends: which function suits which test, when it is steady, what is taken over.

A meter's value is taken as it is displayed, its digits kept; the clamp's turns are divided out where it is judged.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple

from .readings import KINDS

Function = Literal[
    "volts_ac",
    "volts_dc",
    "amps_ac",
    "ohms",
    "capacitance",
    "temperature",
    "insulation",
    "air_speed",
    "rpm",
]
NAMES: dict[Function, str] = {
    "volts_ac": "volts, alternating",
    "volts_dc": "volts, direct",
    "amps_ac": "amps",
    "ohms": "ohms",
    "capacitance": "capacitance",
    "temperature": "temperature",
    "insulation": "insulation",
    "air_speed": "air speed",
    "rpm": "rpm",
}
ASKED: dict[str, Function] = {
    "supply_v": "volts_ac",
    "contact_drop_v": "volts_ac",
    "capacitance_uf": "capacitance",
    "capacitor_case_ohm": "ohms",
    "winding_ohm": "ohms",
    "ground_ohm": "ohms",
    "ecm_winding_ohm": "ohms",
    "ecm_ground_ohm": "ohms",
    "insulation_mohm": "insulation",
    "run_amps_a": "amps_ac",
    "background_amps_a": "amps_ac",
    "sister_amps_a": "amps_ac",
    "run_rpm": "rpm",
    "shell_c": "temperature",
    "sister_shell_c": "temperature",
    "air_c": "temperature",
    "air_speed_fpm": "air_speed",
}
"""The meter's function that each kind of reading asks for; kinds that are words ask for none."""
UNITS: dict[Function, tuple[str, ...]] = {
    "volts_ac": ("mV", "V"),
    "volts_dc": ("mV", "V"),
    "amps_ac": ("mA", "A"),
    "ohms": ("ohm", "kohm", "Mohm"),
    "capacitance": ("nF", "µF"),
    "temperature": ("C",),
    "insulation": ("Mohm",),
    "air_speed": ("fpm",),
    "rpm": ("rpm",),
}
POWERS = {"mV": -3, "V": 0, "mA": -3, "A": 0, "ohm": 0, "kohm": 3, "Mohm": 6, "nF": -3, "µF": 0}
STEADY_S, STEADY_COUNTS = 1.5, 3
"""A value is steady when it kept within so many counts of its resolution for so many seconds (trade)."""


class Offered(NamedTuple):
    """What a meter offers to a test: the value to take over, empty when there is none; what is to be said."""

    value: str
    says: str


def shifted(text: str, power: int) -> str:
    """A decimal number moved by a power of ten, its digits kept: `2.10` by 3 is `2100`, `238` by -3 is `0.238`."""
    sign, digits = ("-", text[1:]) if text.startswith("-") else ("", text)
    whole, _, part = digits.partition(".")
    if power >= 0:
        part = part.ljust(power, "0")
        whole, part = whole + part[:power], part[power:]
    else:
        whole = whole.rjust(1 - power, "0")
        whole, part = whole[:power], whole[power:] + part
    return sign + (whole.lstrip("0") or "0") + (f".{part}" if part else "")


def offer(kind: str, function: Function, value: str | None, unit: str, overload: bool, hold: bool = False) -> Offered:
    """What a meter on a function offers to a kind of reading: value as displayed, unit of the display.

    The wrong function, an overload where that is no answer, and a held display are refused in words.
    """
    asked = ASKED.get(kind)
    if asked is None:
        return Offered("", "This test is no meter's.")
    if function != asked:
        return Offered("", f"The meter is on {NAMES[function]}; this test asks for {NAMES[asked]}.")
    if hold:
        return Offered("", "The meter holds an old value: let go of hold.")
    if overload:
        row = KINDS[kind]
        return Offered("OL", "Over range.") if "OL" in row.words else Offered("", "Over the meter's range.")
    if value is None:
        return Offered("", "The meter is still looking for its range.")
    mega = function == "insulation"
    return Offered(value if mega else shifted(value, POWERS.get(unit, 0)), "")


def steady(values: Sequence[tuple[float, float | None]], resolution: float) -> bool:
    """Whether the latest values kept still long enough: pairs of seconds and value, oldest first; None breaks it."""
    if not values or values[-1][1] is None:
        return False
    now, latest = values[-1]
    begin = now
    for at, value in reversed(values):
        if value is None or abs(value - float(latest or 0)) > STEADY_COUNTS * resolution * (1 + 1e-9):
            break
        begin = at
    return now - begin >= STEADY_S - 1e-9
