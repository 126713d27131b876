"""Tables that a master technician edits: TOML files beside the code that reads them, held to their types when loaded.

The only reading the core does.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from functools import lru_cache
from importlib.resources import files
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

Entry = TypeVar("Entry")
OWN_TABLES: dict[str, str] = {}
"""A shop's own tables by their places, such as `core/limits.toml`, put here before any is read: taken for ours."""
ANSWERS = {"yes": True, "no": False}
"""How a table writes the answers of a yes/no reading."""


class TableError(ValueError):
    """A table does not hold what its code expects: file, entry, field and what was expected."""


@lru_cache(maxsize=64)
def table(package: str, name: str) -> dict[str, Any]:
    """The table `name`.toml beside a package's modules, or the shop's own in its place, as TOML reads it.

    Raises `TableError` when it is not TOML.
    """
    own = OWN_TABLES.get(f"{package.removeprefix('keen_coil.').replace('.', '/')}/{name}.toml")
    try:
        return tomllib.loads(own or (files(package) / f"{name}.toml").read_text(encoding="utf-8"))
    except tomllib.TOMLDecodeError as wrong:
        raise TableError(f"{name}.toml: {wrong}") from wrong


def records(kind: type[Entry], rows: Mapping[str, Any], name: str) -> dict[str, Entry]:
    """Entries by key, each held to the fields of `kind`. Raises `TableError` naming entry and field."""
    found: dict[str, Entry] = _held_to(dict[str, kind], rows, name)  # type: ignore[valid-type]
    return found


def listed(kind: type[Entry], rows: Sequence[Any], name: str) -> tuple[Entry, ...]:
    """Entries in their order, each held to the fields of `kind`. Raises `TableError` naming entry and field."""
    found: tuple[Entry, ...] = _held_to(tuple[kind, ...], rows, name)  # type: ignore[valid-type]
    return found


def _held_to(kind: Any, rows: Any, name: str) -> Any:
    try:
        return TypeAdapter(kind).validate_python(rows)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise TableError(f"{name}.toml, {place}: got {first['input']!r}; {first['msg']}") from wrong


def answer(word: str) -> str | bool:
    """An answer as a reading holds it: `yes` and `no` of a table are true and false."""
    return ANSWERS.get(word, word)


def complete(rows: Mapping[Any, object], words: Sequence[object], name: str) -> None:
    """A table in code has a row for every word of its vocabulary and no other. Raises `TableError` naming the words."""
    wrong = sorted(map(str, set(words) ^ set(rows)))
    if wrong:
        raise TableError(f"{name}: {', '.join(wrong)}: a row for every word of its vocabulary and no other")
