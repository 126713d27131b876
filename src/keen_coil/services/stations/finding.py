"""The technician's judgment of a call beside the program's verdict, whether one is wanted; its heat in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, date, datetime, time

from ...core.diagnosis.causes import Cause
from ...core.errors import FieldError, InvalidField
from ...core.machine.conditions import model_of
from ...core.machine.rated import NoModel
from ...core.technician_judgement import TechnicianJudgement
from ...core.thermal.cost import cost_of, degrees_words, heat_sentence
from ...core.thermal.winding import heat_of
from ...core.uncertainty import span
from ...core.vocabulary import Verdict, words_of
from ...store.database import Database
from ..acts import ActContext, act_on, technician_of
from ..calls.call_view import CallView

LEAST_WHY, LONGEST_WHY, LONGEST_NAME = 3, 500, 120
JUDGED: tuple[Verdict, ...] = tuple(word for word in words_of(Verdict) if word != "not_proved")
"""What a technician may judge."""


def keep_judgement(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Keep the technician's judgment; an empty verdict takes it back.

    `by` names somebody else whose judgment it was, `on` the day of an earlier visit. Raises `InvalidField`.
    """
    with act_on(db, call_id, context, "keep_judgement") as (session, row):
        if not fields.get("judged", "").strip():
            row.plan = row.plan.changed(judgement=None)
            return
        somebody = row.technician or technician_of(session, context)
        judgement = read_judgement(fields, somebody.name if somebody else "", context.now)
        row.plan = row.plan.changed(judgement=judgement)


def read_judgement(fields: Mapping[str, str], technician: str, now: datetime) -> TechnicianJudgement:
    """A judgment as typed: `judged`, `judged_why`, `judged_by`, `judged_on`. Raises `InvalidField`."""
    verdict, why = fields.get("judged", "").strip(), fields.get("judged_why", "").strip()
    by, on = fields.get("judged_by", "").strip() or technician, fields.get("judged_on", "").strip()
    faults = []
    if verdict not in JUDGED:
        faults.append(FieldError("judged", verdict[:40] or "nothing", "a finding from the list"))
    if not LEAST_WHY <= len(why) <= LONGEST_WHY:
        faults.append(
            FieldError("judged_why", why[:40] or "nothing", f"a reason, {LEAST_WHY} to {LONGEST_WHY} characters")
        )
    if not 1 <= len(by) <= LONGEST_NAME:
        faults.append(FieldError("judged_by", by[:40] or "nothing", "a name"))
    at = now
    if on:
        try:
            at = datetime.combine(date.fromisoformat(on), time(12), UTC)
        except ValueError:
            faults.append(FieldError("judged_on", on[:40], "a day such as 2026-03-14"))
        else:
            if at.date() > now.date():
                faults.append(FieldError("judged_on", on[:40], "a day that has been"))
    if faults:
        raise InvalidField(faults)
    return TechnicianJudgement.model_validate({"verdict": verdict, "why": why, "by": by, "at": at})


def renews(view: CallView) -> bool:
    """Whether the call renews a motor or a capacitor."""
    capacitor = view.row.plan.capacitor
    return bool(view.row.chosen) or bool(capacitor and capacitor.parts)


def wants_judgement(view: CallView) -> bool:
    """Whether a part is renewed while neither the program has proved nor anybody judged what had failed."""
    return renews(view) and view.assessment.verdict == "not_proved" and view.row.plan.judgement is None


def heat_costs(view: CallView, causes: list[Cause]) -> dict[str, str]:
    """What each cause costs the winding, in a sentence; empty where the model does not say."""
    return {cause.cause: cost_of(cause.cause, view.call) for cause in causes}


def run_heat_says(view: CallView) -> str:
    """What the motor that is in should get to once warm, and whether the shell that was read agrees."""
    call = view.call
    try:
        model = model_of(call, proof=True)
    except NoModel:
        return ""
    heat, expected = heat_of(model), heat_of(replace(model, warmth=None))
    if heat.burns:
        return heat_sentence(heat)
    shell = degrees_words(expected.shell_c)
    read = call.standing("shell_c", proof=True)
    if not read:
        return f"{heat_sentence(heat)} Warmed up, its shell should read {shell}."
    found = span(read[-1][1].numbers[0], read[-1][1], call.meters)
    agrees = found.high >= expected.shell_c.low and found.low <= expected.shell_c.high
    if agrees:
        return f"The shell read {found.mid:.0f} °C: it agrees with {shell}. {heat_sentence(heat)}"
    if found.high < expected.shell_c.low:
        return f"The shell read {found.mid:.0f} °C, under {shell}: has it run half an hour? {heat_sentence(heat)}"
    high = f"The shell read {found.mid:.0f} °C, over {shell}: look for load, volts, capacitor and air."
    return f"{high} {heat_sentence(heat)}"
