"""The record of a call: for the customer in plain words, for the shop with its figures; what was fitted."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date

from ...core.call import Call
from ...core.changes import CHANGES, state_of
from ...core.diagnosis.causes import Cause
from ...core.diagnosis.faults import FAULTS
from ...core.diagnosis.plain import PLAIN_FIGURES, plain_finding, what_to_watch, what_was_done, why_it_happened
from ...core.diagnosis.sentence import SURE, fault_chance, headline, judgement_says
from ...core.hookup.moves import move_words
from ...core.proof.plan import modes_of
from ...core.readings import Reading
from ...core.record import KeptCapacitor, KeptHookup
from ...core.swap.job import way_on_plate
from ...core.swap.marks import MARKS, put_back
from ...core.swap.steps import CONNECTED, GOES_IN, ROWS
from ...core.thermal.cost import cost_of
from ..calls.call_view import CallView
from ..calls.changes import mended_by_steps
from ..calls.ledger import LedgerRow, ledger
from .finding import renews
from .hook_up import moves_done


def is_in(view: CallView, part: str) -> bool:
    """Whether the new `motor` or `capacitor` of a call is in its place: by its step, or as the call was closed so."""
    capacitor = view.row.plan.capacitor
    if not (view.row.chosen if part == "motor" else capacitor and capacitor.parts):
        return False
    if view.row.outcome is not None and not view.row.outcome.unfinished:
        return True
    steps = GOES_IN if part == "motor" else CONNECTED
    return any(one.station == "swap" and one.step in steps and not one.skipped for one in view.row.steps)


@dataclass(frozen=True)
class Figure:
    """A figure as found and as left; `kind` is its kind of reading."""

    kind: str
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
    happened: list[str]
    care: list[str]
    before_after: list[Figure]
    as_left: list[tuple[str, str]]
    looked: str
    judged: str
    unjudged: bool


RETURNS = {"temporary": "temporary", "watch": "check again", "unfinished": "unfinished"}
UNREAD = "not read"
_SIDE_BY_SIDE = {
    "supply_v": "Volts",
    "run_amps_a": "Amps",
    "capacitance_uf": "Capacitor",
    "noise": "Noise",
    "turns_way": "Direction",
    "run_rpm": "Speed",
    "shell_c": "Motor temperature",
    "draught_inwc": "Draft",
    "co_ppm": "Carbon monoxide",
    "air_c": "Air temperature",
    "air_speed_fpm": "Air",
}
"""Kinds that are set side by side as found and as left."""
OF_THE_MOTOR = (
    "condemn_motor",
    "replace_module",
    "replace_wrong_motor",
    "runs_worn",
    "usable_limited",
    "cool_and_retest",
    "dry_and_retest",
)
"""Verdicts about what goes out with the old motor: nothing of it is left to watch once that is renewed."""


def record_of(view: CallView) -> Record:
    """The record as it stands."""
    answer = view.assessment
    leading = next((row for row in answer.ranked if row.fault == answer.leading_fault), None)
    outcome = view.row.outcome
    why = [text for text in leading.speaks_for if not text.startswith("complaint")] if leading else []
    watch = [_cause_says(view, cause) for cause in answer.causes if _is_left(view, cause.cause)]
    watch += [outcome.watch] if outcome and outcome.watch else []
    return Record(
        found=_found(view),
        why=why,
        also=[FAULTS[f].says for f in answer.also],
        fitted=_fitted(view),
        figures=_figures(view),
        watch=watch,
        readings=[row for row in ledger(view)[::-1] if row.withdrawn_by is None],
        proof=[row for row in ledger(view, proof=True)[::-1] if row.withdrawn_by is None],
        proved=[link for link, report in answer.path.items() if report.state == "proved"],
        hookup=_hookup(view),
        planned=_planned(view),
        unproved=[link for link, report in answer.path.items() if report.state in ("unproved", "suspect")],
        unfinished=_unfinished(view),
        returns=[(item.due_on, RETURNS[item.kind], item.says) for item in view.row.follow_ups],
        parts=[f"{part.quantity} x {part.part_no}, {part.source or f'off {part.van}'}" for part in view.row.parts],
        steps=_steps(view),
        marks=_marks(view),
        minutes=_minutes(view),
        people=_people(view),
        plain=_plain(view),
        happened=why_it_happened([cause.cause for cause in answer.causes], answer.leading_fault),
        care=what_to_watch(cause.cause for cause in answer.causes),
        before_after=_before_after(view),
        as_left=_as_left(view),
        looked=what_was_done(reading for proof in (False, True) for _, reading in view.call.standing(proof=proof)),
        judged=judgement_says(view.call.judgement, answer.verdict) if view.call.judgement else "",
        unjudged=bool(outcome and outcome.unjudged),
    )


def _found(view: CallView) -> str:
    """What was found: the technician's own finding where the program proved nothing, never a prompt to go on."""
    judged, verdict = view.call.judgement, view.assessment.verdict
    if verdict != "not_proved" or view.is_open and judged is None:
        return view.sentence
    if judged is not None:
        return f"{headline(judged.verdict)}: {judged.why.rstrip('.')}."
    leading = view.assessment.leading_fault
    likely = f" Likely: {FAULTS[leading].says[:1].lower()}{FAULTS[leading].says[1:]}" if leading in FAULTS else ""
    return f"The cause was not proved.{likely}"


