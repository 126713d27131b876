"""What a chain of figures may mean on a plate: fields, values, how usual each is.

Usual values and bounds: the reckoning's plate plausibility (trade).
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from itertools import pairwise

from ..units import STANDARD_HP, WATTS_PER_HP
from ..voltage import KNOWN, ranges
from .tokens import Token

MICROFARADS = (
    2,
    2.5,
    3,
    3.5,
    4,
    5,
    6,
    7,
    7.5,
    8,
    10,
    12,
    12.5,
    15,
    17.5,
    20,
    25,
    30,
    35,
    40,
    45,
    50,
    55,
    60,
    65,
    70,
    75,
    80,
)
FAN_MOST_UF = 15
CAPACITOR_VOLTS = (250, 330, 370, 400, 440, 450)
KNOWN_VOLTS = {
    *KNOWN,
    "120",
    "208",
    "240",
    "208-240",
    "230/460",
    "115/208-230",
    "265",
    "380",
    "480",
    "200",
    "220",
    "380/460",
}
SYNCHRONOUS = (3600, 1800, 1200, 900, 720, 600, 3000, 1500, 1000, 750)
SLIP_PCT = (1.5, 20.0)
HORSES = tuple(float(size) for size in STANDARD_HP)
USUAL, POSSIBLE, ODD = 1.0, 0.0, -1.5


@dataclass(frozen=True)
class Meaning:
    """One thing a chain of figures may say: field and value, how usual it is, what it says besides."""

    field: str
    value: object
    usual: float
    besides: dict[str, object] = field(default_factory=dict)
    mended: bool = False


def meanings(token: Token) -> list[Meaning]:
    """All that a chain of figures may say, as call-file values."""
    numbers, marks = token.numbers, token.marks
    found: list[Meaning] = []
    fraction = _fraction(token)
    if fraction is not None:
        found += [_horsepower(fraction), Meaning("capacitor_uf", fraction, _of(fraction, MICROFARADS))]
        found += [Meaning("amps_a", fraction, ODD)] if " " in marks else []
    elif re.fullmatch(r"1/\d+(-1/\d+)+", token.text):
        found.append(Meaning("hp", round(1 / numbers[1], 6), ODD))
    found += _volts(token)
    if len(numbers) == 1:
        found += _single(token, numbers[0])
    if set(marks) == {"/"}:
        found += _slashed(token)
    if marks in ("+", "/") and len(numbers) == 2:
        big, small = max(numbers), min(numbers)
        usual = _of(big, MICROFARADS) == _of(small, MICROFARADS) == USUAL and small <= FAN_MOST_UF < big
        found.append(Meaning("dual_uf", (big, small), USUAL if usual else ODD))
    if marks == "-" and len(numbers) == 2 and "." in token.text:
        found.append(Meaning("amps_a", max(numbers), POSSIBLE))
    return found


def _of(value: float, usual: tuple[float, ...] | tuple[int, ...]) -> float:
    return USUAL if any(abs(value - one) < 1e-6 for one in usual) else POSSIBLE


def _fraction(token: Token) -> float | None:
    """A fraction's value, 1/4 or 7 1/2 or 1-1/2; None where the chain is none."""
    numbers = token.numbers
    if any(number != int(number) for number in numbers) or "." in token.text:
        return None
    if token.marks == "/" and 0 < numbers[0] < numbers[1] <= 64:
        return round(numbers[0] / numbers[1], 6)
    if token.marks in (" /", "-/") and numbers[0] < 20 and 0 < numbers[1] < numbers[2] <= 64:
        return round(numbers[0] + numbers[1] / numbers[2], 6)
    return None


def _horsepower(hp: float) -> Meaning:
    near = min(HORSES, key=lambda size: abs(size - hp))
    return Meaning("hp", hp, USUAL if abs(near - hp) < 0.015 * near else POSSIBLE if 0.01 <= hp <= 10 else ODD)


def _volts(token: Token) -> list[Meaning]:
    numbers, marks = token.numbers, token.marks
    besides: dict[str, object] = {}
    if len(numbers) > 2 and numbers[-1] in (50, 60) and numbers[-2] in (1, 3):
        besides = {"phase": int(numbers[-2]), "hz": int(numbers[-1])}  # 208-230/1/60
        numbers, marks = numbers[:-2], marks[:-2]
    if any(number != int(number) or not 20 <= number <= 999 for number in numbers) or set(marks) - {"-", "/"}:
        return []
    text = f"{numbers[0]:g}"
    for mark, before, after in zip(marks, numbers, numbers[1:], strict=False):
        span = after > before and after <= 1.35 * before
        text += ("-" if span else "/" if mark == "/" else "-") + f"{after:g}"
    try:
        ranges(text)
    except ValueError:
        return []
    usual = USUAL if text in KNOWN_VOLTS else POSSIBLE if len(numbers) > 1 else ODD
    return [Meaning("volts", text, usual, besides)]


