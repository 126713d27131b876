"""Match: old and new plates held together, candidates, the choice."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import BadInput
from ...core.match.schools import NAMES, SCHOOLS
from ...desk.catalogue import match_call, pick_motor, set_school
from ...desk.sheet import Sheet, open_sheet
from ..page import checked_form, database, faults_by_field, go, stamp_of, station_page

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _page(request: Request, sheet: Sheet, status: int = 200, **context: object) -> Response:
    query = request.query_params
    picked = sheet.call.chosen_motor.part_no if sheet.call.chosen_motor else None
    everything = query.get("all") == "yes"
    view = match_call(database(request), sheet, sheet.row.school, query.get("part") or picked, everything)
    return station_page(
        request, "match", sheet, status, view=view, picked=picked, everything=everything,
        schools=[(school, NAMES[school]) for school in SCHOOLS], **context,
    )  # fmt: skip


@router.get("/calls/{call_id}/match")
def show_match(request: Request, call_id: int) -> Response:
    """The match of a call."""
    return _page(request, open_sheet(database(request), call_id))


@router.post("/calls/{call_id}/match")
def keep_choice(request: Request, call_id: int, form: Form) -> Response:
    """Choose a motor, or take the choice back."""
    try:
        pick_motor(database(request), call_id, stamp_of(form), form.get("part_no", ""))
    except BadInput as error:
        return _page(request, open_sheet(database(request), call_id), 422, faults=faults_by_field(error))
    return go(f"/calls/{call_id}/match", part=form.get("part_no"))


@router.post("/calls/{call_id}/school")
def keep_school(request: Request, call_id: int, form: Form) -> Response:
    """Choose how this call sizes power."""
    set_school(database(request), call_id, stamp_of(form), form.get("school", ""))
    return go(f"/calls/{call_id}/match", part=form.get("part"))
