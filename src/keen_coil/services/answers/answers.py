"""Answers that need no database, the same for the command line and the API."""

from __future__ import annotations

from typing import Any

from ...core.call import Call
from ...core.capacitors.parts import CapacitorPart, Need, read_need, van_sections
from ...core.capacitors.substitute import CapacitorAnswer, substitutes
from ...core.diagnosis.assess import Assessment, assess
from ...core.errors import invalid
from ...core.match.answer import Match
from ...core.match.rank import match
from ...core.match.schools import SCHOOLS
from ...formats.call_file import load_call
from ...formats.catalogue_csv import read_catalogue
from ...formats.van_csv import VanPart, read_van
from .requests import CapacitorRequest, MatchRequest, read_request


def assess_file(data: bytes) -> Assessment:
    """The assessment of a call file. Raises `InvalidField`."""
    return assess(load_call(data))


def match_call_file(call: Call, catalogue: bytes, school: str, van: dict[str, int] | None) -> Match:
    """The match of a call against a catalog file. Raises `InvalidField` on the catalog or the school."""
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


def capacitor_file(need: str, van: bytes) -> CapacitorAnswer:
    """What of a van file serves a need such as `7.5@370` or `40+7.5@440`. Raises `InvalidField`."""
    return _answer(read_need(need), capacitors_of(read_van(van)))


def capacitors_of(rows: list[VanPart]) -> list[CapacitorPart]:
    """The capacitors among the parts of a van, those of known sections and volts."""
    return [
        CapacitorPart(
            part_no=row.part_no,
            sections_uf=row.sections_uf,
            volts_v=row.volts_v,
            shape=row.shape,
            height_in=row.height_in,
            quantity=row.quantity,
        )
        for row in rows
        if row.kind == "capacitor" and row.sections_uf and row.volts_v
    ]


def capacitor_request(data: bytes) -> CapacitorAnswer:
    """The answer to an API request, a `CapacitorRequest`. Raises `InvalidField`."""
    asked = read_request(CapacitorRequest, data)
    need = asked.need
    found = read_need(need) if isinstance(need, str) else Need(need.uf, need.volts_v, need.herm_uf)
    parts = [part for row in asked.van for part in ([row] if isinstance(row, CapacitorPart) else capacitors_of([row]))]
    return _answer(found, parts)


def _answer(need: Need, parts: list[CapacitorPart]) -> CapacitorAnswer:
    return substitutes(need, van_sections(parts))
