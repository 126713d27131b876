"""Make safe: the steps, and the power strip of every station."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.applies import OUTDOOR, has
from ...core.diagnosis.case import Case
from ...core.diagnosis.causes import bleed_caution
from ...core.limits import DEFAULTS
from ...services.calls.call_view import open_call_view
from ...services.calls.rail import STATION, next_after
from ...services.stations.make_safe import set_power, tick_steps
from ...services.stations.safe_steps import STEPS
from ..auth_middleware import concerns
from ..page import RowId, act_context, checked_form, database, redirect, station_page

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


@router.get("/calls/{call_id}/make-safe")
@concerns("calls")
def show_make_safe(request: Request, call_id: RowId) -> Response:
    """The steps of making safe."""
    view = open_call_view(database(request), call_id)
    bleed = bleed_caution(Case(view.call, DEFAULTS)) if has(view.call, "capacitor") else ""
    outdoor = view.call.unit.kind in OUTDOOR
    cautions = view.assessment.cautions
    return station_page(request, "make-safe", view, steps=STEPS, bleed=bleed, is_outdoor=outdoor, cautions=cautions)


@router.post("/calls/{call_id}/make-safe")
@concerns("calls")
def keep_steps(request: Request, call_id: RowId, form: Form) -> Response:
    """Save the ticks; go on when asked to."""
    tick_steps(
        database(request), call_id, act_context(form), [step for step in form.get("steps", "").split("|") if step]
    )
    if form.get("then") != "on":
        return redirect(f"/calls/{call_id}/make-safe")
    return redirect(f"/calls/{call_id}/{next_after(open_call_view(database(request), call_id), 'make-safe')}")


@router.post("/calls/{call_id}/power")
@concerns("calls")
def switch_strip(request: Request, call_id: RowId, form: Form) -> Response:
    """Set the power strip and stay at the station."""
    set_power(database(request), call_id, act_context(form), form.get("power", ""))
    back = form.get("station", "")
    station = back if back in STATION else "path"
    return redirect(f"/calls/{call_id}/{station}", link=form.get("link"), kind=form.get("kind"), at=form.get("at"))
