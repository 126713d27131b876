"""Which part of which row an act wrote: noted by triggers of each connection, whatever way the rows are written.

The triggers are temporary: they belong to the connections of this program and are no part of the file. Each act has one
stamp of the replica's clock, taken with its write lock.
"""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterator
from functools import cache
from typing import Any

from ..core.replicas.clock import stamp_at
from ..core.replicas.merge import LOCAL_SETTINGS, ROW, RULES
from .columns import Table

SEPARATOR = "\x1f"
"""Between the columns of a key: no name has it."""
_CLOCK = "UPDATE replica_clock SET stamp = max(stamp + 1, ?) WHERE id = 1"


def tick(connection: sqlite3.Connection) -> None:
    """Take the stamp of an act that begins now."""
    connection.execute(_CLOCK, (stamp_at(time.time_ns() // 1_000_000),))


def watch(connection: sqlite3.Connection) -> None:
    """Let a connection note what is written on it."""
    for statement in _triggers():
        connection.execute(statement)


@cache
def target(table: str, column: str) -> tuple[str, str] | None:
    """What a column refers to in words that travel: the table, and the column it is known by there."""
    keys = Table.metadata.tables[table].columns[column].foreign_keys
    if not keys:
        return None
    to = next(iter(keys)).column.table.name
    return to, RULES[to].key[0]


def key_sql(table: str, row: str) -> str:
    """SQL for the key of a row; `row` is how the statement calls it."""
    parts = []
    for column in RULES[table].key:
        to = target(table, column)
        name = f'"{row}"."{column}"' if row not in ("NEW", "OLD") else f'{row}."{column}"'
        parts.append(f'(SELECT "{to[1]}" FROM "{to[0]}" WHERE id = {name})' if to else name)
    return f" || '{SEPARATOR}' || ".join(parts)


@cache
def _triggers() -> tuple[str, ...]:
    return tuple(statement for table in RULES for statement in _of_table(table))


def _of_table(table: str) -> Iterator[str]:
    """A row that comes, one that goes, and each part of one that is changed."""
    yield _trigger(table, "came", "INSERT", "NEW", ROW)
    yield _trigger(table, "went", "DELETE", "OLD", ROW)
    for name, part in RULES[table].parts.items():
        columns = dict.fromkeys(column.partition(".")[0] for column in part.columns)
        if not columns:
            continue
        changed = " OR ".join(f"{_read('OLD', column)} IS NOT {_read('NEW', column)}" for column in part.columns)
        of = ", ".join(f'"{column}"' for column in columns)
        yield _trigger(table, name, f"UPDATE OF {of}", "NEW", name, changed)


def _read(row: str, column: str) -> str:
    name, _, field = column.partition(".")
    return f"json_extract({row}.\"{name}\", '$.{field}')" if field else f'{row}."{name}"'


def _trigger(table: str, name: str, event: str, row: str, part: str, condition: str = "") -> str:
    when = [f"({condition})"] if condition else []
    when += [f"{row}.{travels_if(table)}"] if travels_if(table) else []
    only = f"WHEN {' AND '.join(when)} " if when else ""
    # names of our own tables only, nothing from outside
    return (
        f'CREATE TEMP TRIGGER "touch_{table}_{name}" AFTER {event} ON main."{table}" {only}BEGIN '
        f"INSERT INTO part_touched (in_table, row_key, part, stamp) SELECT '{table}', {key_sql(table, row)}, '{part}', "
        "stamp FROM replica_clock WHERE id = 1 AND is_merging = 0 "
        "ON CONFLICT (in_table, row_key, part) DO UPDATE SET stamp = excluded.stamp; END"
    )


def travels_if(table: str) -> str:
    """SQL for which rows of a table travel, where not all do: what begins with a column's name."""
    local = ", ".join(repr(name) for name in LOCAL_SETTINGS)
    return {"act": "call_id IS NOT NULL", "replica": "id = 1", "setting": f"name NOT IN ({local})"}.get(table, "")


def metadata_of(table: str) -> Any:
    """A table's description."""
    return Table.metadata.tables[table]
