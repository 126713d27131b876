"""Shelf: the catalogue, and bringing one in from CSV."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import BadInput
from ...desk.catalogue import all_motors, import_catalogue
from ..page import checked_form, database, go, render, stamp_of, upload

router = APIRouter()


def _page(request: Request, status: int = 200, **context: object) -> Response:
    wanted = request.query_params.get("find", "").strip().lower()
    motors = all_motors(database(request))
    shown = [m for m in motors if wanted in f"{m.part_no} {m.maker} {m.kind} {m.role} {m.volts} {m.rpm}".lower()]
    return render(request, "shelf.html", status, motors=shown, total=len(motors), find=wanted, **context)


@router.get("/shelf")
def show_shelf(request: Request) -> Response:
    """The motors of the catalogue."""
    return _page(request)


@router.post("/shelf/import")
async def bring_catalogue_in(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Add the motors of a CSV file, all or none."""
    try:
        _, data = await upload(request)
        done = import_catalogue(database(request), stamp_of(form), data)
    except BadInput as error:
        return _page(request, 422, file_faults=[fault.line() for fault in error.faults])
    return go("/shelf", added=done.added, changed=done.changed, same=done.same)
