"""The board of calls, a new call, a call file brought in or taken away."""

from __future__ import annotations

import json
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.vocabulary import UnitKind, words_of
from ...formats.call_file import load_call
from ...services.calls.call_files import export_call, import_call
from ...services.calls.call_view import open_call_view
from ...services.calls.calls import board, open_call, places, technicians
from ...services.calls.rail import entry
from ...services.catalog.van_plan import below_level
from ...services.field_messages import file_message
from ...services.people.first_run import first_steps
from ...services.people.people import vans
from ...services.people.settings import shop_name
from ..auth_middleware import concerns
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, render, upload, who_is

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _board(request: Request, status: int = 200, **context: object) -> Response:
    db = database(request)
    opened, closed = board(db)
    return render(
        request,
        "board.html",
        status,
        opened=opened,
        closed=closed,
        places=places(db),
        unit_kinds=words_of(UnitKind),
        technicians=technicians(db),
        below=below_level(db),
        shop_name=shop_name(db),
        van_count=len(vans(db)),
        first_steps=first_steps(db) if not opened and not closed else [],
        me=who_is(request),
        **context,
    )


@router.get("/")
@concerns("calls")
def show_board(request: Request) -> Response:
    """The open calls of the van, and the latest closed ones."""
    return _board(request)


@router.post("/calls")
@concerns("calls")
def new_call(request: Request, form: Form) -> Response:
    """Open a call and go to it."""
    try:
        call_id = open_call(database(request), act_context(form), form)
    except InvalidField as error:
        return _board(request, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/arrive")


@router.post("/calls/import")
@concerns("calls")
def bring_call_in(request: Request, form: Form) -> Response:
    """Bring a call file in and go to it."""
    try:
        name, data = upload(request)
        call = request.app.state.workers.run(load_call, data)
        call_id = import_call(database(request), act_context(form), call, name)
    except InvalidField as error:
        lines = [file_message(fault) for fault in error.errors]
        return _board(request, 422, file_faults=lines)
    return redirect(f"/calls/{call_id}/path")


@router.get("/calls/{call_id}")
@concerns("calls")
def enter_call(request: Request, call_id: RowId) -> Response:
    """Into a call at its first station that is not done."""
    view = open_call_view(database(request), call_id)
    return redirect(f"/calls/{call_id}/{entry(view)}")


@router.get("/calls/{call_id}/call.json")
@concerns("calls")
def take_call_away(request: Request, call_id: RowId) -> Response:
    """The call as a call file."""
    view = open_call_view(database(request), call_id)
    text = json.dumps(export_call(view), indent=2, ensure_ascii=False)
    headers = {"Content-Disposition": f'attachment; filename="call-{call_id}.call.json"'}
    return Response(text, media_type="application/json", headers=headers)
