"""What columns hold: moments in UTC, structured values held to their models, words of a vocabulary, identities."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from datetime import UTC, date, datetime
from functools import cache
from typing import Any
from uuid import UUID

from pydantic import BaseModel
from sqlalchemy import CheckConstraint, DateTime, event
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapper
from sqlalchemy.types import JSON, TypeDecorator
from uuid_utils import uuid7

from ..core.errors import invalid
from ..core.moments import in_reach
from ..core.units import CONTROL, texts_in
from ..core.vocabulary import words_of


def uid_of(milliseconds: int, text: str) -> str:
    """The identity of something that had none when it was written down: the same whenever it comes again.

    A UUID of version 7 whose random bits are a hash of the text; milliseconds since 1970 say when it was made.
    """
    bits = int.from_bytes(hashlib.sha256(text.encode()).digest()[:10], "big")
    high, low = bits >> 68, bits & (1 << 62) - 1
    number = (milliseconds & (1 << 48) - 1) << 80 | 0x7 << 76 | (high & 0xFFF) << 64 | 0b10 << 62 | low
    return str(UUID(int=number))


def new_uid() -> str:
    """An identity that no other row anywhere has: a UUID of version 7 (RFC 9562)."""
    return str(uuid7())


class UtcTime(TypeDecorator[datetime]):
    """A moment, kept in UTC and given back with its zone."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """To the file: UTC without a zone."""
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """From the file: UTC."""
        return None if value is None else value.replace(tzinfo=UTC)


class Typed(TypeDecorator[BaseModel]):
    """A structured value that is held to its model on the way in and out, so that table, page and file agree.

    Fields at their defaults are not written; reading gives them back.
    """

    impl = JSON(none_as_null=True)
    cache_ok = True

    def __init__(self, model: type[BaseModel]) -> None:
        super().__init__()
        self.model = model

    def process_bind_param(self, value: BaseModel | None, dialect: Dialect) -> dict[str, Any] | None:
        """To the file: plain JSON."""
        return None if value is None else value.model_dump(mode="json", by_alias=True, exclude_defaults=True)

    def process_result_value(self, value: dict[str, Any] | None, dialect: Dialect) -> BaseModel | None:
        """From the file: the model. One with nothing in it is made once: it is never changed in place."""
        if value == {} and self.model.model_config.get("frozen"):
            return _blank(self.model)
        return None if value is None else self.model.model_validate(value)


@cache
def _blank(model: type[BaseModel]) -> BaseModel:
    return model.model_validate({})


def one_of(column: str, vocabulary: Any, name: str) -> CheckConstraint:
    """A check that a column holds a word of a vocabulary."""
    words = ", ".join(f"'{word}'" for word in words_of(vocabulary))
    return CheckConstraint(f"{column} in ({words})", name=name)


class Table(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {dict[str, Any]: JSON(none_as_null=True), datetime: UtcTime}


def _fit_to_be_kept(mapper: Mapper[Any], connection: Any, row: Table) -> None:
    check_values(row.__dict__)


for _when in ("before_insert", "before_update"):
    event.listen(Table, _when, _fit_to_be_kept, propagate=True)


def check_values(values: Mapping[str, Any]) -> None:
    """Whatever way a value came in: text as a keyboard types it, days of our time. Raises `InvalidField`."""
    for name, value in values.items():
        if isinstance(value, str | dict):
            for path, text in texts_in(value, name):
                if CONTROL.search(text):
                    raise invalid(path, text, "text without control characters")
        elif isinstance(value, date):
            try:
                in_reach(value)
            except ValueError as error:
                raise invalid(name, value, str(error)) from None


def held(table: type[Table], name: str, value: Any) -> Any:
    """A value set on a typed column, as its model; what is no such thing is refused where it is set."""
    kind = table.__mapper__.columns[name].type
    return kind.model.model_validate(value) if isinstance(kind, Typed) and value is not None else value
