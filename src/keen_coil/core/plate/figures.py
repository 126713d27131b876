"""What a chain of figures may mean on a plate: fields, values, how usual each is.

Usual values and bounds: the reckoning's plate plausibility (trade).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from dataclasses import field as made_by
from functools import lru_cache
from itertools import pairwise

from ..speed import synchronous_speed
from ..tables import listed, table
from ..units import STANDARD_HP, WATTS_PER_HP
from ..voltage import KNOWN, ranges
from .tokens import Token

FAN_MOST_UF = 15
MOST_HP, RPM, LEAST_RPM = 50, (150, 7200), 400
WITHOUT_POINT: dict[float, int] = {10: 10, 100: 100, 115: 100, 125: 100, 135: 100, 140: 100}
"""Service factors that lost their point, and what they are divided by."""
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
SYNCHRONOUS = tuple(synchronous_speed(poles, hz) for hz, most in ((60, 12), (50, 8)) for poles in range(2, most + 1, 2))
SLIP_PCT = (1.5, 20.0)
HORSES = tuple(float(size) for size in STANDARD_HP)
USUAL, POSSIBLE, ODD = 1.0, 0.0, -1.5


@dataclass(frozen=True)
class FigureRow:
    """A row of `figures.toml`: what a single figure may be."""

    field: str
    bounds: tuple[float, float]
    likely: tuple[float, float] | None = None
    usual: tuple[float, ...] = ()
    only: bool = False
    whole: bool = False
    hp_of: float = 0
    from_f: bool = False

    def may_be(self, value: float, whole: bool) -> bool:
        """Whether a figure may be this at all."""
        within = self.bounds[0] <= value <= self.bounds[1]
        return within and (whole or not self.whole) and (not self.only or self.is_usual(value))

    def is_usual(self, value: float) -> bool:
        """Whether plates really have this value."""
        return any(abs(value - one) < 1e-6 for one in self.usual)

    def is_likely(self, value: float) -> bool:
        """Whether it lies where such figures often do."""
        low, most = self.likely or self.bounds
        return low <= value <= most


@lru_cache(maxsize=1)
def _rows() -> tuple[FigureRow, ...]:
    return listed(FigureRow, table("keen_coil.core.plate", "figures")["figure"], "figures")


def usual_values(field: str) -> tuple[float, ...]:
    """The values that plates really have in a field, of `figures.toml`."""
    return next(row.usual for row in _rows() if row.field == field)


@dataclass(frozen=True)
class Meaning:
    """One thing a chain of figures may say: field and value, how usual it is, what it says besides."""

    field: str
    value: object
    usual: float
    besides: dict[str, object] = made_by(default_factory=dict)
    mended: bool = False


def meanings(token: Token) -> list[Meaning]:
    """All that a chain of figures may say, as call-file values."""
    numbers, marks = token.numbers, token.marks
    found: list[Meaning] = []
    fraction = _fraction(token)
    if fraction is not None:
        found += [_horsepower(fraction), Meaning("capacitor_uf", fraction, _of(fraction, usual_values("capacitor_uf")))]
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
        usual = {big, small} <= set(usual_values("capacitor_uf")) and small <= FAN_MOST_UF < big
        found.append(Meaning("dual_uf", (big, small), USUAL if usual else ODD))
    if "-" in marks and "." in token.text and numbers[0] <= 60:
        high = [float(part.split("-")[0]) for part in token.text.split("/")[1:]]
        besides: dict[str, object] = {"amps_more": tuple(high)} if high else {}
        found.append(Meaning("amps_a", numbers[0], POSSIBLE, besides))
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
    whole = value == int(value) and "." not in token.text
    found = [_meaning(row, value) for row in _rows() if row.may_be(value, whole) and _fits_degrees(row, token)]
    if 0 < value <= MOST_HP:
        found.append(_horsepower(value))
    if whole and RPM[0] <= value <= RPM[1]:
        found.append(Meaning("rpm", value, USUAL if value >= LEAST_RPM and speed_is_likely(value) else ODD))
    if value in WITHOUT_POINT:
        found.append(Meaning("service_factor", value / WITHOUT_POINT[value], POSSIBLE, mended=True))
    return found


def _fits_degrees(row: FigureRow, token: Token) -> bool:
    return token.in_f == row.from_f or not row.field.startswith("ambient")


def _meaning(row: FigureRow, value: float) -> Meaning:
    usual = USUAL if row.is_usual(value) else POSSIBLE if row.is_likely(value) else ODD
    shown = int(value) if row.whole else value
    if row.hp_of:
        shown = round(value * row.hp_of / WATTS_PER_HP, 4)
    if row.from_f:
        shown = round((value - 32) / 1.8, 1)
    return Meaning(row.field, shown, usual)


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
    if len(numbers) == 2 and numbers[1] in usual_values("capacitor_v") and numbers[0] <= 100:
        found.append(
            Meaning(
                "capacitor_uf", numbers[0], _of(numbers[0], usual_values("capacitor_uf")), {"capacitor_v": numbers[1]}
            )
        )
    if len(numbers) == 2 and set(numbers) <= set(usual_values("capacitor_v")) and numbers[0] != numbers[1]:
        found.append(Meaning("capacitor_v", max(numbers), USUAL))
    if set(numbers) == {50, 60}:
        found.append(Meaning("hz", 60, USUAL))
    if set(numbers) == {1, 3} or numbers == (1.0, 1.0):
        found.append(Meaning("phase", 1, ODD))
    return found
