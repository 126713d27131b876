"""Path: the drawn path, the pad beside it, the readings below."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import BadInput
from ...core.instructions import how_of, link_of
from ...desk.pad import ledger, pad_for, title_of, unread_pair
from ...desk.readings import judge_typed, take_reading
from ...desk.sheet import Sheet, open_sheet
from ..band import band_picture
from ..page import checked_form, database, faults_by_field, go, render, stamp_of, station_page
from ..path_drawing import draw

router = APIRouter()


def path_page(request: Request, sheet: Sheet, form: dict[str, str], status: int = 200, **context: object) -> Response:
    """The path with the pad at what the form or query asks for."""
    replaces = int(form["replaces"]) if form.get("replaces", "").isdecimal() else None
    replaces = replaces if replaces is not None and replaces < len(sheet.call.readings) else None
    pad = pad_for(sheet, form.get("link", ""), form.get("kind", ""), form.get("at", ""), replaces, form.get("pair", ""))
    saved = (
        int(form["saved"])
        if form.get("saved", "").isdecimal() and int(form["saved"]) < len(sheet.call.readings)
        else None
    )
    nxt = sheet.assessment.next_tests[:1]
    return station_page(
        request, "path", sheet, status, pad=pad, rows=ledger(sheet), saved=saved,
        saved_title=None if saved is None else title_of(sheet, saved),
        wide=draw(sheet, 6, pad.link), narrow=draw(sheet, 4, pad.link),
        next_test=nxt[0] if nxt else None, next_link=link_of(nxt[0].kind, nxt[0].at) if nxt else "",
        next_how=how_of(nxt[0].kind, nxt[0].at) if nxt else None,
        picture=band_picture(pad.band, None), **context,
    )  # fmt: skip


@router.get("/calls/{call_id}/path")
def show_path(request: Request, call_id: int) -> Response:
    """The path of this unit."""
    return path_page(request, open_sheet(database(request), call_id), dict(request.query_params))


@router.post("/calls/{call_id}/readings")
def keep_reading(request: Request, call_id: int, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Save a reading, show what it says, and go to the next test."""
    db = database(request)
    try:
        index = take_reading(db, call_id, stamp_of(form), form)
    except BadInput as error:
        sheet = open_sheet(db, call_id)
        return path_page(request, sheet, form, 422, faults=faults_by_field(error), typed=form)
    sheet = open_sheet(db, call_id)
    here = form.get("kind") == "winding_ohm" and unread_pair(sheet) and not form.get("replaces")
    where = {"link": form.get("link"), "kind": "winding_ohm"} if here else {}
    return go(f"/calls/{call_id}/path", "pad", saved=index, **where)


@router.get("/calls/{call_id}/judge")
def judge_now(request: Request, call_id: int) -> Response:
    """What the core says of the value in the field, before it is saved."""
    form = dict(request.query_params)
    if not form.get("value", "").strip():
        return Response("", media_type="text/html")
    sheet = open_sheet(database(request), call_id)
    try:
        judgement = judge_typed(sheet, form, datetime.now(UTC))
    except BadInput as error:
        return render(
            request, "parts/judged.html", judgement=None, lines=list(faults_by_field(error).values()), picture=None
        )
    band = pad_for(sheet, form.get("link", ""), form.get("kind", ""), form.get("at", "")).band
    return render(
        request, "parts/judged.html", judgement=judgement, lines=[], picture=band_picture(band, judgement.interval)
    )
