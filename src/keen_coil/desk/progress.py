"""How far a long act is: rows done of how many."""

from __future__ import annotations

from collections.abc import Callable

ProgressCallback = Callable[[int, int], None]


def no_progress(done: int, of: int) -> None:
    """Tell nobody."""
