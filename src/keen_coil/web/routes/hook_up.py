"""Hook-up: as found, to be, tried out; drawings of wiring and windings, the netlist to take away."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.hookup.drawing import end_word
from ...core.hookup.functions import WORDS
from ...core.hookup.leads import MotorLeads
from ...core.vocabulary import OutputMode, words_of
from ...formats.pdf import pdf_of
from ...services.answers.hookup import as_spice, as_svg, wired
from ...services.calls.call_view import open_call_view
from ...services.calls.photographs import photographs_of
from ...services.stations.hook_up import VIEWS, View, has_place, hookup_view, keep_found, keep_plan, tick_moves
from ...services.stations.hook_up_card import card_of
from ...services.stations.lead_forms import keep_diagram, keep_lead_words, keep_leads, keep_outputs
from ..auth_middleware import concerns
from ..page import (
    HERE,
    RowId,
    act_context,
    checked_form,
    database,
    faults_by_field,
    in_shop_units,
    redirect,
    render,
    station_page,
)

WIDTH, HEIGHT, TURNS = 300, 132, 4


@dataclass
class WindingPicture:
    """Coils as paths; the points where leads come out, with the height of the names beside them; its words."""

    coils: list[str] = field(default_factory=list)
    points: list[tuple[float, float, float, str, str]] = field(default_factory=list)
    says: str = ""


def winding_picture(leads: MotorLeads | None) -> WindingPicture | None:
    """The picture of a single-phase motor's leads; None for others and where no end is known."""
    if leads is None or not any(end.startswith("main") for end in leads.ends):
        return None
    picture = WindingPicture()
    halves = "main_a.1" in leads.ends
    if halves:
        _coil(picture, leads, (46, 62), (126, 62), ["main_a.1", "main_a.2"])
        _coil(picture, leads, (164, 62), (244, 62), ["main_b.1", "main_b.2"])
    else:
        taps = leads.taps
        far = [*taps] if taps else ["main.2"]
        _coil(picture, leads, (46, 40), (244, 40), ["main.1", *far])
    if {"aux.1", "aux.2"} & leads.ends:
        _coil(picture, leads, (46, 104), (244, 104), ["aux.1", "aux.2"], ("run", "start")[1])
    words = ((lead, ", ".join(dict.fromkeys(end_word(end) for end in ends))) for lead, ends in leads.leads if ends)
    picture.says = "; ".join(f"{lead}: {says}" for lead, says in words)
    return picture


def _coil(
    picture: WindingPicture,
    leads: MotorLeads,
    a: tuple[float, float],
    b: tuple[float, float],
    ends: list[str],
    word: str = "run",
) -> None:
    """A coil from a to b, its ends from left to right, the leads at each end above it."""
    sections = len(ends) - 1
    step = (b[0] - a[0]) / max(sections, 1)
    for number, end in enumerate(ends):
        x = a[0] + step * number
        names = ", ".join(leads.having(end)[:2])
        below = number % 2 == 0 or sections == 1
        picture.points.append((x, a[1], a[1] + (19 if below else -18), names or "inside", word if not number else ""))
        if number < sections:
            bow = step / TURNS
            path = f"M{x:.0f} {a[1]:.0f}" + f"q{bow / 2:.1f} -20 {bow:.1f} 0" * TURNS
            picture.coils.append(path)


router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def _view(text: str) -> View:
    return next((name for name, _ in VIEWS if name == text), "plan")


def _page(request: Request, call_id: RowId, view: View, status: int = 200, **context: object) -> Response:
    call_view = open_call_view(database(request), call_id)
    query = dict(request.query_params)
    shown = hookup_view(call_view, view, query.get("school"), query if view == "try" else None)
    faults: dict[str, str] = context.get("faults") or {}  # type: ignore[assignment]  # a page's faults are texts
    stray = [says for name, says in faults.items() if not has_place(shown, name)]
    photographs = [photo for photo in photographs_of(database(request), call_id) if photo.subject == "wiring"]
    return station_page(
        request,
        "hook-up",
        call_view,
        status,
        hookup=shown,
        views=VIEWS,
        photographs=photographs,
        stray=stray,
        windings=winding_picture(shown.leads),
        lead_words=WORDS,
        output_modes=words_of(OutputMode),
        **context,
    )


