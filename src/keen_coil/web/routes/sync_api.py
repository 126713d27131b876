"""What a van asks of the shop's server: greetings, packages in pieces, photographs by hash."""

from __future__ import annotations

from datetime import UTC, datetime
from functools import partial
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request
from pydantic import TypeAdapter, ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.responses import FileResponse, JSONResponse, Response

from ...core.errors import InvalidField, NotFound, field_errors, invalid
from ...core.record import Name
from ...exchange.shop_server import MARK, PIECE
from ...formats.call_file import parse_json
from ...formats.sync_package import Knows, read_greeting
from ...services.acts import ActContext
from ...services.catalog.import_files import new_act_context
from ...services.sync.inbox import answer_greeting, note_done, package_made, size_here, size_made, take_piece
from ...services.sync.lineage import OlderCopy
from ...services.sync.pictures import keep_picture, missing_pictures, picture
from ...services.sync.tokens import count_bytes
from ..auth_middleware import account_of, bearer_of, concerns, is_open
from ..page import database
from ..tasks import make_for_van, merge_package

LARGEST_JSON, LARGEST_PICTURE, MOST_HASHES = 8 * 1024 * 1024, 16 * 1024 * 1024, 100_000


def only_vans(request: Request) -> None:
    """Refuse what a page of another site could have sent. Raises `InvalidField`."""
    name, value = next(iter(MARK.items()))
    if request.headers.get(name) != value:
        raise invalid(name, request.headers.get(name, "nothing"), value)
    if account_of(request) is None and not is_open(request):
        raise invalid("token", "nothing", "a token made at the shop")


router = APIRouter(prefix="/api/sync", dependencies=[Depends(only_vans)])
_KNOWS: TypeAdapter[dict[str, int]] = TypeAdapter(Knows)
_HASHES: TypeAdapter[list[str]] = TypeAdapter(list[Name])


async def _body(request: Request, largest: int) -> bytes:
    data = bytearray()
    async for chunk in request.stream():
        data += chunk
        if len(data) > largest:
            raise invalid("", f"more than {largest / 1e6:.0f} MB", f"at most {largest / 1e6:.0f} MB")
    return bytes(data)


async def _counted(request: Request, largest: int) -> bytes:
    """What came, counted to its token's day. Raises `TooMuchToday`."""
    data, account = await _body(request, largest), account_of(request)
    if account is not None and account.token:
        await run_in_threadpool(count_bytes, database(request), account.token, len(data), datetime.now(UTC))
    return data


async def _json(request: Request) -> Any:
    return parse_json(await _body(request, LARGEST_JSON))


def _held(kind: TypeAdapter[Any], data: Any) -> Any:
    try:
        return kind.validate_python(data)
    except ValidationError as error:
        raise InvalidField(field_errors(error, "body")) from None


Data = Annotated[Any, Depends(_json)]


def _context(request: Request) -> ActContext:
    account, context = account_of(request), new_act_context()
    return ActContext(context.act_id, 0, context.now, account.technician if account else None)


@router.post("/greeting")
@concerns("syncing")
def greet(request: Request, data: Data) -> Response:
    """Who is there, what each knows."""
    try:
        answer = answer_greeting(database(request), read_greeting(data), bearer_of(request), datetime.now(UTC))
    except OlderCopy as error:
        if error.mine:
            raise
        return JSONResponse({"older_copy": error.common, "errors": [fault.as_dict() for fault in error.errors]}, 409)
    return JSONResponse(answer.model_dump(mode="json"))


@router.post("/pictures/missing")
@concerns("syncing")
def pictures_missing(request: Request, data: Data) -> Response:
    """Which photographs are lacking here."""
    hashes = _held(_HASHES, data)
    if len(hashes) > MOST_HASHES:
        raise invalid("", f"{len(hashes)} hashes", f"at most {MOST_HASHES}")
    return JSONResponse(missing_pictures(database(request), hashes))


@router.put("/pictures/{sha256}")
@concerns("syncing")
async def take_picture(request: Request, sha256: str) -> Response:
    """A photograph ahead of its row."""
    data = await _counted(request, LARGEST_PICTURE)
    await run_in_threadpool(keep_picture, database(request), sha256, data, datetime.now(UTC))
    return JSONResponse({"has": len(data)})


@router.get("/pictures/{sha256}")
@concerns("syncing")
def give_picture(request: Request, sha256: str) -> Response:
    """A photograph by its hash."""
    found = picture(database(request), sha256)
    if found is None:
        raise NotFound("this photograph")
    return Response(found, media_type="image/jpeg")


@router.get("/inbox/{digest}")
@concerns("syncing")
def inbox_size(request: Request, digest: str) -> Response:
    """How much of a package has come."""
    return JSONResponse({"has": size_here(database(request), bearer_of(request), digest)})


@router.put("/inbox/{digest}")
@concerns("syncing")
async def inbox_piece(request: Request, digest: str, at: int) -> Response:
    """A piece of a package."""
    data = await _counted(request, 2 * PIECE)
    has = await run_in_threadpool(take_piece, database(request), bearer_of(request), digest, at, data)
    return JSONResponse({"has": has})


@router.post("/inbox/{digest}/merge")
@concerns("syncing")
def inbox_merge(request: Request, digest: str) -> Response:
    """Merge a package that has come whole."""
    run = partial(request.app.state.file_workers.run, merge_package, database(request).path)
    return JSONResponse(run(_context(request), digest, bearer_of(request)))


@router.post("/outbox")
@concerns("syncing")
def outbox(request: Request, data: Data) -> Response:
    """Make a package of what a van lacks."""
    run = request.app.state.file_workers.run
    return JSONResponse(run(make_for_van, database(request).path, _held(_KNOWS, data)))


@router.get("/outbox/{digest}")
@concerns("syncing")
def outbox_piece(request: Request, digest: str) -> Response:
    """A package that was made, or a piece of it."""
    return FileResponse(package_made(database(request), digest), media_type="application/zip")


@router.get("/outbox/{digest}/size")
@concerns("syncing")
def outbox_size(request: Request, digest: str) -> Response:
    """How large a package is, where it is still there."""
    return JSONResponse({"bytes": size_made(database(request), digest)})


@router.post("/done")
@concerns("syncing")
def done(request: Request, data: Data) -> Response:
    """The van has taken everything."""
    note_done(database(request), read_greeting(data), bearer_of(request), datetime.now(UTC))
    return JSONResponse({})
