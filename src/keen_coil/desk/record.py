"""The record of a call: for the customer in plain words, for the shop with its figures."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.diagnosis.faults import FAULTS
from .ledger import LedgerRow, ledger
from .sheet import Sheet


@dataclass(frozen=True)
class Figure:
    """A figure as found and as left."""

    title: str
    found: str
    left: str


@dataclass(frozen=True)
class Record:
    """What was found, how it was proved, what was done, what to watch."""

    found: str
    why: list[str]
    also: list[str]
    fitted: str
    figures: list[Figure]
    watch: list[str]
    readings: list[LedgerRow]
    proof: list[LedgerRow]
    proved: list[str]
    unproved: list[str]
    hookup: list[str]
    planned: list[str]


_SIDE_BY_SIDE = {
    "supply_v": "Volts", "run_amps_a": "Amps", "noise": "Noise", "turns_way": "Direction", "run_rpm": "Speed",
    "shell_c": "Shell",
}  # fmt: skip


def record_of(sheet: Sheet) -> Record:
    """The record as it stands."""
    answer = sheet.assessment
    leading = next((row for row in answer.ranked if row.fault == answer.leading_fault), None)
    outcome = sheet.row.outcome or {}
    why = [text for text in leading.speaks_for if not text.startswith("complaint")] if leading else []
    watch = [f"{cause.says} {cause.do}" for cause in answer.causes if cause.cause in FAULTS]
    watch += [str(outcome["watch"])] if outcome.get("watch") else []
    return Record(
        found=sheet.sentence, why=why, also=[FAULTS[f].says for f in answer.also],
        fitted=_fitted(sheet), figures=_figures(sheet), watch=watch, readings=ledger(sheet)[::-1],
        proof=ledger(sheet, proof=True)[::-1],
        proved=[link for link, report in answer.path.items() if report.state == "proved"],
        hookup=_hookup(sheet), planned=_planned(sheet),
        unproved=[link for link, report in answer.path.items() if report.state in ("unproved", "suspect")],
    )  # fmt: skip


def _hookup(sheet: Sheet) -> list[str]:
    """The moves of the hook-up that was kept, those not ticked said so."""
    kept = sheet.row.plan.get("hookup", {})
    names = {"take_off": "Took off", "cap": "Capped", "join": "Joined", "put_on": "Put", "set": "Set"}
    done = set(kept.get("done", ()))
    return [
        f"{names[move['do']]} {move['what'].removeprefix('motor.')}, {move['where']}"
        + ("" if number in done else " (not ticked)")
        for number, move in enumerate(kept.get("moves", ()))
    ]


def _planned(sheet: Sheet) -> list[str]:
    """What was chosen beside the motor: its capacitor, an estimate that was overridden, work for the choice."""
    plan = sheet.row.plan
    capacitor = plan.get("capacitor")
    found = [] if capacitor is None else [f"Capacitor: {capacitor['says']}"]
    if "override" in plan:
        against = "; ".join(plan["override"]["against"])
        found.append(f"Against the estimate ({against}) because: {plan['override']['reason']}")
    return found + [item["do"] for item in plan.get("work", ()) if item.get("minutes")]


def _fitted(sheet: Sheet) -> str:
    said = str((sheet.row.outcome or {}).get("fitted", ""))
    motor = sheet.call.chosen_motor
    if motor is None:
        return said
    capacitor = f", run capacitor {motor.capacitor_uf:g} µF" if motor.capacitor_uf else ""
    return f"Motor {motor.part_no}{capacitor}." + (f" {said}" if said else "")


def _figures(sheet: Sheet) -> list[Figure]:
    """Figures that were read before and after, side by side."""
    merged: dict[str, dict[str, str]] = {}
    for when, rows in (("found", ledger(sheet)), ("left", ledger(sheet, proof=True))):
        for row in rows[::-1]:
            if row.withdrawn_by is None and row.kind in _SIDE_BY_SIDE:
                merged.setdefault(row.kind, {})[when] = row.value
    return [Figure(_SIDE_BY_SIDE[kind], v.get("found", "-"), v.get("left", "-")) for kind, v in merged.items()]
