"""Photographs of a call: add one, show one."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...services.calls.photographs import MEDIA_TYPE, READABLE, add_photograph, drawn_anew, photograph
from ..auth_middleware import concerns
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, upload
from .match import plate_page
from .plates import plates_page

router = APIRouter()


@router.post("/calls/{call_id}/photographs")
@concerns("calls")
def keep_photograph(
    request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]
) -> Response:
    """Keep a photograph with the call."""
    try:
        name, data = upload(request, "photo")
        drawn = request.app.state.workers.run(drawn_anew, data, name)
        subject = form.get("subject", "")
        kept = add_photograph(database(request), call_id, act_context(form), subject, drawn)
    except InvalidField as error:
        told = faults_by_field(error)
        if form.get("to") == "new":
            return plate_page(request, call_id, 422, photo_faults=told)
        return plates_page(
            request, call_id, 422, **{"photo_faults" if form.get("read") else "other_photo_faults": told}
        )
    if form.get("read") and subject in READABLE:
        return redirect(f"/calls/{call_id}/plates/read/{kept}", to="new" if form.get("to") == "new" else None)
    return redirect(f"/calls/{call_id}/plates", "photographs")


@router.get("/calls/{call_id}/photographs/{photo_id}")
@concerns("calls")
def show_photograph(request: Request, call_id: RowId, photo_id: RowId) -> Response:
    """The picture itself."""
    content = photograph(database(request), call_id, photo_id)
    return Response(content, media_type=MEDIA_TYPE, headers={"Cache-Control": "private, max-age=86400"})
