"""Which rows travel, by what they are known, and which rule each part of them follows (`rules.toml`)."""

from __future__ import annotations

from typing import Literal, NamedTuple

from ..tables import TableError, records, table

Rule = Literal["adds_up", "later_leads", "later", "stays_closed", "shop_decides"]
ROW = "row"
"""The part that says that a row is there at all."""
ASKED: frozenset[Rule] = frozenset({"later_leads", "stays_closed"})
"""Rules by which somebody decides where two wrote apart."""
LOCAL_SETTINGS = ("world", "nightly_backup", "meter")
"""Settings of one laptop: whether it is the demo, where it backs up to, which meter is linked."""


class Part(NamedTuple):
    """Columns that are written together, the rule they follow, what they are called."""

    columns: tuple[str, ...]
    rule: Rule
    say: str = ""


class Travels(NamedTuple):
    """A table that travels: what its rows are known by, their parts."""

    key: tuple[str, ...]
    parts: dict[str, Part]


RULES: dict[str, Travels] = records(Travels, table(__package__, "rules"), "rules")
"""In an order in which a row comes after what it refers to."""
for _name, _travels in RULES.items():
    if ROW not in _travels.parts:
        raise TableError(f"rules.toml, {_name}: got no part {ROW}; expected one")
    if any(part.rule in ASKED and not part.say for part in _travels.parts.values()):
        raise TableError(f"rules.toml, {_name}: got a part that is asked about without words; expected say")
