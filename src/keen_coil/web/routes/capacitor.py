"""Capacitor: what the motor needs, what of the van serves it, how it is strapped."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.capacitors.needed import RENEWALS
from ...core.capacitors.strap import COMMON, Strapped, Terminal
from ...core.errors import InvalidField
from ...services.calls.call_view import open_call_view
from ...services.stations.capacitor import capacitor_view, choose_capacitor, set_renewal
from ..auth_middleware import concerns
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, station_page

CAN_W, CAN_H, GAP, TOP = 120.0, 112.0, 54.0, 62.0
LEAD_NAMES = {"line": "line side", "motor": "motor's capacitor lead", "compressor": "compressor start"}
LABEL_W = 165.0
"""Room to the right of the last lead for its label."""
TERMINAL_NAMES = {COMMON: "C", "herm": "HERM", "fan": "FAN"}


@dataclass(frozen=True)
class CanDrawn:
    """A can: where it stands, its name, its terminals as (x, y, name, used)."""

    x: float
    y: float
    name: str
    terminals: tuple[tuple[float, float, str, bool], ...]


@dataclass(frozen=True)
class StrapDrawing:
    """The picture of an answer."""

    width: float
    height: float
    cans: list[CanDrawn]
    straps: list[str]
    leads: list[tuple[str, float, float, str]]
    says: str


def strap_drawing(strapped: Strapped, ufs: Mapping[tuple[str, str], float]) -> StrapDrawing:
    """The picture of straps and leads.

    Straps run below the terminals they join. Leads leave upward, each lower than the one before it, its label to the
    right of its end, so that no label is crossed. A section to strap is named by its µF.
    """
    count = len(strapped.cans)
    width = count * CAN_W + (count - 1) * GAP + LABEL_W
    start = 20.0
    cans, where = [], {}
    top = TOP + 22.0 * (len(strapped.leads) - 2)
    for index, can in enumerate(strapped.cans):
        x = start + index * (CAN_W + GAP)
        drawn = []
        step = CAN_W / (len(can.terminals) + 1)
        for place, name in enumerate(can.terminals):
            at = x + step * (place + 1), top + CAN_H * 0.42
            where[Terminal(index, name)] = at
            word = TERMINAL_NAMES.get(name) or (f"{ufs[can.part_no, name]:g}" if (can.part_no, name) in ufs else name)
            drawn.append((*at, word, name in can.used or name == can.terminals[0]))
        cans.append(CanDrawn(x, top, can.part_no, tuple(drawn)))
    straps = [_strap(where[a], where[b], number) for number, (a, b) in enumerate(strapped.straps)]
    leads = []
    for number, (what, terminal) in enumerate(sorted(strapped.leads, key=lambda lead: where[lead[1]][0])):
        x, y = where[terminal]
        up = 20.0 + 22.0 * number
        leads.append((f"M{x:.1f} {y - 8:.1f}V{up - 6:.1f}", x + 8, up, LEAD_NAMES[what]))
    says = "; ".join(f"{LEAD_NAMES[what]}: {strapped.cans[at.can].part_no} {at.name}" for what, at in strapped.leads)
    return StrapDrawing(width, top + CAN_H + 34, cans, straps, leads, says)


def _strap(a: tuple[float, float], b: tuple[float, float], number: int) -> str:
    """A strap from terminal to terminal, hanging below both."""
    low = max(a[1], b[1]) + 26 + 12 * (number % 3)
    return f"M{a[0]:.1f} {a[1] + 8:.1f}V{low:.1f}H{b[0]:.1f}V{b[1] + 8:.1f}"


router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _page(request: Request, call_id: RowId, status: int = 200, **context: object) -> Response:
    call_view = open_call_view(database(request), call_id)
    query = request.query_params
    everything = query.get("more") == "yes"
    view = capacitor_view(database(request), call_view, query.get("answer", ""), everything)
    drawing = None if view.looked_at is None else strap_drawing(view.looked_at.strapped, view.looked_at.ufs)
    return station_page(
        request,
        "capacitor",
        call_view,
        status,
        view=view,
        drawing=drawing,
        renewals=RENEWALS,
        everything=everything,
        **context,
    )


@router.get("/calls/{call_id}/capacitor")
@concerns("calls")
def show_capacitor(request: Request, call_id: RowId) -> Response:
    """What the motor of a call needs, and what serves it."""
    return _page(request, call_id)


@router.post("/calls/{call_id}/capacitor")
@concerns("calls")
def keep_capacitor(request: Request, call_id: RowId, form: Form) -> Response:
    """Choose a capacitor, or take the choice back."""
    try:
        choose_capacitor(database(request), call_id, act_context(form), form.get("capacitor", ""))
    except InvalidField as error:
        return _page(request, call_id, 422, faults=faults_by_field(error))
    return redirect(f"/calls/{call_id}/capacitor", answer=form.get("capacitor"))


@router.post("/calls/{call_id}/renewal")
@concerns("calls")
def keep_renewal(request: Request, call_id: RowId, form: Form) -> Response:
    """Choose how this call renews capacitors."""
    set_renewal(database(request), call_id, act_context(form), form.get("renewal", ""))
    return redirect(f"/calls/{call_id}/capacitor")
