"""The Swap station: the steps of this job, ticked with their time or left out with a reason; marks; the schedule."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from ...core.errors import FieldError, InvalidField, invalid
from ...core.practice.chance import Chance
from ...core.record import KeptSwap
from ...core.swap.job import BUILDS, HUBS, REMOVALS, Job, way_on_plate
from ...core.swap.marks import MARKS, Mark, MarkCheck, put_back, read_mark
from ...core.swap.schedule import Schedule, schedule
from ...core.swap.steps import PHASES, WAITS, Carry, Step, carry_list, steps_for, tasks
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView, call_view_of
from ..people.settings import ferries_in, limits_in
from ..practice.job import step_was_done
from .swap_job import job_of

STATION, UP = "swap", "carry"
LONGEST_WHY, LEAST_WHY = 500, 3
RUNS = "power"
LIVE_PHASES = ("before", "run")


@dataclass(frozen=True)
class MarkView:
    """A mark as noted, and whether it came back to where it was."""

    mark: Mark
    text: str
    kept: MarkCheck | None


@dataclass(frozen=True)
class StepView:
    """A step with how far it is: to do, next, done or left out."""

    step: Step
    number: int
    state: str
    at: datetime | None
    why_not: str
    marks: list[MarkView]
    waits_for: str


@dataclass(frozen=True)
class SwapView:
    """The station: steps by phase, the one looked at, the schedule from `begins` on, what is carried up.

    in_order: False in practice without advice, where steps are listed in no order and ticked one by one.
    """

    job: Job
    phases: list[tuple[str, list[StepView]]]
    looked_at: StepView | None
    plan: Schedule
    begins: datetime
    now_min: float
    carry: Carry
    carried: set[str]
    left: int
    arrives: datetime | None
    tips: list[str]
    in_order: bool = True

    @property
    def runs_at(self) -> datetime | None:
        """When the unit runs again."""
        end = self.plan.end_of(RUNS)
        return None if end is None else self.begins + timedelta(minutes=end)

    @property
    def begun(self) -> bool:
        """Whether a step was done."""
        return any(slot.done for slot in self.plan.slots)

    @property
    def hands_left(self) -> float:
        """Minutes of hands-on work that are left."""
        return sum(slot.end - slot.start for slot in self.plan.slots if not slot.done)

    @property
    def ends_at(self) -> datetime:
        """When everything is done."""
        return self.begins + timedelta(minutes=self.plan.elapsed)

    def at(self, minutes: float) -> datetime:
        """The moment so many minutes from the start."""
        return self.begins + timedelta(minutes=minutes)

    def title_of(self, key: str) -> str:
        """A step in its own words, as short as its first clause."""
        found = next((view.step.do for _, views in self.phases for view in views if view.step.key == key), key)
        return found.partition(":")[0].partition(",")[0].rstrip(".")


def swap_view(call_view: CallView, now: datetime, key: str = "") -> SwapView:
    """The station of a call at a moment; `key` is the step looked at, the next one without."""
    ticked, ordered = _ticked(call_view), _ordered(call_view)
    moment = now if call_view.is_open else call_view.row.closed_at or now
    job = job_of(call_view.call, call_view.row.plan, call_view.verdict, moment, ordered)
    marks = call_view.row.plan.swap.marks
    steps = steps_for(job, marks)
    begins = min([moment, *(row.done_at - _minutes(steps, row.step) for row in ticked.values())])
    done = {key: (row.done_at - begins) / timedelta(minutes=1) for key, row in ticked.items()}
    here = {step.key for step in steps}
    now_min = (moment - begins) / timedelta(minutes=1)
    plan = schedule(_as_tasks(steps, ticked), {k: at for k, at in done.items() if k in here}, now_min)
    following = next((slot.key for slot in plan.slots if not slot.done), "")
    way = way_on_plate(call_view.call)
    shown = {name: MarkView(mark, marks.get(name, ""), put_back(name, marks, way)) for name, mark in MARKS.items()}
    quiet = _finds_the_order(call_view)
    steps = _shuffled(quiet, steps) if quiet else steps
    following = next((step.key for step in steps if step.key not in ticked), "") if quiet else following
    views = [_view(step, number, ticked, shown, following, plan, now_min) for number, step in enumerate(steps, start=1)]
    looked = next((view for view in views if view.step.key == (key or following)), views[-1] if views else None)
    return SwapView(
        job,
        _by_phase(views),
        looked,
        plan,
        begins,
        now_min,
        carry_list(job),
        {row.step for row in call_view.row.steps if row.station == UP},
        sum(view.state in ("todo", "next") for view in views),
        _arrives(plan, begins),
        _tips(call_view, looked),
        in_order=quiet is None,
    )


def _finds_the_order(call_view: CallView) -> int | None:
    """The number of a practice without advice, whose learner finds the order of the steps himself; None elsewhere."""
    case_row = call_view.row.practice_case if call_view.row.practice else None
    return None if case_row is None or case_row.advice or not call_view.is_open else case_row.id


def _shuffled(seed: int, steps: list[Step]) -> list[Step]:
    """The steps with those of each phase in an order that tells nothing."""
    chance, phases = Chance(seed).part("steps"), dict.fromkeys(step.phase for step in steps)
    of = {phase: [step for step in steps if step.phase == phase] for phase in phases}
    return [step for phase in phases for step in chance.shuffled(phase, of[phase])]


def _ticked(call_view: CallView) -> dict[str, tables.Step]:
    return {row.step: row for row in call_view.row.steps if row.station == STATION}


def _ordered(call_view: CallView) -> datetime | None:
    row = _ticked(call_view).get("order")
    return row.done_at if row else None


def _minutes(steps: list[Step], key: str) -> timedelta:
    return timedelta(minutes=next((step.minutes for step in steps if step.key == key), 0.0))


def _as_tasks(steps: list[Step], ticked: Mapping[str, tables.Step]) -> list[Any]:
    """The tasks; a step that was left out takes no hands and begins no wait."""
    out = {key for key, row in ticked.items() if row.skipped}
    return [task._replace(minutes=0.0, wait_min=0.0) if task.key in out else task for task in tasks(steps)]


def _view(
    step: Step,
    number: int,
    ticked: Mapping[str, tables.Step],
    marks: Mapping[str, MarkView],
    following: str,
    plan: Schedule,
    now_min: float,
) -> StepView:
    row = ticked.get(step.key)
    state = ("skipped" if row.skipped else "done") if row else "next" if step.key == following else "todo"
    shown = [marks[name] for name in step.marks]
    at = row.done_at if row else None
    return StepView(step, number, state, at, row.skipped or "" if row else "", shown, _waits_for(step, plan, now_min))


def _waits_for(step: Step, plan: Schedule, now_min: float) -> str:
    """The wait that keeps a step from being begun now, in words; empty when nothing does."""
    running = [wait for wait in plan.waits if wait.key in step.after and wait.start <= now_min < wait.end]
    longest = max(running, key=lambda wait: wait.end, default=None)
    return "" if longest is None else f"{max(1, round(longest.end - now_min))} min to wait"


def _by_phase(views: list[StepView]) -> list[tuple[str, list[StepView]]]:
    phases = dict.fromkeys(view.step.phase for view in views)
    return [(PHASES[phase], [view for view in views if view.step.phase == phase]) for phase in phases]


def _arrives(plan: Schedule, begins: datetime) -> datetime | None:
    wait = next((wait for wait in plan.waits if wait.key == "order"), None)
    return None if wait is None else begins + timedelta(minutes=wait.end)


def _tips(call_view: CallView, looked: StepView | None) -> list[str]:
    """What the power strip says against the step looked at."""
    if looked is None or not call_view.is_open:
        return []
    phase, power = looked.step.phase, call_view.row.power
    if phase not in LIVE_PHASES and looked.step.key != "dead" and power != "dead":
        return ["Power is marked energized. Prove it dead before hands go in."]
    return (
        ["Power is marked locked out. Energize when everybody is clear."] if phase == "run" and power == "dead" else []
    )


def wait_words(view: SwapView) -> list[tuple[str, str]]:
    """Each wait that is not over: what waits, and what to do meanwhile."""
    of = {step.step.key: step.step for _, steps in view.phases for step in steps}
    found = []
    for wait in view.plan.waits:
        step = of[wait.key]
        what = WAITS.get(step.wait, "it waits")
        others = [view.title_of(key) for key in wait.meanwhile if of[key].minutes > 0]
        found.append((what, "; ".join(others[:4]) + (f" and {len(others) - 4} more" if len(others) > 4 else "")))
    return found


def steps_now(session: Any, row: tables.Call, now: datetime) -> list[Step]:
    """The steps of a call's swap as it stands now."""
    call_view = call_view_of(row, limits_in(session))
    job = job_of(call_view.call, row.plan, call_view.verdict, now, _ordered(call_view))
    return steps_for(job, row.plan.swap.marks)


