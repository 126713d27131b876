"""Guards around every answer: security headers, upload limit before anything is read."""

from __future__ import annotations

import asyncio
import time

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse, PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

POLICY = (
    "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; "
    "frame-ancestors 'none'; form-action 'self'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}
STAY_SECURE = "max-age=31536000"
LARGEST_BODY, LARGEST_FIELDS = 64 * 1024 * 1024, 1024 * 1024
"""Bytes of a body: with files, and of a form that has none."""
BODY_S, SLOWEST = 30, 5_000
"""Seconds that a body takes at most, and bytes for each of which one more second is given: the weakest of phones."""


class SecurityHeaders:
    """Adds the policy and its companions to every answer; pages are not kept by caches."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass through, adding headers at the start of the answer."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        static = scope["path"].startswith("/static/")

        secure = scope.get("scheme") == "https"

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers.update(HEADERS)
                if secure:
                    headers["Strict-Transport-Security"] = STAY_SECURE
                headers.setdefault("Cache-Control", "public, max-age=31536000, immutable" if static else "no-store")
            await send(message)

        await self.app(scope, receive, send_with_headers)


class BodyLimit:
    """Refuses a body that says it is larger than anything taken here; cuts off one that does not say, or never ends."""

    def __init__(self, app: ASGIApp, largest: int = LARGEST_BODY) -> None:
        self.app, self.largest = app, largest

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Count what comes in."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        fields = headers.get("content-type", "").startswith("application/x-www-form-urlencoded")
        largest = min(self.largest, LARGEST_FIELDS) if fields else self.largest
        stated = headers.get("content-length", "")
        if stated.isdecimal() and (len(stated) > 12 or int(stated) > largest):
            await self._refuse(scope, int(stated[:12]), largest)(scope, receive, send)
            return
        taken, whole, begun = 0, False, time.monotonic()

        async def counted() -> Message:
            nonlocal taken, whole
            left = None if whole else begun + BODY_S + taken / SLOWEST - time.monotonic()
            try:
                message = await asyncio.wait_for(receive(), left)
            except TimeoutError:
                return {"type": "http.disconnect"}
            taken += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            return message if taken <= largest else {"type": "http.disconnect"}

        await self.app(scope, counted, send)

    def _refuse(self, scope: Scope, size: int, largest: int) -> ASGIApp:
        got, expected = f"{size / 1e6:.1f} MB", f"at most {largest / 1e6:.1f} MB"
        if scope["path"].startswith("/api/"):
            return JSONResponse({"errors": [{"path": "", "value": got, "expected": expected}]}, 413)
        return PlainTextResponse(f"file: got {got}; expected {expected}", 413)


class HeadAsGet:
    """Answers HEAD as GET without its body, on every address that answers GET."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass through; of a HEAD's answer only the headers go out."""
        if scope["type"] != "http" or scope["method"] != "HEAD":
            await self.app(scope, receive, send)
            return

        async def send_headers(message: Message) -> None:
            if message["type"] == "http.response.body":
                message = {**message, "body": b""}
            await send(message)

        await self.app({**scope, "method": "GET"}, receive, send_headers)