def _plain(view: CallView) -> str:
    answer, judged = view.assessment, view.call.judgement
    fault = answer.leading_fault
    proved = fault is not None and fault_chance(answer, fault) >= SURE
    renewed = renews(view) and (is_in(view, "motor") or is_in(view, "capacitor"))
    own = judged.verdict if judged else None
    return plain_finding(answer.verdict, fault, own, renewed, proved, is_in(view, "motor"))


def _cause_says(view: CallView, cause: Cause) -> str:
    """A cause, what to do about it, and what it costs the winding by the motor model."""
    return " ".join(filter(None, (cause.says, cause.do, cost_of(cause.cause, view.call))))


def _is_left(view: CallView, cause: str) -> bool:
    """Whether a cause still stands once the parts that are in are in."""
    fault = FAULTS.get(cause)
    if fault is None or cause in view.assessment.cured:
        return False
    if any(cause in CHANGES[what].cures for what in mended_by_steps(view)):
        return False
    if is_in(view, "motor") and fault.verdict in OF_THE_MOTOR:
        return False
    return not (is_in(view, "capacitor") and fault.verdict == "replace_capacitor")


def _unfinished(view: CallView) -> str:
    """What marks a record as unfinished: the call is open, or was handed over so."""
    if view.is_open:
        return "This call is still open. This is where it stands now."
    return (view.row.outcome and view.row.outcome.unfinished) or ""


def _steps(view: CallView) -> list[str]:
    """Steps of the swap that were left out, each with its reason."""
    titles = {row.key: row.do.partition(":")[0].partition(",")[0].rstrip(".") for row in ROWS}
    out = [step for step in view.row.steps if step.station == "swap" and step.skipped]
    return [f"{titles.get(step.step, step.step)}: {step.skipped}" for step in out]


def _marks(view: CallView) -> list[str]:
    """What was marked on the way, and whether it came back."""
    marks, way = view.row.plan.swap.marks, way_on_plate(view.call)
    found = []
    for name in (name for name in MARKS if marks.get(name)):
        kept = put_back(name, marks, way)
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
    found = [] if plan.capacitor is None or plan.capacitor.as_it_is else [f"Capacitor: {plan.capacitor.says}"]
    if plan.override:
        against = "; ".join(plan.override.against)
        found.append(f"Against the estimate ({against}) because: {plan.override.reason}")
    return found + [item.do for item in plan.work if item.minutes]


def _fitted(view: CallView) -> str:
    """What was done: changes, parts that are in, the technician's own words. A part that stayed is not done."""
    said = (view.row.outcome and view.row.outcome.fitted) or ""
    acts = [f"{CHANGES[change.what].says}{f', {change.note}' if change.note else ''}." for change in view.call.changes]
    made = {change.what for change in view.call.changes}
    acts += [f"{says}." for what, says in mended_by_steps(view).items() if what not in made]
    motor, capacitor = view.call.chosen_motor, view.row.plan.capacitor
    parts = [f"motor {motor.part_no}"] if motor is not None and is_in(view, "motor") else []
    if capacitor is not None and is_in(view, "capacitor"):
        numbers = ", ".join(dict.fromkeys(part.part_no for part in capacitor.parts))
        value = f" {_value_of(view, capacitor)} µF" if capacitor.uf else ""
        parts.append(f"run capacitor{value} ({numbers})")
    new = f"New {' and '.join(parts)}." if parts else ""
    return " ".join(text for text in (*acts, new, said) if text).strip()


