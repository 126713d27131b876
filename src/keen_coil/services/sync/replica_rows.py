"""Rows as a merged state says they are: written in the order in which they refer to each other, then put straight."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

from sqlalchemy import bindparam, insert, literal_column, select, update
from sqlalchemy.orm import Session, selectinload

from ...core.errors import InvalidField, invalid
from ...core.match.catalogue import CatalogueMotor
from ...core.replicas.clock import Dot, Order
from ...core.replicas.merge import RULES
from ...store import replica_tables as kept
from ...store import tables
from ...store.touching import SEPARATOR, key_sql, metadata_of, target
from ..acts import WITH_PRACTICE, ProgressCallback, no_progress
from ..calls.call_view import call_view_of, whole_calls
from ..calls.search_text import search_text_of
from ..catalog.shelf import motor_row
from ..catalog.stock import renew_quantities
from .replica_joins import put_joined
from .replica_state import Entity, chunks, order_of
from .replica_values import RowRead, Values, read_row, rows_told, where_keys

FAR = 1_000_000
"""Where a reading stands that has just come, until its place is known."""


class Row(NamedTuple):
    """A reading as it is kept."""

    id: int
    uid: str
    position: int
    body: dict[str, Any]
    dot: Dot
    told: dict[str, Any]
    """As it was written, where that is kept: it replaces one that is not here, or was not."""


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
        "SELECT g.call_id, g.id, g.uid, g.position, g.body, r.uid, min(w.stamp), w.value FROM call c "
        "JOIN reading g ON g.call_id = c.id "
        "LEFT JOIN part_write w ON w.in_table = 'reading' AND w.row_key = g.uid AND w.part = 'row' "
        f"LEFT JOIN replica r ON r.id = w.replica_id WHERE c.uid IN ({marks}) GROUP BY g.id",
        tuple(calls),
    )
    for call_id, number, uid, position, body, origin, stamp, told in rows:
        dot = Dot(origin or "", stamp or 0)
        found[call_id].append(Row(number, uid, position, json.loads(body), dot, json.loads(told or "{}") or {}))
    return found


def _order(session: Session, rows: list[Row], order: Order) -> None:
    was_at = {row.position: row.uid for row in rows}
    placed = sorted(rows, key=lambda row: (order.later(row.dot), row.uid))
    position = {row.uid: number for number, row in enumerate(placed)}
    changed, waiting = [], {}
    for number, row in enumerate(placed):
        body = {name: value for name, value in row.body.items() if name != "replaces"}
        over = row.body.get("replaces")
        uid = over.get("uid") if isinstance(over, dict) else was_at.get(over) if over is not None else None
        uid = uid or row.told.get("body", {}).get("replaces")
        if uid in position and position[uid] < number:
            body["replaces"] = position[uid]
        elif uid and not row.told:
            waiting[row.uid] = uid
        if number != row.position or body != row.body:
            changed.append((number, json.dumps(body, ensure_ascii=False), row.id))
    if changed:
        connection = session.connection()
        connection.exec_driver_sql(
            "UPDATE reading SET position = position + ? WHERE id = ?", [(2 * FAR, number) for *_, number in changed]
        )
        connection.exec_driver_sql("UPDATE reading SET position = ?, body = ? WHERE id = ?", changed)
    _keep_as_written(session, waiting)


def _keep_as_written(session: Session, waiting: Mapping[str, str]) -> None:
    """Of readings that replace one which is not here keep what was written, for when it comes, and for others."""
    for uid, told in rows_told(session, "reading", waiting).items():
        value = told["row"]
        value["body"]["replaces"] = waiting[uid]
        session.connection().exec_driver_sql(
            "UPDATE part_write SET value = ? WHERE in_table = 'reading' AND row_key = ? AND value IS NULL",
            (json.dumps(value, ensure_ascii=False), uid),
        )


OF_CALL = ("reading", "step", "follow_up", "part_used", "photograph", "practice")


_FIRST: dict[str, dict[str, Any]] = {
    "call": {"version": 1, "search_text": ""},
    "van_part": {"quantity": 0},
    "replica": {"knows": 0},
}


class RowWriter:
    """Writes the rows of a merge; `calls` are those that it touched."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.calls: set[str] = set()
        self.motors: set[str] = set()
        self.units: set[str] = set()
        self.shelves: set[tuple[str, str]] = set()
        self.read_of: set[str] = set()
        self.acts: set[str] = set()
        self._good: dict[str, str] = {}
        self._next = FAR

    def write(self, rows: Mapping[Entity, Values | None]) -> None:
        """Write rows, or take away those that are gone. Raises `InvalidField` on what does not belong together."""
        by_table: dict[str, dict[str, Values | None]] = defaultdict(dict)
        for (table, key), values in rows.items():
            by_table[table][key] = values
        for table in RULES:
            for part in chunks(by_table.get(table, {}).items()):
                self._write(table, dict(part))

    def finish(self, progress: ProgressCallback = no_progress) -> None:
        """Put in order what depends on several rows: readings, quantities, units entered twice, words, versions."""
        self.put_straight()
        self.touch(self.calls_touched(), progress)
        self.note_versions(self.acts)

    def put_straight(self) -> None:
        """The order of readings, quantities, units entered twice."""
        order_readings(self._session, self.read_of)
        self._point_good()
        self.calls |= put_joined(self._session)
        renew_quantities(self._session, self.shelves)

    def note_versions(self, acts: Iterable[str]) -> None:
        """Who looks at a call is told of what came as of anything new."""
        for part in chunks(sorted(acts)):
            self._session.connection().exec_driver_sql(
                "UPDATE act SET version = (SELECT version FROM call WHERE call.id = act.call_id) "
                f"WHERE id IN ({', '.join('?' * len(part))})",
                tuple(part),
            )

    def _write(self, table: str, rows: Mapping[str, Values | None]) -> None:
        told = {key: read_row(table, key, values) for key, values in rows.items() if values is not None}
        self._note(table, rows, told)
        where, given = where_keys(table, list(rows))
        found = self._session.connection().exec_driver_sql(
            f'SELECT {key_sql(table, table)}, rowid FROM "{table}" {where}',
            given,
        )
        there = {key: number for key, number in found if key in rows}
        gone = [(there[key],) for key in rows if key not in told and key in there]
        if gone:
            self._session.connection().exec_driver_sql(f'DELETE FROM "{table}" WHERE rowid = ?', gone)
        ids = self._ids(table, told.values())
        cells = {key: self._cells(table, row, ids) for key, row in told.items()}
        of = metadata_of(table)
        new = [cells[key] | self._first(table, told[key]) for key in told if key not in there]
        if new:
            self._session.execute(insert(of), new)
        changed = [(there[key], cells[key]) for key in told if key in there]
        if changed:
            names = list(changed[0][1])
            statement = update(of).where(literal_column("rowid") == bindparam("at_rowid"))
            statement = statement.values(
                {name: bindparam(f"new_{name}", type_=of.columns[name].type) for name in names}
            )
            given_rows = [{"at_rowid": at, **{f"new_{name}": row[name] for name in names}} for at, row in changed]
            self._session.connection().execute(statement, given_rows)

    def _note(self, table: str, rows: Iterable[str], told: Mapping[str, RowRead]) -> None:
        """What else has to be put straight after these rows."""
        if table in OF_CALL:
            of = {row.refers["call_id"] for row in told.values() if "call_id" in row.refers}
            of |= {key.partition(SEPARATOR)[0] for key in rows} if RULES[table].key[0] == "call_id" else set()
            self.calls |= of
            self.read_of |= of if table == "reading" else set()
        elif table in ("call", "motor", "unit"):
            {"call": self.calls, "motor": self.motors, "unit": self.units}[table].update(rows)
        elif table == "act":
            self.acts.update(rows)
            self.calls |= {row.refers["call_id"] for row in told.values() if "call_id" in row.refers}
        elif table == "stock_movement":
            self.shelves |= {(str(row.cells["van"]), str(row.cells["part_no"])) for row in told.values()}
        elif table == "van_part":
            self.shelves |= {(van, part) for van, _, part in (key.partition(SEPARATOR) for key in told)}
        if table == "motor":
            self._good |= {key: row.more["good_call"] for key, row in told.items() if row.more.get("good_call")}

    def _ids(self, table: str, rows: Iterable[RowRead]) -> dict[tuple[str, str], int]:
        """The numbers here of what rows refer to, by column and identity. Raises `InvalidField` on what is not here."""
        wanted: dict[str, set[str]] = defaultdict(set)
        for row in rows:
            for column, uid in row.refers.items():
                wanted[column].add(uid)
        found: dict[tuple[str, str], int] = {}
        for column, uids in wanted.items():
            to = target(table, column)
            if to is None:
                continue
            for part in chunks(sorted(uids)):
                marks = ", ".join("?" * len(part))
                here = self._session.connection().exec_driver_sql(
                    f'SELECT "{to[1]}", id FROM "{to[0]}" WHERE "{to[1]}" IN ({marks})',
                    tuple(part),
                )
                found |= {(column, uid): number for uid, number in here}
            missing = next((uid for uid in sorted(uids) if (column, uid) not in found), None)
            if missing is not None:
                raise invalid(f"{table}.{column}", missing[:60], f"a {to[0]} that is here or comes with it")
        return found

    def _cells(self, table: str, row: RowRead, ids: Mapping[tuple[str, str], int]) -> dict[str, Any]:
        cells = dict(row.cells)
        for column, uid in row.refers.items():
            cells[column] = ids[column, uid]
        if table == "reading":
            cells["body"] = came(cells["body"], row.more.get("replaces"))
        if table == "catalogue_motor":
            plate = CatalogueMotor.model_validate({**(cells["plate"] or {}), "part_no": cells["part_no"]})
            return motor_row(plate)
        return cells

    def _first(self, table: str, row: RowRead) -> dict[str, Any]:
        """What only this database keeps of a row that is new here."""
        if table == "reading":
            self._next += 1
            return {"position": self._next}
        if table == "photograph":
            return {"content": self._picture(str(row.cells["sha256"]))}
        return dict(_FIRST.get(table, {}))

    def _picture(self, sha256: str) -> bytes:
        """The content of a photograph, which came ahead of it or is of another one here. Raises `InvalidField`."""
        waiting = self._session.get(kept.WaitingPicture, sha256)
        if waiting is not None:
            return waiting.content
        row = tables.Photograph
        found = self._session.scalar(select(row.content).where(row.sha256 == sha256).limit(1))
        if found is None:
            raise invalid("photograph", sha256, "its picture before its row")
        return found

    def _point_good(self) -> None:
        """A motor that was found good later points at the call it was found on."""
        for motor_uid, call_uid in self._good.items():
            motor = self._session.scalar(select(tables.Motor).where(tables.Motor.uid == motor_uid))
            call = self._session.scalar(
                select(tables.Call.id).where(tables.Call.uid == call_uid), execution_options=WITH_PRACTICE
            )
            if motor is not None and motor.found_good is not None:
                motor.found_good = motor.found_good.changed(call=call)
        self._session.flush()

    def calls_touched(self) -> set[str]:
        """The calls that these rows are about."""
        return self.calls | self._calls_of_motors()

    def touch(self, calls: Iterable[str], progress: ProgressCallback = no_progress) -> None:
        """Every call that changed has another version, its words, and is one that its pages can show."""
        row, uids = tables.Call, sorted(calls)
        lists = (selectinload(row.parts), selectinload(row.follow_ups))
        for done, part in enumerate(chunks(uids, 200), start=1):
            self._session.expunge_all()
            query = whole_calls().options(*lists).where(row.uid.in_(part))
            found = self._session.scalars(query, execution_options=WITH_PRACTICE).unique().all()
            words = [(_words_of(call), call.id) for call in found]
            self._session.connection().exec_driver_sql(
                "UPDATE call SET version = version + 1, search_text = ? WHERE id = ?", words
            )
            progress(min(len(uids), 200 * done), len(uids))
        self._session.expunge_all()

    def _calls_of_motors(self) -> set[str]:
        """Calls whose motor or unit has another plate now; those that are closed are shown as they are all the same."""
        row, found = tables.Call, set[str]()
        query = select(row.uid).join(row.motor).join(tables.Motor.unit).where(row.closed_at.is_(None))
        for column, uids in ((tables.Motor.uid, self.motors), (tables.Unit.uid, self.units)):
            for part in chunks(sorted(uids)):
                found |= set(self._session.scalars(query.where(column.in_(part)), execution_options=WITH_PRACTICE))
        return found


def _words_of(call: tables.Call) -> str:
    """The words that a call is found by. Raises `InvalidField` on one that its pages could not show."""
    try:
        call_view_of(call)
    except InvalidField as error:
        fault = error.errors[0]
        raise invalid(f"call {call.uid}: {fault.path}", fault.value, fault.expected) from None
    return search_text_of(call)
