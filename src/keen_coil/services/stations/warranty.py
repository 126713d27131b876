"""The sheet for the parts counter: what is claimed, its numbers and dates, and the proof of its failure."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from ...core.diagnosis.sentence import judgement_says
from ..calls.call_view import CallView
from ..calls.ledger import ledger
from .record import is_in

NOT_NOTED = "not noted"


@dataclass(frozen=True)
class ProofRow:
    """A reading with its method: how it was taken, what was read, the limit with its source, what it means."""

    title: str
    value: str
    limit: str
    says: str
    state: str
    when: object


@dataclass(frozen=True)
class WarrantySheet:
    """The sheet: facts of unit and motor, whether in warranty by the dates typed, the verdict, the readings."""

    part: str
    facts: list[tuple[str, str]]
    warranty: str
    in_warranty: bool | None
    finding: str
    judged: str
    rows: list[ProofRow]
    missing: list[str]


def warranty_sheet(view: CallView) -> WarrantySheet:
    """The sheet of a call. What was not noted is named, and never guessed."""
    call, row = view.call, view.row
    unit, motor = call.unit, call.motor
    failed_on = (row.closed_at or row.opened_at).date()
    in_force = None if unit.warranty_until is None else failed_on <= unit.warranty_until
    facts = [
        ("Unit", _or_not((unit.kind or "").replace("_", " "))),
        ("Unit serial number", _or_not(unit.serial)),
        ("Installed", _or_not(unit.installed)),
        ("Motor part number", _or_not(motor.part_no)),
        ("Motor serial number", _or_not(motor.serial)),
        ("Failed, found on", failed_on.isoformat()),
    ]
    if call.chosen_motor is not None and is_in(view, "motor"):
        facts.append(("Replaced by", _or_not(call.chosen_motor.part_no)))
    return WarrantySheet(
        part=motor.part_no or "motor",
        facts=facts,
        warranty=_warranty(unit.warranty_until, unit.installed, in_force),
        in_warranty=in_force,
        finding=view.sentence,
        judged=judgement_says(call.judgement, view.assessment.verdict) if call.judgement else "",
        rows=_rows(view),
        missing=[name for name, value in facts if value == NOT_NOTED]
        + ([] if unit.warranty_until else ["warranty date"]),
    )


def _or_not(value: object) -> str:
    return NOT_NOTED if value in (None, "") else str(value)


def _warranty(until: date | None, installed: date | None, in_force: bool | None) -> str:
    if until is None:
        return "The date until which parts are under warranty is not noted."
    since = f" Installed {installed.isoformat()}." if installed else ""
    word = "In warranty" if in_force else "Out of warranty"
    return f"{word}: parts until {until.isoformat()}, by the dates typed.{since}"


def _rows(view: CallView) -> list[ProofRow]:
    """Readings as found that stand, those that failed first."""
    rows = [row for row in ledger(view)[::-1] if row.withdrawn_by is None]
    found = [
        ProofRow(
            row.title,
            row.value,
            " ".join(filter(None, (row.judgement.limit, row.judgement.source and f"({row.judgement.source})"))),
            row.judgement.says,
            row.judgement.state,
            row.taken_at,
        )
        for row in rows
    ]
    return sorted(found, key=lambda row: row.state != "failed")
