"""How far a long act is: rows done of how many."""

from __future__ import annotations

from collections.abc import Callable

Tell = Callable[[int, int], None]


def no_tell(done: int, of: int) -> None:
    """Tell nobody."""
