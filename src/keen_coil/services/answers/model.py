"""The motor model without a database: a call file with changes, a bare circuit, a request of the API."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from ...core.call import read_call
from ...core.errors import InvalidField, invalid, known_only, paths_under
from ...core.machine.answer import CircuitAnswer, ModelAnswer, circuit_answer, model_answer, read_changes, read_circuit
from ...formats.call_file import parse_json


def model_file(data: bytes, settings: list[str]) -> ModelAnswer:
    """The model of a call file under `NAME=VALUE` settings. Raises `InvalidField`.

    A plain name is a condition (`capacitor_uf=4`, `supply_v=208`, `load_pct`, `drag_pct`, `blade_rpm`,
    `leads_swapped`); a dotted one a field of the call file (`motor.hp=0.5`).
    """
    return _answer(parse_json(data), dict(_setting(text) for text in settings))


def _answer(call: Any, wished: Mapping[str, Any]) -> ModelAnswer:
    """The answer for a call's data with fields of it and conditions set."""
    for path, value in wished.items():
        if "." in path:
            _put(call, path, value)
    read = read_call(call)
    return model_answer(read, read_changes({k: v for k, v in wished.items() if "." not in k}))


def _setting(text: str) -> tuple[str, Any]:
    name, equals, value = text.partition("=")
    if not equals or not name.strip():
        raise invalid("set", text, "NAME=VALUE, such as capacitor_uf=4")
    try:
        return name.strip(), parse_json(value.encode())
    except InvalidField:
        return name.strip(), value.strip()


def _put(call: Any, path: str, value: Any) -> None:
    *way, last = path.split(".")
    for name in way:
        if not isinstance(call, dict):
            break
        call = call.setdefault(name, {})
    if not isinstance(call, dict):
        raise invalid(f"set.{path}", json.dumps(value), "a field of the call file that is no list")
    call[last] = value


def circuit_file(data: bytes) -> CircuitAnswer:
    """A bare circuit solved. Raises `InvalidField`."""
    return circuit_answer(read_circuit(parse_json(data)))


def model_request(data: bytes) -> ModelAnswer | CircuitAnswer:
    """An API request: a call; or `{"call": ..., "set": {...}}`; or `{"circuit": {...}}`."""
    body = parse_json(data)
    if not isinstance(body, dict):
        raise invalid("", body, "a call, or an object with call and set, or with circuit")
    if set(body) == {"circuit"}:
        with paths_under("circuit"):
            return circuit_answer(read_circuit(body["circuit"]))
    if "call" not in body:
        return model_answer(read_call(body))
    known_only(body, {"call", "set"})
    wished = body.get("set", {})
    if not isinstance(wished, dict):
        raise invalid("set", wished, "an object of changes")
    with paths_under("call", apart="set"):
        return _answer(body["call"], wished)
