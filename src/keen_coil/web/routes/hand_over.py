"""Hand over: the record as page and PDF, follow-ups as a calendar, parts booked, the call closed."""

from __future__ import annotations

import base64
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...formats.pdf import pdf_of
from ...services.calls.call_view import CallView, open_call_view
from ...services.calls.photographs import MEDIA_TYPE, photograph, photographs_of
from ...services.log.log import found_good
from ...services.people.settings import shop_name
from ...services.stations.finding import JUDGED, wants_judgement
from ...services.stations.follow_ups import as_calendar, open_follow_ups
from ...services.stations.hand_over import SOURCES, add_follow_up, close_call, drop_follow_up, hand_over_view
from ...services.stations.record import record_of
from ...services.stations.warranty import warranty_sheet
from ..auth_middleware import concerns
from ..page import (
    HERE,
    RowId,
    act_context,
    checked_form,
    database,
    faults_by_field,
    in_shop_units,
    moment,
    redirect,
    render,
    station_page,
)

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _audience(request: Request, default: str = "customer") -> str:
    asked = request.query_params.get("for", "")
    return asked if asked in ("customer", "shop") else default


def _page(request: Request, call_id: RowId, status: int = 200, **context: object) -> Response:
    db = database(request)
    view = open_call_view(db, call_id)
    return station_page(
        request,
        "hand-over",
        view,
        status,
        record=record_of(view),
        audience=_audience(request),
        hand=hand_over_view(db, view),
        sources=SOURCES,
        wants_judgement=view.is_open and not view.row.practice and wants_judgement(view),
        judged_verdicts=JUDGED,
        own=view.call.judgement,
        shop_name=shop_name(db),
        **context,
    )


@router.get("/calls/{call_id}/hand-over")
@concerns("calls")
def show_hand_over(request: Request, call_id: RowId) -> Response:
    """The record, and closing the call."""
    return _page(request, call_id)


@router.post("/calls/{call_id}/hand-over")
@concerns("calls")
def keep_outcome(request: Request, call_id: RowId, form: Form) -> Response:
    """Close the call."""
    try:
        close_call(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        return _page(request, call_id, 422, faults=faults_by_field(error), typed=form)
    ended = open_call_view(database(request), call_id).row.practice_case
    return redirect(f"/practice/{ended.id}" if ended else f"/calls/{call_id}/hand-over")


@router.post("/calls/{call_id}/follow-ups")
@concerns("calls")
def keep_follow_up(request: Request, call_id: RowId, form: Form) -> Response:
    """Note a follow-up, or take one back."""
    try:
        if form.get("drop"):
            drop_follow_up(database(request), call_id, act_context(form), form["drop"])
        else:
            add_follow_up(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        return _page(request, call_id, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/hand-over")


@router.post("/calls/{call_id}/found-good")
@concerns("calls")
def keep_found_good(request: Request, call_id: RowId, form: Form) -> Response:
    """Note that the motor that was condemned was tested again and is good."""
    try:
        found_good(database(request), call_id, act_context(form), form.get("good", ""))
    except InvalidField as error:
        return _page(request, call_id, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/hand-over")


@router.get("/calls/{call_id}/record")
@concerns("calls")
def show_record(request: Request, call_id: RowId) -> Response:
    """The record alone, for printing."""
    view = open_call_view(database(request), call_id)
    return render(
        request,
        "record.html",
        call_view=view,
        record=record_of(view),
        audience=_audience(request, "shop"),
        shop_name=shop_name(database(request)),
    )


@router.get("/calls/{call_id}/record.pdf")
@concerns("calls")
def give_pdf(request: Request, call_id: RowId) -> Response:
    """The record as PDF, the shop's with its photographs."""
    view, audience = open_call_view(database(request), call_id), _audience(request)
    pictures = _pictures(request, view) if audience == "shop" else []
    page = request.app.state.templates.get_template("record_pdf.html").render(
        call_view=view,
        record=record_of(view),
        audience=audience,
        photographs=pictures,
        shop_name=shop_name(database(request)),
    )
    name = f"call-{call_id}-{audience}.pdf"
    made = request.app.state.workers.run(pdf_of, in_shop_units(request, page), HERE / "static")
    return _file(made, "application/pdf", name)


@router.get("/calls/{call_id}/warranty.pdf")
@concerns("calls")
def give_warranty(request: Request, call_id: RowId) -> Response:
    """The sheet for the parts counter as PDF, with its photographs."""
    view = open_call_view(database(request), call_id)
    page = request.app.state.templates.get_template("warranty_pdf.html").render(
        call_view=view,
        sheet=warranty_sheet(view),
        photographs=_pictures(request, view),
        shop_name=shop_name(database(request)),
    )
    made = request.app.state.workers.run(pdf_of, in_shop_units(request, page), HERE / "static")
    return _file(made, "application/pdf", f"call-{call_id}-warranty.pdf")


def _pictures(request: Request, view: CallView) -> list[tuple[str, str]]:
    db, found = database(request), []
    for shown in photographs_of(db, view.row.id):
        content = photograph(db, view.row.id, shown.id)
        data = f"data:{MEDIA_TYPE};base64,{base64.b64encode(content).decode('ascii')}"
        found.append((f"{shown.subject}, {moment(shown.taken_at)}", data))
    return found


@router.get("/calls/{call_id}/follow-ups.ics")
@concerns("calls")
def give_calendar(request: Request, call_id: RowId) -> Response:
    """The follow-ups of a call as an iCalendar file."""
    due = open_follow_ups(database(request), call_id)
    return _file(as_calendar(due, datetime.now(UTC)), "text/calendar; charset=utf-8", f"call-{call_id}.ics")


def _file(data: bytes, media: str, name: str) -> Response:
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})
