"""What a failure looks like: one answer for pages, one for the API, the same failures behind both."""

from __future__ import annotations

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from sqlalchemy.exc import DatabaseError, IntegrityError
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect
from starlette.responses import JSONResponse, Response

from ..core.errors import FieldError, InvalidField, KeenCoilError, NotFound, ServerFailed
from ..services.acts import DuplicateSubmission, StaleVersion
from ..services.field_messages import message
from ..services.people.audit_trail import changes_since
from ..store.sqlite_errors import DatabaseFailed
from .middleware import HEADERS
from .page import error_page, render

_LOG = logging.getLogger(__name__)
NOTHING_SAVED = "Nothing was saved. What you typed is still on the page. Save it again."


class UnhandledError(ServerFailed):
    """A fault of the program: said, and logged by the server."""

    def __str__(self) -> str:
        return "Something went wrong in Keen Coil. The server's log says where."

    @property
    def errors(self) -> list[FieldError]:
        """The kind of the error, without what it held."""
        return [FieldError("", str(self.args[0]), str(self))]


class NotTaken(KeenCoilError):
    """What the framework refuses: an address or a method that is none."""

    def __init__(self, status: int, path: str, detail: str) -> None:
        super().__init__(status, path, detail)
        self.status, self.path, self.detail = status, path, detail
        self.title = NotFound.title if status == NotFound.status else "Not saved"

    def __str__(self) -> str:
        return self.detail

    @property
    def errors(self) -> list[FieldError]:
        """The address, and what the framework says."""
        return [FieldError("", self.path, self.detail)]


def answer_errors(app: FastAPI) -> None:
    """Answer every failure here. One act is one transaction, so nothing of a failed one is there."""
    for kind in (KeenCoilError, DatabaseError, HTTPException, RequestValidationError, Exception):
        app.add_exception_handler(kind, _answer)
    app.add_exception_handler(ClientDisconnect, _hung_up)


def _hung_up(request: Request, error: Exception) -> Response:
    """Whoever asked is gone, or never sent all of it: no fault of the program, so it is counted and not traced."""
    state = request.app.state
    state.hung_up = getattr(state, "hung_up", 0) + 1
    _LOG.info("%s %s: the asker hung up (%d so far)", request.method, request.url.path, state.hung_up)
    return Response(status_code=400)


def _answer(request: Request, error: Exception) -> Response:
    failure = _failure(request, error)
    to_api = request.url.path.startswith("/api/")
    answer = _for_api(failure) if to_api else _for_page(request, failure)
    if isinstance(failure, UnhandledError):
        answer.headers.update(HEADERS)  # this answer is made outside of what adds them
    return answer


def _failure(request: Request, error: Exception) -> KeenCoilError:
    if isinstance(error, KeenCoilError):
        return error
    if isinstance(error, DatabaseError) and not isinstance(error, IntegrityError):
        return DatabaseFailed.of(error)
    if isinstance(error, HTTPException):
        return NotTaken(error.status_code, request.url.path, str(error.detail))
    if isinstance(error, RequestValidationError):
        return NotFound("such page")
    return UnhandledError(type(error).__name__)


def _for_api(failure: KeenCoilError) -> Response:
    errors = [error.as_dict() for error in failure.errors]
    return JSONResponse({"errors": errors}, failure.status, dict(failure.headers))


def _for_page(request: Request, failure: KeenCoilError) -> Response:
    if isinstance(failure, DuplicateSubmission):  # a repeat of an act is harmless: on to the call
        where = f"/calls/{failure.call_id}" if failure.call_id else "/"
        return Response(status_code=failure.status, headers={"Location": where})
    if isinstance(failure, StaleVersion):
        return _conflict_answer(request, failure)
    title, lines = failure.title, failure.lines
    if isinstance(failure, InvalidField):
        lines = [message(fault) for fault in failure.errors]
    if isinstance(failure, ServerFailed) and request.method != "GET":
        title, lines = "Not saved", [*lines, NOTHING_SAVED]
    return error_page(request, failure.status, title, *lines)


def _conflict_answer(request: Request, failure: StaleVersion) -> Response:
    """Nothing was saved: what others did meanwhile, what was sent here, and the way to send it again."""
    found = changes_since(request.app.state.db, failure.call_id, failure.version)
    form = getattr(request.state, "form", None)
    pairs = [(key, text) for key, text in form.multi_items() if isinstance(text, str)] if form else []
    return render(
        request,
        "conflict.html",
        failure.status,
        changes=found,
        action=request.url.path,
        typed_again=[(key, text) for key, text in pairs if key not in ("csrf", "act_id", "version")],
    )
