"""Call files (`*.call.json`): strict JSON to a call and back."""

from __future__ import annotations

import json
from typing import Any

from ..core.call import Call, read_call, write_call
from ..core.errors import InvalidField, invalid
from ..core.units import CONTROL, texts_in

LARGEST = 8 * 1024 * 1024
_DEEPEST = 40


def parse_json(data: bytes, largest: int = LARGEST) -> Any:
    """Strict JSON: UTF-8, no NaN, no doubled keys, of limited size and depth. Raises `InvalidField`."""
    if len(data) > largest:
        raise invalid("", f"{len(data) / 1e6:.1f} MB", f"at most {largest / 1e6:.1f} MB")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise invalid("", f"a byte that is not UTF-8 at {error.start}", "a text file in UTF-8") from None
    try:
        parsed = json.loads(text, parse_constant=_no_constant, object_pairs_hook=_once)
    except json.JSONDecodeError as error:
        raise invalid("", f"{error.msg} at line {error.lineno}, column {error.colno}", "JSON") from None
    except InvalidField:
        raise
    except (RecursionError, ValueError):
        raise invalid("", "numbers or nesting beyond reason", "JSON of a call file") from None
    _check_depth(parsed)
    for path, one in texts_in(parsed) if "\\u" in text or CONTROL.search(text) else ():
        if CONTROL.search(one):
            raise invalid(path, one, "text without control characters")
    return parsed


def _no_constant(name: str) -> float:
    raise invalid("", name, "a finite number")


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        names = [key for key, _ in pairs]
        twice = next(key for key in names if names.count(key) > 1)
        raise invalid(twice, "the same key twice", "each key once")
    return found


def _check_depth(value: Any, depth: int = 0) -> None:
    if depth > _DEEPEST:
        raise invalid("", f"nesting over {_DEEPEST} deep", "JSON of a call file")
    for item in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
        _check_depth(item, depth + 1)


def load_call(data: bytes) -> Call:
    """A call from the bytes of a file. Raises `InvalidField` with every fault."""
    return read_call(parse_json(data))


def dump_call(call: Call) -> str:
    """A call as the text of a file; reading it back gives the same call."""
    return json.dumps(write_call(call), indent=2, ensure_ascii=False) + "\n"
