"""Sections joined in parallel or in series: what comes of them, and what each has to stand.

Parallel: C = sum, rated volts the lowest. Series: 1/C = sum(1/Ci), each takes V_i = V * C / C_i, and must be rated for
its share at its worst tolerance. The search is exact: every one, two and three sections of the van, by brackets on a
sorted list instead of one by one. Of a large stock only what can still be among the best is looked at: of sections of
the same value the first so many, and no wider a window than it takes to fill the list.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..limits import DEFAULTS
from .parts import Section

Join = Literal["single", "parallel", "series"]
WINDOW_PCT = 5.0
"""A combination may land so far from the plate (trade)."""
_SLACK = 1e-9
NARROWEST_PCT = 1e-7
BLOCK = 400_000
WHOLE = 250
"""Up to so many sections every combination is looked at and counted."""
MOST_FOR_THREE, MOST_ROWS = 3000, 8_000_000
"""Beyond so many sections no three are joined; of a large stock no more rows than this are looked at."""
ROOM = 4
"""How many times more rows than are listed a narrowed window holds at least: some of them do not stand."""
Ints = NDArray[np.int32]


@dataclass(frozen=True)
class Combination:
    """Sections joined: µF of the whole, volts on each, whether they are of one part."""

    sections: tuple[Section, ...]
    join: Join
    uf: float
    volts_on_v: tuple[float, ...]

    @property
    def one_part(self) -> bool:
        """Whether all sections belong to one and the same part."""
        names = [section.name for section in self.sections]
        return len({section.part_no for section in self.sections}) == 1 and len(set(names)) == len(names)


def joined_uf(values: list[float], join: Join) -> float:
    """µF of sections in parallel (their sum) or in series (one over the sum of one over each)."""
    return 1 / sum(1 / value for value in values) if join == "series" else sum(values)


def shares_v(values: list[float], volts_v: float, join: Join) -> list[float]:
    """Volts on each section at its label: all of them in parallel, V * C / C_i in series.

    10 and 30 µF in series at 370 V: 277.5 and 92.5 V.
    """
    if join != "series":
        return [volts_v] * len(values)
    whole = joined_uf(values, "series")
    return [volts_v * whole / value for value in values]


def worst_shares_v(ufs: NDArray[np.float64], volts_v: float, join: Join) -> NDArray[np.float64]:
    """The most volts each section may see, [..., sections]: in series with itself at the low end, the others high."""
    if join != "series":
        return np.full(ufs.shape, volts_v)
    own = 1 / (ufs * (1 - DEFAULTS.capacitor_tolerance_pct / 100))
    rest = ((1 / ufs).sum(axis=-1, keepdims=True) - 1 / ufs) / (1 + DEFAULTS.capacitor_tolerance_pct / 100)
    return np.asarray(volts_v * own / (own + rest))


@dataclass(frozen=True)
class Found:
    """The best combinations, in order, and how many there are in all."""

    best: list[Combination]
    count: int


def combinations_near(sections: list[Section], uf: float, volts_v: float, most: int) -> Found:
    """Two or three sections of the van within the window of a value that hold the volts, joined either way.

    Order: fewest sections, closest, those that open no can of several sections, most in stock, part numbers. The
    `most` best are given, the others that were looked at counted: all of them in a stock of up to 250 sections.
    """
    shelf = sorted(sections, key=lambda s: (s.part_no, s.name))
    keyed: list[tuple[tuple[float, ...], str, list[int], _Search]] = []
    count = 0
    joins: tuple[Join, Join] = ("parallel", "series")
    searches = [_Search(shelf, uf, volts_v, join, most) for join in joins]
    for size in (2, 3):
        if size == 3 and len(shelf) > WHOLE and (len(keyed) >= most or len(shelf) > MOST_FOR_THREE):
            break
        for join, search in zip(joins, searches, strict=True):
            keys, rows, total = search.best(size, most)
            count += total
            pairs = zip(keys.tolist(), rows.tolist(), strict=True)
            keyed += [(tuple(key), join, row, search) for key, row in pairs]
    keyed.sort(key=lambda item: item[:2])
    return Found([search.made(row) for _, _, row, search in keyed[:most]], count)


def _first_of_each(shelf: list[Section], adds: NDArray[np.float64], order: Any, most: int) -> Any:
    """Of sections of one value and volts the first so many: no can opened, most in stock, part number; by value.

    A combination with a section beyond these has at least `most - 2` others before it, one for each that could stand
    in its place: it is never among the best.
    """
    seen: Counter[tuple[float, float]] = Counter()
    kept = []
    for i in sorted(order, key=lambda i: (shelf[i].name != "single", -shelf[i].stock, i)):
        value = (round(float(adds[i]), 9), float(shelf[i].volts_v))
        seen[value] += 1
        if seen[value] <= most:
            kept.append(i)
    return np.array(sorted(kept, key=lambda i: (adds[i], i)), dtype=np.intp)


class _Search:
    """One way of joining: the van's sections by what adds up, µF in parallel and one over µF in series."""

    def __init__(self, shelf: list[Section], uf: float, volts_v: float, join: Join, most: int) -> None:
        able = np.array([join == "series" or s.volts_v >= volts_v - _SLACK for s in shelf], dtype=bool)
        adds = np.array([1 / s.uf if join == "series" else s.uf for s in shelf], dtype=np.float64)
        order = np.argsort(adds, kind="stable")
        order = order[able[order]]
        self.whole, self.looked = len(order) <= WHOLE, 0
        order = order if self.whole else _first_of_each(shelf, adds, order, most + 2)
        self.sections = [shelf[i] for i in order]
        self.rank, self.adds = order.astype(np.int32), adds[order]
        self.ufs = np.array([s.uf for s in self.sections], dtype=np.float64)
        self.volts = np.array([s.volts_v for s in self.sections], dtype=np.float64)
        self.stock = np.array([s.stock for s in self.sections], dtype=np.int32)
        self.opens = np.array([s.name != "single" for s in self.sections], dtype=np.int32)
        parts = {part: i for i, part in enumerate(dict.fromkeys(s.part_no for s in self.sections))}
        self.part = np.array([parts[s.part_no] for s in self.sections], dtype=np.int32)
        self.uf, self.volts_v, self.join = uf, volts_v, join
        self.least, self.most = self._window(WINDOW_PCT)

    @property
    def is_tired(self) -> bool:
        """Whether as many rows of a large stock were looked at as will be."""
        return not self.whole and self.looked > MOST_ROWS

    def _window(self, pct: float) -> tuple[float, float]:
        """What a joined value within so many per cent adds up to."""
        low, high = self.uf * (1 - pct / 100), self.uf * (1 + pct / 100)
        return (1 / high, 1 / low) if self.join == "series" else (low, high)

    def made(self, row: list[int]) -> Combination:
        """A row of section numbers as a combination."""
        chosen = tuple(self.sections[i] for i in row)
        values = [section.uf for section in chosen]
        return Combination(
            chosen, self.join, joined_uf(values, self.join), tuple(shares_v(values, self.volts_v, self.join))
        )

    def best(self, size: int, most: int) -> tuple[NDArray[np.float64], Ints, int]:
        """Keys and rows of the best combinations of a size, and how many were found."""
        pct = WINDOW_PCT if self.whole else self._narrowed(size, ROOM * most)
        while True:
            self.least, self.most = self._window(pct)
            found = self._best(size, most)
            if found[2] >= most or pct >= WINDOW_PCT or self.is_tired:
                return found
            pct = min(WINDOW_PCT, 8 * pct)

    def _narrowed(self, size: int, rows: int) -> float:
        """The narrowest window, in steps of a quarter, that still holds so many rows."""
        pct = WINDOW_PCT
        while pct > NARROWEST_PCT:
            self.least, self.most = self._window(pct / 4)
            if int(self._brackets(size)[2].sum()) < rows:
                break
            pct /= 4
        return pct

    def _best(self, size: int, most: int) -> tuple[NDArray[np.float64], Ints, int]:
        keys, kept, count = np.zeros((0, 4 + size)), np.zeros((0, size), dtype=np.int32), 0
        for rows in self._near(size):
            self.looked += len(rows)
            if self.is_tired:
                break
            stand = self._stand(rows)
            count += int(np.count_nonzero(stand))
            rows = rows[self._closest(rows, stand, most)]
            keys, kept = np.concatenate([keys, self._keys(rows)]), np.concatenate([kept, rows])
            first = np.lexsort(keys.T[::-1])[:most]
            keys, kept = keys[first], kept[first]
        return keys, kept, count

    def _near(self, size: int) -> Iterator[Ints]:
        """Rows i <= j (<= k) whose joined value lies within the window, block by block: the last one by its bracket."""
        firsts, start, many = self._brackets(size)
        for block in np.array_split(np.flatnonzero(many), max(1, int(many.sum()) // BLOCK)):
            here = many[block]
            which = np.repeat(block, here)
            last = np.arange(len(which)) - np.repeat(np.cumsum(here) - here, here) + start[which]
            yield np.concatenate([firsts[which], last[:, None]], axis=1).astype(np.int32)

    def _brackets(self, size: int) -> tuple[Ints, NDArray[np.int64], NDArray[np.int64]]:
        """All but the last of each row; where its last one begins, and how many there are within the window."""
        slack = _SLACK * self.most
        firsts = np.arange(len(self.adds), dtype=np.int32)[:, None]
        if size == 3:
            i, j = np.triu_indices(len(self.adds))
            firsts = np.stack([i, j], axis=1)
        sums = self.adds[firsts].sum(axis=1)
        start = np.maximum(np.searchsorted(self.adds, self.least - slack - sums, side="left"), firsts[:, -1])
        many = np.maximum(np.searchsorted(self.adds, self.most + slack - sums, side="right") - start, 0)
        return firsts.astype(np.int32), start, many

    def _stand(self, rows: Ints) -> NDArray[np.bool_]:
        """Rows that the van holds, that can be joined, and whose sections are rated for their shares at the worst."""
        if self.join == "parallel":
            return self._held(rows)
        same = rows[:, :, None] == rows[:, None, :]
        there = (same.sum(axis=2) <= self.stock[rows]).all(axis=1)
        held = (self.volts[rows] >= worst_shares_v(self.ufs[rows], self.volts_v, self.join) - _SLACK).all(axis=1)
        parts = self.part[rows]
        around = (parts[:, :, None] == parts[:, None, :]).sum(axis=2) <= 2 * self.stock[rows]
        return np.asarray(there & held & around.all(axis=1))

    def _held(self, rows: Ints) -> NDArray[np.bool_]:
        """Rows of which the van has enough: a section named twice or thrice, which then stand side by side."""
        times = np.ones(len(rows), dtype=np.int32)
        run = times
        for column in range(1, rows.shape[1]):
            run = np.where(rows[:, column] == rows[:, column - 1], run + 1, 1)
            times = np.maximum(times, run)
        enough = times == 1
        several = np.flatnonzero(~enough)
        counts = (rows[several][:, :, None] == rows[several][:, None, :]).sum(axis=2)
        enough[several] = (counts <= self.stock[rows[several]]).all(axis=1)
        return np.asarray(enough)

    def _off(self, rows: Ints) -> NDArray[np.float64]:
        """By how much of itself the joined value is off, so rounded that equal ones are equal."""
        total = self.adds[rows].sum(axis=1)
        return np.asarray(np.round(np.abs((1 / total if self.join == "series" else total) / self.uf - 1), 9))

    def _closest(self, rows: Ints, stand: NDArray[np.bool_], most: int) -> NDArray[np.bool_]:
        """Rows that stand, no further off than the `most`-th of them: the rest cannot come before them."""
        if len(rows) <= most:
            return stand
        off = np.where(stand, self._off(rows), np.inf)
        return np.asarray(stand & (off <= np.partition(off, most - 1)[most - 1]))

    def _keys(self, rows: Ints) -> NDArray[np.float64]:
        """What rows are ordered by: size, per cent off, sections of cans opened, stock left out, part numbers."""
        size = np.full(len(rows), float(rows.shape[1]))
        left = -self.stock[rows].min(axis=1).astype(np.float64) if len(rows) else np.zeros(0)
        names = np.sort(self.rank[rows], axis=1).astype(np.float64)
        return np.column_stack([size, self._off(rows), self.opens[rows].sum(axis=1), left, names])
