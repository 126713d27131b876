"""From the demo to a shop of one's own, and the files a new shop starts from."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import FileResponse, Response

from ...core.errors import NotFound
from ...services.people.first_run import STARTER, STARTER_FILES, start_own_shop
from ..auth_middleware import concerns
from ..page import WHO_COOKIE, act_context, checked_form, database, redirect, render

router = APIRouter()


@router.get("/start")
@concerns("calls")
def offer_own_shop(request: Request) -> Response:
    """What starting a shop of one's own does."""
    return render(request, "start.html", station="")


@router.post("/start")
@concerns("log")
def begin_own_shop(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Empty the demo and go to the first steps."""
    start_own_shop(database(request), act_context(form))
    response = redirect("/")
    response.delete_cookie(WHO_COOKIE)
    return response


@router.get("/starter/{name}")
@concerns("calls")
def give_starter(request: Request, name: str) -> Response:
    """A starter catalog or an empty form of a file."""
    if name not in STARTER_FILES:
        raise NotFound("starter file of this name")
    return FileResponse(STARTER / name, media_type="text/csv; charset=utf-8", filename=f"keen-coil-{name}")
