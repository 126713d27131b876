"""Temperatures as they are typed and shown: files and rules hold degrees C, a shop may work in F.

A text that names a temperature writes it `31 °C`, a difference `12 degrees C`: nothing else in a sentence is either.
"""

from __future__ import annotations

import re
from typing import Literal

from .units import plain

Degrees = Literal["F", "C"]
DEFAULT: Degrees = "F"
_TYPED = re.compile(r"\s*([+-]?\d{1,5}(?:\.\d{1,6})?)\s*(?:°|deg\.?)?\s*([CcFf])?\s*")
_SHOWN = re.compile(r"(?<![\d.])([+-]?\d+(?:\.\d+)?)(?: ± (\d+(?:\.\d+)?))? °C")
_APART = re.compile(r"(?<![\d.])([+-]?)(\d+(?:\.\d+)?) degrees C\b")


def in_celsius(text: str, degrees: str) -> str:
    """A temperature as typed, as text in degrees C; a unit behind the figure wins. What is no figure stays as it is.

    `190` typed in F is `87.8`.
    """
    found = _TYPED.fullmatch(text)
    if found is None:
        return text
    if (found[2] or degrees).upper() != "F":
        return found[1]
    return plain((float(found[1]) - 32) / 1.8, 1)


def as_shown(celsius: str, degrees: str) -> str:
    """A figure in degrees C as a field shows it; what is no figure stays as it is.

    A figure that was typed in F comes back as it was typed: `87.8` is `190`.
    """
    found = _TYPED.fullmatch(celsius)
    if found is None or degrees != "F" or found[2]:
        return celsius
    fahrenheit = float(found[1]) * 1.8 + 32
    return plain(fahrenheit, 0 if abs(fahrenheit - round(fahrenheit)) < 0.1 else 1)


def sentences(text: str, degrees: str) -> str:
    """A text with its temperatures in the degrees of the shop, to as many places as they had."""
    if degrees != "F" or ("°C" not in text and "degrees C" not in text):
        return text
    return _APART.sub(_apart, _SHOWN.sub(_absolute, text))


def _absolute(found: re.Match[str]) -> str:
    error = f" ± {_as(float(found[2]) * 1.8, found[2])}" if found[2] else ""
    return f"{_as(float(found[1]) * 1.8 + 32, found[1])}{error} °F"


def _apart(found: re.Match[str]) -> str:
    return f"{found[1]}{_as(float(found[2]) * 1.8, found[2])} degrees F"


def _as(value: float, like: str) -> str:
    return f"{value:.{len(like.partition('.')[2])}f}"
