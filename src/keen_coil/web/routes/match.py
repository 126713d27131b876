"""Match: old and new plates held together, candidates, the choice; plates typed by hand; three side by side."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.match.schools import NAMES, SCHOOLS
from ...formats.dotted import get
from ...services.calls.call_view import CallView, open_call_view
from ...services.stations.match import Filters, compare, filters_of, match_call, pick_motor, set_school
from ...services.stations.same_motor import pick_same_motor, twins_of
from ...services.stations.typed_motor import DECIDING, PLATE_FIELDS, SMALL_PRINT, add_plate, drop_plate
from ..auth_middleware import concerns
from ..page import (
    RowId,
    act_context,
    call_page,
    checked_form,
    database,
    faults_by_field,
    redirect,
    station_page,
    temperatures_in_celsius,
)

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
GROUPS = {"drops_in_now": "Drops in now", "work_now": "Now, with extra work", "later": "After delivery"}
FILTER_NAMES = ("van", "days", "price", "all")


def _page(request: Request, call_view: CallView, status: int = 200, **context: object) -> Response:
    query = dict(request.query_params)
    picked = call_view.call.chosen_motor.part_no if call_view.call.chosen_motor else None
    everything = query.get("all") == "yes"
    faults: dict[str, str] = {}
    try:
        narrow = filters_of(query)
    except InvalidField as error:
        narrow, faults = Filters(), faults_by_field(error)
    view = match_call(
        database(request),
        call_view,
        call_view.row.school,
        query.get("part") or picked,
        everything,
        narrow,
        schools=True,
    )
    shown = {
        "view": view,
        "picked": picked,
        "everything": everything,
        "faults": faults,
        "query": query,
        "kept": {name: query[name] for name in FILTER_NAMES if query.get(name)},
        "by_hand": {str(motor.part_no) for motor in call_view.row.plan.by_hand},
        "serving_by": {effect.school: effect.serving for effect in view.effects or ()},
        "schools": [(school, NAMES[school]) for school in SCHOOLS],
        "names": NAMES,
        "groups": GROUPS,
        "twins": twins_of(database(request), call_view) if call_view.is_open else [],
    }
    return station_page(request, "match", call_view, status, **(shown | context))


@router.get("/calls/{call_id}/match")
@concerns("calls")
def show_match(request: Request, call_id: RowId) -> Response:
    """The match of a call."""
    return _page(request, open_call_view(database(request), call_id))


@router.post("/calls/{call_id}/match")
@concerns("calls")
def keep_choice(request: Request, call_id: RowId, form: Form) -> Response:
    """Choose a motor, or take the choice back."""
    try:
        pick_motor(database(request), call_id, act_context(form), form.get("part_no", ""), form.get("reason", ""))
    except InvalidField as error:
        return _page(
            request, open_call_view(database(request), call_id), 422, faults=faults_by_field(error), typed=form
        )
    return redirect(f"/calls/{call_id}/match", part=form.get("part_no"))


@router.post("/calls/{call_id}/match/same")
@concerns("calls")
def keep_same(request: Request, call_id: RowId, form: Form) -> Response:
    """Choose the same motor again, or that of its twin."""
    try:
        pick_same_motor(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        view = open_call_view(database(request), call_id)
        return _page(request, view, 422, faults={"same": str(error)}, typed=form)
    return redirect(f"/calls/{call_id}/match")


@router.post("/calls/{call_id}/school")
@concerns("calls")
def keep_school(request: Request, call_id: RowId, form: Form) -> Response:
    """Choose how this call sizes power."""
    set_school(database(request), call_id, act_context(form), form.get("school", ""))
    kept = {name: form.get(name, "") for name in FILTER_NAMES}
    return redirect(f"/calls/{call_id}/match", part=form.get("part"), **kept)


@router.get("/calls/{call_id}/match/plate")
@concerns("calls")
def show_plate(request: Request, call_id: RowId) -> Response:
    """A motor that is in no catalog: its plate to type."""
    return plate_page(request, call_id)


def plate_page(request: Request, call_id: RowId, status: int = 200, **context: object) -> Response:
    """The plate of a motor that is in no catalog, to be typed, said or photographed."""
    call_view = open_call_view(database(request), call_id)
    wanted = request.query_params.get("part", "")
    had = next((motor for motor in call_view.row.plan.by_hand if motor.part_no == wanted), None)
    texts = {} if had is None else _texts(had)
    shown: dict[str, object] = {
        "fields": SMALL_PRINT,
        "deciding": DECIDING,
        "texts": texts,
        "plates": call_view.row.plan.by_hand,
        "line": "",
        "line_faults": {},
        "photo_faults": {},
    }
    return call_page(request, "match_plate", "match", call_view, status, **(shown | context))


def _texts(motor: object) -> dict[str, str]:
    found = {}
    for field in PLATE_FIELDS:
        value = get(motor, field.path.removeprefix("motor."))
        listed = value if isinstance(value, list) else [] if value is None else [value]
        found[field.path] = "|".join(map(str, listed))
    return found


@router.post("/calls/{call_id}/match/plate")
@concerns("calls")
def keep_plate(request: Request, call_id: RowId, form: Form) -> Response:
    """Keep a typed plate and judge it, or take one away."""
    if form.get("drop"):
        drop_plate(database(request), call_id, act_context(form), form["drop"])
        return redirect(f"/calls/{call_id}/match")
    form = temperatures_in_celsius(form, {field.path: field for field in PLATE_FIELDS})
    try:
        part_no = add_plate(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        return plate_page(request, call_id, 422, texts=form, faults=faults_by_field(error))
    return redirect(f"/calls/{call_id}/match", part=part_no)


@router.get("/calls/{call_id}/match/compare")
@concerns("calls")
def show_compare(request: Request, call_id: RowId) -> Response:
    """Up to three motors beside the old one."""
    call_view = open_call_view(database(request), call_id)
    found = compare(database(request), call_view, request.query_params.getlist("part"))
    fields = list(dict.fromkeys(row.field for one in found for row in one.rows))
    rows = [(name, [next((row for row in one.rows if row.field == name), None) for one in found]) for name in fields]
    return call_page(request, "compare", "match", call_view, found=found, rows=rows)
