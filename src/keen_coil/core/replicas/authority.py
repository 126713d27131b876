"""What a laptop may write to a row, whatever way its package came: the rules that the pages keep, kept once more.

What only a manager or the shop says is left out and told; what no page of this program does is refused by name.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

from ..errors import InvalidField, invalid
from .clock import Dot
from .merge import ASKED, ROW, RULES, Address, Write, Writes

Role = Literal["technician", "manager", "shop"]
RANK: dict[Role, int] = {"technician": 0, "manager": 1, "shop": 2}
IDENTITIES = frozenset({("uid",), ("id",), ("nonce",)})
"""Keys that one laptop made for one row, so that nobody else ever writes that row."""
SAID_BY_ANYBODY_ONCE = frozenset({"van_part"})
"""Tables whose rows anybody adds, and only a manager changes or takes away: a part that somebody moved to a van."""


class Author(NamedTuple):
    """Whose writes are judged: the laptop's identity and name, its role, what it knew when it was last heard of."""

    uid: str
    name: str
    role: Role
    knew: Mapping[str, int]


class RowHere(NamedTuple):
    """What is here of a row before: its part's writes, those of the row itself, and how its call was closed."""

    part: Writes
    row: Writes
    closing: Dot | None


def may_come(address: Address, write: Write, here: RowHere, author: Author, managers: frozenset[str]) -> bool:
    """Whether a write is taken; False where it is not this laptop's to say.

    `managers`: names under which only a manager acts. Raises `InvalidField` on what no page of this program writes.
    """
    part = RULES[address.table].parts[address.part]
    if RANK[author.role] < RANK[part.who] and not (address.table in SAID_BY_ANYBODY_ONCE and not here.row):
        return False
    if address.part == ROW and part.rule == "adds_up" and not _adds(address, write, here, author):
        return False
    decided = author.role != "technician" and part.rule in ASKED  # of two versions that stood side by side
    if part.rule == "stays_closed" and not (write.value or {}).get("closed_at"):
        decided = False
    if part.frozen and here.closing is not None and not decided and _knew(write, here.closing, author):
        raise _no_page_does(address, author, "a change of a closed call", "a closed call as it was handed over")
    who = write.value.get("who") if isinstance(write.value, dict) else None
    if author.role == "technician" and who in managers:
        raise _no_page_does(address, author, f"an act of {who}", "acts of technicians: pair it with a manager's token")
    return True


def _adds(address: Address, write: Write, here: RowHere, author: Author) -> bool:
    """Whether a row that is written once is written now, or taken away where it may be."""
    if write.value is None:
        if not RULES[address.table].goes:
            raise _no_page_does(address, author, "a row taken away", "the row as it was: it never goes")
        return True
    same = any(one.value == write.value for one in here.row)
    if same or not here.row or RULES[address.table].key not in IDENTITIES:
        return True
    if write.over:
        raise _no_page_does(address, author, "a row changed", "the row as it was: it never changes")
    return False


def _knew(write: Write, closing: Dot, author: Author) -> bool:
    """Whether a laptop had heard that a call was closed when it wrote to it."""
    if closing in write.over or (write.dot.origin == closing.origin and write.dot.stamp > closing.stamp):
        return True
    return author.knew.get(closing.origin, 0) >= closing.stamp and write.dot.stamp > author.knew.get(author.uid, 0)


def _no_page_does(address: Address, author: Author, got: str, expected: str) -> InvalidField:
    return invalid(f"{author.name or author.uid}: {address.table} {address.key[:40]}", got, expected)


def whose_call(address: Address, values: Any) -> str:
    """The identity of the call that a row hangs on; empty where it names none."""
    if address.table == "call":
        return address.key
    if RULES[address.table].key[0] == "call_id":
        return address.key.partition("\x1f")[0]
    return str(values.get("call_id") or "") if isinstance(values, Mapping) else ""
