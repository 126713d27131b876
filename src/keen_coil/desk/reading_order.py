"""Readings of several replicas in one order: that of the acts by which they were taken, the same everywhere."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterable
from typing import Any, NamedTuple

from sqlalchemy.orm import Session

from ..core.replicas.clock import Dot, Order
from .replica_state import chunks, order_of

FAR = 1_000_000
"""Where a reading stands that has just come, until its place is known."""


class Row(NamedTuple):
    """A reading as it is kept."""

    id: int
    uid: str
    position: int
    body: dict[str, Any]
    dot: Dot


def came(body: dict[str, Any], replaces: str | None) -> dict[str, Any]:
    """The body of a reading that has just come, with the identity of what it replaces."""
    return {**body, "replaces": {"uid": replaces}} if replaces else body


def order_readings(session: Session, calls: Iterable[str]) -> None:
    """Give the readings of some calls, by identity, their positions; what one replaces is counted anew."""
    order = order_of(session)
    for part in chunks(sorted(calls), 100):
        for rows in _rows(session, part).values():
            _order(session, rows, order)


def _rows(session: Session, calls: list[str]) -> dict[int, list[Row]]:
    marks = ", ".join("?" * len(calls))
    found: dict[int, list[Row]] = defaultdict(list)
    rows = session.connection().exec_driver_sql(
        "SELECT g.call_id, g.id, g.uid, g.position, g.body, r.uid, min(w.stamp) FROM call c "
        "JOIN reading g ON g.call_id = c.id "
        "LEFT JOIN part_write w ON w.in_table = 'reading' AND w.row_key = g.uid AND w.part = 'row' "
        f"LEFT JOIN replica r ON r.id = w.replica_id WHERE c.uid IN ({marks}) GROUP BY g.id",
        tuple(calls),
    )
    for call_id, number, uid, position, body, origin, stamp in rows:
        found[call_id].append(Row(number, uid, position, json.loads(body), Dot(origin or "", stamp or 0)))
    return found


def _order(session: Session, rows: list[Row], order: Order) -> None:
    was_at = {row.position: row.uid for row in rows}
    placed = sorted(rows, key=lambda row: (order.later(row.dot), row.uid))
    position = {row.uid: number for number, row in enumerate(placed)}
    changed = []
    for number, row in enumerate(placed):
        body = {name: value for name, value in row.body.items() if name != "replaces"}
        over = row.body.get("replaces")
        uid = over.get("uid") if isinstance(over, dict) else was_at.get(over) if over is not None else None
        if uid in position and position[uid] < number:
            body["replaces"] = position[uid]
        if number != row.position or body != row.body:
            changed.append((number, json.dumps(body, ensure_ascii=False), row.id))
    if changed:
        connection = session.connection()
        connection.exec_driver_sql(
            "UPDATE reading SET position = position + ? WHERE id = ?", [(2 * FAR, number) for *_, number in changed]
        )
        connection.exec_driver_sql("UPDATE reading SET position = ?, body = ? WHERE id = ?", changed)
