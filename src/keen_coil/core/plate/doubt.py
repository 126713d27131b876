"""What a plate cannot say: figures that do not belong together, and the slip that would explain it.

`hp * 746 / (V * A)` is efficiency times power factor: 0.25 to 0.9 for PSC, 0.08 to 0.35 for shaded pole, at the plate's
lower volts (reckoning, Plate plausibility; `judge/plausible.py`).
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from ..motor_kinds import MOTOR_TRAITS, traits_of
from ..units import WATTS_PER_HP, horsepower_text, plain
from ..vocabulary import MotorKind, words_of
from ..voltage import ranges
from .figures import HORSES, POSSIBLE, Meaning, speed_is_likely, usual_values

SHADED_POLE_MOST_HP = 0.26
MOTOR_CAPACITOR_MOST_UF = 30.0
MANY_AMPS = 10
ANY_WORK = (0.2, 1.0)
"""Efficiency times power factor where a kind has no figures of its own."""
"""From so many amps without a point they are asked about where neither horsepower nor volts can tell."""
SWAPS = (("1", "7"), ("0", "8"), ("3", "8"))


class Doubt(NamedTuple):
    """A field that cannot be right, and why; `value` is what it becomes where one slip explains it."""

    field: str
    why: str
    value: float | None = None


def doubts(values: Mapping[str, object], typed: Mapping[str, str], of_motor: bool = True) -> Iterator[Doubt]:
    """The doubts that physics and usage leave on the figures of a motor's plate, or of a capacitor's label.

    Args: values, by their dotted names as the call file holds them; typed, their texts.
    """
    traits = traits_of(_kind(values))
    yield from _work(values, typed)
    rpm = values.get("rpm")
    if isinstance(rpm, (int, float)) and not traits.is_electronic and not speed_is_likely(rpm):
        yield Doubt("rpm", f"No motor of this kind turns at {rpm:g} rpm under load.")
    uf = values.get("capacitor_uf")
    if isinstance(uf, (int, float)) and uf > MOTOR_CAPACITOR_MOST_UF and of_motor:
        tenth = round(uf / 10, 2)
        lost = tenth in usual_values("capacitor_uf") and "." not in typed.get("capacitor_uf", "")
        yield Doubt("capacitor_uf", f"{uf:g} µF is much for a fan motor. A point lost?", tenth if lost else None)
    elif isinstance(uf, (int, float)) and all(abs(uf - one) > 0.01 for one in usual_values("capacitor_uf")):
        yield Doubt("capacitor_uf", f"{uf:g} µF is no usual size.")
    factor = typed.get("service_factor", "1.0").strip()
    if factor.isdigit():
        yield Doubt("service_factor", f"{factor} without a point: was something lost?")
    volts = values.get("capacitor_v")
    if isinstance(volts, (int, float)) and volts not in usual_values("capacitor_v"):
        yield Doubt("capacitor_v", f"{volts:g} V is no usual capacitor rating.")


def work_share(hp: float, volts: str, amps: float, phases: int) -> float:
    """Efficiency times power factor that a plate claims: hp * 745.7 / (V * A), at its lower volts."""
    return hp * WATTS_PER_HP / (ranges(volts)[0].low * amps * (math.sqrt(3) if phases == 3 else 1.0))


def bounds(hp: float, kind: MotorKind | None, phases: int) -> tuple[float, float]:
    """Least and most that efficiency times power factor may be, where the kind may not be known."""
    if traits_of(kind).is_electronic:
        return ANY_WORK
    as_built = MOTOR_TRAITS["three_phase"] if phases == 3 else traits_of(kind)
    low, most = as_built.work_share or ANY_WORK
    if kind is None and phases != 3 and hp <= SHADED_POLE_MOST_HP:
        low, _ = MOTOR_TRAITS["shaded_pole"].work_share or ANY_WORK
    return low, most


def _kind(values: Mapping[str, object]) -> MotorKind | None:
    """The kind a plate names, where it is one."""
    return next((word for word in words_of(MotorKind) if word == values.get("kind")), None)


def _work(values: Mapping[str, object], typed: Mapping[str, str]) -> Iterator[Doubt]:
    hp, volts, amps = (values.get(name) for name in ("hp", "volts", "amps_a"))
    if (
        isinstance(amps, (int, float))
        and amps >= MANY_AMPS
        and "." not in typed.get("amps_a", ".")
        and None in (hp, volts)
    ):
        yield Doubt("amps_a", f"{amps:g} A is much for a fan motor. A point lost?")
    if not isinstance(hp, (int, float)) or not isinstance(amps, (int, float)) or not isinstance(volts, str):
        return
    phases = 3 if values.get("phase") == 3 else 1

    def fits(horses: float, current: float) -> bool:
        low, most = bounds(horses, _kind(values), phases)
        return low <= work_share(horses, volts, current, phases) <= most

    if fits(hp, amps):
        return
    why = f"{amps:g} A does not go with {horsepower_text(hp)} hp at {volts} V."
    text = typed.get("amps_a", plain(amps))
    if "." not in text and fits(hp, amps / 10) and amps >= 3:
        yield Doubt("amps_a", f"{why} A point lost?", round(amps / 10, 3))
        return
    lost = _with_slash(typed.get("hp", ""))
    if lost and fits(lost, amps):
        yield Doubt("hp", f"{why} A stroke lost?", lost)
        return
    currents = {float(other) for other in _swapped(text) if fits(hp, float(other))}
    horses = {size for size in _other_horses(typed.get("hp", "")) if fits(size, amps)}
    if len(currents) == 1 and not horses:
        yield Doubt("amps_a", why, currents.pop())
    elif len(horses) == 1 and not currents:
        yield Doubt("hp", why, horses.pop())
    else:
        yield Doubt("amps_a", why)
        yield Doubt("hp", why)


def _with_slash(text: str) -> float | None:
    """The fraction that a figure without its stroke was: 13 is 1/3, 34 is 3/4; None where it is no usual horsepower."""
    bare = text.strip()
    if not bare.isdigit() or not 2 <= len(bare) <= 3:
        return None
    value = int(bare[0]) / int(bare[1:]) if int(bare[1:]) else 0.0
    return round(value, 6) if any(abs(value - known) < 0.01 * known for known in HORSES) else None


def _swapped(text: str) -> Iterator[str]:
    """A figure with one digit that cameras confuse put for the other."""
    if not re.fullmatch(r"\d*\.?\d+", text):
        return
    for at, sign in enumerate(text):
        for pair in SWAPS:
            if sign in pair:
                other = pair[1 - pair.index(sign)]
                found = text[:at] + other + text[at + 1 :]
                if float(found) > 0:
                    yield found


def _other_horses(text: str) -> Iterator[float]:
    found = re.fullmatch(r"\s*(\d+)/(\d+)\s*", text)
    if not found:
        return
    for other in _swapped(found[2]):
        size = int(found[1]) / int(other)
        if any(abs(size - known) < 0.01 * known for known in HORSES):
            yield round(size, 6)


def is_odd(meaning: Meaning) -> bool:
    """Whether a figure is hardly ever what its word says."""
    return meaning.usual < POSSIBLE
