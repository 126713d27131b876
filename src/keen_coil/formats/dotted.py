"""Plates from flat text, as forms and CSV give them: dotted names, blanks, `1/4`, lists with `|`, `true`."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from types import NoneType
from typing import Any, get_args, get_origin

from pydantic import BaseModel

_FRACTION = re.compile(r"(?:(\d{1,2})[ -])?(\d{1,2})/(\d{1,3})")


def nested(flat: Mapping[str, str], model: type[BaseModel]) -> dict[str, Any]:
    """Nested data for a model from dotted text fields; blanks are left out, text stays text for exact digits."""
    found: dict[str, Any] = {}
    for name, text in flat.items():
        if text.strip():
            put(found, name, _value(name, text.strip(), model))
    return found


def put(data: dict[str, Any], name: str, value: Any) -> None:
    """Set a dotted field of nested data."""
    *parents, last = name.split(".")
    for parent in parents:
        data = data.setdefault(parent, {})
    data[last] = value


def get(item: object, name: str) -> Any:
    """A dotted field of a model; None where anything on the way is not there."""
    for part in name.split("."):
        item = getattr(item, part, None)
    return item


def _value(name: str, text: str, model: type[BaseModel]) -> Any:
    kind = field_type(name, model)
    if kind is list:
        return [item.strip() for item in text.split("|") if item.strip()]
    if kind is bool and text in ("true", "false"):
        return text == "true"
    return fraction(text) if name.split(".")[-1].endswith("hp") else text


def fraction(text: str) -> str | float:
    """Horsepower text as a number where it is a fraction such as `1/4` or `1 1/2`; else the text itself."""
    found = _FRACTION.fullmatch(text)
    if not found or int(found[3]) == 0:
        return text
    return round(int(found[1] or 0) + int(found[2]) / int(found[3]), 6)


@cache
def field_type(name: str, model: type[BaseModel]) -> type | None:
    """The plain type behind a dotted field: list, bool, float ...; None when the model has no such field."""
    first, _, rest = name.partition(".")
    field = model.model_fields.get(first)
    if field is None:
        return None
    inner: type | None = _plain(field.annotation)
    if rest:
        return field_type(rest, inner) if isinstance(inner, type) and issubclass(inner, BaseModel) else None
    return inner


def _plain(annotation: Any) -> Any:
    options = [part for part in get_args(annotation) if part is not NoneType]
    if get_origin(annotation) is list:
        return list
    if NoneType in get_args(annotation) and len(options) == 1:
        return _plain(options[0])
    if hasattr(annotation, "__metadata__"):
        return _plain(annotation.__origin__)
    return annotation


def columns_of(model: type[BaseModel], prefix: str = "") -> list[str]:
    """Every dotted field of a model, in order."""
    found: list[str] = []
    for name, field in model.model_fields.items():
        inner = _plain(field.annotation)
        if isinstance(inner, type) and issubclass(inner, BaseModel):
            found += columns_of(inner, f"{prefix}{name}.")
        else:
            found.append(prefix + name)
    return found
