"""A practice unit after the work: the case's unit with what was cured left out and what went in put in.

It is a unit like any other of practice: the same instruments read it, by the same physics.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any

from ...call import Call
from ...judge.capacitor import fan_section
from ...machine.conditions import Conditions, Model, heat_plate
from ...machine.expected import Range
from ...machine.fit import fit_plate
from ...machine.load import blade_share
from ...machine.rated import NoModel, rated
from ...match.catalogue import CatalogueMotor
from ...plates import Motor
from ...thermal.winding import Heat, heat_of
from ...units import Span
from ..case import Case
from ..unit_state import FAULT_EFFECTS, FaultEffect, UnitState, to_ground, truth_of
from .work_done import SKIPPED, WIRED, WorkDone

NEW_MOHM = (2.8, 3.3)
"""Insulation of a new motor, powers of ten of megohms."""
COOLED_LESS = 0.6
"""How much of the air over the motor a blocked coil or filter takes, at its worst."""


def _feed(truth: UnitState, size: float) -> None:
    """The start winding hangs on the compressor's section."""
    truth.fed_uf = float(truth.call.capacitor.section_uf("herm") or 40.0) * truth.herm_ratio


def _half(truth: UnitState, size: float) -> None:
    truth.supply_v *= 0.5


def _set(**values: Any) -> FaultEffect:
    def bend(truth: UnitState, size: float) -> None:
        for name, value in values.items():
            setattr(truth, name, value)

    return bend


WORK_EFFECTS: dict[str, FaultEffect] = {
    **FAULT_EFFECTS,
    "unfed": _set(fed_uf=0.0),
    "bypassed": _set(fed_uf=math.inf),
    "herm_section": _feed,
    "half_volts": _half,
    "swapped": _set(swapped=True),
}
"""What `now` of a consequence does: the faults of the contract, and what only wiring brings about."""


def unit_after(case: Case, work: WorkDone) -> UnitState:
    """The unit of a case as it is after the work; the learner's call may go on to be measured on it."""
    left = case.model_copy(update={"faults": [row for row in case.faults if not work.cures(row.fault)]})
    truth = truth_of(left)
    truth = replace(truth, call=_call(case.call, work), cut=set(truth.cut), held=set(truth.held), runs={})
    if work.motor is not None:
        _put_in(truth, case, work.motor)
    if work.uf is not None:
        truth.uf = work.uf * (1 + truth.chance.spread("new uf", 0.01))
    for effect, size in _now(work):
        WORK_EFFECTS[effect](truth, size / 100)
    if to_ground(truth):
        truth.cut.add("breaker")
    return truth


def _call(call: Call, work: WorkDone) -> Call:
    """The plates as they are now."""
    found: dict[str, Any] = {}
    if work.motor is not None:
        plate = {name: getattr(work.motor, name) for name in Motor.model_fields}
        old = call.motor
        found["motor"] = Motor.model_construct(**{**plate, "role": old.role, "fan": old.fan, "drive": old.drive})
        found["hookup"] = call.hookup.model_copy(update={"leads": [], "found": []})
    if work.uf is not None and work.capacitor is not None:
        section = fan_section(call)
        kept = [row for row in call.capacitor.label if row.section != section]
        label = [
            *kept,
            *(row.model_copy(update={"section": section, "uf": work.uf}) for row in call.capacitor.label[:1]),
        ]
        found["capacitor"] = call.capacitor.model_copy(update={"label": label})
    return call.model_copy(update=found)


def _put_in(truth: UnitState, case: Case, new: CatalogueMotor) -> None:
    """A new motor on the fan that is there: the fan asks of it what the fan laws say."""
    old, unit = case.call.motor, case.call.unit
    hp, rpm = float(unit.fan_hp or old.hp or 1), float(unit.fan_rpm or old.rpm or 1000)
    share = hp / float(new.hp or hp) * blade_share(float(new.rpm or rpm), rpm)
    truth.load = truth.chance.between("load", 0.84, 1.0) * share
    truth.mohm = 10 ** truth.chance.between("new mohm", *NEW_MOHM)
    truth.rise_c = 4.0


def _now(work: WorkDone) -> Iterable[tuple[str, float]]:
    rows: list[Mapping[str, float]] = [SKIPPED[key].now for key in sorted(work.skipped) if key in SKIPPED]
    found = work.wired.findings if work.wired is not None else ()
    rows += [WIRED[item.fault].now for item in found if item.fault in WIRED]
    return [(name, size) for row in rows for name, size in row.items()]


def heat_after(truth: UnitState) -> Heat | None:
    """Heat and life of the motor of a unit as it runs; None where no model speaks of it."""
    if not truth.call.motor.has_run_capacitor or truth.open or truth.uf_shorted:
        return None
    try:
        plate = rated(truth.call.motor, truth.call.unit.supply_v, truth.call.unit.hz)
        fit = fit_plate(plate)
    except NoModel:
        return None
    uf = truth.uf if truth.fed_uf is None else truth.fed_uf
    at = Conditions(
        Span(truth.supply_v, truth.supply_v),
        Span(uf, uf),
        load=truth.asked(),
        load_low=1.0,
        drag=truth.drags(),
        swapped=truth.swapped,
        ambient_c=truth.air_c,
        air=1 - COOLED_LESS * truth.air,
    )
    return heat_of(Model(fit.at_hz(plate.hz), at, (), heat_plate(truth.call.motor)))


def trips_after_min(heat: Heat | None) -> Range | None:
    """Minutes after which the motor's overload opens as it runs here; None where it does not."""
    return heat.overload.trips_after_min if heat is not None and heat.overload is not None else None
