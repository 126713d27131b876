"""How the parts of an answer are joined, terminal to terminal: which cans, which straps, where the two leads go.

Sections of one part share its common terminal. In parallel all sections lie between the same two points; in series one
follows the other, sections of one can meeting at their common.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from .combine import Join

COMMON = "common"


@dataclass(frozen=True)
class Can:
    """A part as it is used: its terminals in order, common first; those not used stay empty."""

    part_no: str
    terminals: tuple[str, ...]
    used: tuple[str, ...]


@dataclass(frozen=True)
class Terminal:
    """A terminal of a can, by the can's place in the list."""

    can: int
    name: str


@dataclass(frozen=True)
class Strapped:
    """Cans, the straps between their terminals, and where what is connected goes: `line`, `motor`, `compressor`."""

    cans: tuple[Can, ...]
    straps: tuple[tuple[Terminal, Terminal], ...]
    leads: tuple[tuple[str, Terminal], ...]


def strapped(used: list[tuple[str, str]], join: Join, sections: dict[str, tuple[str, ...]]) -> Strapped:
    """The straps of an answer for one motor.

    Parameters: `used`, part number and section in order; `join`; `sections`, every section of each part by number.
    """
    cans, places = _cans(used, sections, 2 if join == "series" else None)
    if join == "series":
        return _series(cans, places)
    commons = [Terminal(can, _side(cans[can])) for can in range(len(cans))]
    own = [Terminal(can, name) for can, name in places]
    straps = [*pairwise(commons), *pairwise(own)]
    return Strapped(tuple(cans), tuple(straps), (("line", commons[0]), ("motor", own[0])))


def strapped_both(
    herm: list[tuple[str, str]], fan: list[tuple[str, str]], sections: dict[str, tuple[str, ...]]
) -> Strapped:
    """The straps of an answer for compressor and fan: the sections that serve each, joined in parallel."""
    cans, places = _cans([*herm, *fan], sections, None)
    commons = [Terminal(can, _side(cans[can])) for can in range(len(cans))]
    own = [Terminal(can, name) for can, name in places]
    for_herm, for_fan = own[: len(herm)], own[len(herm) :]
    leads = (("line", commons[0]), ("compressor", for_herm[0]), ("motor", for_fan[0]))
    return Strapped(tuple(cans), (*pairwise(commons), *pairwise(for_herm), *pairwise(for_fan)), leads)


def _cans(
    used: list[tuple[str, str]], sections: dict[str, tuple[str, ...]], most: int | None
) -> tuple[list[Can], list[tuple[int, str]]]:
    """Cans for the sections used, at most so many sections of one can; and for each section its can and terminal."""
    taken: list[tuple[str, list[str]]] = []
    places = []
    for part_no, section in used:
        fit = (
            i
            for i, (part, names) in enumerate(taken)
            if part == part_no and section not in names and (most is None or len(names) < most)
        )
        index = next(fit, len(taken))
        if index == len(taken):
            taken.append((part_no, []))
        taken[index][1].append(section)
        places.append((index, _terminal(section)))
    cans = [
        Can(part, _terminals(sections.get(part, tuple(names))), tuple(_terminal(name) for name in names))
        for part, names in taken
    ]
    return cans, places


def _terminals(sections: tuple[str, ...]) -> tuple[str, ...]:
    """A single has two alike, anything else a common and a terminal for each section."""
    return ("1", "2") if sections == ("single",) else (COMMON, *sections)


def _terminal(section: str) -> str:
    return "2" if section == "single" else section


def _side(can: Can) -> str:
    return can.terminals[0]


def _series(cans: list[Can], places: list[tuple[int, str]]) -> Strapped:
    """One can after the other; two sections of one can meet inside it, at its common."""
    ends = []
    for index, can in enumerate(cans):
        own = [name for at, name in places if at == index]
        first, last = (own[0], own[1]) if len(own) == 2 else (_side(can), own[0])
        ends.append((Terminal(index, first), Terminal(index, last)))
    straps = tuple((before[1], after[0]) for before, after in pairwise(ends))
    return Strapped(tuple(cans), straps, (("line", ends[0][0]), ("motor", ends[-1][1])))
