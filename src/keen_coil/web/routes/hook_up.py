"""Hook-up: as found, to be, tried out; the drawing and the netlist to take away."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...desk.call_view import open_call_view
from ...desk.hookup import as_spice, as_svg, wired
from ...desk.hookup_station import VIEWS, View, hookup_view, keep_found, keep_leads, keep_plan, tick_moves
from ...desk.photographs import photographs_of
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, station_page

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _view(text: str) -> View:
    return next((name for name, _ in VIEWS if name == text), "plan")


def _page(request: Request, call_id: RowId, view: View, status: int = 200, **context: object) -> Response:
    call_view = open_call_view(database(request), call_id)
    query = dict(request.query_params)
    shown = hookup_view(call_view, view, query.get("school"), query if view == "try" else None)
    photographs = [photo for photo in photographs_of(database(request), call_id) if photo.subject == "wiring"]
    return station_page(
        request, "hook-up", call_view, status, hookup=shown, views=VIEWS, photographs=photographs, **context
    )


@router.get("/calls/{call_id}/hook-up")
def show_hook_up(request: Request, call_id: RowId) -> Response:
    """A view of the hook-up."""
    return _page(request, call_id, _view(request.query_params.get("view", "plan")))


@router.post("/calls/{call_id}/hook-up/leads")
def save_leads(request: Request, call_id: RowId, form: Form) -> Response:
    """Note the leads of a motor with the winding ends they bring out."""
    view = _view(form.get("view", ""))
    try:
        keep_leads(database(request), call_id, act_context(form), view, form.get("leads", ""))
    except InvalidField as error:
        return _page(request, call_id, view, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/hook-up", view=view)


@router.post("/calls/{call_id}/hook-up/found")
def save_found(request: Request, call_id: RowId, form: Form) -> Response:
    """Note where each old wire was."""
    try:
        keep_found(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        return _page(request, call_id, "found", 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/hook-up", view="found")


@router.post("/calls/{call_id}/hook-up/plan")
def save_plan(request: Request, call_id: RowId, form: Form) -> Response:
    """Keep the plan, or tick its moves."""
    try:
        if form.get("do") == "tick":
            tick_moves(database(request), call_id, act_context(form), form.get("steps", ""))
        else:
            keep_plan(database(request), call_id, act_context(form), form.get("school", ""))
    except InvalidField as error:
        return _page(request, call_id, "plan", 422, faults=faults_by_field(error))
    return redirect(f"/calls/{call_id}/hook-up", view="plan", school=form.get("school"))


def _file(request: Request, call_id: RowId, media: str, name: str) -> Response:
    call = open_call_view(database(request), call_id).call
    done = wired(call, None, request.query_params.get("school") or None, check=False)
    text = as_svg(done) if name.endswith(".svg") else as_spice(done)
    return Response(text, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/calls/{call_id}/hook-up.svg")
def give_drawing(request: Request, call_id: RowId) -> Response:
    """The plan's drawing as a file."""
    return _file(request, call_id, "image/svg+xml", f"hook-up-{call_id}.svg")


@router.get("/calls/{call_id}/hook-up.cir")
def give_netlist(request: Request, call_id: RowId) -> Response:
    """The plan's circuit as a SPICE netlist."""
    return _file(request, call_id, "text/plain; charset=utf-8", f"hook-up-{call_id}.cir")
