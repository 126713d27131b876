"""Practice on the call's own screens: begin a case, put the meter's leads on, look and listen, wait, say what is wrong.

Time on a practice call is made of minutes that tests and waits take: what has passed is put further back, so that
pages reckon with the clock as they always do.
"""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime
from typing import Any

from sqlalchemy.orm import Session

from ...core.diagnosis.case import Case as Assessed
from ...core.diagnosis.faults import FAULTS
from ...core.diagnosis.next_test import HANDLING_MINUTES, SWITCH_POWER_MINUTES, no_live_tests
from ...core.errors import invalid
from ...core.field_tests import TESTS
from ...core.installation import Installation
from ...core.judge.capacitor import fan_section
from ...core.meter import ASKED, NAMES, Function
from ...core.practice.case import Case, read_case, write_case
from ...core.practice.instruments import PlannedTest
from ...core.practice.job.work_done import WorkDone
from ...core.practice.kept import KeptLeads
from ...core.practice.ladder import family_of
from ...core.practice.score import WORDS, Done, score
from ...core.practice.simulated_unit import SLIPS, Measured, Moment, measure
from ...core.practice.unit_state import UnitState, truth_of
from ...core.readings import KINDS
from ...core.record import KeptOutcome
from ...core.units import whole_number
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on, record_act, technician_of
from ..calls.call_view import call_view_of
from ..calls.search_text import search_text_of
from ..people.settings import limits_in, schools_in
from .job import completed, done_before, scored, unit_of, work_of
from .kept import add_done, case_of_call, case_row_of, named_of, pass_minutes, rows_of

BENCH, PROVED = "Practice bench", {"tester_before", "dead", "tester_after"}
REPEAT_MIN, MOST_WAIT_MIN = 0.5, 240
_QUALIFIERS = ("at", "with", "section", "lead", "leg", "when")
_KEPT_FIELDS = (*_QUALIFIERS, "kind", "pair", "turns", "speed", "dried")
DRYING_MIN, LONGEST_KEPT = 120.0, 80


def begin(db: Database, context: ActContext, case: Case, advice: bool = True, day: date | None = None) -> int:
    """Begin a practice call on a case; the id of its call."""
    with db.writing() as session:
        act = record_act(session, context, "begin_practice", None)
        site = session.query(tables.Site).filter_by(name=BENCH).one_or_none() or tables.Site(name=BENCH)
        data = write_case(case)["call"]
        who, school = technician_of(session, context), schools_in(session).sizing
        row = tables.Practice(
            begun_at=context.now,
            case=write_case(case),
            family=family_of(case.truth).key,
            rung=case.rung,
            day=day,
            advice=advice,
            done={"rows": []},
            technician_id=who.id if who else None,
        )
        unit = tables.Unit(
            name=f"{case.title} ({context.act_id[:8]})", plate=data.get("unit", {}), site=site, practice=True
        )
        motor = tables.Motor(unit=unit, plate=data["motor"], installation=_as_it_is_met(case))
        call = tables.Call(
            motor=motor,
            technician=who,
            opened_at=context.now,
            complaint=data.get("complaint", {}),
            meters=data.get("meters", {}),
            changes={"made": data.get("changes", [])},
            power="energised",
            power_at=context.now,
            school=school,
            practice=True,
            practice_case=row,
        )
        call.search_text = search_text_of(call)
        done_before(session, call, case, context.now)
        session.add(call)
        session.flush()
        unit.name = f"{case.title} ({row.id})"
        act.call_id = call.id
        return call.id


def _as_it_is_met(case: Case) -> Installation:
    """Load, space, label and leads as the learner finds them; where the wires go is for him to look at."""
    hookup = case.call.installation.hookup
    seen = hookup.found if case.starts != "arrive" else []
    return case.call.installation.model_copy(update={"hookup": hookup.model_copy(update={"found": seen})})


def asked_of(fields: Mapping[str, str], section: str = "fan") -> PlannedTest:
    """The test that a pad's fields ask for. Raises `InvalidField`."""
    kind = fields.get("kind", "")
    if kind not in KINDS:
        raise invalid("kind", kind[:40], "a reading kind: " + ", ".join(KINDS))
    text = {name: fields.get(name, "").strip() or None for name in _QUALIFIERS}
    pair = fields.get("pair", "").split("|")
    turns, speed = fields.get("turns", "1"), fields.get("speed", "")
    if kind in ("capacitance_uf", "capacitor_load", "capacitor_case_ohm"):
        text["section"] = text["section"] or section
    return PlannedTest(
        kind,
        text["at"],
        text["with"],
        text["section"],
        (pair[0], pair[1]) if len(pair) == 2 else None,
        text["lead"],
        text["leg"],
        whole_number(speed, 100),
        text["when"],
        min(max(whole_number(turns) or 1, 1), 100),
        fields.get("dried") == "yes",
    )


