"""The gate: who must sign in, and what only a manager may do. Open on loopback, shut on any other address."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC, datetime
from urllib.parse import quote

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import State
from starlette.requests import Request
from starlette.responses import JSONResponse, PlainTextResponse, RedirectResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from ..services.people.accounts import SignedIn, signed_in
from ..services.sync.authors import Bearer
from ..services.sync.tokens import account_of_token

IN_COOKIE = "keen_coil_in"
OPEN = re.compile(r"/static/.*|/sign-in|/phone(/[A-Za-z0-9_.-]+)?|/manifest\.webmanifest|/service-worker\.js|/away")
LOOPBACK = frozenset({"127.0.0.1", "::1"})
MANAGERS: tuple[tuple[str, str, str], ...] = (
    ("POST", r"/settings", "limits"),
    ("POST", r"/settings/schools", "schools"),
    ("POST", r"/settings/people", "people"),
    ("POST", r"/settings/shop", "the shop's name"),
    ("POST", r"/start", "the whole log"),
    ("POST", r"/settings/ferries", "delivery times"),
    ("POST", r"/settings/meter", "the linked meter"),
    ("POST", r"/settings/backup", "the nightly backup"),
    ("POST", r"/settings/accounts", "accounts"),
    ("GET", r"/settings/accounts", "accounts"),
    ("GET", r"/settings/trail", "the activity log"),
    ("POST", r"/shelf/import(/.*)?", "catalog and van"),
    ("POST", r"/shelf/plan/levels", "levels of the van"),
    ("POST", r"/log/archive/import", "the whole log"),
    ("POST", r"/log/archive/export", "the whole log"),
    ("GET", r"/log/archive/.+", "the whole log"),
    ("POST", r"/settings/vans", "what this computer is called"),
    ("POST", r"/settings/vans/sync", "what several laptops have"),
    ("POST", r"/settings/vans/file", "what several laptops have"),
    ("POST", r"/settings/vans/twice", "what several laptops have"),
    ("GET", r"/settings/vans/.+", "what several laptops have"),
)
"""What only managers do: method, path, in words. Everybody else who is signed in may do the rest."""


def managers_only(method: str, path: str) -> str:
    """What a request is about when only managers may make it; empty when everybody may."""
    return next((says for verb, shape, says in MANAGERS if verb == method and re.fullmatch(shape, path)), "")


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
        says = managers_only(request.method, request.url.path)
        if says and not account.is_manager:
            await self.error_page(request, 403, "For a manager", f"A manager changes {says}.")(scope, receive, send)
            return
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
