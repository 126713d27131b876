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

from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from itsdangerous import URLSafeSerializer
from sqlalchemy.exc import DatabaseError, IntegrityError
from starlette.exceptions import HTTPException as StarletteHTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.responses import JSONResponse, Response
from starlette.staticfiles import StaticFiles

from .. import __version__
from ..core.errors import InvalidField
from ..desk.accounts import warm_up
from ..desk.acts import CallClosed, DuplicateSubmission, NotFound, StaleVersion
from ..desk.changes_since import changes_since
from ..desk.settings import meter_of_shop
from ..formats.pdf import PdfUnavailable
from ..settings import Settings
from ..store.database import Database
from ..store.sqlite_errors import FULL, explain
from .auth_middleware import AuthMiddleware
from .background_jobs import BackgroundJobs
from .metering import link_meter
from .middleware import HEADERS, BodyLimit, HeadAsGet, SecurityHeaders
from .page import HERE, environment, error_page, render
from .routes import (
    api,
    archive,
    arrive,
    board,
    body,
    capacitor,
    finding,
    hand_over,
    hook_up,
    lab,
    log,
    make_safe,
    match,
    meter,
    path,
    photographs,
    plates,
    practice,
    run_proof,
    shelf,
    sign_in,
    swap,
    van,
    view,
)
from .routes import (
    settings as settings_page,
)
from .workers import ServerStopping, Workers, WorkRefused

SHORTEST_KEY = 40
ANSWER_S, ANSWER_MB, FILE_S, FILE_MB = 20.0, 1500, 1800.0, 3000
"""Seconds and megabytes that one answer, and one file going in or out, may take."""
HOSTS = ["127.0.0.1", "localhost", "[::1]", "["]
_PAGES = (
    board,
    arrive,
    make_safe,
    plates,
    path,
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
    meter,
    photographs,
    practice,
    settings_page,
    sign_in,
)


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
    app.state.workers = Workers(most=2, waiting=24, seconds=ANSWER_S, memory_mb=ANSWER_MB)
    app.state.file_workers = Workers(most=2, waiting=8, seconds=FILE_S, memory_mb=FILE_MB)
    app.state.askers = ThreadPoolExecutor(32, "asker")
    app.state.backup_trouble = ""
    link_meter(app.state, meter_of_shop(app.state.db))
    app.state.version_tag = static_tag(HERE / "static")
    secret = secret_beside(settings.db)
    app.state.signer = URLSafeSerializer(secret, "session")
    app.state.csrf_signer = URLSafeSerializer(secret, "csrf")
    app.state.device_signer = URLSafeSerializer(secret, "device")
    if settings.accounts:
        warm_up()
    app.add_middleware(AuthMiddleware, state=app.state, error_page=error_page)
    app.add_middleware(GZipMiddleware, minimum_size=600, compresslevel=6)
    app.add_middleware(BodyLimit)
    app.add_middleware(HeadAsGet)
    app.add_middleware(SecurityHeaders)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=[*HOSTS, *settings.names])
    app.mount("/static", StaticFiles(directory=HERE / "static"))
    app.include_router(api.router)
    for page in _PAGES:
        app.include_router(page.router, include_in_schema=False)
    app.openapi = partial(_spec, app, app.openapi)  # type: ignore[method-assign]
    _errors(app)
    return app


def _spec(app: FastAPI, plain: Callable[[], dict[str, Any]]) -> dict[str, Any]:
    """The OpenAPI description, with the types of the bodies, which are read by the core and not by the framework."""
    if app.openapi_schema is None:
        schemas = plain().setdefault("components", {}).setdefault("schemas", {})
        schemas.update({name: schema for name, schema in api.DEFINITIONS.items() if name not in schemas})
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


def _errors(app: FastAPI) -> None:
    app.add_exception_handler(InvalidField, _bad_input)
    app.add_exception_handler(WorkRefused, _work_refused)
    app.add_exception_handler(ServerStopping, _stopped)
    app.add_exception_handler(NotFound, _not_there)
    app.add_exception_handler(StaleVersion, _conflict)
    app.add_exception_handler(CallClosed, _closed)
    app.add_exception_handler(PdfUnavailable, _no_pdf)
    app.add_exception_handler(DatabaseError, _not_kept)
    app.add_exception_handler(DuplicateSubmission, _already_done)
    app.add_exception_handler(Exception, _unhandled_error)
    app.add_exception_handler(StarletteHTTPException, _http_error)
    app.add_exception_handler(RequestValidationError, _bad_query)


