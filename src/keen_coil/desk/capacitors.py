"""Capacitors for a need without a database: from a van file, or from an API request."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from ..core.capacitors.parts import CapacitorPart, Need, read_need, van_sections
from ..core.capacitors.substitute import CapacitorAnswer, substitutes
from ..core.errors import InvalidField, field_errors, invalid, known_only
from ..formats.call_file import parse_json
from ..formats.van_csv import VanPart, read_van

MOST_PARTS = 2000


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
    """An API request: `need` as typed or as `{uf, volts_v, herm_uf}`, `van` as a list of parts.

    Raises `InvalidField`.
    """
    body = parse_json(data)
    if not isinstance(body, dict):
        raise invalid("", body, "an object with need and van")
    known_only(body, {"need", "van"})
    return _answer(_need(body.get("need")), _parts(body.get("van")))


def _need(value: Any) -> Need:
    if not isinstance(value, dict):
        return read_need(value)
    known_only(value, {"uf", "volts_v", "herm_uf"}, "need")
    sections = [str(value[key]) for key in ("herm_uf", "uf") if value.get(key) is not None]
    return read_need(f"{'+'.join(sections)}@{value.get('volts_v')}")


def _parts(rows: Any) -> list[CapacitorPart]:
    """The capacitors of a van given as data: rows as `van.csv` has them, or capacitors alone without a `kind`."""
    if not isinstance(rows, list) or len(rows) > MOST_PARTS:
        got = f"{len(rows)} parts" if isinstance(rows, list) else rows
        raise invalid("van", got, f"a list of at most {MOST_PARTS} parts")
    found: list[CapacitorPart] = []
    for index, row in enumerate(rows):
        try:
            if isinstance(row, dict) and "kind" in row:
                found += capacitors_of([VanPart.model_validate(row)])
            else:
                found.append(CapacitorPart.model_validate(row))
        except ValidationError as error:
            raise InvalidField(field_errors(error, f"van.{index}")) from None
    return found


def _answer(need: Need, parts: list[CapacitorPart]) -> CapacitorAnswer:
    return substitutes(need, van_sections(parts))