def _step_named(steps: list[Step], key: str) -> Step:
    found = next((step for step in steps if step.key == key), None)
    if found is None:
        raise invalid("step", key, "a step of this job")
    return found


def do_step(
    db: Database, call_id: int, context: ActContext, key: str, typed: Mapping[str, str], through: bool = False
) -> None:
    """Tick a step with its marks; `through` ticks what is open above it too, but no safety step and none with marks.

    Raises `InvalidField` on a step or mark that is none, or on a mark that is missing.
    """
    with act_on(db, call_id, context, "do_step") as (session, row):
        steps = steps_now(session, row, context.now)
        step = _step_named(steps, key)
        _keep_marks(row, step, typed, asked=not through)
        had = {one.step: one for one in row.steps if one.station == STATION}
        one_by_one = bool(row.practice_case and not row.practice_case.advice)
        above = steps[: steps.index(step)] if through and not one_by_one else []
        before = [one for one in above if not one.alone]
        now = [*(other for other in before if other.key not in had), step]
        for one in now:
            if row.practice:
                step_was_done(row, steps, one.key, context.now)
            if one.key in had:
                had[one.key].skipped, had[one.key].done_at = None, context.now
            else:
                session.add(tables.Step(call=row, station=STATION, step=one.key, done_at=context.now))


