"""The stream that tells the open pages of a call that it changed."""

from __future__ import annotations

import asyncio
import contextlib
import re
from collections import defaultdict
from collections.abc import AsyncIterator, Callable

from fastapi import APIRouter, Request
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response, StreamingResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ...core.errors import KeenCoilError
from ...services.calls.calls import version_of_call
from ..auth_middleware import concerns
from ..page import RowId, database

BEAT_S = 25.0
"""How long a stream is quiet before it says that it is still there."""
MOST_STREAMS = 400
_CALL = re.compile(r"/calls/(\d{1,12})(/.*)?")


class CallBells:
    """The bells of calls, one an open page."""

    def __init__(self) -> None:
        self._bells: dict[int, set[asyncio.Event]] = defaultdict(set)
        self._loop: asyncio.AbstractEventLoop | None = None
        self.streams = 0
        self.closed = False

    def close(self) -> None:
        """End every stream, from whatever thread: a server that stops waits for nobody who only looks."""
        self.closed = True
        if self._loop is None:
            return
        for bell in [bell for bells in list(self._bells.values()) for bell in list(bells)]:
            with contextlib.suppress(RuntimeError):  # the loop is gone already
                self._loop.call_soon_threadsafe(bell.set)

    def ring(self, call_id: int) -> None:
        """Tell every page that looks at a call; on the server's own loop."""
        for bell in self._bells.get(call_id, ()):
            bell.set()

    async def changes(self, call_id: int, version_of: Callable[[int], int]) -> AsyncIterator[str]:
        """The events of a call as a stream of text: its version now, and again whenever it was changed."""
        self._loop, bell = asyncio.get_running_loop(), asyncio.Event()
        self._bells[call_id].add(bell)
        self.streams += 1
        try:
            told = -1
            while True:
                bell.clear()  # before anything is asked: what rings from here on is heard below
                if self.closed:
                    return
                version = await run_in_threadpool(version_of, call_id)
                if version != told:
                    told = version
                    yield f"event: changed\ndata: {version}\n\n"
                try:
                    await asyncio.wait_for(bell.wait(), BEAT_S)
                except TimeoutError:
                    yield ": still here\n\n"
        finally:
            self.streams -= 1
            self._bells[call_id].discard(bell)
            if not self._bells[call_id]:
                del self._bells[call_id]


class BellOnActs:
    """Rings the bell of a call after an act on it was answered."""

    def __init__(self, app: ASGIApp, bells: CallBells) -> None:
        self.app, self.bells = app, bells

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass through; a POST to a call that was not refused rings."""
        asked = _CALL.fullmatch(scope["path"]) if scope["type"] == "http" and scope["method"] == "POST" else None
        if asked is None:
            await self.app(scope, receive, send)
            return

        async def sent(message: Message) -> None:
            await send(message)
            if message["type"] == "http.response.start" and message["status"] < 400:
                self.bells.ring(int(asked[1]))

        await self.app(scope, receive, sent)


router = APIRouter()


class TooManyStreams(KeenCoilError):
    """More pages look than the server tells at once."""

    status, title = 503, "Too many open pages"

    def __str__(self) -> str:
        return f"At most {MOST_STREAMS} pages are told of changes at once. Reload to see what is new."


@router.get("/calls/{call_id}/live")
@concerns("calls")
def follow(request: Request, call_id: RowId) -> Response:
    """Events of a call, until its page goes. Raises `NotFound`."""
    bells: CallBells = request.app.state.bells
    if bells.streams >= MOST_STREAMS:
        raise TooManyStreams
    db = database(request)
    version_of_call(db, call_id)
    events = bells.changes(call_id, lambda number: version_of_call(db, number))
    return StreamingResponse(events, media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})
