"""What a phone installs: the manifest, the service worker at the root, and the page for a lost connection."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import FileResponse, JSONResponse, Response

from ..auth_middleware import concerns
from ..page import HERE, render

router = APIRouter()
ICONS = (
    ("192x192", "icon-192.png", "any"),
    ("512x512", "icon-512.png", "any"),
    ("512x512", "icon-512.png", "maskable"),
)


@router.get("/manifest.webmanifest")
@concerns("sign_in")
def manifest(request: Request) -> Response:
    """The web application manifest (W3C)."""
    icons = [
        {"src": f"/static/{file}", "sizes": sizes, "type": "image/png", "purpose": purpose}
        for sizes, file, purpose in ICONS
    ]
    found = {
        "name": "Keen Coil",
        "short_name": "Keen Coil",
        "description": "Find what failed, match the motor, prove the repair.",
        "id": "/",
        "start_url": "/",
        "scope": "/",
        "display": "standalone",
        "background_color": "#f7f4ee",
        "theme_color": "#f7f4ee",
        "icons": icons,
    }
    return JSONResponse(found, media_type="application/manifest+json")


@router.get("/service-worker.js")
@concerns("sign_in")
def service_worker() -> Response:
    """The service worker, from the root, which is how far it may reach."""
    return FileResponse(HERE / "static/service-worker.js", media_type="text/javascript")


@router.get("/away")
@concerns("sign_in")
def away(request: Request) -> Response:
    """The page that a phone keeps for a lost connection. It holds nothing of any call."""
    return render(request, "away.html")
