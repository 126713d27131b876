"""Practice: the ladder and progress, the bench on a call's pad, saying what is wrong, the result with its replay."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.faults import FAULTS
from ...core.errors import InvalidField
from ...core.machine.expected import Range
from ...core.practice.case import write_case
from ...core.practice.job.callbacks import ComesBack, Outcome
from ...core.practice.job.score import JobScore, Took
from ...core.practice.job.work_done import FIGURES
from ...core.practice.score import WORDS, Step
from ...core.readings import KINDS
from ...core.thermal.cost import life_words
from ...core.vocabulary import CaseEnd, CaseStart, words_of
from ...services.calls.call_view import open_call_view
from ...services.calls.rail import STATION
from ...services.field_messages import file_message
from ...services.practice.cases import Progress, begin_asked, drop_case, practice_state, result
from ...services.practice.job import look_at_wires
from ...services.practice.practice import hand_on, make_test, say, slips_said, wait
from ...services.practice.view import frame_of
from ...services.stations.hook_up import lay_wires
from ..auth_middleware import concerns
from ..chart import Stop
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, render, upload, who_is
from ..pictures import Line, Plot, Text
from ..tasks import bring_case_in
from .finding import finding_page
from .meter import meter_panel

SAME_DAY, A_WEEK = 0.05, 0.4


@dataclass(frozen=True)
class BackLine:
    """A callback: when, with what, what brought it, what is done instead."""

    when: str
    fault: str
    says: str
    instead: str


@dataclass(frozen=True)
class JobLines:
    """The job's part of the result."""

    is_good: bool
    headline: str
    life: str
    backs: list[BackLine]
    order: list[tuple[str, str]]
    wasted: list[str]
    rows: list[tuple[str, str, str]]


def job_lines(job: JobScore | None) -> JobLines | None:
    """The lines of a job; None for a case that ended at Finding."""
    if job is None:
        return None
    mine, engine = job.mine, job.engine
    return JobLines(
        is_good=job.is_good,
        headline=_headline(mine),
        life=_life(mine.outcome),
        backs=[_back(back) for back in mine.outcome.callbacks],
        order=[(row.says, row.instead) for row in job.order],
        wasted=mine.wasted,
        rows=[
            ("parts, cost", _money(mine), _money(engine)),
            ("minutes, all in", f"{mine.minutes:.0f}", f"{engine.minutes:.0f}"),
            ("trips to the van", str(mine.trips), str(engine.trips)),
            ("callbacks", str(len(mine.outcome.callbacks)), str(len(engine.outcome.callbacks))),
            ("winding", _winding(mine.outcome), _winding(engine.outcome)),
        ],
    )


def _headline(mine: Took) -> str:
    found = mine.outcome
    if not found.runs:
        return "It does not run right as you left it."
    if found.trips_after_min is not None:
        return "It runs when you leave, and stops hot."
    if found.callbacks:
        return f"It runs, and it comes back {when_words(found.callbacks[0].months)}."
    if mine.wasted:
        return "It runs, and a good part was thrown away."
    return f"It runs, and nobody calls back within {FIGURES.horizon_months / 12:.0f} years."


def when_words(months: float) -> str:
    """When somebody is called back: `the same day`, `after about 11 months`."""
    if months < SAME_DAY:
        return "the same day"
    if months < A_WEEK:
        return "within two weeks"
    whole = max(1, round(months))
    return f"after about {whole} month{'' if whole == 1 else 's'}"


def _back(back: ComesBack) -> BackLine:
    fault = FAULTS[back.fault].says.rstrip(".")
    return BackLine(when_words(back.months), fault[0].lower() + fault[1:], back.says, back.instead)


def _money(took: Took) -> str:
    return f"{took.cost:.0f}"


def _winding(found: Outcome) -> str:
    return "-" if found.winding_c is None else f"{found.winding_c:.0f} °C"


def _life(found: Outcome) -> str:
    if found.life is None:
        return ""
    return (
        f"By the model the winding gets {life_words(Range(found.life, found.life, found.life))}, here and as it is now."
    )


