"""Listen: a recording of the running fan, heard out and kept small; its speed and noise are offered as readings."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...services.calls.call_view import open_call_view
from ...services.stations.listening import asked_of, heard_in, keep_sound, practice_sound, stage_of, whose_of
from ..auth_middleware import concerns
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, upload
from .path import path_page
from .run_proof import run_proof_page

router = APIRouter()


def recording_sent(request: Request, call_id: int, form: dict[str, str]) -> bytes:
    """The recording that came with a form, or the stand-in unit of a practice call where that is asked for."""
    if form.get("stand_in") == "yes":
        return practice_sound(database(request), call_id, datetime.now(UTC))
    return upload(request, "recording")[1]


@router.get("/calls/{call_id}/sound.wav")
@concerns("calls")
def play_sound(request: Request, call_id: RowId) -> Response:
    """A practice call's unit, to be heard."""
    return Response(practice_sound(database(request), call_id, datetime.now(UTC)), media_type="audio/wav")


@router.post("/calls/{call_id}/listen")
@concerns("calls")
def listen_to(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Hear a recording out and show it beside the pad it was sent from."""
    db, stage = database(request), stage_of(form)
    try:
        bounds = asked_of(db, call_id, form)
        data = recording_sent(request, call_id, form)
        heard, spectrum = request.app.state.workers.run(heard_in, data, bounds)
        keep_sound(db, call_id, act_context(form), bounds, whose_of(form), heard, spectrum)
    except InvalidField as error:
        page = run_proof_page if stage == "proof" else path_page
        return page(request, open_call_view(db, call_id), form, 422, sound_faults=faults_by_field(error))
    if stage == "proof":
        return redirect(f"/calls/{call_id}/run-proof", "sound", check=form.get("check"))
    return redirect(f"/calls/{call_id}/path", "sound", link=form.get("link"), kind=form.get("kind"))
