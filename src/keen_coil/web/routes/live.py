"""The stream that tells the open pages of a call that it changed."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response, StreamingResponse

from ...core.errors import KeenCoilError
from ...services.calls.calls import version_of_call
from ..live import MOST_STREAMS, CallBells
from ..page import RowId, database

router = APIRouter()


class TooManyStreams(KeenCoilError):
    """More pages look than the server tells at once."""

    status, title = 503, "Too many open pages"

    def __str__(self) -> str:
        return f"At most {MOST_STREAMS} pages are told of changes at once. Reload to see what is new."


@router.get("/calls/{call_id}/live")
def follow(request: Request, call_id: RowId) -> Response:
    """Events of a call, until its page goes. Raises `NotFound`."""
    bells: CallBells = request.app.state.bells
    if bells.streams >= MOST_STREAMS:
        raise TooManyStreams
    db = database(request)
    version_of_call(db, call_id)
    events = bells.changes(call_id, lambda number: version_of_call(db, number))
    return StreamingResponse(events, media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})
