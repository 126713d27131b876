"""Practice of the demo world: cases that the two of Pellow Mechanical have played, some of them wrong."""

from __future__ import annotations

import csv
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import select

from ..core.practice.make import case_of
from ..core.practice.play import Play, engine_plays
from ..core.practice.score import Done
from ..store import tables
from ..store.database import Database
from .acts import WITH_PRACTICE, ActContext
from .import_files import new_act_context
from .practice import begin, say


def add_practice(db: Database, path: Path, now: datetime) -> None:
    """Play the cases of a file: `days_ago, technician, rung, seed`, what was said, a safety slip, how many readings.

    A case of which nothing was said is still under way.
    """
    with db.reading() as session:
        people = {row.name: row.id for row in session.scalars(select(tables.Technician))}
    for row in csv.DictReader(path.read_text(encoding="utf-8").splitlines()):
        case = case_of(int(row["seed"]), row["rung"])
        begun = now - timedelta(days=int(row["days_ago"]))
        call_id = begin(db, _stamp(begun, people[row["technician"]]), case)
        played = engine_plays(case)
        played.readings = played.readings[: int(row["readings"] or len(played.readings))]
        _readings(db, call_id, played, begun, row["slip"])
        if not row["verdict"]:
            continue
        ended = begun + timedelta(minutes=played.minutes)
        say(db, call_id, _stamp(ended, people[row["technician"]]), row["verdict"], row["faults"].split("|"))


def _stamp(at: datetime, who: int) -> ActContext:
    return ActContext(new_act_context().act_id, 1, at, who)


def _readings(db: Database, call_id: int, played: Play, begun: datetime, slip: str) -> None:
    """The readings of a play on the call, each a test that was made."""
    with db.writing() as session:
        call = session.get(tables.Call, call_id, execution_options=WITH_PRACTICE)
        assert call is not None and call.practice_case is not None  # noqa: S101, PT018  # begun just now
        each = played.minutes / max(played.tests, 1)
        rows: list[dict[str, Any]] = []
        for position, body in enumerate(played.readings):
            taken = {**body, "taken_at": (begun + timedelta(minutes=each * position)).isoformat(timespec="seconds")}
            call.readings.append(tables.Reading(position=position, kind=body["kind"], body=taken))
            again = bool(rows) and rows[-1]["kind"] == body["kind"]
            minutes = 0.5 if again else round(each, 1)
            done = Done(do="test", kind=body["kind"], name=body["kind"], minutes=minutes, again=again)
            rows.append(done.model_dump())
        if rows and slip:
            rows[0]["slip"] = slip
        call.practice_case.done = {"rows": rows}