def _kept(
    request: Request, call_id: RowId, form: dict[str, str], view: View, keep: Callable[..., None], *what: object
) -> Response:
    """A view after something was kept, or as it was typed with what is wrong beside its fields."""
    try:
        keep(database(request), call_id, act_context(form), *what)
    except InvalidField as error:
        return _page(request, call_id, view, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/hook-up", view=view)


@router.get("/calls/{call_id}/hook-up")
@concerns("calls")
def show_hook_up(request: Request, call_id: RowId) -> Response:
    """A view of the hook-up."""
    return _page(request, call_id, _view(request.query_params.get("view", "plan")))


@router.post("/calls/{call_id}/hook-up/leads")
@concerns("calls")
def save_leads(request: Request, call_id: RowId, form: Form) -> Response:
    """Note the leads of a motor with the winding ends they bring out."""
    view = _view(form.get("view", ""))
    return _kept(request, call_id, form, view, keep_leads, view, form.get("leads", ""))


@router.post("/calls/{call_id}/hook-up/words")
@concerns("calls")
def save_lead_words(request: Request, call_id: RowId, form: Form) -> Response:
    """Note the leads of a motor by what the plate says of each."""
    view = _view(form.get("view", ""))
    return _kept(request, call_id, form, view, keep_lead_words, view, form)


@router.post("/calls/{call_id}/hook-up/diagram")
@concerns("calls")
def save_diagram(request: Request, call_id: RowId, form: Form) -> Response:
    """Keep the plate's own diagram."""
    return _kept(request, call_id, form, "plan", keep_diagram, form)


@router.post("/calls/{call_id}/hook-up/outputs")
@concerns("calls")
def save_outputs(request: Request, call_id: RowId, form: Form) -> Response:
    """Keep which call uses which output and speed."""
    return _kept(request, call_id, form, "plan", keep_outputs, form)


@router.get("/calls/{call_id}/hook-up/card")
@concerns("calls")
def show_card(request: Request, call_id: RowId) -> Response:
    """The plan on one page for the roof: each wire, its joints and caps, large."""
    call_view = open_call_view(database(request), call_id)
    shown = hookup_view(call_view, "plan", request.query_params.get("school"))
    return render(
        request, "call/hook_up_card.html", call_view=call_view, hookup=shown, card=card_of(call_view.call, shown)
    )


@router.get("/calls/{call_id}/hook-up/card.pdf")
@concerns("calls")
def give_card(request: Request, call_id: RowId) -> Response:
    """The card as a PDF of one page."""
    call_view = open_call_view(database(request), call_id)
    shown = hookup_view(call_view, "plan", request.query_params.get("school"))
    page = request.app.state.templates.get_template("call/hook_up_card_pdf.html").render(
        call_view=call_view, hookup=shown, card=card_of(call_view.call, shown)
    )
    made = request.app.state.workers.run(pdf_of, in_shop_units(request, page), HERE / "static")
    name = f"call-{call_id}-hook-up.pdf"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(made, media_type="application/pdf", headers=headers)


@router.post("/calls/{call_id}/hook-up/found")
@concerns("calls")
def save_found(request: Request, call_id: RowId, form: Form) -> Response:
    """Note where each old wire was."""
    return _kept(request, call_id, form, "found", keep_found, form)


@router.post("/calls/{call_id}/hook-up/plan")
@concerns("calls")
def save_plan(request: Request, call_id: RowId, form: Form) -> Response:
    """Keep the plan, or tick its moves."""
    try:
        if form.get("do") == "tick":
            tick_moves(database(request), call_id, act_context(form), form.get("steps", ""))
        else:
            keep_plan(database(request), call_id, act_context(form), form.get("school", ""), form.get("keep_why", ""))
    except InvalidField as error:
        return _page(request, call_id, "plan", 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/hook-up", view="plan", school=form.get("school"))


def _file(request: Request, call_id: RowId, media: str, name: str) -> Response:
    call = open_call_view(database(request), call_id).call
    done = wired(call, None, request.query_params.get("school") or None, check=False)
    text = as_svg(done) if name.endswith(".svg") else as_spice(done)
    return Response(text, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/calls/{call_id}/hook-up.svg")
@concerns("calls")
def give_drawing(request: Request, call_id: RowId) -> Response:
    """The plan's drawing as a file."""
    return _file(request, call_id, "image/svg+xml", f"hook-up-{call_id}.svg")


@router.get("/calls/{call_id}/hook-up.cir")
@concerns("calls")
def give_netlist(request: Request, call_id: RowId) -> Response:
    """The plan's circuit as a SPICE netlist."""
    return _file(request, call_id, "text/plain; charset=utf-8", f"hook-up-{call_id}.cir")
