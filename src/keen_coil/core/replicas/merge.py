"""Merging two states of a shop, as a pure function; and what leads where several wrote apart.

A state holds, for each part of each row, the writes that nothing known was written over. Merging joins them part by
part, so it is commutative, associative and idempotent whatever the clocks say: those only choose which write leads.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from typing import Any, Literal, NamedTuple

from ..authority import MATTERS
from ..tables import TableError, records, table
from .clock import Dot, Order


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


Rule = Literal["adds_up", "later_leads", "later", "stays_closed", "shop_decides"]
ROW = "row"
"""The part that says that a row is there at all."""
ASKED: frozenset[Rule] = frozenset({"later_leads", "stays_closed"})
"""Rules by which somebody decides where two wrote apart."""
LOCAL_SETTINGS = ("world", "nightly_backup", "meter")
"""Settings of one laptop: whether it is the demo, where it backs up to, which meter is linked."""


class Part(NamedTuple):
    """Columns that are written together, the rule they follow, what they are called, the matter that they are.

    frozen: of a closed call it stays as it was handed over.
    """

    columns: tuple[str, ...]
    rule: Rule
    say: str = ""
    matter: str = "calls"
    frozen: bool = False

    @property
    def who(self) -> Literal["technician", "manager", "shop"]:
        """Whose laptop may write it at least."""
        if self.rule == "shop_decides":
            return "shop"
        return "manager" if MATTERS[self.matter].who == "manager" else "technician"


class Travels(NamedTuple):
    """A table that travels: what its rows are known by, their parts, whether a row may be taken away."""

    key: tuple[str, ...]
    parts: dict[str, Part]
    goes: bool = False


RULES: dict[str, Travels] = records(Travels, table(__package__, "rules"), "rules")
"""In an order in which a row comes after what it refers to."""
for _name, _travels in RULES.items():
    if ROW not in _travels.parts:
        raise TableError(f"rules.toml, {_name}: got no part {ROW}; expected one")
    if any(part.rule in ASKED and not part.say for part in _travels.parts.values()):
        raise TableError(f"rules.toml, {_name}: got a part that is asked about without words; expected say")
    if any(part.matter not in MATTERS for part in _travels.parts.values()):
        raise TableError(f"rules.toml, {_name}: got a matter that is none; expected one of authority.toml")


class Address(NamedTuple):
    """A part of a row of a table."""

    table: str
    key: str
    part: str


State = Mapping[Address, Writes]


class Lead(NamedTuple):
    """What counts of several writes: the value, the write it is from, those that stand beside it."""

    value: Any
    write: Write
    others: Writes = ()

    @property
    def is_open(self) -> bool:
        """Whether somebody has to decide."""
        return bool(self.others)


def rule_of(address: Address) -> Rule:
    """The rule that a part follows. Raises `KeyError` on a table or part that does not travel."""
    return RULES[address.table].parts[address.part].rule


def merge(mine: State, theirs: State) -> dict[Address, Writes]:
    """The state that knows everything both know."""
    found = dict(mine)
    for address, writes in theirs.items():
        found[address] = join(found[address], writes) if address in found else join(writes, ())
    return found


def lead(address: Address, writes: Writes, order: Order) -> Lead:
    """What leads among the writes of a part. Raises `ValueError` where there is none."""
    if len(writes) == 1:
        return Lead(writes[0].value, writes[0])
    rule = rule_of(address)
    first = max(writes, key=lambda write: _rank(address, rule, write, order))
    if rule == "adds_up":
        return Lead(_added_up(address, writes, first, order), first)
    others = tuple(write for write in writes if rule in ASKED and write.value != first.value)
    return _ticked_together(address, Lead(first.value, first, others), order)


def seen_by_next(address: Address, writes: Writes, order: Order) -> Writes:
    """The writes that somebody has before them who changes a part: what leads, and all that it was made of."""
    leading = lead(address, writes, order)
    beside = {write.dot for write in leading.others}
    return tuple(write for write in writes if write.dot not in beside)


def _rank(address: Address, rule: Rule, write: Write, order: Order) -> tuple[bool, bool, tuple[int, int, str]]:
    """What makes a write lead: that it is there, that it is the shop's or closed, that it is later."""
    value = write.value
    there = value is not None or address.part != ROW
    before = rule == "shop_decides" and order.is_shop(write.dot)
    closed = rule == "stays_closed" and isinstance(value, dict) and value.get("closed_at") is not None
    return there, before or closed, order.later(write.dot)


def _added_up(address: Address, writes: Writes, first: Write, order: Order) -> Any:
    """Lists of all writes joined, oldest write first; of anything else the value that leads."""
    values = [write.value for write in sorted(writes, key=lambda write: order.later(write.dot))]
    if address.part == ROW or not isinstance(first.value, dict):
        return first.value
    names = dict.fromkeys(name for value in values if value for name in value)
    return {name: _lists_of([value[name] for value in values if value and name in value]) for name in names}


def _lists_of(values: list[Any]) -> Any:
    """Lists joined, each entry once; a field that holds a list is joined like it."""
    last = values[-1]
    if any(isinstance(value, dict) for value in values):
        there = [value for value in values if isinstance(value, dict)]
        names = dict.fromkeys(name for value in there for name in value)
        return {name: _lists_of([value[name] for value in there if name in value]) for name in names}
    if not any(isinstance(value, list) for value in values):
        return last
    entries = {_text(entry): entry for value in values if isinstance(value, list) for entry in value}
    return sorted(entries.values(), key=_BY_TIME)


def _text(value: Any) -> str:
    return json.dumps(value, sort_keys=True, ensure_ascii=False)


def _when(entry: Any) -> str:
    return str(entry.get("at") or "") if isinstance(entry, dict) else ""


_BY_TIME: Callable[[Any], tuple[str, str]] = lambda entry: (_when(entry), _text(entry))  # noqa: E731


def _ticked_together(address: Address, found: Lead, order: Order) -> Lead:
    """Two plans that are one but for their ticks are one plan with the ticks of both."""
    if address != Address("call", address.key, "plan") or not found.others:
        return found
    alike = [write for write in found.others if _bare(write.value) == _bare(found.value)]
    value = found.value
    for write in sorted(alike, key=lambda write: order.later(write.dot), reverse=True):
        value = _with_ticks(value, write.value)
    left = tuple(write for write in found.others if write not in alike)
    return Lead(value, found.write, left)


def _bare(plan: Any) -> Any:
    """A plan without its ticks and marks."""
    ticked = {"plan.hookup": "done", "plan.swap": "marks"}
    without = {name: {k: v for k, v in (plan.get(name) or {}).items() if k != of} for name, of in ticked.items()}
    return {name: value for name, value in {**plan, **without}.items() if value}


def _with_ticks(plan: Any, other: Any) -> Any:
    """A plan with the moves ticked and the marks noted in another of the same."""
    found = dict(plan)
    theirs = (other.get("plan.hookup") or {}).get("done") or []
    if found.get("plan.hookup"):
        done = sorted({*(found["plan.hookup"].get("done") or []), *theirs})
        found["plan.hookup"] = {**found["plan.hookup"], **({"done": done} if done else {})}
    marks = (other.get("plan.swap") or {}).get("marks") or {}
    if marks:
        swap = found.get("plan.swap") or {}
        found["plan.swap"] = {**swap, "marks": {**marks, **swap.get("marks", {})}}
    return found