def _is_api(request: Request) -> bool:
    return request.url.path.startswith("/api/")


def _bad_input(request: Request, error: Exception) -> Response:
    faults = error.faults if isinstance(error, InvalidField) else []
    if _is_api(request):
        return JSONResponse({"errors": [fault.as_dict() for fault in faults]}, 422)
    return error_page(request, 422, "That cannot be taken", *(fault.line() for fault in faults))


def _work_refused(request: Request, error: Exception) -> Response:
    """Too much at once, or too much in one: nothing of it was done."""
    assert isinstance(error, WorkRefused)  # noqa: S101  # this handler's own kind
    status = 503 if error.is_busy else 422
    headers = {"Retry-After": "5"} if error.is_busy else None
    if _is_api(request):
        fault = {"path": "", "value": error.got, "expected": error.expected}
        return JSONResponse({"errors": [fault]}, status, headers)
    title = "Busy" if error.is_busy else "Too much in one"
    return error_page(request, status, title, f"That is {error.got}; expected {error.expected}.")


def _stopped(request: Request, error: Exception) -> Response:
    return JSONResponse({"errors": [{"path": "", "value": "", "expected": "a server that is not stopping"}]}, 503)


def _not_there(request: Request, error: Exception) -> Response:
    return error_page(request, 404, "Not there", f"There is no {error}.")


def _conflict(request: Request, error: Exception) -> Response:
    """Nothing was saved: what others did meanwhile, what was sent here, and the way to send it again."""
    assert isinstance(error, StaleVersion)  # noqa: S101  # this handler's own kind
    found = changes_since(request.app.state.db, error.call_id, error.version)
    form = getattr(request.state, "form", None)
    pairs = [(key, text) for key, text in form.multi_items() if isinstance(text, str)] if form else []
    return render(
        request,
        "conflict.html",
        409,
        changes=found,
        action=request.url.path,
        typed_again=[(key, text) for key, text in pairs if key not in ("csrf", "act_id", "version")],
    )


def _closed(request: Request, error: Exception) -> Response:
    return error_page(request, 409, "This call is closed", "A closed call stays as it was handed over.")


def _no_pdf(request: Request, error: Exception) -> Response:
    return error_page(request, 501, "No PDF on this machine", str(error), "The record to print is there all the same.")


def _not_kept(request: Request, error: Exception) -> Response:
    """The file could not be written or read: nothing of the act is saved, and why is said plainly."""
    if isinstance(error, IntegrityError):
        raise error
    name, says = explain(error)
    return _failed(request, 507 if name == FULL else 503, name, says)


def _unhandled_error(request: Request, error: Exception) -> Response:
    """A fault of the program: said, and logged by the server; one act is one transaction, so none of it is there."""
    answer = _failed(request, 500, type(error).__name__, "Keen Coil stumbled; its log on the server says where.")
    answer.headers.update(HEADERS)  # this answer is made outside of what adds them
    return answer


def _failed(request: Request, status: int, got: str, says: str) -> Response:
    if _is_api(request):
        return JSONResponse({"errors": [{"path": "", "value": got, "expected": says}]}, status)
    if request.method == "GET":
        return error_page(request, status, "Cannot be shown", says)
    stays = "Nothing of this was saved; what you typed stays in its page. Save it again."
    return error_page(request, status, "Not saved", says, stays)


def _already_done(request: Request, error: Exception) -> Response:
    """A repeat of an act is harmless: on to the call."""
    call_id = error.call_id if isinstance(error, DuplicateSubmission) else None
    return Response(status_code=303, headers={"Location": f"/calls/{call_id}" if call_id else "/"})


def _http_error(request: Request, error: Exception) -> Response:
    status = error.status_code if isinstance(error, HTTPException | StarletteHTTPException) else 500
    detail = str(error.detail) if isinstance(error, HTTPException | StarletteHTTPException) else ""
    if _is_api(request):
        return JSONResponse({"errors": [{"path": "", "value": request.url.path, "expected": detail}]}, status)
    return error_page(request, status, "Not there" if status == 404 else "Not taken", detail)


def _bad_query(request: Request, error: Exception) -> Response:
    return error_page(request, 404, "Not there", "There is no such page.")
