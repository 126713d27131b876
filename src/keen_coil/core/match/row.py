"""A row of the two plates held together: old, new, mark, why; and the work it brings."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

Mark = Literal["fits", "work", "refused"]


class Work(BaseModel):
    """Something to do for this choice, the part it takes, minutes of hands-on time."""

    do: str
    part: str | None = None
    minutes: float


class Row(BaseModel):
    """One field of the old and the new plate."""

    field: str
    old: str
    new: str
    mark: Mark
    because: str
    source: str


class Judged(BaseModel):
    """A row with the work it brings."""

    row: Row
    work: list[Work] = []


def fits(field: str, old: object, new: object, because: str, source: str = "trade practice") -> Judged:
    """A row that fits as it is."""
    return _judged(field, old, new, "fits", because, source, [])


def refused(field: str, old: object, new: object, because: str, source: str = "trade practice") -> Judged:
    """A row that rules the candidate out."""
    return _judged(field, old, new, "refused", because, source, [])


def needs(
    field: str, old: object, new: object, because: str, do: str, minutes: float,
    part: str | None = None, source: str = "trade practice",
) -> Judged:  # fmt: skip
    """A row that fits with work."""
    return _judged(field, old, new, "work", because, source, [Work(do=do, part=part, minutes=minutes)])


def unknown(field: str, old: object, new: object, do: str, minutes: float = 2) -> Judged:
    """A row where something is not known: work, namely to find out before it is bought."""
    return needs(field, old, new, "Not known. " + do + ".", do, minutes)


def _judged(field: str, old: object, new: object, mark: Mark, because: str, source: str, work: list[Work]) -> Judged:
    row = Row(field=field, old=_text(old), new=_text(new), mark=mark, because=because, source=source)
    return Judged(row=row, work=work)


def _text(value: object) -> str:
    return "not known" if value is None or value == "" else str(value)
