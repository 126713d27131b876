"""How to size power: four schools, each a rule on plate amps and horsepower.

Every school refuses less than the load needs. Amps compare within one motor kind and voltage only.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..tables import complete
from ..units import STANDARD_HP
from ..vocabulary import SizingSchool, words_of

AS_MUCH = 0.99
"""From this share of the reference on a school asks for all of it; less is told with its share."""
ROUNDING = 0.98
"""Plates round: amps or horsepower up to 2 % under what a school asks for still serve (trade)."""
SCHOOLS: tuple[SizingSchool, ...] = words_of(SizingSchool)
NAMES: dict[SizingSchool, str] = {
    "amps": "Amps first",
    "hp_amps": "Horsepower and amps",
    "ten_percent": "Within 10 %",
    "like": "OEM exact",
}
complete(NAMES, words_of(SizingSchool), "NAMES")
INF = float("inf")
_SLACK = 1e-9


@dataclass(frozen=True)
class SizingRule:
    """Limits of a school as multiples of the reference; `flag_amps` is where a yes carries a warning."""

    amps: tuple[float, float] = (0.0, INF)
    hp: tuple[float, float] = (0.0, INF)
    sizes_up: int | None = None
    flag_amps: float = INF


SIZING_RULES: dict[SizingSchool, SizingRule] = {
    "amps": SizingRule(amps=(0.995, 1.25)),
    "hp_amps": SizingRule(amps=(0.95, 1.6), hp=(0.999, INF), sizes_up=1, flag_amps=1.25),
    "ten_percent": SizingRule(amps=(0.95, 1.1), hp=(0.95, 1.1)),
    "like": SizingRule(amps=(0.95, INF)),
}
complete(SIZING_RULES, words_of(SizingSchool), "SIZING_RULES")


def size_index(hp: float) -> int:
    """The place of a horsepower in the row of standard sizes, nearest."""
    return min(range(len(STANDARD_HP)), key=lambda i: abs(float(STANDARD_HP[i]) - hp))


def amps_refusal(school: SizingSchool, old: float, new: float) -> str | None:
    """Why a school refuses these plate amps (A, at the same volts); None when it takes them."""
    low, high = SIZING_RULES[school].amps
    if new < old * low * ROUNDING - _SLACK:
        share = f"{low:g} times " if low < AS_MUCH else ""
        return f"{new:.2f} A is less than {share}the {old:.2f} A the load needs."
    if new > old * high + _SLACK:
        return f"{new:.2f} A is more than {high:g} times {old:.2f} A."
    return None


def is_rounding(school: SizingSchool, old: float, new: float) -> bool:
    """Whether plate amps serve only because plates round: under what the school asks for, by no more than 2 %."""
    return new < old * min(SIZING_RULES[school].amps[0], 1.0) - _SLACK and amps_refusal(school, old, new) is None


def hp_refusal(school: SizingSchool, old: float, new: float) -> str | None:
    """Why a school refuses this horsepower; None when it takes it or does not ask."""
    bounds = SIZING_RULES[school]
    low, high = bounds.hp
    if new < old * low * ROUNDING - _SLACK:
        return "Less horsepower than the load needs."
    if new > old * high + _SLACK:
        return f"More than {high:g} times the horsepower."
    if bounds.sizes_up is not None and size_index(new) > size_index(old) + bounds.sizes_up:
        return "More than one standard size up."
    return None
