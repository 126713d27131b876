"""The job of a call as the core needs it: what was settled at the stations before, and when the part comes."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, time, timedelta
from typing import Any

from ..core.call import Call
from ..core.match.geometry import Section, section
from ..core.match.reference import reference_for
from ..core.swap.job import HUBS, REMOVALS, Job, Plan, job_for

MINUTE = timedelta(minutes=1)


def job_of(call: Call, plan: Mapping[str, Any], verdict: str, now: datetime, ordered: datetime | None = None) -> Job:
    """The job of a call with the plan kept so far; `ordered` is when its part was ordered, not yet when None."""
    return job_for(call, plan_of(plan, now, ordered), _section(call, plan), verdict)


def plan_of(plan: Mapping[str, Any], now: datetime, ordered: datetime | None) -> Plan:
    """What the stations before settled, in the core's terms."""
    kept, capacitor, hookup = plan.get("swap", {}), plan.get("capacitor"), plan.get("hookup", {})
    hub, removal = kept.get("hub"), kept.get("removal")
    moves = hookup.get("moves", ())
    at = plan.get("hub", {}).get("at_in")
    return Plan(
        work=plan.get("work", ()), capacitor_says=None if capacitor is None else str(capacitor["says"]).rstrip("."),
        capacitor_parts=tuple(dict.fromkeys(part["part_no"] for part in (capacitor or {}).get("parts", ()))),
        capacitor_stays=bool(capacitor and capacitor["key"] == "stays"),
        temporary=bool(capacitor and not capacitor.get("permanent", True)), moves=len(moves),
        capped=tuple(move["what"].removeprefix("motor.") for move in moves if move["do"] == "cap"),
        hook_up=hookup.get("school"), hub=hub if hub in HUBS else None,
        removal=removal if removal in REMOVALS else None,
        wait_min=_wait(plan, now, ordered), on_van=bool(plan.get("on_van", True)), blade_at_in=at,
    )  # fmt: skip


def _wait(plan: Mapping[str, Any], now: datetime, ordered: datetime | None) -> float | None:
    """Minutes from the order to the part: the day that was typed, else the catalogue's days and the next ferry."""
    begins = ordered or now
    arrives = plan.get("swap", {}).get("arrives")
    if arrives:
        return max(0.0, (datetime.fromisoformat(arrives) - begins) / MINUTE)
    days = plan.get("lead_days")
    if days is None:
        return None
    ready = begins + timedelta(days=float(days))
    return (next_ferry(ready, plan.get("swap", {}).get("ferries", ())) - begins) / MINUTE


def next_ferry(moment: datetime, ferries: tuple[str, ...] | list[str]) -> datetime:
    """The first ferry at or after a moment, by local times of the day (`07:30`); the moment itself without any."""
    if not ferries:
        return moment
    local = moment.astimezone()
    times = sorted(time.fromisoformat(text) for text in ferries)
    for day in range(2):
        for each in times:
            at = datetime.combine(local.date() + timedelta(days=day), each, local.tzinfo)
            if at >= local:
                return at
    return moment


def _section(call: Call, plan: Mapping[str, Any]) -> Section | None:
    """The new motor along its shaft, its hub where it was kept."""
    if call.chosen_motor is None:
        return None
    hub = plan.get("hub", {})
    at = hub.get("at_in") if hub.get("part_no") == call.chosen_motor.part_no else None
    return section(call, reference_for(call).motor, call.chosen_motor, at)
