"""How the pages look and listen: theme, keyboard, help."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...desk.stations import STATIONS
from ..page import KEYS_COOKIE, THEME_COOKIE, THEMES, checked_form, redirect, render, safe_redirect_path

router = APIRouter()
YEAR = 365 * 24 * 3600


@router.get("/help")
def show_help(request: Request) -> Response:
    """The keyboard, the signs, and what this is not."""
    return render(request, "help.html", station="help", stations=STATIONS)


@router.post("/view")
def keep_view(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Set theme or keyboard shortcuts, and go back to the page."""
    response = redirect(safe_redirect_path(form.get("back", "/")))
    if form.get("theme") in THEMES:
        response.set_cookie(THEME_COOKIE, form["theme"], max_age=YEAR, httponly=True, samesite="strict")
    if form.get("keys") in ("on", "off"):
        response.set_cookie(KEYS_COOKIE, form["keys"], max_age=YEAR, httponly=True, samesite="strict")
    return response
