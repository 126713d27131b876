"""The linked meter: what it shows now for the test on the pad, and where it listens."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.datastructures import State
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.meter import NAMES, offer
from ...meter.link import MeterLink
from ...meter.protocol import Frame
from ...services.people.settings import save_meter
from ..auth_middleware import concerns
from ..page import act_context, checked_form, database, faults_by_field, redirect, render
from .settings import settings_form


def link_meter(state: State, address: str) -> None:
    """Listen to the meter at an address from now on, to none when it is empty."""
    had: MeterLink | None = getattr(state, "meter", None)
    if had is not None:
        had.close()
    state.meter = MeterLink(address) if address else None


router = APIRouter()


@router.get("/meter")
@concerns("calls")
def show_meter(request: Request) -> Response:
    """What the meter shows, with the button that takes it when it suits the test and keeps still."""
    link: MeterLink | None = request.app.state.meter
    if link is None:
        return meter_panel(request, None, "", False, "No meter is linked.")
    now = link.now()
    return meter_panel(request, now.frame, request.query_params.get("kind", ""), now.steady, now.says)


def meter_panel(request: Request, frame: Frame | None, kind: str, steady: bool, says: str) -> Response:
    """A meter's display with what it offers to a kind of reading; without a frame, why there is none."""
    if frame is None:
        return render(request, "parts/meter.html", frame=None, says=says, offered=None, still=False)
    offered = offer(kind, frame.function, frame.value, frame.unit, frame.overload, frame.hold)
    return render(
        request,
        "parts/meter.html",
        frame=frame,
        says=offered.says,
        offered=offered.value,
        still=steady or frame.overload,
        function=NAMES[frame.function],
    )


@router.post("/settings/meter")
@concerns("meter")
def keep_meter(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Link a meter, or none."""
    try:
        address = save_meter(database(request), act_context(form), form.get("meter", ""))
    except InvalidField as error:
        return settings_form(request, 422, faults=faults_by_field(error), typed=form)
    link_meter(request.app.state, address)
    return redirect("/settings", saved="meter")
