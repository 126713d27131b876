"""Hand over: close the call, the printable record."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.faults import FAULTS
from ...core.errors import BadInput
from ...desk.calls import close_call
from ...desk.record import record_of
from ...desk.sheet import open_sheet
from ..page import checked_form, database, faults_by_field, go, render, stamp_of, station_page

router = APIRouter()


@router.get("/calls/{call_id}/hand-over")
def show_hand_over(request: Request, call_id: int) -> Response:
    """The record, and closing the call."""
    return _page(request, call_id)


def _page(request: Request, call_id: int, status: int = 200, **context: object) -> Response:
    sheet = open_sheet(database(request), call_id)
    return station_page(request, "hand-over", sheet, status, record=record_of(sheet), faults_table=FAULTS, **context)


@router.post("/calls/{call_id}/hand-over")
def keep_outcome(request: Request, call_id: int, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Close the call."""
    try:
        close_call(database(request), call_id, stamp_of(form), form)
    except BadInput as error:
        return _page(request, call_id, 422, faults=faults_by_field(error), typed=form)
    return go(f"/calls/{call_id}/hand-over")


@router.get("/calls/{call_id}/record")
def show_record(request: Request, call_id: int) -> Response:
    """The record alone, for printing."""
    sheet = open_sheet(database(request), call_id)
    return render(request, "record.html", sheet=sheet, record=record_of(sheet))
