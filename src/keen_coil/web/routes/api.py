"""The JSON API: stateless, the same answers as pages and command line."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request

from ...core.call import Call
from ...core.capacitors.parts import CapacitorPart
from ...core.capacitors.substitute import CapacitorAnswer
from ...core.diagnosis.assess import Assessment
from ...core.errors import bad
from ...core.hookup.answer import HookupAnswer
from ...core.machine.answer import Changes, Circuit, CircuitAnswer, ModelAnswer
from ...core.match.answer import Match
from ...core.match.catalogue import CatalogueMotor
from ...desk.capacitors import capacitor_request
from ...desk.hookup import hookup_request
from ...desk.model import model_request
from ...desk.without_store import assess_file, match_request

router = APIRouter(prefix="/api")
_ERRORS: dict[int | str, dict[str, Any]] = {
    422: {"description": "Fields that cannot be taken", "content": {"application/json": {"schema": {
        "type": "object", "properties": {"errors": {"type": "array", "items": {
            "type": "object", "properties": {key: {"type": "string"} for key in ("path", "value", "expected")},
        }}},
    }}}},
}  # fmt: skip


def _body(schema: dict[str, Any]) -> dict[str, Any]:
    return {"requestBody": {"required": True, "content": {"application/json": {"schema": schema}}}}


_CALL = Call.model_json_schema(by_alias=True, ref_template="#/components/schemas/{model}")
_MOTOR = CatalogueMotor.model_json_schema(ref_template="#/components/schemas/{model}")
_CHANGES, _CIRCUIT = Changes.model_json_schema(), Circuit.model_json_schema()
DEFINITIONS = {
    **_CALL.pop("$defs", {}), **_MOTOR.pop("$defs", {}), "Call": _CALL, "CatalogueMotor": _MOTOR,
    "Changes": _CHANGES, "Circuit": _CIRCUIT, "CapacitorPart": CapacitorPart.model_json_schema(),
}  # fmt: skip
_REF = "#/components/schemas/"
_MATCH = {
    "type": "object", "required": ["call", "catalogue"], "additionalProperties": False,
    "properties": {
        "call": {"$ref": _REF + "Call"}, "catalogue": {"type": "array", "items": {"$ref": _REF + "CatalogueMotor"}},
        "school": {"enum": ["amps", "hp_amps", "ten_percent", "like"], "default": "amps"},
        "van": {"type": "array", "items": {
            "type": "object", "required": ["part_no"],
            "properties": {"part_no": {"type": "string"}, "quantity": {"type": "integer", "minimum": 0}},
        }},
    },
}  # fmt: skip
_MODEL = {"anyOf": [
    {"$ref": _REF + "Call"},
    {"type": "object", "required": ["call"], "additionalProperties": False,
     "properties": {"call": {"$ref": _REF + "Call"}, "set": {"$ref": _REF + "Changes"}}},
    {"type": "object", "required": ["circuit"], "additionalProperties": False,
     "properties": {"circuit": {"$ref": _REF + "Circuit"}}},
]}  # fmt: skip
_CAPACITOR = {
    "type": "object", "required": ["need", "van"], "additionalProperties": False,
    "properties": {
        "need": {"anyOf": [{"type": "string"}, {
            "type": "object", "required": ["uf", "volts_v"], "additionalProperties": False,
            "properties": {name: {"type": "number", "exclusiveMinimum": 0} for name in ("uf", "volts_v", "herm_uf")},
        }]},
        "van": {"type": "array", "items": {"anyOf": [
            {"$ref": _REF + "CapacitorPart"}, {"type": "object", "required": ["kind", "part_no"]},
        ]}},
    },
}  # fmt: skip


_HOOKUP = {"anyOf": [
    {"$ref": _REF + "Call"},
    {"type": "object", "required": ["call"], "additionalProperties": False, "properties": {
        "call": {"$ref": _REF + "Call"}, "to": {"$ref": _REF + "Motor"}, "school": {"enum": ["dual", "own"]},
        "check": {"type": "boolean", "default": False},
    }},
]}  # fmt: skip


async def _json_body(request: Request) -> bytes:
    """The body of a JSON request within the limit. Raises `BadInput`."""
    kind = request.headers.get("content-type", "").split(";")[0].strip().lower()
    if kind != "application/json":
        raise bad("content-type", kind, "application/json")
    largest: int = request.app.state.settings.largest_upload
    data = b""
    async for chunk in request.stream():
        data += chunk
        if len(data) > largest:
            stated = request.headers.get("content-length", "")
            size = int(stated) if stated.isdecimal() else len(data)
            raise bad("", f"{size / 1e6:.1f} MB", f"at most {largest / 1e6:.1f} MB")
    return data


@router.post("/assess", responses=_ERRORS, openapi_extra=_body({"$ref": _REF + "Call"}))
async def assess(request: Request) -> Assessment:
    """Assess a call: verdict, ranked faults, links, judgements, next tests."""
    return assess_file(await _json_body(request))


@router.post("/match", responses=_ERRORS, openapi_extra=_body(_MATCH))
async def match(request: Request) -> Match:
    """Match a catalogue for a call."""
    return match_request(await _json_body(request))


@router.post("/model", responses=_ERRORS, openapi_extra=_body(_MODEL))
async def model(request: Request) -> ModelAnswer | CircuitAnswer:
    """What a motor should read: a call, a call with changes, or a bare circuit."""
    return model_request(await _json_body(request))


@router.post("/capacitor", responses=_ERRORS, openapi_extra=_body(_CAPACITOR))
async def capacitor(request: Request) -> CapacitorAnswer:
    """Which capacitors of a van serve a need, alone or joined."""
    return capacitor_request(await _json_body(request))


@router.post("/hookup", responses=_ERRORS, openapi_extra=_body(_HOOKUP), response_model_by_alias=True)
async def hookup(request: Request) -> HookupAnswer:
    """Plan the wiring of a motor, or check the planned wiring of a call."""
    return hookup_request(await _json_body(request))