def _keep_marks(row: tables.Call, step: Step, typed: Mapping[str, str], asked: bool) -> None:
    """Keep the marks of a step. Raises `InvalidField` on each that is wrong or, when asked for, missing."""
    swap = row.plan.swap
    marks, faults = dict(swap.marks), []
    for name in step.marks:
        try:
            text = read_mark(name, typed[name]) if name in typed else marks.get(name, "")
        except InvalidField as error:
            faults += error.errors
            continue
        if asked and not text:
            faults.append(FieldError(name, "nothing", f"{MARKS[name].title}; or skip the step with a reason"))
        marks[name] = text
    if faults:
        raise InvalidField(faults)
    if step.marks:
        marks = {name: text for name, text in marks.items() if text}
        row.plan = row.plan.changed(swap=swap.changed(marks=marks))


def skip_step(db: Database, call_id: int, context: ActContext, key: str, why: str) -> None:
    """Leave a step out, with the reason. Raises `InvalidField`."""
    reason = why.strip()
    if not LEAST_WHY <= len(reason) <= LONGEST_WHY:
        raise invalid("why", reason[:40] or "nothing", f"a reason, {LEAST_WHY} to {LONGEST_WHY} characters")
    with act_on(db, call_id, context, "skip_step") as (session, row):
        step = _step_named(steps_now(session, row, context.now), key)
        had = next((one for one in row.steps if one.station == STATION and one.step == key), None)
        if had is None:
            had = tables.Step(call=row, station=STATION, step=step.key, done_at=context.now)
            session.add(had)
        had.skipped, had.done_at = reason, context.now


def take_step_back(db: Database, call_id: int, context: ActContext, key: str) -> None:
    """Take back that a step was done or left out. Raises `InvalidField` when it was neither."""
    with act_on(db, call_id, context, "take_step_back") as (session, row):
        had = next((one for one in row.steps if one.station == STATION and one.step == key), None)
        if had is None:
            raise invalid("step", key, "a step that was done or skipped")
        session.delete(had)


def plan_swap(db: Database, call_id: int, context: ActContext, typed: Mapping[str, str]) -> None:
    """Settle how the hub sits, how it comes out, when the part arrives (local day and time). Raises `InvalidField`."""
    faults, kept = [], {}
    for name, allowed in (("hub", HUBS), ("removal", REMOVALS), ("build", BUILDS)):
        text = typed.get(name, "")
        if text and text not in allowed:
            faults.append(FieldError(name, text[:40], "one of " + ", ".join(allowed)))
        elif text:
            kept[name] = text
    arrives = typed.get("arrives", "").strip()
    if arrives:
        try:
            kept["arrives"] = datetime.fromisoformat(arrives).astimezone().isoformat(timespec="minutes")
        except (ValueError, OverflowError):
            faults.append(FieldError("arrives", arrives[:40], "a day and a time, such as 2026-03-14T09:30"))
    if faults:
        raise InvalidField(faults)
    with act_on(db, call_id, context, "plan_swap") as (session, row):
        swap = KeptSwap(marks=row.plan.swap.marks, ferries=ferries_in(session), **kept)
        row.plan = row.plan.changed(swap=swap)


def carry_up(db: Database, call_id: int, context: ActContext, ticked: list[str]) -> None:
    """Note what of the list is packed. Raises `InvalidField` on something that is not on it."""
    with act_on(db, call_id, context, "carry") as (session, row):
        call_view = call_view_of(row, limits_in(session))
        listed = carry_list(job_of(call_view.call, row.plan, call_view.verdict, context.now, _ordered(call_view)))
        names = {name[:60] for name in (*listed.parts, *listed.tools)}
        odd = [name for name in ticked if name not in names]
        if odd:
            raise invalid("items", odd[0][:40], "something on the list")
        had = {one.step: one for one in row.steps if one.station == UP}
        for name in set(had) - set(ticked):
            session.delete(had[name])
        for name in dict.fromkeys(name for name in ticked if name not in had):
            session.add(tables.Step(call=row, station=UP, step=name, done_at=context.now))
