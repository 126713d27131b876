"""Answers that need no database, the same for the command line and the API."""

from __future__ import annotations

from typing import Any

from ..core.call import Call
from ..core.diagnosis.assess import Assessment, assess
from ..core.errors import invalid
from ..core.match.answer import Match
from ..core.match.rank import match
from ..core.match.schools import SCHOOLS
from ..formats.call_file import load_call
from ..formats.catalogue_csv import read_catalogue
from ..formats.van_csv import read_van
from .requests import MatchRequest, read_request


def assess_file(data: bytes) -> Assessment:
    """The assessment of a call file. Raises `InvalidField`."""
    return assess(load_call(data))


def match_call_file(call: Call, catalogue: bytes, school: str, van: dict[str, int] | None) -> Match:
    """The match of a call against a catalogue file. Raises `InvalidField` on the catalogue or the school."""
    return match(call, read_catalogue(catalogue), _school(school), van)


def stock_of(data: bytes) -> dict[str, int]:
    """Motors on the van by part number, from a van file. Raises `InvalidField`."""
    found: dict[str, int] = {}
    for part in read_van(data):
        if part.kind == "motor":
            found[part.part_no] = found.get(part.part_no, 0) + part.quantity
    return found


def match_request(data: bytes) -> Match:
    """The match of an API request, a `MatchRequest`. Raises `InvalidField`."""
    asked = read_request(MatchRequest, data)
    return match(asked.call, asked.motors(), asked.school, asked.stock)


def _school(school: Any) -> Any:
    if school not in SCHOOLS:
        raise invalid("school", school, "one of " + ", ".join(SCHOOLS))
    return school
