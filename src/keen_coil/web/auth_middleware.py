"""The gate: who must sign in, and which matters are a manager's. Open on loopback, shut on any other address."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any, TypeVar
from urllib.parse import quote

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import State
from starlette.requests import Request
from starlette.responses import JSONResponse, PlainTextResponse, RedirectResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from ..core.authority import MATTERS, Matter
from ..core.errors import KeenCoilError
from ..services.people.accounts import SignedIn, signed_in
from ..services.sync.authors import Bearer
from ..services.sync.tokens import account_of_token

IN_COOKIE = "keen_coil_in"
OPEN = re.compile(r"/static/.*|/sign-in|/phone(/[A-Za-z0-9_.-]+)?|/manifest\.webmanifest|/service-worker\.js|/away")
LOOPBACK = frozenset({"127.0.0.1", "::1"})
Endpoint = TypeVar("Endpoint", bound=Callable[..., Any])


class ForManagers(KeenCoilError):
    """Something that only a manager does."""

    status, title = 403, "For a manager"

    def __str__(self) -> str:
        return f"A manager changes {self.args[0]}."


def concerns(matter: str) -> Callable[[Endpoint], Endpoint]:
    """Declare which matter a route is about, and with it who may. Raises `KeyError` on one that is none."""

    def declared(endpoint: Endpoint) -> Endpoint:
        endpoint.matter = MATTERS[matter]  # type: ignore[attr-defined]
        return endpoint

    return declared


def authorized(request: Request) -> None:
    """Let a request reach its route when whoever sent it may. Raises `ForManagers`."""
    matter: Matter = request.scope["endpoint"].matter
    if matter.who == "manager" and not may_manage(request):
        raise ForManagers(matter.says)


def account_of(request: Request) -> SignedIn | None:
    """Who is signed in; None on loopback, where nobody need be."""
    found: SignedIn | None = getattr(request.state, "account", None)
    return found


def may_manage(request: Request) -> bool:
    """Whether limits, catalog and people may be changed from here."""
    account = account_of(request)
    return account.is_manager if account else is_open(request)


def bearer_of(request: Request) -> Bearer:
    """Who brings what another laptop wrote, and in which role."""
    account = account_of(request)
    return Bearer("manager" if may_manage(request) else "technician", account.name if account else None)


def is_open(request: Request) -> bool:
    """Whether nobody need sign in: a server on loopback, or whoever sits at a laptop that shares itself."""
    settings = request.app.state.settings
    here = request.client is not None and request.client.host in LOOPBACK
    return not settings.accounts or bool(settings.share_address and here)


class AuthMiddleware:
    """Lets a request through when nobody need sign in or somebody is; notes who it is."""

    def __init__(self, app: ASGIApp, state: State, error_page: Callable[..., ASGIApp]) -> None:
        self.app, self.state, self.error_page = app, state, error_page

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Ask who it is, and whether they may."""
        if scope["type"] != "http" or not self.state.settings.accounts or OPEN.fullmatch(scope["path"]):
            await self.app(scope, receive, send)
            return
        request = Request(scope)
        account = await run_in_threadpool(self._account, request)
        if account is None and is_open(request):
            await self.app(scope, receive, send)
            return
        if account is None:
            await self._ask(request)(scope, receive, send)
            return
        scope.setdefault("state", {})["account"] = account
        await self.app(scope, receive, send)

    def _account(self, request: Request) -> SignedIn | None:
        """Whose cookie came, or on what vans ask whose token."""
        now = datetime.now(UTC)
        kind, _, token = request.headers.get("authorization", "").partition(" ")
        if request.url.path.startswith("/api/sync/"):
            return account_of_token(self.state.db, token, now) if kind.lower() == "bearer" and token else None
        token = request.cookies.get(IN_COOKIE, "")
        return signed_in(self.state.db, token, now) if token else None

    def _ask(self, request: Request) -> ASGIApp:
        """Whoever is not signed in: a page goes to the sign-in and back, all else is refused."""
        if request.url.path.startswith("/api/"):
            return JSONResponse({"errors": [{"path": "", "value": "nobody", "expected": "somebody signed in"}]}, 401)
        if request.method != "GET":
            says = "Nothing was saved; what you typed stays in its page. Sign in, then save it again."
            return self.error_page(request, 401, "You are signed out", says, sign_in=True)
        if request.headers.get("hx-request") and not request.headers.get("hx-boosted"):
            return PlainTextResponse("", 401)
        query = f"?{request.url.query}" if request.url.query else ""
        return RedirectResponse(f"/sign-in?next={quote(request.url.path + query)}", 303)
