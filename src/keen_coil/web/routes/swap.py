"""Swap: the steps of this job, ticked or left out; how it comes apart; what is carried up; the view of its page."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.swap.job import BUILDS, HUBS, REMOVALS
from ...services.calls.call_view import open_call_view
from ...services.calls.photographs import photographs_of
from ...services.calls.rail import STATION
from ...services.people.settings import delivery_name
from ...services.stations.swap import (
    MarkView,
    StepView,
    SwapView,
    carry_up,
    do_step,
    plan_swap,
    skip_step,
    swap_view,
    take_step_back,
    wait_words,
)
from ..auth_middleware import concerns
from ..page import RowId, act_context, checked_form, clock, database, faults_by_field, redirect, station_page
from ..swap_drawing import time_line

_SIGNS = {"done": "done", "skipped": "not_needed", "next": "part", "todo": "todo"}
_PARTS = {"motor": "Motor swap", "capacitor": "Capacitor swap", "module": "Module swap"}
_ENDED = ("done", "skipped")
_DAY_MIN, _HOUR_MIN = 1440, 60
DRAINS: dict[str, tuple[tuple[str, str], ...]] = {
    "horizontal": (
        ("body", "M70 25h90a10 10 0 0 1 10 10v50a10 10 0 0 1-10 10H70a10 10 0 0 1-10-10V35a10 10 0 0 1 10-10z"),
        ("shaft", "M170 60h50"),
        ("plug", "M105 25v-10M125 25v-10"),
        ("open", "M105 95v14M125 95v14"),
        ("drop", "M105 116v6M125 116v6"),
    ),
    "shaft_up": (
        ("body", "M85 45h60a10 10 0 0 1 10 10v40a10 10 0 0 1-10 10H85a10 10 0 0 1-10-10V55a10 10 0 0 1 10-10z"),
        ("shaft", "M115 45V10"),
        ("plug", "M75 55H62M155 55h13"),
        ("open", "M75 97H60M155 97h15"),
        ("drop", "M56 104v8M174 104v8"),
    ),
    "shaft_down": (
        ("body", "M85 20h60a10 10 0 0 1 10 10v40a10 10 0 0 1-10 10H85a10 10 0 0 1-10-10V30a10 10 0 0 1 10-10z"),
        ("shaft", "M115 80v38"),
        ("plug", "M75 30H62M155 30h13"),
        ("open", "M75 72H60M155 72h15"),
        ("drop", "M56 79v8M174 79v8"),
    ),
}
"""Which drain openings of a motor stay open, as it is mounted: strokes of the picture by their kind."""
DRAIN_WORDS: dict[str, tuple[tuple[float, float, str], ...]] = {
    "horizontal": ((180, 24, "plugged"), (180, 114, "open")),
    "shaft_up": ((180, 59, "plugged"), (184, 101, "open")),
    "shaft_down": ((180, 34, "plugged"), (184, 76, "open")),
}


@dataclass(frozen=True)
class StepLine:
    """A step in the list: its sign, what to do, a line under it, its time or minutes."""

    key: str
    state: str
    sign: str
    number: int
    do: str
    under: str
    when: str
    is_looked_at: bool


@dataclass(frozen=True)
class PhaseLine:
    """A phase of the list with its steps; open when the step looked at is one of them."""

    title: str
    sign: str
    count: str
    is_open: bool
    steps: list[StepLine]


@dataclass(frozen=True)
class StepPad:
    """The step in hand: where it stands, notes in the order they are read, as class, sign and words."""

    key: str
    place: str
    do: str
    notes: list[tuple[str, str, str]]
    station: tuple[str, str] | None
    marks: list[MarkView]
    is_ended: bool
    is_alone: bool


@dataclass(frozen=True)
class Choice:
    """How it comes apart: the field, its legend, words by value, the value it has."""

    field: str
    legend: str
    words: dict[str, str]
    value: str


@dataclass(frozen=True)
class SwapPage:
    """The page."""

    head: str
    times: list[tuple[str, str, str]]
    phases: list[PhaseLine]
    pad: StepPad | None
    drains: tuple[tuple[str, str], ...]
    drain_words: tuple[tuple[float, float, str], ...]
    carry: list[tuple[str, list[tuple[str, bool]]]]
    choices: list[Choice]
    plans: bool
    orders: bool
    arrives: str
    alone_left: int


def swap_page(view: SwapView, mounted: str | None) -> SwapPage:
    """The page of a swap as it stands."""
    place = mounted if mounted in DRAINS else "shaft_down"
    looked = view.looked_at
    orders = "order" in view.job.features
    return SwapPage(
        head=_head(view),
        times=_times(view),
        phases=[_phase(title, steps, looked) for title, steps in view.phases],
        pad=None if looked is None else _pad(looked, view.tips, view.in_order),
        drains=DRAINS[place] if looked and looked.step.key == "drains" else (),
        drain_words=DRAIN_WORDS[place],
        carry=_carry(view),
        choices=_choices(view),
        plans=view.job.kind == "motor",
        orders=orders,
        arrives=f"Estimated: {clock(view.arrives)}. " if view.arrives else "Not known yet. ",
        alone_left=_alone_left(view) if view.in_order else 0,
    )


def _alone_left(view: SwapView) -> int:
    """How many open steps above the one in hand are ticked by themselves only."""
    number = view.looked_at.number if view.looked_at else 0
    steps = (step for _, steps in view.phases for step in steps)
    return sum(step.number < number and step.step.alone and step.state not in _ENDED for step in steps)


def span(minutes: float) -> str:
    """A time as it is said: minutes, hours and minutes, or days."""
    whole = round(minutes)
    if whole >= 2 * _DAY_MIN:
        return f"{whole / _DAY_MIN:.1f} days"
    return f"{whole // _HOUR_MIN} h {whole % _HOUR_MIN:02d}" if whole >= _HOUR_MIN else f"{whole} min"


def _head(view: SwapView) -> str:
    job = view.job
    apart = ""
    if "direct" in job.features and job.kind == "motor":
        hub = f"hub {HUBS[job.hub][0]}" if job.hub_tried or job.hub == "free" else "planned for a stuck hub"
        apart = f", {hub}, {REMOVALS[job.removal][0]}"
    many = sum(len(steps) for _, steps in view.phases)
    left = f"{view.left} of {many} steps to go" if view.left else "All steps done"
    return f"{_PARTS.get(job.kind, '')}{apart}. {left}"


def _times(view: SwapView) -> list[tuple[str, str, str]]:
    """Label, time, and what follows it in small."""
    found = [
        ("hands-on time left" if view.begun else "hands-on time", span(view.hands_left), ""),
        ("total time", span(view.plan.elapsed), f" to {clock(view.ends_at)}" if view.begun else ""),
    ]
    if view.runs_at:
        found.append(("runs again at" if view.left else "running since", clock(view.runs_at), ""))
    if view.arrives:
        found.append(("part here", clock(view.arrives), ""))
    return found


def _phase(title: str, steps: list[StepView], looked: StepView | None) -> PhaseLine:
    ended = sum(step.state in _ENDED for step in steps)
    sign = "done" if ended == len(steps) else "part" if ended else "todo"
    lines = [_line(step, step == looked) for step in steps]
    return PhaseLine(title, sign, f"{ended} of {len(steps)}", looked in steps, lines)


def _line(step: StepView, is_looked_at: bool) -> StepLine:
    under = f"Skipped: {step.why_not}" if step.why_not else step.waits_for
    when = clock(step.at) if step.at else f"{round(step.step.minutes)} min" if step.step.minutes else ""
    sign = _SIGNS[step.state]
    return StepLine(step.step.key, step.state, sign, step.number, step.step.do, under, when, is_looked_at)


def _pad(looked: StepView, tips: list[str], in_order: bool) -> StepPad:
    step = looked.step
    ended = {"next": ", next", "done": f", done {clock(looked.at)}", "skipped": f", skipped {clock(looked.at)}"}
    notes = [("contradiction", "suspect", tip) for tip in tips]
    if looked.waits_for and looked.state not in _ENDED:
        notes.append(("contradiction", "suspect", f"{looked.waits_for}."))
    notes += [
        (kind, sign, says)
        for kind, sign, says in (
            ("step-why", "", step.why),
            ("step-mistake", "", step.mistake),
            ("step-caution", "suspect", step.caution),
        )
        if says
    ]
    leads_to = STATION.get(step.station) if step.station != "swap" else None
    station = (leads_to.key, leads_to.title) if leads_to else None
    place = f"Step {looked.number}{ended.get(looked.state, '')}"
    alone = looked.number == 1 or not in_order
    return StepPad(step.key, place, step.do, notes, station, looked.marks, looked.state in _ENDED, alone)


def _carry(view: SwapView) -> list[tuple[str, list[tuple[str, bool]]]]:
    """What is carried up, by title: each with whether it is packed."""
    groups = (("Parts", view.carry.parts), ("Tools", view.carry.tools))
    return [(title, [(item, item[:60] in view.carried) for item in items]) for title, items in groups if items]


def _choices(view: SwapView) -> list[Choice]:
    job, found = view.job, []
    if "inducer" in job.features:
        build = "assembly" if "assembly" in job.features else "motor"
        found.append(Choice("build", "Replaced as", {name: title for name, (title, _) in BUILDS.items()}, build))
    if "direct" in job.features and "assembly" not in job.features:
        found.append(Choice("hub", "Hub", {name: title for name, (title, _) in HUBS.items()}, job.hub))
        if "blade" in job.features:
            words: dict[str, str] = {name: title for name, (title, _) in REMOVALS.items()}
            found.append(Choice("removal", "How it comes out", words, job.removal))
    return found


router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _page(request: Request, call_id: RowId, key: str, status: int = 200, **context: object) -> Response:
    call_view = open_call_view(database(request), call_id)
    view = swap_view(call_view, datetime.now(UTC), key)
    return station_page(
        request,
        "swap",
        call_view,
        status,
        shown=swap_page(view, call_view.call.unit.mounted),
        line=time_line(view),
        waits=wait_words(view),
        photographs=photographs_of(database(request), call_id),
        delivery=delivery_name(database(request)),
        **context,
    )


@router.get("/calls/{call_id}/swap")
@concerns("calls")
def show_swap(request: Request, call_id: RowId) -> Response:
    """The steps, the one in hand on the pad."""
    return _page(request, call_id, request.query_params.get("step", ""))


@router.post("/calls/{call_id}/swap")
@concerns("calls")
def keep_step(request: Request, call_id: RowId, form: Form) -> Response:
    """Tick a step, leave it out, or take either back."""
    db, key, do = database(request), form.get("step", ""), form.get("do", "")
    try:
        if do == "skip":
            skip_step(db, call_id, act_context(form), key, form.get("why", ""))
        elif do == "back":
            take_step_back(db, call_id, act_context(form), key)
        else:
            do_step(db, call_id, act_context(form), key, form, through=do == "through")
    except InvalidField as error:
        return _page(request, call_id, key, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/swap", "pad", step=key if do == "back" else "")


@router.post("/calls/{call_id}/swap/plan")
@concerns("calls")
def keep_plan(request: Request, call_id: RowId, form: Form) -> Response:
    """Settle how it comes apart and when the part arrives."""
    try:
        plan_swap(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        return _page(request, call_id, "", 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/swap")


@router.post("/calls/{call_id}/swap/carry")
@concerns("calls")
def keep_carried(request: Request, call_id: RowId, form: Form) -> Response:
    """Note what is packed."""
    items = [item for item in form.get("items", "").split("|") if item]
    carry_up(database(request), call_id, act_context(form), items)
    return redirect(f"/calls/{call_id}/swap", "pad", step="carry")
