"""How the pages look and listen: theme, keyboard, help."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.field_tests import HELP, TESTS, FieldHelp, FieldTest
from ...core.match.schools import NAMES as SCHOOL_NAMES
from ...core.readings import KINDS
from ...formats.pdf import pdf_of
from ...services.calls.rail import STATIONS
from ...services.stations.safe_steps import STEPS
from ..auth_middleware import concerns
from ..help_texts import GLOSSARY, NAMES
from ..page import (
    HERE,
    KEYS_COOKIE,
    THEME_COOKIE,
    THEMES,
    checked_form,
    in_shop_units,
    redirect,
    render,
    safe_redirect_path,
)

router = APIRouter()
YEAR = 365 * 24 * 3600
RUN_CHECKS = (
    "Turn it by hand. Nothing rubs.",
    "Power up with people clear. Right rotation, or shut it off and reverse it.",
    "Volts at the load side while it runs, within 10 % of the nameplate.",
    "Amps on the whole-current lead, every speed used. At or under FLA.",
    "Listen for hum, rub or rattle.",
    "Motor temperature after 10 min.",
    "Furnace or inducer: vent connected, no spillage, carbon monoxide read.",
)
"""The run test in lines, for the field card."""


@router.get("/help")
@concerns("reference")
def show_help(request: Request) -> Response:
    """The keyboard, the signs, and what this is not."""
    return render(request, "help.html", station="help", stations=STATIONS)


@router.get("/glossary")
@concerns("reference")
def show_glossary(request: Request) -> Response:
    """The trade's words."""
    terms = sorted((NAMES[key], key, term) for key, term in GLOSSARY.items())
    terms.sort(key=lambda row: row[0].lower())
    return render(request, "glossary.html", station="help", terms=terms, names=NAMES)


@router.get("/help/card")
@concerns("reference")
def show_field_card(request: Request) -> Response:
    """The whole method on two sheets, to print."""
    return render(request, "field_card.html", station="help", **_card())


@router.get("/help/field-card.pdf")
@concerns("reference")
def give_field_card(request: Request) -> Response:
    """The field card as PDF."""
    page = request.app.state.templates.get_template("field_card_pdf.html").render(**_card())
    made = request.app.state.workers.run(pdf_of, in_shop_units(request, page), HERE / "static")
    headers = {"Content-Disposition": 'attachment; filename="field-card.pdf"'}
    return Response(made, media_type="application/pdf", headers=headers)


def _card() -> dict[str, Any]:
    """What stands on the field card: from the same tables as the pages."""
    shown: dict[str, list[tuple[str, FieldTest, FieldHelp]]] = {}
    for test in TESTS:
        if test.proves:
            name = KINDS[test.kind].title if test.name == "visual check" else test.name
            name += ", bare shaft" * (test.detail == "bare_shaft")
            shown.setdefault(test.link, []).append((name, test, HELP[test.kind]))
    return {"steps": STEPS, "tests": shown, "schools": SCHOOL_NAMES, "runs": RUN_CHECKS}


@router.post("/view")
@concerns("reference")
def keep_view(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Set theme or keyboard shortcuts, and go back to the page."""
    response = redirect(safe_redirect_path(form.get("back", "/")))
    if form.get("theme") in THEMES:
        response.set_cookie(THEME_COOKIE, form["theme"], max_age=YEAR, httponly=True, samesite="strict")
    if form.get("keys") in ("on", "off"):
        response.set_cookie(KEYS_COOKIE, form["keys"], max_age=YEAR, httponly=True, samesite="strict")
    return response
