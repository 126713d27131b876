"""Capacitor: what the motor needs, what of the van serves it, how it is strapped."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.capacitors.needed import RENEWALS
from ...core.errors import InvalidField
from ...services.calls.call_view import open_call_view
from ...services.stations.capacitor import capacitor_view, choose_capacitor, set_renewal
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, station_page
from ..strap_drawing import strap_drawing

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _page(request: Request, call_id: RowId, status: int = 200, **context: object) -> Response:
    call_view = open_call_view(database(request), call_id)
    query = request.query_params
    everything = query.get("more") == "yes"
    view = capacitor_view(database(request), call_view, query.get("answer", ""), everything)
    drawing = None if view.looked_at is None else strap_drawing(view.looked_at.strapped, view.looked_at.ufs)
    return station_page(
        request,
        "capacitor",
        call_view,
        status,
        view=view,
        drawing=drawing,
        renewals=RENEWALS,
        everything=everything,
        **context,
    )


@router.get("/calls/{call_id}/capacitor")
def show_capacitor(request: Request, call_id: RowId) -> Response:
    """What the motor of a call needs, and what serves it."""
    return _page(request, call_id)


@router.post("/calls/{call_id}/capacitor")
def keep_capacitor(request: Request, call_id: RowId, form: Form) -> Response:
    """Choose a capacitor, or take the choice back."""
    try:
        choose_capacitor(database(request), call_id, act_context(form), form.get("capacitor", ""))
    except InvalidField as error:
        return _page(request, call_id, 422, faults=faults_by_field(error))
    return redirect(f"/calls/{call_id}/capacitor", answer=form.get("capacitor"))


@router.post("/calls/{call_id}/renewal")
def keep_renewal(request: Request, call_id: RowId, form: Form) -> Response:
    """Choose how this call renews capacitors."""
    set_renewal(database(request), call_id, act_context(form), form.get("renewal", ""))
    return redirect(f"/calls/{call_id}/capacitor")
