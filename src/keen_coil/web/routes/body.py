"""Body: the section along the shaft, lengths as measured, the hub moved along it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField, NotFound
from ...services.calls.call_view import CallView, open_call_view
from ...services.stations.body import BODY_SECTIONS, STEP_IN, BodyView, body_view, keep_body
from ..auth_middleware import concerns
from ..body_drawing import drawing_of
from ..page import RowId, act_context, call_page, checked_form, database, faults_by_field, redirect

router = APIRouter()


def _page(
    request: Request, call_view: CallView, typed: dict[str, str], status: int = 200, **context: object
) -> Response:
    part = typed.get("part") or (call_view.call.chosen_motor.part_no if call_view.call.chosen_motor else None)
    if not part:
        return redirect(f"/calls/{call_view.row.id}/match")
    view: BodyView | None
    try:
        view = body_view(database(request), call_view, part, typed)
    except InvalidField as error:
        view = body_view(database(request), call_view, part, {})
        context |= {"faults": faults_by_field(error), "fields_typed": typed}
    if view is None:
        raise NotFound(f"motor {part}")
    shown = {
        "view": view,
        "drawing": drawing_of(view),
        "sections": BODY_SECTIONS,
        "step": STEP_IN,
        "fields_typed": {},
        "picked": call_view.call.chosen_motor.part_no if call_view.call.chosen_motor else None,
    }
    return call_page(request, "body", "match", call_view, status, **(shown | context))


@router.get("/calls/{call_id}/body")
@concerns("calls")
def show_body(request: Request, call_id: RowId) -> Response:
    """The section of a motor in this call's place."""
    return _page(request, open_call_view(database(request), call_id), dict(request.query_params))


@router.post("/calls/{call_id}/body")
@concerns("calls")
def keep_lengths(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Keep the lengths and the hub's place."""
    try:
        keep_body(database(request), call_id, act_context(form), form.get("part", ""), form)
    except InvalidField as error:
        call_view = open_call_view(database(request), call_id)
        plain = {"part": form.get("part", "")}
        return _page(request, call_view, plain, 422, faults=faults_by_field(error), fields_typed=form)
    return redirect(f"/calls/{call_id}/body", part=form.get("part"), kept="yes")
