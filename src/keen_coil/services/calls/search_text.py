"""The words a call is found by: site, unit, motor, people, complaint, outcome, parts. Kept in small letters."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ...core.call import SYMPTOMS
from ...core.diagnosis.faults import FAULTS
from ...core.diagnosis.sentence import headline
from ...core.record import KeptOutcome
from ...store import tables

LONGEST = 4000
_PLATE = ("part_no", "role", "kind", "volts", "rpm", "hp")


def search_text_of(row: tables.Call) -> str:
    """What a call is found by, as it stands."""
    return " ".join(str(word) for word in _words(row) if word).lower()[:LONGEST]


def _words(row: tables.Call) -> Iterator[Any]:
    unit = row.motor.unit
    yield from (unit.site.name, unit.name, str(unit.plate.get("kind", "")).replace("_", " "), row.motor.place)
    for plate in (row.motor.plate, row.chosen or {}):
        yield from (str(plate.get(name, "")).replace("_", " ") for name in _PLATE)
    yield row.technician.name if row.technician else ""
    complaint = row.complaint
    yield from (complaint.get("says"), SYMPTOMS.get(complaint.get("symptom", "")), complaint.get("board_code"))
    yield from _outcome(row.outcome) if row.outcome else ()
    yield from (part.part_no for part in row.parts)
    yield from (item.says for item in row.follow_ups)
    yield f"{row.opened_at:%Y-%m-%d}"


def _outcome(outcome: KeptOutcome) -> Iterator[Any]:
    fault = FAULTS.get(outcome.fault or "")
    yield fault.says if fault else ""
    yield headline(outcome.verdict)
    yield from (outcome.fitted, outcome.watch, outcome.exception, outcome.unfinished)
