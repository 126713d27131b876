"""The technician's judgement of a call, kept beside the program's verdict; and whether a call still wants one."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, date, datetime, time

from ..core.errors import FieldError, InvalidField
from ..core.technician_judgement import TechnicianJudgement
from ..core.vocabulary import Verdict, words_of
from ..store.database import Database
from .acts import ActContext, act_on, technician_of
from .call_view import CallView

LEAST_WHY, LONGEST_WHY, LONGEST_NAME = 3, 500, 120
JUDGED: tuple[Verdict, ...] = tuple(word for word in words_of(Verdict) if word != "not_proved")
"""What a technician may judge."""


def keep_judgement(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Keep the technician's judgement; an empty verdict takes it back.

    `by` names somebody else whose judgement it was, `on` the day of an earlier visit. Raises `InvalidField`.
    """
    with act_on(db, call_id, context, "keep_judgement") as (session, row):
        if not fields.get("judged", "").strip():
            row.plan = row.plan.changed(judgement=None)
            return
        somebody = row.technician or technician_of(session, context)
        judgement = read_judgement(fields, somebody.name if somebody else "", context.now)
        row.plan = row.plan.changed(judgement=judgement)


def read_judgement(fields: Mapping[str, str], technician: str, now: datetime) -> TechnicianJudgement:
    """A judgement as typed: `judged`, `judged_why`, `judged_by`, `judged_on`. Raises `InvalidField`."""
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
