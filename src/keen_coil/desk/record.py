"""The record of a call: for the customer in plain words, for the shop with its figures."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from ..core.changes import CHANGES, state_of
from ..core.diagnosis.faults import FAULTS
from ..core.diagnosis.plain import NOT_YET, PLAIN, what_was_done
from ..core.hookup.moves import move_words
from ..core.record import KeptHookup
from ..core.swap.marks import MARKS, put_back
from ..core.swap.table import ROWS
from .call_view import CallView
from .ledger import LedgerRow, ledger
from .moves_done import moves_done


@dataclass(frozen=True)
class Figure:
    """A figure as found and as left."""

    title: str
    found: str
    left: str


@dataclass(frozen=True)
class Record:
    """What was found, how it was proved, what was done, what to watch; `unfinished` says what is left of it."""

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
    unfinished: str
    returns: list[tuple[date, str, str]]
    parts: list[str]
    steps: list[str]
    marks: list[str]
    minutes: int | None
    people: list[str]
    plain: str
    looked: str


RETURNS = {"temporary": "temporary", "watch": "look again", "unfinished": "unfinished"}
_SIDE_BY_SIDE = {
    "supply_v": "Volts",
    "run_amps_a": "Amps",
    "noise": "Noise",
    "turns_way": "Direction",
    "run_rpm": "Speed",
    "shell_c": "Shell",
}


def record_of(view: CallView) -> Record:
    """The record as it stands."""
    answer = view.assessment
    leading = next((row for row in answer.ranked if row.fault == answer.leading_fault), None)
    outcome = view.row.outcome
    why = [text for text in leading.speaks_for if not text.startswith("complaint")] if leading else []
    watch = [f"{cause.says} {cause.do}" for cause in answer.causes if cause.cause in FAULTS]
    watch += [outcome.watch] if outcome and outcome.watch else []
    return Record(
        found=view.sentence,
        why=why,
        also=[FAULTS[f].says for f in answer.also],
        fitted=_fitted(view),
        figures=_figures(view),
        watch=watch,
        readings=ledger(view)[::-1],
        proof=ledger(view, proof=True)[::-1],
        proved=[link for link, report in answer.path.items() if report.state == "proved"],
        hookup=_hookup(view),
        planned=_planned(view),
        unproved=[link for link, report in answer.path.items() if report.state in ("unproved", "suspect")],
        unfinished=_unfinished(view),
        returns=[(item.due_on, RETURNS[item.kind], item.says) for item in view.row.follow_ups],
        parts=[f"{part.quantity} x {part.part_no}, off {part.van}" for part in view.row.parts],
        steps=_steps(view),
        marks=_marks(view),
        minutes=_minutes(view),
        people=_people(view),
        plain=PLAIN.get(answer.leading_fault or "", NOT_YET),
        looked=what_was_done(reading.kind for _, reading in view.call.standing()),
    )


def _unfinished(view: CallView) -> str:
    """What marks a record as unfinished: the call is open, or was handed over so."""
    if view.is_open:
        return "The call is still open: this is how it stands, not how it was handed over."
    return (view.row.outcome and view.row.outcome.unfinished) or ""


def _steps(view: CallView) -> list[str]:
    """Steps of the swap that were left out, each with its reason."""
    titles = {row.key: row.do.partition(":")[0].partition(",")[0].rstrip(".") for row in ROWS}
    out = [step for step in view.row.steps if step.station == "swap" and step.skipped]
    return [f"{titles.get(step.step, step.step)}: {step.skipped}" for step in out]


def _marks(view: CallView) -> list[str]:
    """What was marked on the way, and whether it came back."""
    marks = view.row.plan.swap.marks
    found = []
    for name in (name for name in MARKS if marks.get(name)):
        kept = put_back(name, marks)
        unit = f" {MARKS[name].unit}" if MARKS[name].unit else ""
        found.append(f"{MARKS[name].title} {marks[name]}{unit}" + (f" ({kept.says.rstrip('.')})" if kept else ""))
    return found


def _minutes(view: CallView) -> int | None:
    """Minutes from the opening of the call to its hand-over."""
    closed = view.row.closed_at
    return None if closed is None else max(0, round((closed - view.row.opened_at).total_seconds() / 60))


def _people(view: CallView) -> list[str]:
    """Who worked on the call: its technician, and who took readings."""
    names = [view.row.technician.name] if view.row.technician else []
    names += [reading.technician.name for reading in view.row.readings if reading.technician]
    return list(dict.fromkeys(names))


def _hookup(view: CallView) -> list[str]:
    """The moves of the hook-up that was kept, those not ticked said so."""
    kept = view.row.plan.hookup or KeptHookup()
    done = moves_done(view.row)
    return [move_words(move) + ("" if number in done else " (not ticked)") for number, move in enumerate(kept.moves)]


def _planned(view: CallView) -> list[str]:
    """What was chosen beside the motor: its capacitor, an estimate that was overridden, work for the choice."""
    plan = view.row.plan
    found = [] if plan.capacitor is None else [f"Capacitor: {plan.capacitor.says}"]
    if plan.override:
        against = "; ".join(plan.override.against)
        found.append(f"Against the estimate ({against}) because: {plan.override.reason}")
    return found + [item.do for item in plan.work if item.minutes]


def _fitted(view: CallView) -> str:
    said = (view.row.outcome and view.row.outcome.fitted) or ""
    acts = [f"{CHANGES[change.what].says}{f', {change.note}' if change.note else ''}." for change in view.call.changes]
    said = " ".join([*acts, said]).strip()
    motor = view.call.chosen_motor
    if motor is None:
        return said
    capacitor = f", run capacitor {motor.capacitor_uf:g} µF" if motor.capacitor_uf else ""
    return f"Motor {motor.part_no}{capacitor}." + (f" {said}" if said else "")


def _figures(view: CallView) -> list[Figure]:
    """Figures that were read before and after, side by side."""
    merged: dict[str, dict[str, str]] = {}
    for when, rows in (("found", ledger(view)), ("left", ledger(view, proof=True))):
        for row in rows[::-1]:
            if row.withdrawn_by is None and row.kind in _SIDE_BY_SIDE:
                since = state_of(view.call.readings[row.index], view.call.changes_in_order) > 0
                merged.setdefault(row.kind, {})["left" if since else when] = row.value
    unread = {"found": "not read", "left": "not read"}
    return [Figure(_SIDE_BY_SIDE[kind], **{**unread, **read}) for kind, read in merged.items()]
