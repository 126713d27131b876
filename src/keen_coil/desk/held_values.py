"""Columns whose JSON is held to a model of the core when it comes from outside."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ValidationError

from ..core.errors import InvalidField, field_errors, invalid
from ..core.limits import tightened
from ..core.match.catalogue import CatalogueMotor
from ..core.plates import Motor, Unit
from ..core.practice.case import Case
from ..core.practice.kept import KeptDone, KeptLeads
from ..core.practice.score import Score
from .settings import LIMITS

HELD: dict[str, dict[str, type[BaseModel]]] = {
    "unit": {"plate": Unit},
    "motor": {"plate": Motor},
    "catalogue_motor": {"plate": CatalogueMotor},
    "practice": {"case": Case, "done": KeptDone, "leads": KeptLeads, "score": Score},
    "practice_file": {"case": Case},
}


def hold(model: type[BaseModel], value: Any, path: str) -> BaseModel:
    """A value as its model. Raises `InvalidField` naming the path."""
    try:
        return model.model_validate(value)
    except ValidationError as error:
        raise InvalidField(field_errors(error, path)) from None


def check_setting(name: str, value: Any, path: str) -> None:
    """A shop's limits are such as it may tighten. Raises `InvalidField`."""
    if name != LIMITS:
        return
    try:
        tightened(value)
    except (ValueError, TypeError, KeyError) as error:
        raise invalid(f"{path}.value", value, str(error) or "limits that were tightened") from None
