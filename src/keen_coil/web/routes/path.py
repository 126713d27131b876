"""Path: the drawn path, the pad beside it, the readings below."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.next_test import NextTest
from ...core.diagnosis.parts import Part
from ...core.errors import InvalidField
from ...core.field_tests import how_of, link_of
from ...core.units import whole_number
from ...services.calls.call_view import CallView, open_call_view
from ...services.calls.changes import note_change, offered_after, take_back_change
from ...services.calls.ledger import ledger, title_of
from ...services.calls.readings import judge_typed, take_reading
from ...services.log.unit_history import insulation_trend, sisters_of
from ...services.practice.view import practice_view, values_taken
from ...services.stations.listening import sound_panel
from ...services.stations.pad import Pad, pad_for, unread_pair
from ...store.database import Database
from ..auth_middleware import concerns
from ..chart import band_picture, judged_picture
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, render, station_page
from ..path_drawing import PartShown, draw, parts_shown
from ..pictures import Plot, ladder_plot, traverse_plot, trend_plot, windings_plot
from ..probe_pictures import picture_of
from ..sound_picture import sound_picture

router = APIRouter()


def path_page(request: Request, view: CallView, form: dict[str, str], status: int = 200, **context: object) -> Response:
    """The path with the pad at what the form or query asks for."""
    replaces = whole_number(form.get("replaces", ""), len(view.call.readings))
    practising = practice_view(view.row, form.get("kind", ""), form.get("at", ""))
    link = form.get("link", "") or ("supply" if practising and not practising.advice else "")
    pad = pad_for(view, link, form.get("kind", ""), form.get("at", ""), replaces, form.get("pair", ""))
    if practising and practising.fields:
        context = {"typed": practising.fields, **context}
    saved = whole_number(form.get("saved", ""), len(view.call.readings))
    nxt = view.assessment.next_tests[:1]
    parts = parts_shown(view)
    chosen = _part(parts, pad)
    panel = sound_panel(database(request), view, pad.how.kind, "found")
    return station_page(
        request,
        "path",
        view,
        status,
        pad=pad,
        rows=ledger(view),
        saved=saved,
        saved_title=None if saved is None else title_of(view, saved),
        wide=draw(view, parts, 7, chosen),
        narrow=draw(view, parts, 4, chosen),
        chosen=chosen,
        next_test=nxt[0] if nxt else None,
        next_link=link_of(nxt[0].kind, nxt[0].at) if nxt else "",
        next_name=_next_name(parts, nxt[0]) if nxt else "",
        on_next_test=bool(nxt) and (pad.how.kind, pad.how.at) == (nxt[0].kind, nxt[0].at),
        probes=picture_of(pad.how.picture),
        plot=_plot(database(request), view, pad, saved),
        sisters=sisters_of(database(request), view) if pad.link == "running" else [],
        picture=band_picture(pad.band, None),
        sound=panel,
        sound_typed=form if "blades" in form else {},
        sound_picture=sound_picture(panel) if panel else None,
        acts_offered=[] if saved is None else offered_after(view, saved),
        **{"sound_faults": {}, **context},
    )


def _next_name(parts: list[PartShown], test: NextTest) -> str:
    """The next test with the part it looks at, so that `look` says at what."""
    how = how_of(test.kind, test.at, test.with_)
    part = next((p.part.name for p in parts if p.part.link == how.link and p.part.place != "control"), "")
    return how.name if not part or how.link in ("control", "running") or part in how.name else f"{part}, {how.name}"


def _part(parts: list[PartShown], pad: Pad) -> Part | None:
    """The part of the drawing that the pad is about."""
    mine = [shown.part for shown in parts if shown.part.link == pad.link]
    exact = [part for part in mine if (part.kind, part.at) == (pad.how.kind, pad.how.at)]
    return exact[0] if exact else mine[0] if mine else None


def _plot(db: Database, view: CallView, pad: Pad, saved: int | None) -> Plot | None:
    """The picture of what was just saved, else of the test: windings, taps, traverse, insulation over the visits."""
    kind, at = pad.how.kind, pad.how.at
    if saved is not None and view.call.readings[saved].kind in ("winding_ohm", "air_speed_fpm", "insulation_mohm"):
        kind, at = view.call.readings[saved].kind, None
    if kind == "winding_ohm" and at is None:
        return ladder_plot(view) or windings_plot(view)
    if kind == "air_speed_fpm":
        found = view.call.standing("air_speed_fpm")
        return traverse_plot(found[-1][1].numbers) if found else None
    if kind == "insulation_mohm":
        return trend_plot(
            insulation_trend(db, view),
            view.limits.insulation_floor_mohm,
            view.limits.insulation_good_mohm,
        )
    return None


@router.get("/calls/{call_id}/path")
@concerns("calls")
def show_path(request: Request, call_id: RowId) -> Response:
    """The path of this unit."""
    return path_page(request, open_call_view(database(request), call_id), dict(request.query_params))


@router.post("/calls/{call_id}/readings")
@concerns("calls")
def keep_reading(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Save a reading, show what it says, and go to the next test."""
    db = database(request)
    if form.get("bench") == "take":
        form = values_taken(open_call_view(db, call_id).row, form)
    try:
        index = take_reading(db, call_id, act_context(form), form)
    except InvalidField as error:
        faults = faults_by_field(error)
        asked = [fault.expected for fault in error.errors if fault.path == "sure"]
        faults |= {"sure": asked[0]} if asked else {}
        return path_page(request, open_call_view(db, call_id), form, 422, faults=faults, typed=form)
    view = open_call_view(db, call_id)
    in_pairs = form.get("kind") == "winding_ohm" and not form.get("replaces") and not form.get("value_2")
    here = in_pairs and unread_pair(view)
    practising = practice_view(view.row)
    stays = here or (practising is not None and not practising.advice)
    where = {"link": form.get("link"), "kind": form.get("kind"), "at": form.get("at")} if stays else _suggested(view)
    return redirect(f"/calls/{call_id}/path", "pad", saved=index, **where)


