"""Arrive: the complaint, and what else can look like a dead motor."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.applies import has
from ...core.errors import InvalidField
from ...services.calls.call_view import open_call_view
from ...services.calls.calls import save_complaint
from ...services.calls.earlier_visit import earlier_visits, use_earlier_visit
from ...services.calls.rail import next_after
from ...services.log.unit_history import add_sister, motors_here, pick_motor_at_fault
from ..auth_middleware import concerns
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, station_page

router = APIRouter()
LOOKALIKES = (
    ("Defrost", "The outdoor fan is supposed to stop in defrost.", "heat_pump"),
    ("No call", "The thermostat is not calling.", ""),
    ("A safety", "High pressure or a limit opened, for a reason.", "outdoor"),
    ("A safety", "Limit, float or door switch opened, for a reason.", "indoor"),
    ("A delay", "The fan delay is still counting.", ""),
    ("Fan control", "A head-pressure or speed control holds it off in cold weather.", "outdoor"),
    ("Lockout", "The board or a leak detector locked it out.", ""),
    ("Last visit", "A wire was left off, or the wrong part was put in.", ""),
)
"""What looks like a dead motor, in words, and the kind of motor or unit that it can be met on."""


@router.get("/calls/{call_id}/arrive")
@concerns("calls")
def show_arrive(request: Request, call_id: RowId) -> Response:
    """The complaint."""
    return _page(request, call_id)


def _page(request: Request, call_id: RowId, status: int = 200, **context: object) -> Response:
    view = open_call_view(database(request), call_id)
    motors = motors_here(database(request), view)
    visits = earlier_visits(database(request), view) if view.is_open else []
    lookalikes = [(name, says) for name, says, needs in LOOKALIKES if not needs or has(view.call, needs)]
    shown = {"lookalikes": lookalikes, "motors": motors, "visits": visits}
    return station_page(request, "arrive", view, status, **(shown | context))


@router.post("/calls/{call_id}/earlier")
@concerns("calls")
def keep_earlier(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Take an earlier visit over as found."""
    try:
        use_earlier_visit(database(request), call_id, act_context(form), form.get("earlier", ""))
    except InvalidField as error:
        return _page(request, call_id, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/path")


@router.post("/calls/{call_id}/arrive")
@concerns("calls")
def keep_complaint(
    request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]
) -> Response:
    """Save the complaint and go on."""
    try:
        save_complaint(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        faults = {path.removeprefix("complaint."): text for path, text in faults_by_field(error).items()}
        return _page(request, call_id, 422, faults=faults, typed=form)
    return redirect(f"/calls/{call_id}/{next_after(open_call_view(database(request), call_id), 'arrive')}")


@router.post("/calls/{call_id}/motor")
@concerns("calls")
def choose_motor(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Say which motor of the unit is at fault, or note a sister."""
    db = database(request)
    try:
        if form.get("motor_id"):
            pick_motor_at_fault(db, call_id, act_context(form), form["motor_id"])
        else:
            add_sister(db, call_id, act_context(form), form.get("place", ""))
    except InvalidField as error:
        return _page(request, call_id, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/arrive")
