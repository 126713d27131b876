"""What is measured or noted on the way, so that it can be put back: each mark, and how near its second must come."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from ..errors import invalid
from ..match.geometry import GAPS_TOLERANCE_IN, PLANE_TOLERANCE_IN
from ..units import Number

BAND_TOLERANCE_IN = 0.125
BELT_TOLERANCE_IN = 0.125
LONGEST = 60
_INCHES = Number(0, 240)


class Mark(NamedTuple):
    """A figure or word noted on the way. `of` is the mark it is held against, `within` by how many inches."""

    name: str
    title: str
    unit: str
    of: str | None = None
    within: float | None = None
    choices: tuple[str, ...] = ()
    words: bool = False


class MarkCheck(NamedTuple):
    """A mark put back: the words for it, and whether it is where it was; None where it cannot be said."""

    says: str
    right: bool | None


MARKS: dict[str, Mark] = {
    "blade_height": Mark("blade_height", "shroud edge to blade", "in"),
    "blade_height_after": Mark(
        "blade_height_after", "shroud edge to blade, now", "in", "blade_height", PLANE_TOLERANCE_IN
    ),
    "gap_far": Mark("gap_far", "side gap, away from motor", "in"),
    "gap_near": Mark("gap_near", "side gap, motor side", "in"),
    "gap_far_after": Mark("gap_far_after", "side gap, away from motor, now", "in", "gap_near_after", GAPS_TOLERANCE_IN),
    "gap_near_after": Mark("gap_near_after", "side gap, motor side, now", "in", "gap_far_after", GAPS_TOLERANCE_IN),
    "turns": Mark("turns", "rotation viewed from the shaft", "", choices=("clockwise", "counter-clockwise")),
    "leads_at": Mark("leads_at", "leads leave at", "o'clock", choices=tuple(str(hour) for hour in range(1, 13))),
    "band_at": Mark("band_at", "band edge to end of body", "in"),
    "band_at_after": Mark("band_at_after", "band edge to end of body, now", "in", "band_at", BAND_TOLERANCE_IN),
    "belt_size": Mark("belt_size", "belt", "", words=True),
    "pulley_turns": Mark("pulley_turns", "pulley open", "turns"),
    "belt_gives": Mark("belt_gives", "belt deflection", "in"),
    "belt_gives_after": Mark("belt_gives_after", "belt deflection, now", "in", "belt_gives", BELT_TOLERANCE_IN),
}


def read_mark(name: str, text: str) -> str:
    """A mark as typed, its digits kept; empty takes it back. Raises `InvalidField` naming the mark."""
    mark = MARKS.get(name)
    if mark is None:
        raise invalid(name, text, "one of " + ", ".join(MARKS))
    typed = text.strip()
    if not typed:
        return ""
    if mark.choices:
        if typed not in mark.choices:
            raise invalid(name, typed, "one of " + ", ".join(mark.choices))
    elif mark.words:
        if len(typed) > LONGEST:
            raise invalid(name, f"{len(typed)} characters", f"at most {LONGEST}")
    else:
        try:
            _INCHES.take(typed)
        except ValueError:
            raise invalid(name, typed, f"{mark.unit or 'a number'}: a number from 0 to 240") from None
    return typed


def put_back(name: str, marks: Mapping[str, str], way: str = "") -> MarkCheck | None:
    """Whether a mark came back to where it was, in words; None where the first or the second is missing (inches).

    The way it turned is held against `way`, what the plate says of it, seen from the shaft; "" where it is silent.
    """
    mark = MARKS[name]
    if name == "turns" and way and marks.get(name):
        same = marks[name] == way
        says = "As on the plate." if same else f"The plate says {way}. Check again before you set the rotation."
        return MarkCheck(says, same)
    first, second = marks.get(mark.of or ""), marks.get(name)
    if mark.of is None or not first or not second or mark.within is None:
        return None
    off = float(second) - float(first)
    if abs(off) <= mark.within + 1e-9:
        return MarkCheck(f"Within {mark.within:g} in.", True)
    pair = name.startswith("gap_")
    what = "the two sides differ by" if pair else "off by"
    return MarkCheck(f"{what.capitalize()} {abs(off):.2f} in, at most {mark.within:g}. Set it again.", False)
