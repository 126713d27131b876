"""What a job comes back with: from what was left out, left in or fitted wrong, and from what the heat model says."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from pydantic import BaseModel

from ...diagnosis.faults import FAULTS
from ...errors import InvalidField
from ...match.rank import judge
from ...match.reference import reference_for
from ...thermal.winding import Heat
from ..case import Case
from ..chance import Chance
from ..senses import seen
from ..unit_state import UnitState
from .unit_after import heat_after, trips_after_min, unit_after
from .work_done import FIGURES, FITTED, LEFT, ORDER, SKIPPED, WIRED, Consequence, OrderRow, WorkDone

SAME_DAY = 0.05
"""Months that are less than a day and a half."""
TEMPORARY = Consequence(
    "capacitor_open",
    (4, 12),
    "The strapped capacitors were meant for a week, and nobody came back.",
    "Set the day on which it is replaced.",
)
HOT = {
    "air": ("The motor breathes air that the dirt holds back", "Clean the coil or the filter."),
    "load": ("The fan asks more of the motor than it has", "Match speed and power to the fan that is there."),
    "drag": ("Something drags on the shaft", "Free what rubs."),
    "volts": ("The volts are off", "Put the supply right first."),
    "uf": ("The capacitor is not the motor's value", "The value of the motor that is in now."),
    "place": ("The place is too hot for this motor", "A motor for the ambient that is there."),
}
"""What heats a motor most, in words, and what is done instead."""


class ComesBack(BaseModel):
    """A callback: with which fault, after how many months (0 the same day), what brought it, what is done instead."""

    fault: str
    months: float
    says: str
    instead: str
    cause: str


class Outcome(BaseModel):
    """What became of a unit: whether it runs, minutes until it trips, heat, life as a share of the plate's, callbacks.

    life: None where no model speaks; `winding_c` in C.
    """

    runs: bool
    trips_after_min: float | None = None
    winding_c: float | None = None
    life: float | None = None
    callbacks: list[ComesBack] = []

    @property
    def is_good(self) -> bool:
        """Whether it runs and nobody is called back for it."""
        return self.runs and not self.callbacks


def outcome(case: Case, work: WorkDone) -> Outcome:
    """What becomes of the unit of a case after the work that was done, on a day without wind, once it has cooled."""
    truth = replace(unit_after(case, work), wind=False, runs={})
    truth.overload = "failed" if truth.overload == "failed" else "closed"
    heat = heat_after(truth)
    trips = trips_after_min(heat)
    right = seen(truth, "turns_way", None, None, None, None, 0.0) == "right"
    rows = _rows(case, work)
    found = [*_at_once(case, work, rows, truth, right), *_later(case, work, rows)]
    hot = _too_hot(case, work, truth, heat) if right else None
    found += [hot] if hot else []
    life = None if heat is None or not right else heat.life_of_plate.mid
    for row in rows:
        life = None if life is None else life * row.life
    earliest: dict[str, ComesBack] = {}
    for back in sorted(found, key=lambda back: back.months):
        earliest.setdefault(back.cause, back)
    within = [back for back in earliest.values() if back.months <= FIGURES.horizon_months]
    return Outcome(
        runs=right,
        trips_after_min=None if trips is None or not right else round(trips.mid, 1),
        winding_c=None if heat is None or not right else round(heat.winding_c.mid, 1),
        life=None if life is None else round(life, 3),
        callbacks=within,
    )


def _at_once(case: Case, work: WorkDone, rows: list[Consequence], truth: UnitState, right: bool) -> Iterator[ComesBack]:
    """A unit that does not run, or runs backwards, when it is left: what is still so, or what the work made so."""
    left = [row.fault for row in case.faults if not work.cures(row.fault)]
    same_day = [row for row in rows if row.now and row.months[1] == 0]
    if right or same_day:
        return
    fault = left[0] if left else "wrong_rotation" if truth.backwards else "conductor_open"
    says = FAULTS[fault].says if left else "It does not run as it was left."
    yield ComesBack(
        fault=fault,
        months=0,
        says=f"It was left as it was found. {says}" if left else says,
        instead="Run it before you leave, and read volts, amps and rotation.",
        cause=f"left {fault}",
    )


def _rows(case: Case, work: WorkDone) -> list[Consequence]:
    """The consequences of steps left out, of the wiring, of a motor that the match refused."""
    found = [SKIPPED[key] for key in sorted(work.skipped) if key in SKIPPED]
    wired = work.wired.findings if work.wired is not None else ()
    found += [WIRED[item.fault] for item in wired if item.fault in WIRED]
    found += [FITTED[name] for name in _refused(case, work) if name in FITTED]
    if work.capacitor is not None and not work.capacitor.permanent and not work.follow_up:
        found.append(TEMPORARY)
    return found


def _refused(case: Case, work: WorkDone) -> list[str]:
    """The rows of the match that refused the motor that went in."""
    if work.motor is None:
        return []
    try:
        held = judge(case.call, work.motor, "amps", reference_for(case.call), 1)
    except InvalidField:
        return []
    return [row.field for row in held.refusals]


def _later(case: Case, work: WorkDone, rows: list[Consequence]) -> Iterator[ComesBack]:
    chance = Chance(case.seed).part("callbacks")
    for row in rows:
        yield _back(row, chance, row.says)
    for hidden in case.faults:
        if hidden.fault in LEFT and not work.cures(hidden.fault):
            yield _back(LEFT[hidden.fault], chance, f"left {hidden.fault}")
    for order in wrong_order(work):
        if order.brings:
            back = Consequence(order.brings, order.months, order.says, order.instead)
            yield _back(back, chance, f"order {order.before}")


def _back(row: Consequence, chance: Chance, cause: str) -> ComesBack:
    months = chance.between(cause, *row.months)
    return ComesBack(fault=row.brings, months=round(months, 1), says=row.says, instead=row.instead, cause=cause)


def wrong_order(work: WorkDone) -> list[OrderRow]:
    """The steps that were done before another that had to come first."""
    at = {key: place for place, key in enumerate(work.steps)}
    return [
        row
        for row in ORDER
        if row.before in at and any(_named(row.after, key) and at[key] < at[row.before] for key in work.steps)
    ]


def _named(name: str, key: str) -> bool:
    """Whether a step is the one that is named; a name ending in _ is any that begins so, on the bench as well."""
    return key.removeprefix("bench_").startswith(name) if name.endswith("_") else key == name


def _too_hot(case: Case, work: WorkDone, truth: UnitState, heat: Heat | None) -> ComesBack | None:
    """A motor that its heat brings back: by the overload in minutes, or by its life."""
    if heat is None:
        return None
    trips = trips_after_min(heat)
    months = FIGURES.plate_life_months * heat.life_of_plate.mid
    if trips is None and months > FIGURES.horizon_months:
        return None
    what = _hottest(truth, heat)
    says, instead = HOT[what]
    if trips is not None:
        return ComesBack(
            fault="overload_tripped",
            months=0,
            says=f"{says}: it stops hot about {_minutes(trips.mid)} after it starts.",
            instead=instead,
            cause=f"left {_CAUSED.get(what, what)}",
        )
    brings = "overload_tripped" if truth.call.motor.protection != "none" else "winding_turns_shorted"
    return ComesBack(
        fault=brings,
        months=round(max(months, SAME_DAY), 1),
        says=f"{says}: a winding of about {heat.winding_c.mid:.0f} °C does not last.",
        instead=instead,
        cause=f"left {_CAUSED.get(what, what)}",
    )


_CAUSED = {"air": "air_restricted", "drag": "load_rubbing", "uf": "capacitor_weak"}
"""The fault that stands for a source of heat, so that one cause comes back once."""


def _minutes(minutes: float) -> str:
    if minutes < 1.5:
        return "a minute"
    return f"{minutes:.0f} minutes" if minutes < 90 else f"{minutes / 60:.0f} hours"


def _hottest(truth: UnitState, heat: Heat) -> str:
    """What heats it most: that without which the winding would be coolest."""
    nominal = float(truth.call.unit.supply_v or 230)
    plate_uf = float(truth.call.motor.capacitor_uf or truth.uf)
    without = {
        "air": replace(truth, air=0.0, runs={}),
        "load": replace(truth, load=min(truth.load, 0.95), runs={}),
        "drag": replace(truth, drag=0.03, rub=0.0, runs={}),
        "volts": replace(truth, supply_v=nominal, runs={}),
        "uf": replace(truth, uf=plate_uf, fed_uf=None, swapped=False, runs={}),
        "place": replace(truth, air_c=min(truth.air_c, 30.0), runs={}),
    }
    cooler = {name: found.winding_c.mid for name, unit in without.items() if (found := heat_after(unit))}
    return min(cooler, key=lambda name: cooler[name]) if cooler else "load"
