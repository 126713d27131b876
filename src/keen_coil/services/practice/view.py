"""What the pages of a practice call show: the pad's test and what came of it, the meter's display, the job's state."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ...core.meter import NAMES
from ...core.practice.simulated_unit import Measured
from ...core.readings import KINDS
from ...core.vocabulary import CaseEnd, CaseStart
from ...meter.protocol import Frame
from ...meter.stand_in import SETTLES_S, StandIn
from ...store import tables
from .job import wires_seen
from .kept import Named, case_row_of, named_of

FRAME_S, MOST_FRAMES = 0.25, 40
SETTLED = 6
"""Time constants after which the display keeps still."""


@dataclass(frozen=True)
class JobState:
    """A whole job: the stations it begins and ends at, and what was named."""

    starts: CaseStart
    ends: CaseEnd
    named: Named | None


@dataclass(frozen=True)
class PracticeView:
    """What the pad of a practice call shows: the test made last if it is this one, the dial, what was done so far.

    wires: lead and terminal of the old motor's wires as they were seen, None while nobody looked.
    """

    id: int
    advice: bool
    function: str
    made: Measured | None
    fields: dict[str, str]
    slips: list[str]
    minutes: float
    tests: int
    wires: list[tuple[str, str]] | None = None
    looked_live: bool = False
    job: JobState | None = None


def practice_view(row: tables.Call, kind: str = "", at: str = "") -> PracticeView | None:
    """What the pad of a call's test shows when it is a practice call; None on a real one."""
    if not row.practice:
        return None
    case_row = case_row_of(row)
    leads = case_row.leads or {}
    fields = leads.get("fields", {})
    here = fields.get("kind") == kind and (fields.get("at") or "") == at
    made = Measured(leads["value"], None, leads["shows"], leads["warns"], leads["slip"]) if here else None
    rows, case = case_row.done["rows"], case_row.case
    ends = case.get("ends", "finding")
    return PracticeView(
        case_row.id,
        case_row.advice,
        leads.get("function", ""),
        made,
        fields if here else {},
        [d["slip"] for d in rows if d["slip"]],
        sum(d["minutes"] for d in rows),
        sum(d["do"] == "test" and not d["again"] for d in rows),
        wires_seen(row),
        any(d["do"] == "look" and d["slip"] for d in rows),
        JobState(case.get("starts", "arrive"), ends, named_of(row)) if ends != "finding" else None,
    )


@dataclass(frozen=True)
class Display:
    """The practice meter's display: its frame, the kind of reading its leads are on for, whether it keeps still."""

    frame: Frame
    kind: str
    steady: bool


def frame_of(row: tables.Call, now: datetime) -> Display | None:
    """What the practice meter's display shows now: it settles, looks for its range, and has its noise.

    None when no single number is being measured.
    """
    leads = _kept_leads(row)
    value = leads.get("value")
    function = next((name for name in NAMES if name == leads.get("function")), None)
    if function is None or not isinstance(value, str):
        return None
    meter = StandIn(function, None if value == "OL" else float(value), seed=case_row_of(row).id, name="practice meter")
    since = (now - datetime.fromisoformat(leads["at"])).total_seconds()
    frame = meter.step(FRAME_S)
    for _ in range(min(max(int(since / FRAME_S), 0), MOST_FRAMES)):
        frame = meter.step(FRAME_S)
    return Display(frame, leads["fields"]["kind"], since > SETTLED * SETTLES_S)


def _kept_leads(row: tables.Call) -> dict[str, Any]:
    """Where the leads are on a call, and what came of it; empty where none are on."""
    return (row.practice_case.leads if row.practice_case else None) or {}


def values_taken(row: tables.Call, fields: Mapping[str, str]) -> dict[str, str]:
    """The pad's fields with what the practice meter read, where three values or amps and volts are taken at once."""
    leads = _kept_leads(row)
    value, mine = leads.get("value"), leads.get("fields", {})
    if mine.get("kind") != fields.get("kind"):
        return dict(fields)
    if isinstance(value, dict):
        return {**fields, **value}
    if isinstance(value, list) and KINDS[mine["kind"]].many:
        return {**fields, "value": " ".join(value)}
    if isinstance(value, list):
        return {**fields, "value": value[0], "value_2": value[1], "value_3": value[2]}
    return dict(fields)
