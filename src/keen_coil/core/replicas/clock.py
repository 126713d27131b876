"""The hybrid logical clock that orders acts of several laptops, and what is done about a laptop whose clock is off.

A stamp is one integer: milliseconds since 1970 in its upper bits, a counter in the lower 16. It never goes back on one
replica and is past every stamp the replica has heard of, so that what was done knowing of another act is later.

Reference: Kulkarni, Demirbas, Madappa, Avva, Leone, "Logical Physical Clocks", OPODIS 2014.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

COUNTER_BITS = 16
LARGEST_STAMP = 2**62
TOLERATED_MS = 120_000
"""Two clocks that differ by less than this agree: sending takes time."""


class Dot(NamedTuple):
    """One act of one replica: the replica's id and the stamp it gave."""

    origin: str
    stamp: int


class ClockCheck(NamedTuple):
    """A replica's clock held against another's: how far ahead it was (ms), for its stamps up to `upto`."""

    observer: str
    origin: str
    upto: int
    ahead_ms: int


def stamp_at(milliseconds: int) -> int:
    """The first stamp of a millisecond since 1970."""
    return milliseconds << COUNTER_BITS


def milliseconds_of(stamp: int) -> int:
    """The wall time of a stamp, ms since 1970."""
    return stamp >> COUNTER_BITS


def tick(last: int, now_ms: int) -> int:
    """The stamp of the next act: of now, or just past the last one where the wall clock stands or went back."""
    return max(last + 1, stamp_at(now_ms))


def heard(last: int, others: Iterable[int], now_ms: int) -> int:
    """The clock after hearing of others' acts: past all of them, but not past now by one whose clock is ahead."""
    limit = stamp_at(now_ms + TOLERATED_MS)
    return max([last, *(stamp for stamp in others if stamp <= limit)])


def ahead_of(theirs_ms: int, mine_ms: int) -> int:
    """How far another's clock is ahead of mine, ms; nothing where they agree as far as sending lets one tell."""
    ahead = theirs_ms - mine_ms
    return ahead if abs(ahead) >= TOLERATED_MS else 0


class Order:
    """Which of two acts that did not know of each other is the later, by clocks held against the shop's."""

    def __init__(self, checks: Iterable[ClockCheck] = (), shops: Iterable[str] = ()) -> None:
        self.shops = frozenset(shops)
        self._checks: dict[str, list[ClockCheck]] = {}
        for check in sorted(set(checks), key=lambda one: (one.observer not in self.shops, one.upto, one)):
            self._checks.setdefault(check.origin, []).append(check)

    def true_ms(self, dot: Dot) -> int:
        """When an act was done by the clock it was held against, ms; a shop's word counts more than a van's.

        Sending takes time, by which an act of a clock that is off looks later than it was: it is taken for earlier by
        as much as two clocks may differ that agree, so that nobody leads by a clock that is off.
        """
        found = next((check for check in self._checks.get(dot.origin, ()) if check.upto >= dot.stamp), None)
        off = found.ahead_ms + TOLERATED_MS if found and found.ahead_ms else 0
        return milliseconds_of(dot.stamp) - off

    def later(self, dot: Dot) -> tuple[int, int, str]:
        """A key: the greater is the later. The same on every replica that knows the same checks."""
        return self.true_ms(dot), dot.stamp, dot.origin

    def is_shop(self, dot: Dot) -> bool:
        """Whether the shop did it."""
        return dot.origin in self.shops
