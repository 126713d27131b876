"""Capacitors for a need without a database: from a van file, or from an API request."""

from __future__ import annotations

from ..core.capacitors.parts import CapacitorPart, Need, read_need, van_sections
from ..core.capacitors.substitute import CapacitorAnswer, substitutes
from ..formats.van_csv import VanPart, read_van
from .requests import CapacitorRequest, read_request


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
