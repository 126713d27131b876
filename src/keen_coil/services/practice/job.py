"""Whole jobs of practice: the unit as it is after the work, what others did before, steps and wires, the end."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from ...core.call import Call
from ...core.changes import CHANGES
from ...core.errors import InvalidField
from ...core.hookup.answer import PlannedWire
from ...core.hookup.terminals import joins
from ...core.installation import Wire
from ...core.match.catalogue import CatalogueMotor
from ...core.match.rank import judge
from ...core.match.reference import reference_for
from ...core.practice.case import Case
from ...core.practice.job.engine import DELIVERY, Round, capacitor_for, engine_works, steps_of, wiring_for
from ...core.practice.job.score import JobScore, job_score
from ...core.practice.job.unit_after import heat_after, trips_after_min, unit_after
from ...core.practice.job.work_done import ACT_MIN, FIGURES, WorkDone, work_done
from ...core.practice.play import BEGINS
from ...core.practice.score import Done
from ...core.practice.unit_state import UnitState
from ...core.practice.windings import COOLS_MIN
from ...core.record import KeptHookup
from ...core.swap.steps import Step
from ...core.thermal.table import constants
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import call_view_of
from ..catalog.shelf import practice_shelf
from ..stations.safe_steps import STEPS
from .kept import add_done, case_of_call, case_row_of, named_of, rows_of

STATION, UP = "swap", "carry"
RECLOSES_MIN = 20.0
"""How long an overload that opened in the run stays open, minutes (trade)."""
NEEDS_NO_LOCK = ("before", "run")
"""Phases of a swap whose steps may be done with power on."""


def work_of(row: tables.Call, call: Call) -> WorkDone:
    """What was done on a practice call so far."""
    steps = sorted((step for step in row.steps if step.station == STATION), key=lambda step: step.done_at)
    named = named_of(row)
    return work_done(
        call,
        row.plan,
        _chosen(row),
        [(step.step, bool(step.skipped)) for step in steps],
        frozenset(named.faults if named else ()),
        bool(row.follow_ups),
    )


def _chosen(row: tables.Call) -> CatalogueMotor | None:
    """The chosen motor as the practice van, or a plate typed by hand, has it."""
    if not row.chosen:
        return None
    part_no = row.chosen.get("part_no")
    typed = next((motor for motor in row.plan.by_hand if motor.part_no == part_no), None)
    return typed or practice_shelf().motor(part_no) or CatalogueMotor.model_validate(row.chosen)


def unit_of(row: tables.Call, now: datetime) -> UnitState:
    """The true unit of a practice call as it is now: after what was done to it, as warm as it has run."""
    case = case_of_call(row)
    work = work_of(row, call_view_of(row).call)
    truth = unit_after(case, work)
    if work.motor is not None:
        _warm(truth, row, now)
    return truth


def _warm(truth: UnitState, row: tables.Call, now: datetime) -> None:
    """The shell of a motor that went in, by how long it has run; its overload open where it has tripped by now."""
    heat = heat_after(truth)
    if heat is None:
        return
    since = (now - (row.power_at or now)) / timedelta(minutes=1)
    visit = max(0.0, (now - row.opened_at) / timedelta(minutes=1))
    ran = any(reading.body.get("stage") == "proof" for reading in row.readings)
    rise = heat.shell_c.mid - truth.air_c
    if row.power == "energised":
        share = 1 - math.exp(-since / constants().heating.running_minutes[1])
        trips = trips_after_min(heat)
        if trips is not None and since >= trips.mid:
            at = (since - trips.mid) % (RECLOSES_MIN + trips.mid)
            truth.overload = "failed" if at < RECLOSES_MIN else truth.overload
    else:
        share = math.exp(-since / COOLS_MIN) if ran else 0.0
    truth.rise_c = max(rise * share, 1.0) * math.exp(visit / COOLS_MIN)


def done_before(session: Session, row: tables.Call, case: Case, now: datetime) -> None:
    """Put into a practice call what was done before the station at which its case begins."""
    if case.starts == "arrive":
        return
    job = engine_works(case, practice_shelf()).rounds[0]
    opened = now - timedelta(minutes=job.play.minutes)
    row.opened_at = row.power_at = opened
    row.power = "dead"
    for position, body in enumerate(job.play.readings):
        taken = datetime.fromisoformat(body["taken_at"]) - BEGINS + opened
        data = {**body, "taken_at": taken.isoformat(timespec="seconds")}
        row.readings.append(tables.Reading(position=position, kind=body["kind"], body=data))
    for step in STEPS:
        row.steps.append(tables.Step(station="make-safe", step=step.key, done_at=opened))
    answer = job.play.answer
    said = Done(do="say", name=answer.verdict, says=answer.leading_fault or "")
    case_row_of(row).done = {"rows": [said.model_dump()]}
    if case.starts == "run-proof":
        _swapped_before(row, job, now)


def _swapped_before(row: tables.Call, job: Round, now: datetime) -> None:
    """The swap that somebody else made."""
    row.plan = job.plan
    if job.call.changes:
        made = [change.model_copy(update={"at": now}) for change in job.call.changes]
        row.changes = row.changes.changed(made=made)
    if job.held is not None and job.call.chosen_motor is not None:
        row.chosen = job.call.chosen_motor.model_dump(mode="json", by_alias=True, exclude_defaults=True)
        row.plan = row.plan.changed(on_van=1)
    if job.wiring is not None:
        moves = job.wiring.moves
        row.plan = row.plan.changed(
            hookup=KeptHookup(school=job.wiring.school, moves=moves, done=list(range(len(moves))))
        )
        planned = job.wiring.planned
        hookup = row.motor.installation.hookup.model_copy(update={"planned": _wires(planned)})
        row.motor.installation = row.motor.installation.model_copy(update={"hookup": hookup})
    for step in job.steps:
        if step.key not in ("power", "figures", "monoxide", "sister", DELIVERY):
            row.steps.append(tables.Step(station=STATION, step=step.key, done_at=now))


def _wires(planned: Sequence[PlannedWire]) -> list[Wire]:
    return [Wire.model_validate(wire.model_dump(mode="json", by_alias=True)) for wire in planned]


def step_was_done(row: tables.Call, steps: Sequence[Step], key: str, now: datetime) -> None:
    """A step of the swap of a practice call is ticked: what is left of a wait before it passes, then its minutes.

    A delivery is not waited for on the bench. Hands in a unit that is live are a slip, counted once.
    """
    of = {step.key: step for step in steps}
    at = {step.step: step.done_at for step in row.steps if step.station == STATION and not step.skipped}
    before = [name for name in of[key].after if name in of and name in at and name != DELIVERY]
    left = max([0.0, *(of[name].wait_min - (now - at[name]) / timedelta(minutes=1) for name in before)])
    if left > 0:
        add_done(row, Done(do="wait", minutes=round(left, 1)))
    hands = of[key].phase not in NEEDS_NO_LOCK and key != "dead" and of[key].minutes > 0
    slips = {done.slip for done in rows_of(row)}
    slip = "live_hands" if hands and row.power != "dead" and "live_hands" not in slips else ""
    add_done(row, Done(do="step", name=key, minutes=of[key].minutes, slip=slip))


def look_at_wires(db: Database, call_id: int, context: ActContext) -> None:
    """Look where each wire of the old motor goes, which takes its minutes; hands in a live unit are a slip."""
    with act_on(db, call_id, context, "look_at_wires") as (_, row):
        slip = "" if row.power == "dead" else "live_hands"
        add_done(row, Done(do="look", name="wires", minutes=FIGURES.wires_min, slip=slip))


def wires_seen(row: tables.Call) -> list[tuple[str, str]] | None:
    """What was seen of the wires, lead and terminal; None while nobody looked, empty where they are as usual."""
    if not row.practice or not any(done.do == "look" and not done.slip for done in rows_of(row)):
        return None
    found = case_of_call(row).call.hookup.found
    return [(wire.lead or wire.a, wire.terminal if wire.lead else wire.b) for wire in joins(found, "hookup.found")]


def change_was_made(row: tables.Call, what: str) -> None:
    """Something was done to the unit of a practice call: it takes its minutes."""
    add_done(row, Done(do="step", name=CHANGES[what].says, minutes=ACT_MIN[what]))


def completed(row: tables.Call, call: Call) -> WorkDone:
    """The work of a case whose end comes before the swap, done to the end by the book."""
    shelf, chosen = practice_shelf(), _chosen(row)
    assert chosen is not None  # noqa: S101  # asked for before
    can = row.plan.capacitor or capacitor_for(call, shelf)
    wiring = None if call.hookup.planned else wiring_for(call)
    if wiring is not None:
        call = call.model_copy(update={"hookup": call.hookup.model_copy(update={"planned": _wires(wiring.planned)})})
    try:
        held = judge(call, chosen, row.school, reference_for(call), 1)  # type: ignore[arg-type]
    except InvalidField:
        held = None
    kept = row.plan.changed(capacitor=can)
    steps = steps_of(call, kept, held, wiring, "condemn_motor")
    named = named_of(row)
    done = [(step.key, False) for step in steps]
    work = work_done(call, kept, chosen, done, frozenset(named.faults if named else ()))
    return replace(work, acts=work.acts | {"protection_reset"})


def scored(row: tables.Call, work: WorkDone) -> JobScore:
    """The score of a job that has ended."""
    minutes = sum(done.minutes for done in rows_of(row))
    return job_score(case_of_call(row), work, practice_shelf(), minutes, _trips(row))


def _trips(row: tables.Call) -> int:
    """Ways to the van: one, one for a motor that had to come, one for what the packed list left behind."""
    packed = {step.step for step in row.steps if step.station == UP}
    swapped = any(step.station == STATION and step.step not in ("carry", DELIVERY) for step in row.steps)
    away = bool(row.chosen) and not (row.plan.on_van or 0)
    return 1 + away + (swapped and not packed)
