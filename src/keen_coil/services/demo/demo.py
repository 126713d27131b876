"""The demo world: Pellow Island, built from the files in `demo/`, dates relative to now."""

from __future__ import annotations

import csv
import tomllib
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import func, select

from ...core.call import read_call
from ...core.practice.make import case_of
from ...core.practice.play import Play, engine_plays
from ...core.practice.score import Done
from ...core.record import KeptPlan
from ...core.technician_judgement import TechnicianJudgement
from ...formats.catalogue_csv import read_catalogue
from ...store import tables
from ...store.database import Database
from ...store.tables import FIRST_VAN
from ..acts import WITH_PRACTICE, ActContext, call_row
from ..calls.search_text import search_text_of
from ..calls.whole_call import call_data
from ..catalog.import_files import new_act_context
from ..catalog.shelf_import import import_all
from ..people.first_run import DEMO, WORLD
from ..practice.practice import begin, say
from ..stations.hook_up import keep_plan
from ..stations.match import pick_motor
from ..stations.safe_steps import STEPS
from ..stations.swap import do_step
from .demo_log import add_log


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


FERRIES = ["07:30", "13:00", "17:45"]
"""When the ferry calls at Pellow Island."""
DATA = Path(__file__).parent.parent.parent / "demo"


def build_demo(path: Path, now: datetime | None = None) -> int:
    """Build the demo database anew at this path; the number of calls."""
    for leftover in (path, path.with_name(path.name + "-wal"), path.with_name(path.name + "-shm")):
        leftover.unlink(missing_ok=True)
    moment = (now or datetime.now(UTC)).replace(second=0, microsecond=0)
    db = Database(path)
    for name in ("motors.csv", "van.csv"):
        import_all(db, new_act_context(), (DATA / name).read_bytes())
    calls = tomllib.loads((DATA / "calls.toml").read_text(encoding="utf-8"))
    motors = {str(motor.part_no): motor for motor in read_catalogue((DATA / "motors.csv").read_bytes())}
    under_way: list[tuple[int, dict[str, Any]]] = []
    with db.writing() as session:
        people = {name: tables.Technician(name=name, van=FIRST_VAN) for name in calls["technicians"]}
        session.add_all(people.values())
        sites: dict[str, tables.Site] = {}
        for row in calls["call"]:
            site = sites.setdefault(row["site"], tables.Site(name=row["site"]))
            chosen = motors[row["chosen"]].plate() if "chosen" in row else None
            call = _call(row, site, people, moment, chosen)
            session.add(call)
            session.flush()
            session.add_all(_earlier(visit, call, moment) for visit in row.get("earlier", ()))
            under_way += [(call.id, row)] if "under_way" in row else []
        add_log(session, DATA / "log.csv", moment, motors, sites, people)
        session.add(tables.Setting(name="shop", value={"name": "Pellow Mechanical"}, changed_at=moment))
        session.add(tables.Setting(name=WORLD, value={"is": DEMO}, changed_at=moment))
        session.add(tables.Setting(name="ferries", value={"times": FERRIES, "name": "ferry"}, changed_at=moment))
        for call in session.scalars(select(tables.Call)):
            call.search_text = search_text_of(call)
        total = session.scalar(select(func.count()).select_from(tables.Call)) or 0
    for call_id, row in under_way:
        _swap_under_way(db, call_id, row["under_way"], moment - timedelta(minutes=row["minutes_ago"]))
    add_practice(db, DATA / "practice.csv", moment)
    db.close()
    return total


def _swap_under_way(db: Database, call_id: int, part_no: str, opened: datetime) -> None:
    """A swap in the middle: chosen, wired on paper, marked and oiled, the coil being washed while the oil works."""

    def act(do: Any, after: float, *args: Any) -> None:
        with db.reading() as session:
            version = call_row(session, call_id).version
        do(db, call_id, replace(new_act_context(version), now=opened + timedelta(minutes=after)), *args)

    act(pick_motor, 32, part_no)
    act(keep_plan, 36, "dual")
    act(do_step, 45, "carry", {})
    act(do_step, 52, "dead", {})
    act(do_step, 54, "bleed", {})
    act(do_step, 67, "wires", {}, True)
    act(do_step, 70, "blade_height", {"blade_height": "2.5"})
    act(do_step, 71, "way", {"turns": "counter-clockwise"})
    act(do_step, 72, "lead_way", {"leads_at": "6"})
    act(do_step, 86, "oil", {})


def _earlier(visit: dict[str, Any], call: tables.Call, now: datetime) -> tables.Call:
    """A closed visit to the same motor on which its insulation was tested."""
    opened = now - timedelta(days=visit["days_ago"])
    body = {
        "kind": "insulation_mohm",
        "value": visit["value"],
        "lead": "T1",
        "temperature_c": 40,
        "test_v": 500,
        "power": "dead",
        "taken_at": opened.isoformat(timespec="seconds"),
    }
    by = call.technician.name if call.technician else ""
    judged = TechnicianJudgement(verdict="no_fault_found", why="Insulation holds, it ran right", by=by, at=opened)
    return tables.Call(
        motor=call.motor,
        technician=call.technician,
        opened_at=opened,
        closed_at=opened + timedelta(minutes=50),
        complaint={"symptom": "other", "says": "Yearly checkup."},
        meters={},
        power="dead",
        power_at=opened,
        version=2,
        school="amps",
        plan=KeptPlan(judgement=judged),
        readings=[tables.Reading(position=0, kind="insulation_mohm", body=body)],
        outcome={"verdict": "no_fault_found", "fault": None, "passed": False, "exception": "Yearly checkup, all good."},
    )


def _call(
    row: dict[str, Any], site: tables.Site, people: dict[str, tables.Technician], now: datetime, chosen: Any
) -> tables.Call:
    """One call of the file; every time is minutes before now."""
    opened = now - timedelta(minutes=row["minutes_ago"])
    unit = tables.Unit(name=row["unit"], plate=row["plate"], site=site)
    motor = tables.Motor(unit=unit, plate=row["motor"], installation=row.get("around", {}), place=row.get("place"))
    for sister in row.get("sisters", ()):
        unit.motors.append(tables.Motor(plate=row["motor"], installation=row.get("around", {}), place=sister))
    found = tables.Call(
        motor=motor,
        technician=people[row["technician"]],
        opened_at=opened,
        complaint=row["complaint"],
        meters={},
        power=row.get("power", "energised"),
        chosen=chosen,
        power_at=opened + timedelta(minutes=row.get("power_after", 0)),
        version=1 + len(row.get("reading", [])),
        school="amps",
    )
    for position, reading in enumerate(row.get("reading", [])):
        body = {key: value for key, value in reading.items() if key != "after"}
        body["taken_at"] = (opened + timedelta(minutes=reading["after"])).isoformat(timespec="seconds")
        found.readings.append(tables.Reading(position=position, kind=body["kind"], body=body))
    for step in STEPS if row.get("made_safe") else ():
        found.steps.append(tables.Step(station="make-safe", step=step.key, done_at=opened + timedelta(minutes=6)))
    if "closed_after" in row:
        found.closed_at = opened + timedelta(minutes=row["closed_after"])
        found.outcome = row["outcome"]
    read_call(call_data(found))
    return found