def speed_is_likely(rpm: float) -> bool:
    """Whether an induction motor's plate may say this speed: under a synchronous one by its slip."""
    return any(SLIP_PCT[0] <= 100 * (1 - rpm / whole) <= SLIP_PCT[1] for whole in SYNCHRONOUS)


def _single(token: Token, value: float) -> list[Meaning]:
    whole = value == int(value)
    digits = token.text.lstrip("0")
    found = [Meaning("amps_a", value, POSSIBLE if 0.2 <= value <= 30 else ODD)] if 0 < value <= 500 else []
    found += [Meaning("sf_amps_a", value, POSSIBLE)] if 0 < value <= 60 else []
    if 0 < value <= 50:
        found.append(_horsepower(value))
        found.append(Meaning("kw", round(value * 1000 / WATTS_PER_HP, 4), POSSIBLE if value <= 8 else ODD))
    if 4 <= value <= 9000:
        found.append(Meaning("watts", round(value / WATTS_PER_HP, 4), POSSIBLE))
    if whole and 150 <= value <= 7200:
        found.append(Meaning("rpm", value, USUAL if value >= 400 and speed_is_likely(value) else ODD))
    if whole and 1 <= value <= 20 and "." not in digits:
        found.append(Meaning("speeds", int(value), USUAL if value <= 5 else ODD))
        found.append(Meaning("leads", int(value), USUAL if 2 <= value <= 12 else ODD))
    if value in (1, 3):
        found.append(Meaning("phase", int(value), USUAL))
    if value in (50, 60):
        found.append(Meaning("hz", int(value), USUAL))
    if 0 < value <= 500:
        found.append(Meaning("capacitor_uf", value, _of(value, MICROFARADS) if 1.5 <= value <= 100 else ODD))
    if whole and 100 <= value <= 700:
        found.append(Meaning("capacitor_v", value, USUAL if value in CAPACITOR_VOLTS else ODD))
    if 0.8 <= value <= 2:
        found.append(Meaning("service_factor", value, USUAL if 1 <= value <= 1.5 else ODD))
    if 15 <= value <= 150:
        found.append(
            Meaning("ambient_limit_c", value, USUAL if value in (25, 30, 40, 45, 50, 55, 60, 65, 70, 80) else POSSIBLE)
        )
    if 70 <= value <= 200:
        found.append(Meaning("ambient_f", round((value - 32) / 1.8, 1), POSSIBLE))
    if whole and value in (2, 4, 6, 8, 10, 12):
        found.append(Meaning("poles", int(value), USUAL))
    if 1 <= value <= 25:
        found.append(Meaning("tolerance_pct", value, USUAL if value in (3, 5, 6, 10) else POSSIBLE))
    return found


def _slashed(token: Token) -> list[Meaning]:
    """Chains with slashes: speeds, the amps of two voltages or of several speeds, µF with its volts, 50/60 Hz."""
    numbers = token.numbers
    found: list[Meaning] = []
    falls = all(a > b for a, b in pairwise(numbers))
    if numbers[0] >= 400 and numbers[0] == int(numbers[0]):
        if falls and numbers[-1] >= 200:
            usual = USUAL if speed_is_likely(numbers[0]) else ODD
            found.append(Meaning("rpm", numbers[0], usual, {"speeds": len(numbers)}))
        elif len(numbers) == 2 and numbers[1] <= 8:
            usual = USUAL if speed_is_likely(numbers[0]) else ODD
            found.append(Meaning("rpm", numbers[0], usual, {"speeds": int(numbers[1])}))
    if falls and numbers[0] <= 60:
        besides: dict[str, object] = {"amps_more": numbers[1:]}
        found.append(Meaning("amps_a", numbers[0], POSSIBLE if numbers[0] > 0.2 else ODD, besides))
    if len(numbers) == 2 and numbers[1] in CAPACITOR_VOLTS and numbers[0] <= 100:
        found.append(Meaning("capacitor_uf", numbers[0], _of(numbers[0], MICROFARADS), {"capacitor_v": numbers[1]}))
    if len(numbers) == 2 and set(numbers) <= set(CAPACITOR_VOLTS) and numbers[0] != numbers[1]:
        found.append(Meaning("capacitor_v", max(numbers), USUAL))
    if set(numbers) == {50, 60}:
        found.append(Meaning("hz", 60, USUAL))
    if set(numbers) == {1, 3} or numbers == (1.0, 1.0):
        found.append(Meaning("phase", 1, ODD))
    return found