def _value_of(view: CallView, capacitor: KeptCapacitor) -> str:
    """The new capacitor's µF; compressor and fan of one can as its label writes them."""
    herm = view.call.capacitor.section_uf("herm")
    for_both = herm is not None and any(part.serves == "herm" for part in capacitor.parts)
    return f"{herm:g}+{capacitor.uf:g}" if for_both else f"{capacitor.uf:g}"


def _figures(view: CallView) -> list[Figure]:
    """Figures read before and after, side by side: of the same point, leg, speed and section only."""
    merged: dict[tuple[str, ...], dict[str, str]] = {}
    for when, rows in (("found", ledger(view)), ("left", ledger(view, proof=True))):
        for row in rows[::-1]:
            if row.withdrawn_by is None and row.kind in _SIDE_BY_SIDE:
                reading = view.call.readings[row.index]
                since = view.call.chosen_motor is None and state_of(reading, view.call.changes_in_order) > 0
                merged.setdefault(_point(reading, view.call), {})["left" if since else when] = row.value
    _label_of_new(view, merged)
    unread = {"found": UNREAD, "left": UNREAD}
    return [
        Figure(kind, ", ".join([_SIDE_BY_SIDE[kind], *point]), **{**unread, **read})
        for (kind, *point), read in sorted(merged.items(), key=lambda item: len(item[1]) < 2)
    ]


def _before_after(view: CallView) -> list[Figure]:
    """Figures that a homeowner can follow: read before and after, without the meter's error, each kind once."""
    found: dict[str, Figure] = {}
    for figure in _figures(view):
        kind, read_twice = figure.kind, UNREAD not in (figure.found, figure.left)
        if read_twice and kind not in found:
            found[kind] = Figure(kind, PLAIN_FIGURES[kind], _without_error(figure.found), _without_error(figure.left))
    return list(found.values())


def _as_left(view: CallView) -> list[tuple[str, str]]:
    """Every figure of a passed run test as a homeowner reads it, by what it is of; nothing before it has passed."""
    if not view.proof.passed:
        return []
    values = {row.index: row.value for proof in (False, True) for row in ledger(view, proof=proof)}
    return [
        (check.title, _without_error(values[check.reading])) for check in view.proof.checks if check.reading is not None
    ]


def _without_error(text: str) -> str:
    return re.sub(r" ± [\d.]+| \(.*\)| by its label", "", text)


def _point(reading: Reading, call: Call) -> tuple[str, ...]:
    """What a figure is of: its kind, then everything that makes it another figure, in words."""
    where = [
        reading.at.replace("_", " ") if reading.at else "",
        "to ground" if reading.across == "ground" else "",
        "running" if reading.kind == "supply_v" and reading.when == "running" else "",
        f"{reading.leg} leg" if reading.leg and reading.leg != "whole" else "",
        _speed_of(reading, call),
        {"herm": "compressor section", "fan": "fan section"}.get(reading.section or "", ""),
    ]
    return (reading.kind, *(word for word in where if word))


def _speed_of(reading: Reading, call: Call) -> str:
    """The speed a figure is of, by the modes that use it: `cooling (speed 1)`."""
    if not reading.speed:
        return ""
    speed = f"speed {reading.speed}"
    names = [name for name, used in modes_of(call) if used == reading.speed and name != speed]
    return f"{' and '.join(names)} ({speed})" if names else speed


def _label_of_new(view: CallView, merged: dict[tuple[str, ...], dict[str, str]]) -> None:
    """The new capacitor's own µF where it was not read again."""
    plan = view.row.plan
    capacitor = plan.capacitor
    if capacitor is None or not capacitor.uf or not is_in(view, "capacitor"):
        return
    herm = view.call.capacitor.section_uf("herm")
    if herm is not None and any(part.serves == "herm" for part in capacitor.parts):
        for key in (key for key in merged if key[0] == "capacitance_uf" and "compressor section" in key):
            merged[key].setdefault("left", f"{herm:g} µF by its label")
    beside = view.call.unit.run_capacitor == "dual" and (plan.hookup or KeptHookup()).school == "own"
    of_fan = [key for key in merged if key[0] == "capacitance_uf" and "compressor section" not in key]
    label = f"{capacitor.uf:g} µF by its label"
    if beside:
        merged["capacitance_uf", "the fan's own"] = {"found": "none", "left": label}
    for key in of_fan or [("capacitance_uf",)] * (not beside):
        merged.setdefault(key, {}).setdefault("left", "left empty" if beside else label)
