"""What several replicas wrote to one thing: each write knows exactly which writes it was made over.

The writes of one thing are kept until another that was made over them is known. What is left over then was written by
people who did not know of each other. Joining two sets of writes is commutative, associative and idempotent.

Reference: Preguica, Baquero, Almeida, Fonte, Goncalves, "Dotted Version Vectors", 2010 (causal histories in full here).
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from .clock import Dot


class Write(NamedTuple):
    """A value with the act that wrote it and every act it was written over. None is no value, or taken away."""

    dot: Dot
    value: Any
    over: frozenset[Dot] = frozenset()


Writes = tuple[Write, ...]


def join(mine: Iterable[Write], theirs: Iterable[Write]) -> Writes:
    """The writes of both that none of them was made over, in the order of their acts."""
    if mine == theirs and isinstance(mine, tuple) and len(mine) == 1:
        return mine
    found: dict[Dot, Write] = {}
    for write in (*mine, *theirs):
        found[write.dot] = write if write.dot not in found else _both(found[write.dot], write)
    gone = frozenset(dot for write in found.values() for dot in write.over)
    return tuple(found[dot] for dot in sorted(found) if dot not in gone)


def _both(one: Write, other: Write) -> Write:
    """One act as two replicas tell it: the same; should they differ, the same choice everywhere."""
    value = one.value if one.value == other.value else max(one.value, other.value, key=repr)
    return Write(one.dot, value, one.over | other.over)


def written_over(dot: Dot, value: Any, seen: Iterable[Write]) -> Write:
    """A new write by somebody who had these before them."""
    known = list(seen)
    over = frozenset(write.dot for write in known).union(*(write.over for write in known))
    return Write(dot, value, over - {dot})
