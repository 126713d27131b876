"""The application: routes, static files, guards, and what every error looks like."""

from __future__ import annotations

import contextlib
import hashlib
import logging
import os
import secrets
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Depends, FastAPI
from itsdangerous import URLSafeSerializer
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.staticfiles import StaticFiles

from .. import __version__
from ..services.people.accounts import warm_up
from ..services.people.settings import meter_of_shop
from ..settings import Settings
from ..store.database import Database
from .auth_middleware import AuthMiddleware, authorized
from .background_jobs import BackgroundJobs
from .error_answers import answer_errors
from .middleware import BodyLimit, HeadAsGet, SecurityHeaders
from .page import HERE, environment, error_page
from .routes import (
    api,
    archive,
    arrive,
    board,
    body,
    capacitor,
    finding,
    first_run,
    hand_over,
    hook_up,
    install,
    lab,
    listen,
    live,
    log,
    make_safe,
    match,
    meter,
    path,
    phone,
    photographs,
    plate_reading,
    plates,
    practice,
    run_proof,
    shelf,
    sign_in,
    style,
    swap,
    sync_api,
    van,
    vans,
    view,
)
from .routes import settings as settings_page
from .routes.live import BellOnActs, CallBells
from .routes.meter import link_meter
from .routes.phone import PhoneLinks
from .routes.plate_reading import PlatePhotographs
from .routes.van import KeptPlans
from .sign_in_threads import SignInThreads
from .workers import Workers

SHORTEST_KEY = 40
ANSWER_S, ANSWER_MB, FILE_S, FILE_MB = 20.0, 1500, 1800.0, 3000
"""Seconds and megabytes that one answer, and one file going in or out, may take."""
HOSTS = ["127.0.0.1", "localhost", "[::1]", "["]
_PAGES = (
    board,
    arrive,
    make_safe,
    plates,
    plate_reading,
    path,
    listen,
    finding,
    match,
    body,
    capacitor,
    hook_up,
    swap,
    run_proof,
    hand_over,
    archive,
    log,
    van,
    shelf,
    lab,
    view,
    live,
    meter,
    photographs,
    practice,
    settings_page,
    vans,
    sign_in,
    phone,
    install,
    first_run,
)

_ROUTES = APIRouter()
"""The routes that no description lists, made once a process: an application only adds its state."""
for _page in (style, *_PAGES, sync_api):
    _ROUTES.include_router(_page.router, include_in_schema=False, dependencies=[Depends(authorized)])


def create_app(settings: Settings) -> FastAPI:
    """The application on the database of the settings, which is brought to the newest schema first."""
    app = FastAPI(
        title="Keen Coil",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        description="Stateless answers: the same core as the pages and the command line.",
    )
    app.state.settings = settings
    app.state.db = Database(settings.db)
    app.state.templates = environment()
    app.state.jobs = BackgroundJobs()
    app.state.plate_photographs = PlatePhotographs()
    app.state.workers = Workers(most=2, waiting=24, seconds=ANSWER_S, memory_mb=ANSWER_MB)
    app.state.file_workers = Workers(most=2, waiting=8, seconds=FILE_S, memory_mb=FILE_MB)
    app.state.askers = ThreadPoolExecutor(32, "asker")
    app.state.sign_in_threads = SignInThreads()
    app.state.backup_trouble = ""
    app.state.phone_links = PhoneLinks()
    app.state.bells = CallBells()
    app.state.van_plans = KeptPlans()
    link_meter(app.state, meter_of_shop(app.state.db))
    app.state.version_tag = static_tag(HERE / "static")
    secret = secret_beside(settings.db)
    app.state.signer = URLSafeSerializer(secret, "session")
    app.state.csrf_signer = URLSafeSerializer(secret, "csrf")
    app.state.device_signer = URLSafeSerializer(secret, "device")
    if settings.accounts:
        warm_up()
    app.add_middleware(BellOnActs, bells=app.state.bells)
    app.add_middleware(AuthMiddleware, state=app.state, error_page=error_page)
    app.add_middleware(GZipMiddleware, minimum_size=600, compresslevel=6)
    app.add_middleware(BodyLimit)
    app.add_middleware(HeadAsGet)
    app.add_middleware(SecurityHeaders)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=[*HOSTS, *settings.names])
    app.routes.extend(_ROUTES.routes)
    app.mount("/static", StaticFiles(directory=HERE / "static"))
    app.include_router(api.router, dependencies=[Depends(authorized)])
    app.openapi = partial(_spec, app, app.openapi)  # type: ignore[method-assign]
    answer_errors(app)
    return app


def _spec(app: FastAPI, plain: Callable[[], dict[str, Any]]) -> dict[str, Any]:
    """The OpenAPI description, with the types of the bodies, which are read by the core and not by the framework."""
    if app.openapi_schema is None:
        api.describe_bodies(plain())
    return plain()


def secret_beside(db: Path) -> str:
    """The key that signs sessions, made once and kept beside the database, readable by its owner only.

    An empty or short one is refused and made anew: everybody's pages and devices are asked again then.
    """
    path = db.with_suffix(".key")
    had = _key_in(path)
    if had is not None:
        return had
    # whole or not at all, and nobody else's: written beside it, then put in place in one move
    made = path.with_name(f"{path.name}.{secrets.token_hex(4)}")
    with os.fdopen(os.open(made, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "w", encoding="ascii") as file:
        file.write(secrets.token_urlsafe(48))
    if path.exists():
        logging.getLogger(__name__).warning("%s held no key of %d characters: a new one is made", path, SHORTEST_KEY)
        os.replace(made, path)
    else:
        with contextlib.suppress(FileExistsError):  # another server was quicker: its key counts
            os.link(made, path)
        made.unlink()
    return path.read_text(encoding="ascii")


def _key_in(path: Path) -> str | None:
    """The key in a file, made readable by its owner only; None where there is none, or one too short to be one."""
    try:
        text = path.read_text(encoding="ascii").strip()
        if path.stat().st_mode & 0o077 and path.stat().st_uid == os.geteuid():
            path.chmod(0o600)
    except (FileNotFoundError, UnicodeDecodeError):
        return None
    return text if len(text) >= SHORTEST_KEY else None


def static_tag(folder: Path) -> str:
    """A tag of our static files, so that a browser keeps them until they change."""
    total = hashlib.sha256()
    for file in sorted(folder.rglob("*")):
        if file.is_file():
            total.update(file.read_bytes())
    return total.hexdigest()[:10]
