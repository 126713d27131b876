"""The job of a call as the core needs it: what was settled at the stations before, and when the part comes."""

from __future__ import annotations

from datetime import datetime, time, timedelta

from ...core.call import Call
from ...core.match.geometry import Section, section
from ...core.match.reference import reference_for
from ...core.record import KeptCapacitor, KeptHookup, KeptPlan
from ...core.swap.job import Job, Plan, job_for

MINUTE = timedelta(minutes=1)


def job_of(call: Call, plan: KeptPlan, verdict: str, now: datetime, ordered: datetime | None = None) -> Job:
    """The job of a call with the plan kept so far; `ordered` is when its part was ordered, not yet when None."""
    return job_for(call, plan_of(plan, now, ordered), _section(call, plan), verdict)


def plan_of(plan: KeptPlan, now: datetime, ordered: datetime | None) -> Plan:
    """What the stations before settled, in the core's terms."""
    capacitor, hookup = plan.capacitor, plan.hookup or KeptHookup()
    return Plan(
        work=plan.work,
        capacitor_says=None if capacitor is None else _capacitor_words(capacitor),
        capacitor_parts=tuple(dict.fromkeys(part.part_no for part in (capacitor.parts if capacitor else ()))),
        capacitor_stays=bool(capacitor and capacitor.key == "stays"),
        temporary=bool(capacitor and not capacitor.permanent),
        moves=len(hookup.moves),
        capped=tuple(move.what.removeprefix("motor.") for move in hookup.moves if move.do == "cap"),
        hook_up=hookup.school,
        hub=plan.swap.hub,
        removal=plan.swap.removal,
        build=plan.swap.build or "motor",
        wait_min=_wait(plan, now, ordered),
        on_van=plan.on_van is None or plan.on_van > 0 or plan.lead_days == 0,
        blade_at_in=plan.hub.at_in if plan.hub else None,
    )


def _capacitor_words(capacitor: KeptCapacitor) -> str:
    """What goes in: the part and its µF; how it is joined where it is of several."""
    numbers = " and ".join(dict.fromkeys(part.part_no for part in capacitor.parts))
    if capacitor.as_it_is and len(capacitor.parts) == 1 and capacitor.uf:
        return f"{numbers}, {capacitor.uf:g} µF"
    says = capacitor.says.rstrip(".")
    return f"{numbers}: {says}" if numbers else says


def _wait(plan: KeptPlan, now: datetime, ordered: datetime | None) -> float | None:
    """Minutes from the order to the part: the day that was typed, else the catalog's days and the next ferry."""
    begins = ordered or now
    if plan.swap.arrives:
        return max(0.0, (datetime.fromisoformat(plan.swap.arrives) - begins) / MINUTE)
    if plan.lead_days is None:
        return None
    ready = begins + timedelta(days=plan.lead_days)
    return (next_ferry(ready, plan.swap.ferries) - begins) / MINUTE


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


def _section(call: Call, plan: KeptPlan) -> Section | None:
    """The new motor along its shaft, its hub where it was kept."""
    if call.chosen_motor is None:
        return None
    at = plan.hub.at_in if plan.hub and plan.hub.part_no == call.chosen_motor.part_no else None
    return section(call, reference_for(call).motor, call.chosen_motor, at)
