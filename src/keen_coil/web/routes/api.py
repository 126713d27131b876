"""The JSON API: stateless, the same answers as pages and command line."""

from __future__ import annotations

import asyncio
import threading
from functools import partial
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ...core.call import Call
from ...core.capacitors.substitute import CapacitorAnswer
from ...core.diagnosis.assess import Assessment
from ...core.errors import invalid
from ...core.hookup.answer import HookupAnswer
from ...core.machine.answer import CircuitAnswer, ModelAnswer
from ...core.match.answer import Match
from ...services.answers.requests import CapacitorRequest, HookupRequest, MatchRequest, ModelRequest, request_schema
from ..auth_middleware import concerns
from ..tasks import answer_json
from ..workers import LOOKS_EVERY_S, Workers

router = APIRouter(prefix="/api")
_ERRORS: dict[int | str, dict[str, Any]] = {
    422: {
        "description": "Fields that can't be used",
        "content": {
            "application/json": {
                "schema": {
                    "type": "object",
                    "properties": {
                        "errors": {
                            "type": "array",
                            "items": {
                                "type": "object",
                                "properties": {key: {"type": "string"} for key in ("path", "value", "expected")},
                            },
                        }
                    },
                }
            }
        },
    },
}


BODIES: dict[str, Any] = {
    "assess": Call,
    "match": MatchRequest,
    "model": ModelRequest,
    "capacitor": CapacitorRequest,
    "hookup": HookupRequest,
}
"""What each request takes."""


def describe_bodies(spec: dict[str, Any]) -> None:
    """Add to an OpenAPI description what each request takes: its body is read by the core, not by the framework."""
    schemas = spec["components"]["schemas"]
    definitions: dict[str, Any] = {}
    for name, kind in BODIES.items():
        schema = request_schema(kind, definitions)
        content = {"application/json": {"schema": schema}}
        spec["paths"][f"{router.prefix}/{name}"]["post"]["requestBody"] = {"required": True, "content": content}
    schemas.update({name: schema for name, schema in definitions.items() if name not in schemas})


async def _json_body(request: Request) -> bytes:
    """The body of a JSON request within the limit. Raises `InvalidField`."""
    kind = request.headers.get("content-type", "").split(";")[0].strip().lower()
    if kind != "application/json":
        raise invalid("content-type", kind, "application/json")
    largest: int = request.app.state.settings.largest_upload
    data = bytearray()
    async for chunk in request.stream():
        data += chunk
        if len(data) > largest:
            stated = request.headers.get("content-length", "")
            size = int(stated) if stated.isdecimal() and len(stated) < 16 else len(data)
            raise invalid("", f"{size / 1e6:.1f} MB", f"at most {largest / 1e6:.1f} MB")
    return bytes(data)


async def _answer(request: Request, name: str) -> Response:
    """What the core answers, worked out in a process of its own; ended when the asker hangs up."""
    data, gone = await _json_body(request), threading.Event()
    workers: Workers = request.app.state.workers
    asked = partial(workers.run, answer_json, name, data, gone=gone)
    watch = asyncio.create_task(_watch(request, gone))
    try:
        text = await asyncio.get_running_loop().run_in_executor(request.app.state.askers, asked)
    finally:
        gone.set()
        watch.cancel()
    return Response(text, media_type="application/json")


async def _watch(request: Request, gone: threading.Event) -> None:
    while not await request.is_disconnected():
        await asyncio.sleep(LOOKS_EVERY_S)
    gone.set()


@router.post("/assess", response_model=Assessment, responses=_ERRORS)
@concerns("reference")
async def assess(request: Request) -> Response:
    """Assess a call: verdict, ranked faults, links, judgments, next tests."""
    return await _answer(request, "assess")


@router.post("/match", response_model=Match, responses=_ERRORS)
@concerns("reference")
async def match(request: Request) -> Response:
    """Match a catalog for a call."""
    return await _answer(request, "match")


@router.post("/model", response_model=ModelAnswer | CircuitAnswer, responses=_ERRORS)
@concerns("reference")
async def model(request: Request) -> Response:
    """What a motor should read: a call, a call with changes, or a bare circuit."""
    return await _answer(request, "model")


@router.post("/capacitor", response_model=CapacitorAnswer, responses=_ERRORS)
@concerns("reference")
async def capacitor(request: Request) -> Response:
    """Which capacitors of a van serve a need, alone or joined."""
    return await _answer(request, "capacitor")


@router.post("/hookup", response_model=HookupAnswer, responses=_ERRORS)
@concerns("reference")
async def hookup(request: Request) -> Response:
    """Plan the wiring of a motor, or check the planned wiring of a call."""
    return await _answer(request, "hookup")