ROW, BAR, THICK = 38.0, 330.0, 9.0
WIDTH, HEIGHT, LEFT, TOP, FOOT = 640.0, 150.0, 52.0, 14.0, 26.0
FEW = 24


@dataclass(frozen=True)
class Bar:
    """A family's bar: where it stands, how long it is."""

    y: float
    name: str
    width: float
    says: str
    tried: bool


@dataclass(frozen=True)
class Bars:
    """Progress by family as bars."""

    width: float
    height: float
    thick: float
    bars: list[Bar]
    says: str


def progress_chart(progress: list[Progress]) -> Bars:
    """A bar a family: the share of its latest cases that was right."""
    bars = [
        Bar(
            20 + ROW * n,
            row.family.name,
            BAR * row.share,
            f"{row.right} of {row.tries}" if row.tries else "not tried",
            bool(row.tries),
        )
        for n, row in enumerate(progress)
    ]
    says = "Right by fault family: " + ", ".join(f"{bar.name} {bar.says}" for bar in bars)
    return Bars(BAR, 4 + ROW * len(bars), THICK, bars, says)


def replay_chart(steps: list[Step]) -> Plot | None:
    """The chance that the engine gave to what was really so, after each reading."""
    if not steps:
        return None
    wide = (WIDTH - LEFT - 16) / (len(steps) + 1)

    def x(n: int) -> float:
        return LEFT + wide * n

    def y(share: float) -> float:
        return HEIGHT - FOOT - (HEIGHT - FOOT - TOP) * share

    shares = [steps[0].truth / 2 ** steps[0].moved_bits, *(step.truth for step in steps)]
    path = f"M{x(0):.1f} {y(shares[0]):.1f}"
    path += "".join(f"H{x(n):.1f}V{y(share):.1f}" for n, share in enumerate(shares)) + f"H{x(len(shares)):.1f}"
    lines = [
        Line(f"M{LEFT:g} {TOP:g}V{HEIGHT - FOOT:g}H{WIDTH - 16:g}", "thin"),
        Line(f"M{LEFT:g} {y(0.8):.1f}H{WIDTH - 16:g}", "floor"),
        Line(path, "wire"),
    ]
    texts = [Text(LEFT - 8, y(share) + 5, says, "end") for share, says in ((1.0, "100 %"), (0.8, "80"), (0.0, "0"))]
    every = 1 if len(steps) <= FEW else 5
    texts += [
        Text(x(n) + wide / 2, HEIGHT - 7, str(n) if n else "before", "middle") for n in range(0, len(shares), every)
    ]
    said = ", ".join(f"{n}: {100 * step.truth:.0f} %" for n, step in enumerate(steps, start=1))
    named = ["before", *(f"{n}, {KINDS[step.kind].title} {step.value}" for n, step in enumerate(steps, start=1))]
    stops = [
        Stop(x(n) + wide / 2, f"{name}: {100 * share:.0f} %", ((y(share), "found"),))
        for n, (name, share) in enumerate(zip(named, shares, strict=True))
    ]
    return Plot(WIDTH, HEIGHT, lines, texts, f"Chance of what was really so after each reading. {said}", stops)


router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
LARGEST_CASE = 400_000


def _home(request: Request, status: int = 200, **context: object) -> Response:
    person = who_is(request)
    found = practice_state(database(request), datetime.now().astimezone().date(), person.id if person else None)
    return render(
        request,
        "practice.html",
        status,
        station="practice",
        practice=found,
        person=person,
        chart=progress_chart(found.progress),
        spans=(words_of(CaseStart), words_of(CaseEnd)),
        stations=STATION,
        **context,
    )


@router.get("/practice")
@concerns("practice")
def show_practice(request: Request) -> Response:
    """The ladder, the case of the day, progress, case files."""
    return _home(request)