def make_test(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Make the test that the pad asks for: put the leads on, or look, listen, turn. What came of it is kept to be read.

    Raises `InvalidField`.
    """
    with act_on(db, call_id, context, "make_test") as (_, row):
        case_row = case_row_of(row)
        asked = asked_of(fields, fan_section(read_case(case_row.case).call))
        function = _function(asked, fields.get("function", ""))
        rows: list[dict[str, Any]] = list(case_row.done["rows"])
        if asked.dried and not any(done["name"] == asked.name for done in rows):
            pass_minutes(row, DRYING_MIN)
        count = sum(done["name"] == asked.name for done in rows)
        found = measure(unit_of(row, context.now), asked, _moment(row, context.now), count, function)
        done = _done(asked, rows, found)
        case_row.done = {"rows": [*rows, done.model_dump()]}
        dial = function or (case_row.leads or {}).get("function", "")
        case_row.leads = _leads(fields, dial, context.now, found).model_dump()
        pass_minutes(row, done.minutes)


def _leads(fields: Mapping[str, str], dial: str, now: datetime, found: Measured) -> KeptLeads:
    """What is kept of a test until the next one."""
    plain = {name: "".join(filter(str.isprintable, text))[:LONGEST_KEPT] for name, text in fields.items()}
    kept = {name: text for name, text in plain.items() if name in _KEPT_FIELDS and text.strip()}
    return KeptLeads(
        fields=kept,
        function=dial,
        at=now.isoformat(),
        value=found.value,
        shows=found.shows,
        warns=found.warns,
        slip=found.slip,
    )


def _done(asked: PlannedTest, rows: list[dict[str, Any]], found: Measured) -> Done:
    """A test as it is counted: the same minutes as the engine is reckoned with, little for another lead of one test."""
    tests = [done for done in rows if done["do"] == "test"]
    again = bool(tests) and tests[-1]["name"].startswith(asked.test + "/")
    listed = [test.minutes for test in TESTS if test.kind == asked.kind and test.at in (None, asked.at)]
    minutes = REPEAT_MIN if again else (listed[0] if listed else 1.0) + HANDLING_MINUTES
    return Done(
        do="test",
        kind=asked.kind,
        name=asked.name,
        minutes=minutes,
        again=again,
        slip=_new_slip(found.slip, rows),
        says=found.warns,
    )


def _function(asked: PlannedTest, chosen: str) -> Function | None:
    """What the dial stands on for this test; tests without a meter have none."""
    if asked.kind not in ASKED:
        return None
    return next((name for name in NAMES if name == chosen), ASKED[asked.kind])


def _moment(row: tables.Call, now: datetime) -> Moment:
    ticked = {step.step for step in row.steps if step.station == "make-safe"}
    minutes = (now - row.opened_at).total_seconds() / 60
    return Moment(row.power == "energised", max(0.0, minutes), "bled" in ticked, ticked >= PROVED)


def _new_slip(slip: str, rows: list[dict[str, Any]]) -> str:
    """A slip is counted again only after the power was set anew: not for every lead of one lock-out."""
    since: list[str] = []
    for done in rows:
        since = [] if done["do"] == "power" else [*since, done["slip"]]
    return "" if slip == "not_proved" and slip in since else slip


def wait(db: Database, call_id: int, context: ActContext, minutes: str) -> None:
    """Let minutes pass, for a motor to cool or a delay to run out. Raises `InvalidField`."""
    waited = whole_number(minutes, MOST_WAIT_MIN + 1)
    if not waited:
        raise invalid("minutes", minutes[:20] or "nothing", f"whole minutes, 1 to {MOST_WAIT_MIN}")
    with act_on(db, call_id, context, "wait") as (_, row):
        case_row = case_row_of(row)
        add_done(row, Done(do="wait", minutes=waited))
        case_row.leads = None


def power_was_set(session: Session, row: tables.Call, power: str) -> None:
    """The power strip of a practice call was set: it takes its minutes, and energising onto a fault is a slip."""
    case_row = case_row_of(row)
    view = call_view_of(row, limits_in(session))
    reason = no_live_tests(Assessed(view.call, view.limits)) if power == "energised" else None
    done = Done(
        do="power", name=power, minutes=SWITCH_POWER_MINUTES, slip="onto_fault" if reason else "", says=reason or ""
    )
    add_done(row, done)
    case_row.leads = None


def say(db: Database, call_id: int, context: ActContext, verdict: str, faults: list[str]) -> int | None:
    """Say what is wrong. Ends a case that ends at Finding, with its score: the practice's id; None where a job goes on.

    Raises `InvalidField`.
    """
    if verdict not in WORDS:
        raise invalid("verdict", verdict[:40] or "nothing", "one of: " + ", ".join(WORDS.values()))
    unknown = [fault for fault in faults if fault not in FAULTS]
    if unknown:
        raise invalid("faults", unknown[0][:40], "a fault of the list")
    if not faults and verdict not in ("no_fault_found", "not_proved"):
        raise invalid("faults", "nothing", "what is wrong, one or more of the list")
    with act_on(db, call_id, context, "say") as (session, row):
        add_done(row, Done(do="say", name=verdict, says="|".join(faults)))
        if case_of_call(row).is_job:
            return None
        return end_case(session, row, context)


def end_case(session: Session, row: tables.Call, context: ActContext, work: WorkDone | None = None) -> int:
    """End a case by what was named: its score, a whole job's as well; the practice's id. Raises `InvalidField`."""
    named = named_of(row)
    if named is None:
        raise invalid("finish", "nothing", "what is wrong, named at Finding first")
    case_row, limits = case_row_of(row), limits_in(session)
    case, view = read_case(case_row.case), call_view_of(row, limits)
    done = rows_of(row)
    measured = {item.kind for item in done if item.do == "test"}
    found = [reading for reading in view.call.readings if not reading.is_proof]
    unmeasured = sum(reading.kind not in measured for reading in found) if case.starts == "arrive" else 0
    result = score(case, view.call, done, named.verdict, named.faults, unmeasured, limits)
    if case.is_job:
        result.job = scored(row, work or work_of(row, view.call))
        finding_given = case.starts != "arrive"
        result.is_right = result.job.is_good and (result.is_right or finding_given)
    case_row.score, case_row.is_right = result.model_dump(), result.is_right
    case_row.ended_at, case_row.leads, row.closed_at = context.now, None, context.now
    row.outcome = KeptOutcome(
        verdict=named.verdict, fault=named.faults[0] if named.faults else "none", passed=view.proof.passed
    )
    return case_row.id


def unit_now(row: tables.Call, now: datetime) -> tuple[UnitState, float, bool]:
    """The true unit of a practice call, the minutes since the visit began, and whether power is on.

    Raises `NotFound` for a call that is none.
    """
    moment = _moment(row, now)
    return unit_of(row, now), moment.minutes, moment.live


def practice_blades(row: tables.Call) -> str:
    """Blades of a practice unit's fan, as one would count them; empty for other calls."""
    from ...core.practice.sound import blades_of

    return str(blades_of(truth_of(read_case(case_row_of(row).case)))) if row.practice else ""


def slips_said(counted: Mapping[str, int]) -> list[tuple[str, str, int]]:
    """Slips with what is done instead, and how often."""
    return [(SLIPS[key].says, SLIPS[key].instead, many) for key, many in counted.items()]


def hand_on(db: Database, call_id: int, context: ActContext) -> int:
    """End a case that ends before Hand over: what comes after is done right by others. Raises `InvalidField`."""
    with act_on(db, call_id, context, "hand_on") as (session, row):
        case = case_of_call(row)
        if case.ends not in ("match", "hook-up"):
            raise invalid("finish", case.ends, "a case that ends at Match or Wiring")
        if not row.chosen:
            raise invalid("part_no", "nothing", "the motor, chosen at Match")
        if case.ends == "hook-up" and row.plan.hookup is None:
            raise invalid("wires", "nothing", "the wiring, saved")
        call = call_view_of(row).call
        return end_case(session, row, context, completed(row, call))


def end_job(session: Session, row: tables.Call, context: ActContext) -> bool:
    """End a whole job at Hand over; False for a real call. Raises `InvalidField` where the case ends earlier."""
    if not row.practice:
        return False
    if case_of_call(row).ends != "hand-over":
        raise invalid("finish", "practice", "what is wrong, said at Finding: nothing is fitted or booked in practice")
    end_case(session, row, context)
    return True
