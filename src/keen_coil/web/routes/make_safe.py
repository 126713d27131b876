"""Make safe: the steps, and the power strip of every station."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.case import Case
from ...core.diagnosis.causes import bleed_caution
from ...core.limits import DEFAULTS
from ...desk.make_safe import set_power, tick_steps
from ...desk.safe_steps import STEPS
from ...desk.sheet import STATIONS, open_sheet
from ..page import RowId, checked_form, database, go, stamp_of, station_page

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


@router.get("/calls/{call_id}/make-safe")
def show_make_safe(request: Request, call_id: RowId) -> Response:
    """The steps of making safe."""
    sheet = open_sheet(database(request), call_id)
    bleed = bleed_caution(Case(sheet.call, DEFAULTS))
    return station_page(request, "make-safe", sheet, steps=STEPS, bleed=bleed, cautions=sheet.assessment.cautions)


@router.post("/calls/{call_id}/make-safe")
def keep_steps(request: Request, call_id: RowId, form: Form) -> Response:
    """Save the ticks; go on when asked to."""
    tick_steps(database(request), call_id, stamp_of(form), [step for step in form.get("steps", "").split("|") if step])
    return go(f"/calls/{call_id}/{'plates' if form.get('then') == 'on' else 'make-safe'}")


@router.post("/calls/{call_id}/power")
def switch_strip(request: Request, call_id: RowId, form: Form) -> Response:
    """Set the power strip and stay at the station."""
    set_power(database(request), call_id, stamp_of(form), form.get("power", ""))
    back = form.get("station", "")
    station = back if back in {name for name, _, _ in STATIONS} else "path"
    return go(f"/calls/{call_id}/{station}", link=form.get("link"), kind=form.get("kind"), at=form.get("at"))
