"""Practice: the ladder and progress, the bench on a call's pad, saying what is wrong, the result with its replay."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.faults import FAULTS
from ...core.errors import InvalidField
from ...core.practice.case import write_case
from ...core.practice.score import WORDS
from ...core.readings import KINDS
from ...core.vocabulary import CaseEnd, CaseStart, words_of
from ...services.calls.call_view import open_call_view
from ...services.calls.rail import STATION
from ...services.field_messages import file_message
from ...services.practice.cases import begin_asked, drop_case, practice_state, result
from ...services.practice.job import look_at_wires
from ...services.practice.practice import hand_on, make_test, say, slips_said, wait
from ...services.practice.view import frame_of
from ...services.stations.hook_up import lay_wires
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, render, upload, who_is
from ..practice_charts import progress_chart, replay_chart
from ..practice_job_page import job_lines
from ..tasks import bring_case_in
from .finding import finding_page
from .meter import meter_panel

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
def show_practice(request: Request) -> Response:
    """The ladder, the case of the day, progress, case files."""
    return _home(request)


@router.post("/practice")
def begin_case(request: Request, form: Form) -> Response:
    """Begin a case."""
    try:
        call_id = begin_asked(database(request), act_context(form), form, datetime.now().astimezone().date())
    except InvalidField as error:
        return _home(request, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/path")


@router.post("/practice/files")
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
def test_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Make the pad's test on the practice unit."""
    make_test(database(request), call_id, act_context(form), form)
    return _to_pad(call_id, form)


@router.post("/calls/{call_id}/practice/wait")
def wait_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Let minutes pass."""
    wait(database(request), call_id, act_context(form), form.get("minutes", ""))
    return _to_pad(call_id, form)


@router.post("/calls/{call_id}/practice/say")
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
def look_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Look where the wires of the old motor go."""
    look_at_wires(database(request), call_id, act_context(form))
    return redirect(f"/calls/{call_id}/hook-up", view="found")


@router.post("/calls/{call_id}/practice/lay")
def lay_now(request: Request, call_id: RowId, form: Form) -> Response:
    """Wire the motor as the page has it, right or wrong."""
    lay_wires(database(request), call_id, act_context(form), form)
    return redirect(f"/calls/{call_id}/hook-up", view="plan")


@router.post("/calls/{call_id}/practice/hand-on")
def hand_on_now(request: Request, call_id: RowId, form: Form) -> Response:
    """End a case that ends at Match or Wiring."""
    return redirect(f"/practice/{hand_on(database(request), call_id, act_context(form))}")


@router.get("/calls/{call_id}/practice/meter")
def show_meter(request: Request, call_id: RowId) -> Response:
    """The display of the practice meter, and what may be taken from it."""
    row = open_call_view(database(request), call_id).row
    shown = frame_of(row, datetime.now(UTC))
    if shown is None:
        return meter_panel(request, None, "", False, "No leads are on.")
    return meter_panel(request, shown.frame, shown.kind, shown.steady, "")
