"""Chance that is the same on every machine: each draw has a name, and comes from a hash of seed and name."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from statistics import NormalDist
from typing import TypeVar

T = TypeVar("T")
_BELL = NormalDist()
MOST_SPREADS = 2.5


class Chance:
    """Draws by name. The same seed and name give the same draw, in whatever order they are asked for."""

    def __init__(self, seed: int, of: str = "") -> None:
        self.seed = seed
        self.of = of

    def part(self, name: str) -> Chance:
        """Draws of a part, independent of others with the same names."""
        return Chance(self.seed, f"{self.of}/{name}")

    def unit(self, name: str) -> float:
        """A number from 0 to below 1."""
        digest = hashlib.sha256(f"{self.seed}{self.of}:{name}".encode()).digest()
        return int.from_bytes(digest[:6], "big") / 2**48

    def between(self, name: str, low: float, high: float) -> float:
        """A number between two, each alike."""
        return low + (high - low) * self.unit(name)

    def happens(self, name: str, share: float) -> bool:
        """Whether something happens that does so in a share of cases."""
        return self.unit(name) < share

    def pick(self, name: str, items: Sequence[T]) -> T:
        """One of several, each alike."""
        return items[int(self.unit(name) * len(items))]

    def weighted(self, name: str, weights: Mapping[T, float]) -> T:
        """One of several by weight."""
        left = self.unit(name) * sum(weights.values())
        for item, weight in weights.items():
            left -= weight
            if left < 0:
                return item
        return list(weights)[-1]

    def spread(self, name: str, deviation: float) -> float:
        """A deviation either way, normally distributed, never beyond two and a half of it."""
        found = _BELL.inv_cdf(min(max(self.unit(name), 1e-9), 1 - 1e-9))
        return deviation * min(max(found, -MOST_SPREADS), MOST_SPREADS)

    def shuffled(self, name: str, items: Sequence[T]) -> list[T]:
        """All of them in another order."""
        order = sorted(range(len(items)), key=lambda n: self.unit(f"{name}/{n}"))
        return [items[n] for n in order]
