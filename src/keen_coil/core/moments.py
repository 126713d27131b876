"""Moments and days as anything kept here has them: of our time, whatever way they come in."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, TypeVar

from pydantic import AfterValidator

FIRST_YEAR, LAST_YEAR = 1970, 2200
"""Outside of these a date is a slip of the finger, and its morrow or its hour elsewhere may not exist."""
Dated = TypeVar("Dated", bound=date)


def in_reach(value: Dated) -> Dated:
    """The same day or moment. Raises `ValueError` on a year beyond reach."""
    if not FIRST_YEAR <= value.year <= LAST_YEAR:
        raise ValueError(f"a year from {FIRST_YEAR} to {LAST_YEAR}")
    return value


def _with_zone(moment: datetime) -> datetime:
    if moment.tzinfo is None:
        raise ValueError("a moment with its zone, such as 2026-03-14T09:30:00Z")
    return in_reach(moment)


Moment = Annotated[datetime, AfterValidator(_with_zone)]
AnyMoment = Annotated[datetime, AfterValidator(in_reach)]
"""One whose zone need not be told."""
Day = Annotated[date, AfterValidator(in_reach)]