@router.post("/calls/{call_id}/changes")
@concerns("calls")
def keep_change(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Note something that was done to the unit, and stay at the station it was noted from."""
    db = database(request)
    try:
        note_change(db, call_id, act_context(form), form)
    except InvalidField as error:
        return path_page(request, open_call_view(db, call_id), {}, 422, faults=faults_by_field(error), typed=form)
    back = form.get("station", "")
    if back in ("swap", "hand-over"):
        return redirect(f"/calls/{call_id}/{back}")
    return redirect(f"/calls/{call_id}/path", "pad", **_suggested(open_call_view(db, call_id)))


@router.post("/calls/{call_id}/changes/take-back")
@concerns("calls")
def drop_change(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Take back a change that was noted by mistake."""
    db = database(request)
    try:
        take_back_change(db, call_id, act_context(form), form)
    except InvalidField as error:
        return path_page(request, open_call_view(db, call_id), {}, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/path")


def _suggested(view: CallView) -> dict[str, str | None]:
    """Where the suggested next test is on the pad; a reload stays there."""
    tests = view.assessment.next_tests
    return {"link": link_of(tests[0].kind, tests[0].at), "kind": tests[0].kind, "at": tests[0].at} if tests else {}


@router.get("/calls/{call_id}/judge")
@concerns("calls")
def judge_now(request: Request, call_id: RowId) -> Response:
    """What the core says of the value in the field, before it is saved."""
    form = dict(request.query_params)
    if not form.get("value", "").strip() or (
        "value_2" in form and not (form["value_2"].strip() and form.get("value_3", "").strip())
    ):
        return Response("", media_type="text/html")
    view = open_call_view(database(request), call_id)
    try:
        judgement = judge_typed(view, form, datetime.now(UTC))
    except InvalidField as error:
        return render(
            request, "parts/judged.html", judgement=None, lines=list(faults_by_field(error).values()), picture=None
        )
    return render(request, "parts/judged.html", judgement=judgement, lines=[], picture=judged_picture(judgement))
