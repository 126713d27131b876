"""Numbers as the trade writes them: typed digits kept, horsepower fractions, spans with uncertainty."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Annotated, Any

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import PydanticCustomError, core_schema

WATTS_PER_HP = 745.7
STANDARD_HP = tuple(
    Fraction(size) for size in "1/50 1/40 1/30 1/25 1/20 1/15 1/12 1/10 1/8 1/6 1/5 1/4 1/3 1/2 3/4 1 3/2 2 3 5".split()
)
CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff]")
"""Characters that no keyboard types: control characters but tabs and ends of lines, and halves of a character."""
"""What no keyboard types and no text holds: control characters but line ends and tabs, half characters."""
_NUMBER = re.compile(r"[+-]?[0-9]{1,12}(\.[0-9]{1,9})?")
_FRACTION = re.compile(r"(?:([0-9]{1,2})[ -])?([0-9]{1,2})/([0-9]{1,3})")
UNIT_WORDS: dict[str, tuple[str, ...]] = {
    "A": ("amperes", "amps", "amp", "a"),
    "V": ("volts", "volt", "vac", "v"),
    "hp": ("horsepower", "hp"),
    "rpm": ("r/min", "rpm"),
    "µF": ("microfarads", "microfarad", "mikes", "mike", "mfd", "mf", "uf", "µf", "\u03bcf"),
    "Hz": ("hertz", "hz", "cycles"),
    "C": ("°c", "degc", "c"),
    "ohm": ("ohms", "ohm", "\u03c9", "\u2126"),
    "Mohm": ("megohms", "megohm", "mohm"),
    "in": ("inches", "inch", "in", '"'),
    "phase": ("phase", "ph"),
    "fpm": ("fpm",),
    "in. w.c.": ("in. w.c.", "inwc", "in.wc"),
    "ppm": ("ppm",),
}
"""What a plate prints behind a number, by unit; longer words first. A unit of another size (mA, kV) is no such word."""
FRACTIONS = ("hp", "in")


def without_unit(text: str, unit: str) -> str:
    """A number's text without the unit that its plate prints behind it: `5MFD` is `5`, `1/4HP` is `0.25`.

    What is none of the unit's words stays, and is refused as it stands.
    """
    bare = text.strip()
    low = bare.lower()
    word = next((word for word in UNIT_WORDS.get(unit, ()) if low.endswith(word.lower()) and len(low) > len(word)), "")
    cut = bare[: len(bare) - len(word)].rstrip() if word else bare
    found = _FRACTION.fullmatch(cut) if unit in FRACTIONS else None
    if found and int(found[3]):
        return plain(round(int(found[1] or 0) + int(found[2]) / int(found[3]), 6))
    return cut if _NUMBER.fullmatch(cut) else bare


def slip_of(value: float, low: float, high: float, unit: str = "") -> str:
    """The slip that a number out of bounds probably is, as a question; empty when none would put it right."""
    if not math.isfinite(value):
        return ""
    if unit == "C" and value > high and low <= (value - 32) / 1.8 <= high:
        return f"; is it in F? That is {plain((value - 32) / 1.8, 0)} C"
    if value < 0 <= -value <= high:
        return "; a minus too much?"
    if value > high and low <= value / 1000 <= high and unit in ("A", "V", "µF"):
        return f"; in {'nF' if unit == 'µF' else 'm' + unit}? Or a decimal point lost?"
    if value > high and low <= value / 100 <= high:
        return "; a decimal point lost?"
    return ""


def whole_number(text: str, below: int = 2**63) -> int | None:
    """A whole number from 0 as typed, in plain digits; None for anything else, however long."""
    plain_digits = text.isascii() and text.isdecimal() and len(text) <= 19
    return int(text) if plain_digits and int(text) < below else None


class Figure(float):
    """A number that remembers how it was typed, so that 2.10 stays 2.10."""

    text: str
    typed: bool

    def __new__(cls, value: float | str) -> Figure:
        """Take a number or its decimal text; `ValueError` for anything else."""
        self = super().__new__(cls, value)
        self.typed = isinstance(value, str)
        self.text = value if isinstance(value, str) else plain(float(value))
        return self

    def __str__(self) -> str:
        """The digits as they were typed."""
        return self.text

    def __deepcopy__(self, memo: object) -> Figure:
        """Itself: a figure never changes."""
        return self

    def __reduce__(self) -> tuple[type[Figure], tuple[str | float]]:
        """Pickle with the typed digits."""
        return Figure, (self.text if self.typed else float(self),)


def plain(value: float, digits: int = 6) -> str:
    """A number without trailing zeros or exponent."""
    text = f"{value:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text


def fixed(value: float, digits: int = 3) -> str:
    """A number to about `digits` significant figures, as a technician would read it off."""
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    places = max(0, min(4, digits - 1 - math.floor(math.log10(abs(value)))))
    return f"{value:.{places}f}"


def horsepower_text(hp: float) -> str:
    """Horsepower as a plate writes it: 0.25 is `1/4`."""
    return _horsepower_text(float(hp))


@lru_cache(maxsize=1024)
def _horsepower_text(hp: float) -> str:
    near = min(STANDARD_HP, key=lambda size: abs(float(size) - hp))
    if abs(float(near) - hp) > 0.02 * hp:
        return plain(hp, 4)
    return str(near) if near.numerator == 1 or near == Fraction(3, 4) else plain(float(near))


@dataclass(frozen=True)
class Number:
    """A field that takes a number, or its decimal text, within bounds; kept as a `Figure`."""

    low: float
    high: float
    above: bool = False
    whole: bool = False
    unit: str = ""

    def expected(self) -> str:
        """What the field takes, in words."""
        what = "a whole number" if self.whole else "a number"
        floor = f"above {plain(self.low)}" if self.above else f"from {plain(self.low)}"
        return f"{what} {floor} to {plain(self.high)}"

    def take(self, value: object) -> Figure | int:
        """The figure, or a refusal that says what was expected. A unit printed behind the number is left out."""
        if isinstance(value, str) and self.unit:
            value = without_unit(value, self.unit)
        if isinstance(value, bool) or not isinstance(value, (int, float, str)):
            raise self._refusal()
        if isinstance(value, str) and not _NUMBER.fullmatch(value.strip()):
            raise self._refusal()
        try:
            figure = Figure(value.strip() if isinstance(value, str) else value)
        except OverflowError:
            raise self._refusal() from None
        below = figure <= self.low if self.above else figure < self.low
        if not math.isfinite(figure) or below or figure > self.high:
            raise self._refusal(slip_of(float(figure), self.low, self.high, self.unit))
        if not self.whole:
            return figure
        if not float(figure).is_integer():
            raise self._refusal()
        return int(figure)

    def _refusal(self, slip: str = "") -> PydanticCustomError:
        return PydanticCustomError("number", "{expected}", {"expected": self.expected() + slip})

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> Any:
        """Pydantic: validate by `take`, write back what was typed."""
        return core_schema.no_info_plain_validator_function(
            self.take, serialization=core_schema.plain_serializer_function_ser_schema(as_typed)
        )

    def __get_pydantic_json_schema__(self, schema: Any, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        """JSON Schema: a bounded number, or a decimal string."""
        floor = "exclusiveMinimum" if self.above else "minimum"
        kind = "integer" if self.whole else "number"
        return {
            "anyOf": [
                {"type": kind, floor: self.low, "maximum": self.high},
                {"type": "string", "pattern": r"^[+-]?\d+(\.\d+)?$"}
                if not self.unit
                else {"type": "string", "maxLength": 40},
            ]
        }


def as_typed(value: float) -> float | str:
    """A figure for a file: the text when it was typed as text, else the number."""
    if isinstance(value, Figure):
        return value.text if value.typed else float(value)
    return value


def texts_in(value: Any, path: str = "") -> Iterator[tuple[str, str]]:
    """Every text in parsed JSON with its path, names of fields too."""
    if isinstance(value, str):
        yield path, value
    elif isinstance(value, dict):
        for name, inner in value.items():
            yield path, str(name)
            yield from texts_in(inner, f"{path}.{name}" if path else str(name))
    elif isinstance(value, list | tuple):
        for number, inner in enumerate(value):
            yield from texts_in(inner, f"{path}.{number}" if path else str(number))


@dataclass(frozen=True)
class OneLine:
    """A field that takes text of limited length without control or half characters."""

    longest: int = 200

    def take(self, value: object) -> str:
        """The text, stripped, or a refusal."""
        expected = f"text of at most {self.longest} characters"
        if not isinstance(value, str) or len(value) > self.longest:
            raise PydanticCustomError("text", "{expected}", {"expected": expected})
        if CONTROL.search(value):
            raise PydanticCustomError("text", "{expected}", {"expected": "text without control characters"})
        return value.strip()

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> Any:
        """Pydantic: validate by `take`."""
        taker: Callable[[Any], Any] = self.take
        return core_schema.no_info_plain_validator_function(taker)

    def __get_pydantic_json_schema__(self, schema: Any, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        """JSON Schema: text of limited length."""
        return {"type": "string", "maxLength": self.longest}


def positive(high: float, unit: str = "") -> Any:
    """Metadata of a figure above zero, with the unit that a plate prints behind it."""
    return Number(0, high, above=True, unit=unit)


Volts = Annotated[float, positive(1000, "V")]
Amps = Annotated[float, positive(500, "A")]
Ohms = Annotated[float, Number(0, 1e9, unit="ohm")]
Microfarads = Annotated[float, positive(500, "µF")]
Hp = Annotated[float, positive(50, "hp")]
Rpm = Annotated[float, positive(7200, "rpm")]
Celsius = Annotated[float, Number(-60, 300, unit="C")]
Inches = Annotated[float, positive(240, "in")]
Share = Annotated[float, positive(100)]
Count = Annotated[int, Number(0, 1000, whole=True)]
Text = Annotated[str, OneLine(200)]
LongText = Annotated[str, OneLine(2000)]


@dataclass(frozen=True)
class Span:
    """A value with its uncertainty: the interval it lies in."""

    low: float
    high: float

    @property
    def mid(self) -> float:
        """The value itself."""
        return (self.low + self.high) / 2

    @property
    def u(self) -> float:
        """Half the width."""
        return (self.high - self.low) / 2

    def within(self, low: float, high: float) -> bool:
        """Wholly inside the limits."""
        return low <= self.low and self.high <= high

    def outside(self, low: float, high: float) -> bool:
        """Wholly outside the limits."""
        return self.high < low or self.low > high

    def apart(self, other: Span) -> bool:
        """No value in common with another."""
        return self.high < other.low or other.high < self.low

    def text(self, unit: str) -> str:
        """Written out, e.g. `2.10 +/- 0.07 µF`."""
        places = max(0, min(4, 1 - math.floor(math.log10(self.u)))) if self.u > 0 else 2
        return f"{self.mid:.{places}f} ± {self.u:.{places}f} {unit}".strip()
