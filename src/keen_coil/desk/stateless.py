"""Answers that need no database, the same for the command line and the API."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from ..core.call import Call, read_call
from ..core.diagnosis.assess import Assessment, assess
from ..core.errors import InvalidField, field_errors, invalid, known_only, under
from ..core.match.answer import Match
from ..core.match.catalogue import REQUIRED, CatalogueMotor
from ..core.match.rank import match
from ..core.match.schools import SCHOOLS
from ..formats.call_file import load_call, parse_json
from ..formats.catalogue_csv import read_catalogue
from ..formats.van_csv import read_van

MOST_MOTORS = 50_000


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
    """The match of an API request: `{"call": ..., "catalogue": [...], "school": "amps", "van": [...]}`."""
    body = parse_json(data)
    if not isinstance(body, dict):
        raise invalid("", body, "an object with call and catalogue")
    known_only(body, {"call", "catalogue", "school", "van"})
    with under("call"):
        call = read_call(body.get("call"))
    return match(call, _motors(body.get("catalogue")), _school(body.get("school", "amps")), _stock(body.get("van")))


def _school(school: Any) -> Any:
    if school not in SCHOOLS:
        raise invalid("school", school, "one of " + ", ".join(SCHOOLS))
    return school


def _motors(rows: Any) -> list[CatalogueMotor]:
    if not isinstance(rows, list) or len(rows) > MOST_MOTORS:
        got = f"{len(rows)} motors" if isinstance(rows, list) else rows
        raise invalid("catalogue", got, f"a list of at most {MOST_MOTORS} motors")
    found: dict[str, CatalogueMotor] = {}
    for index, row in enumerate(rows):
        path = f"catalogue.{index}"
        try:
            motor = CatalogueMotor.model_validate(row)
        except ValidationError as error:
            raise InvalidField(field_errors(error, path)) from None
        missing = [name for name in REQUIRED if getattr(motor, name) is None]
        if missing:
            raise invalid(f"{path}.{missing[0]}", "", "a value, the field is required")
        if motor.part_no in found:
            raise invalid(f"{path}.part_no", motor.part_no, "a part number of its own")
        found[str(motor.part_no)] = motor
    return list(found.values())


def _stock(rows: Any) -> dict[str, int] | None:
    """Motors on the van by part number; None when no van is given."""
    if rows is None:
        return None
    if not isinstance(rows, list):
        raise invalid("van", rows, "a list of parts")
    found = {}
    for index, row in enumerate(rows):
        if not isinstance(row, dict) or not isinstance(row.get("part_no"), str):
            raise invalid(f"van.{index}.part_no", row, "a part number")
        quantity = row.get("quantity", 1)
        if isinstance(quantity, bool) or not isinstance(quantity, int) or quantity < 0:
            raise invalid(f"van.{index}.quantity", quantity, "a whole number from 0")
        found[row["part_no"]] = quantity
    return found
