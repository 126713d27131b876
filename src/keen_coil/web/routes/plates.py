"""Plates: motor, body, unit, capacitor label, blade."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...services.calls.call_view import open_call_view
from ...services.calls.photographs import READABLE, SUBJECTS, photographs_of
from ...services.calls.rail import next_after
from ...services.field_messages import WHY_ASKED
from ...services.stations.plate_fields import FIELDS, SECTIONS, sections_for
from ...services.stations.plates import by_motor_plate, plate_texts, save_plates
from ..auth_middleware import concerns
from ..page import (
    RowId,
    act_context,
    checked_form,
    database,
    faults_by_field,
    redirect,
    station_page,
    temperatures_in_celsius,
)

router = APIRouter()


def plates_page(request: Request, call_id: RowId, status: int = 200, **context: object) -> Response:
    """What the plates say, and the photographs."""
    view = open_call_view(database(request), call_id)
    shown: dict[str, object] = {
        "sections": sections_for(view.call.unit.kind),
        "by_motor_plate": by_motor_plate(view.call),
        "texts": plate_texts(view.call),
        "photo_faults": {},
        "other_photo_faults": {},
        "line": "",
        "line_faults": {},
        "readable": READABLE,
        "subjects": SUBJECTS,
        "why_asked": WHY_ASKED,
        "photographs": photographs_of(database(request), call_id),
    }
    texts: Any = context.get("texts", shown["texts"])
    shown["known"] = {title: sum(bool(texts.get(field.path)) for field in fields) for title, _, fields in SECTIONS}
    return station_page(request, "plates", view, status, **(shown | context))


@router.get("/calls/{call_id}/plates")
@concerns("calls")
def show_plates(request: Request, call_id: RowId) -> Response:
    """What the plates say."""
    return plates_page(request, call_id)


@router.post("/calls/{call_id}/plates")
@concerns("calls")
def keep_plates(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Save the plates, all or none, and go on."""
    form = temperatures_in_celsius(form, FIELDS)
    try:
        save_plates(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        view = open_call_view(database(request), call_id)
        typed = plate_texts(view.call) | {path: form[path] for path in FIELDS if path in form}
        return plates_page(request, call_id, 422, texts=typed, faults=faults_by_field(error))
    return redirect(f"/calls/{call_id}/{next_after(open_call_view(database(request), call_id), 'plates')}")
