"""The style sheet of every page: one file to a browser, one file a concern to us."""

from __future__ import annotations

from functools import cache

from fastapi import APIRouter
from starlette.responses import Response

from ..auth_middleware import concerns
from ..page import HERE

router = APIRouter()
STYLE_SHEETS = (
    "tokens",
    "base",
    "layout",
    "components",
    "board",
    "plates",
    "path",
    "sound",
    "finding",
    "match",
    "capacitor",
    "hook_up",
    "swap",
    "record",
    "log",
    "shelf",
    "lab",
    "practice",
    "settings",
)
"""In this order: what all screens share, then one file a group of screens."""


@cache
def style_sheet() -> bytes:
    """Bootstrap's reboot and our own sheets after each other."""
    files = [HERE / "static/vendor/bootstrap-reboot.min.css", *(HERE / f"static/css/{n}.css" for n in STYLE_SHEETS)]
    return b"\n".join(file.read_bytes() for file in files)


@router.get("/static/css/keen-coil.css")
@concerns("sign_in")
def give_style_sheet() -> Response:
    """All of it in one answer: twenty would each wait for their turn before anything is painted."""
    return Response(style_sheet(), media_type="text/css")
