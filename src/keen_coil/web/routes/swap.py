"""Swap: the steps of this job, ticked or left out; how it comes apart; what is carried up."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...services.calls.call_view import open_call_view
from ...services.calls.photographs import photographs_of
from ...services.people.settings import delivery_name
from ...services.stations.swap import carry_up, do_step, plan_swap, skip_step, swap_view, take_step_back, wait_words
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, station_page
from ..swap_drawing import time_line
from ..swap_page import swap_page

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _page(request: Request, call_id: RowId, key: str, status: int = 200, **context: object) -> Response:
    call_view = open_call_view(database(request), call_id)
    view = swap_view(call_view, datetime.now(UTC), key)
    return station_page(
        request,
        "swap",
        call_view,
        status,
        shown=swap_page(view, call_view.call.unit.mounted),
        line=time_line(view),
        waits=wait_words(view),
        photographs=photographs_of(database(request), call_id),
        delivery=delivery_name(database(request)),
        **context,
    )


@router.get("/calls/{call_id}/swap")
def show_swap(request: Request, call_id: RowId) -> Response:
    """The steps, the one in hand on the pad."""
    return _page(request, call_id, request.query_params.get("step", ""))


@router.post("/calls/{call_id}/swap")
def keep_step(request: Request, call_id: RowId, form: Form) -> Response:
    """Tick a step, leave it out, or take either back."""
    db, key, do = database(request), form.get("step", ""), form.get("do", "")
    try:
        if do == "skip":
            skip_step(db, call_id, act_context(form), key, form.get("why", ""))
        elif do == "back":
            take_step_back(db, call_id, act_context(form), key)
        else:
            do_step(db, call_id, act_context(form), key, form, through=do == "through")
    except InvalidField as error:
        return _page(request, call_id, key, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/swap", "pad", step=key if do == "back" else "")


@router.post("/calls/{call_id}/swap/plan")
def keep_plan(request: Request, call_id: RowId, form: Form) -> Response:
    """Settle how it comes apart and when the part arrives."""
    try:
        plan_swap(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        return _page(request, call_id, "", 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/swap")


@router.post("/calls/{call_id}/swap/carry")
def keep_carried(request: Request, call_id: RowId, form: Form) -> Response:
    """Note what is packed."""
    items = [item for item in form.get("items", "").split("|") if item]
    carry_up(database(request), call_id, act_context(form), items)
    return redirect(f"/calls/{call_id}/swap", "pad", step="carry")