@router.post("/practice")
@concerns("practice")
def begin_case(request: Request, form: Form) -> Response:
    """Begin a case."""
    try:
        call_id = begin_asked(database(request), act_context(form), form, datetime.now().astimezone().date())
    except InvalidField as error:
        return _home(request, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/path")


@router.post("/practice/files")
@concerns("practice")
def bring_file(request: Request, form: Form) -> Response:
    """Bring a case file in, or take one away."""
    try:
        if form.get("drop"):
            drop_case(database(request), act_context(form), form["drop"])
            return redirect("/practice", "files")
        _, content = upload(request, largest=LARGEST_CASE)
        title = request.app.state.workers.run(bring_case_in, database(request).path, act_context(form), content)
    except InvalidField as error:
        lines = [file_message(fault) for fault in error.errors]
        return _home(request, 422, faults={"file": " ".join(lines[:6])}, typed=form)
    return redirect("/practice", "files", brought=title)


@router.get("/practice/{number}")
@concerns("practice")
def show_result(request: Request, number: RowId) -> Response:
    """How a case went, and the replay."""
    found = result(database(request), number)
    return render(
        request,
        "practice_result.html",
        station="practice",
        found=found,
        score=found.score,
        verdicts=WORDS,
        job=job_lines(found.score.job),
        faults_table=FAULTS,
        slips=slips_said(found.score.slips),
        chart=replay_chart(found.score.replay),
        kinds=KINDS,
    )


@router.get("/practice/{number}/case.json")
@concerns("practice")
def give_case(request: Request, number: RowId) -> Response:
    """The case of an ended practice call as a file."""
    found = result(database(request), number)
    text = json.dumps(write_case(found.case), indent=2, ensure_ascii=False)
    headers = {"Content-Disposition": f'attachment; filename="case-{found.case.seed}.json"'}
    return Response(text, media_type="application/json; charset=utf-8", headers=headers)


def _to_pad(call_id: RowId, form: dict[str, str]) -> Response:
    if form.get("check"):
        return redirect(f"/calls/{call_id}/run-proof", "pad", check=form["check"], when=form.get("when"))
    asked = {name: form.get(name) for name in ("link", "kind", "at", "pair")}
    return redirect(f"/calls/{call_id}/path", "pad", **asked)


@router.post("/calls/{call_id}/practice/test")
@concerns("practice")
def test_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Make the pad's test on the practice unit."""
    make_test(database(request), call_id, act_context(form), form)
    return _to_pad(call_id, form)


@router.post("/calls/{call_id}/practice/wait")
@concerns("practice")
def wait_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Let minutes pass."""
    wait(database(request), call_id, act_context(form), form.get("minutes", ""))
    return _to_pad(call_id, form)


@router.post("/calls/{call_id}/practice/say")
@concerns("practice")
def say_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Say what is wrong, which ends the case."""
    faults = [fault for fault in form.get("items", "").split("|") if fault]
    try:
        number = say(database(request), call_id, act_context(form), form.get("verdict", ""), faults)
    except InvalidField as error:
        view = open_call_view(database(request), call_id)
        return finding_page(request, view, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/finding" if number is None else f"/practice/{number}")


@router.post("/calls/{call_id}/practice/wires")
@concerns("practice")
def look_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Look where the wires of the old motor go."""
    look_at_wires(database(request), call_id, act_context(form))
    return redirect(f"/calls/{call_id}/hook-up", view="found")


@router.post("/calls/{call_id}/practice/lay")
@concerns("practice")
def lay_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Wire the motor as the page has it, right or wrong."""
    lay_wires(database(request), call_id, act_context(form), form)
    return redirect(f"/calls/{call_id}/hook-up", view="plan")


@router.post("/calls/{call_id}/practice/hand-on")
@concerns("practice")
def hand_on_now(request: Request, call_id: RowId, form: Form) -> Response:
    """End a case that ends at Match or Wiring."""
    return redirect(f"/practice/{hand_on(database(request), call_id, act_context(form))}")


@router.get("/calls/{call_id}/practice/meter")
@concerns("practice")
def show_meter(request: Request, call_id: RowId) -> Response:
    """The display of the practice meter, and what may be taken from it."""
    row = open_call_view(database(request), call_id).row
    shown = frame_of(row, datetime.now(UTC))
    if shown is None:
        return meter_panel(request, None, "", False, "No leads are on.")
    return meter_panel(request, shown.frame, shown.kind, shown.steady, "")
