"""Cases from a seed: by a rung of the ladder, by chance over all faults, or the one of the day."""

from __future__ import annotations

import copy
import math
from datetime import date
from typing import Any

from ..call import Call, read_call
from ..diagnosis.faults import FAULTS, LEADS_TO, possible
from ..errors import InvalidField, invalid
from ..judge.capacitor import fan_section
from ..motor_kinds import traits_of
from ..vocabulary import Role, words_of
from .case import FORMAT, LARGEST_SEED, NOT_HIDDEN, VERSION, Case, read_case, write_case
from .chance import Chance
from .ladder import BY_KEY, BY_NAME, FAMILIES, JOBS, OF, RUNGS, UNITS, PracticeUnit, Recipe, Rung
from .running import run_of
from .unit_state import UnitState, truth_of
from .windings import overload_open

WORDS: dict[str, tuple[str, ...]] = {
    "quiet": (
        "It was not running when we came in this morning.",
        "Nothing moves and you don't hear a thing.",
        "It got warm in here and the fan is dead.",
    ),
    "hums_no_start": ("It hums and won't turn.", "You can hear it, but it doesn't spin."),
    "slow_start": ("It takes forever to get going, and it gets worse every day.", "It starts slow, then it goes."),
    "stops_hot": ("It runs in the morning and quits by noon.", "It runs an hour and quits. Later it runs again."),
    "trips": ("The breaker tripped and keeps tripping.", "It trips every time we reset it."),
    "runs_backwards": ("It spins, but the wrong way.", "It blows out where it should suck in."),
    "noisy": ("There is a noise that was not there before.", "You can hear it next door."),
    "weak_air": ("There's hardly any air coming out.", "It runs, but it's not cooling."),
    "high_pressure_lockout": ("It locks out with a code.", "It quits after a few minutes with a light blinking."),
    "other": ("It doesn't run like it used to.",),
}
AFTER_A_VISIT = " Somebody was out last week and worked on it."


def symptom_of(truth: UnitState, chance: Chance) -> str:
    """The symptom a customer would name, by the state the unit is in."""
    run = run_of(truth, _speed(truth), overload_open(truth, 0.0))
    leaks = min(truth.mohm, truth.can_mohm) < 1 or truth.wire == "chafed"
    if (leaks or "breaker" in truth.cut) and chance.happens("trips", 0.75):
        return "trips"
    if truth.welded and run.turns:
        return "other"
    if not run.turns:
        return _standing(truth, max(run.amps, default=0.0), chance)
    return _turning(truth, run.backwards, chance)


def _speed(truth: UnitState) -> int:
    used = truth.call.unit.speeds_used
    return int(used[0]) if used else 1


def _standing(truth: UnitState, amps: float, chance: Chance) -> str:
    hums = amps > 0.4 * float(truth.call.motor.amps_a or 1) and not truth.call.motor.traits.is_electronic
    if hums and chance.happens("hums", 0.8):
        return "hums_no_start"
    if truth.overload == "open":
        return "stops_hot"
    return "high_pressure_lockout" if chance.happens("lockout", 0.1) else "quiet"


def _turning(truth: UnitState, backwards: bool, chance: Chance) -> str:
    if truth.backwards or backwards:
        return "runs_backwards"
    loud = truth.drag > 0.08 or truth.rub > 0.05 or truth.load_look != "sound" or truth.belt != "sound"
    if loud:
        return chance.weighted("loud", {"noisy": 6.0, "weak_air": 1.0, "stops_hot": 1.0})
    if truth.air > 0.2:
        return chance.weighted("air", {"weak_air": 3.0, "high_pressure_lockout": 2.0, "stops_hot": 1.0})
    nominal = float(truth.call.motor.capacitor_uf or 0)
    if nominal and truth.uf < 0.92 * nominal:
        return chance.weighted("weak", {"slow_start": 3.0, "stops_hot": 2.0, "weak_air": 1.0})
    if truth.short or truth.spread[0] > 1.03 or abs(truth.supply_v / float(truth.call.unit.supply_v or 1) - 1) > 0.08:
        return chance.weighted("hot", {"stops_hot": 2.0, "slow_start": 1.0, "trips": 1.0})
    return chance.pick("vague", ("noisy", "weak_air", "stops_hot", "other"))


def customer_says(symptom: str, chance: Chance, after_a_visit: bool = False) -> str:
    """A symptom in a customer's words."""
    return chance.pick("says", WORDS[symptom]) + (AFTER_A_VISIT if after_a_visit else "")


NONE_SHARE, SECOND_SHARE, LAST_VISIT_SHARE = 0.08, 0.15, 0.06
ON_PLATES = ("capacitor_wrong_value", "capacitor_under_rated", "wrong_motor_fitted", "miswired")
"""Faults that plates or notes must show: they come by a rung's recipe."""
SECONDS = ("bearings_worn", "capacitor_weak", "air_restricted", "load_rubbing", "load_damaged", "connection_bad")
"""What is met beside another fault on the same unit."""
TO_GROUND = ("winding_grounded", "capacitor_grounded", "conductor_chafed")
TRIPS = ("breaker_tripped", "fuse_open", "starter_overload_tripped")
"""What lies on metal always trips the breaker; other faults bring about what trips now and then."""
JOB_DAYS = 3
"""Every so many days the day's case is a whole job."""
MOST_TRIES = 60
FIRST_DRAW = 1


def newest_draw() -> int:
    """The draw that knows every fault of the table."""
    return max(row.draw for row in FAULTS.values())


def case_of(seed: int, rung: str | None = None, draw: int = FIRST_DRAW) -> Case:
    """The case of a seed in a draw, on a rung of the ladder where one is named.

    A draw knows the faults that were there when it was made: a seed that was shared stays the same case when faults
    are added to the table. Raises `InvalidField` on an unknown rung, seed or draw.
    """
    _known_draw(draw)
    if not 0 <= seed <= LARGEST_SEED:
        raise invalid("seed", seed, f"a whole number from 0 to {LARGEST_SEED}")
    if rung is not None and rung not in BY_KEY:
        raise invalid("rung", rung, "a rung of the ladder: " + ", ".join(BY_KEY))
    chance = Chance(seed).part("make")
    if rung is None and chance.happens("by rung", LAST_VISIT_SHARE):
        return _by_recipe(seed, BY_KEY["last visit"])
    return _by_recipe(seed, BY_KEY[rung]) if rung else _by_chance(seed, draw)


def case_of_day(day: date) -> Case:
    """The case of a date: the same for everybody, another rung each day, now and then a whole job."""
    seed, number = int(f"{day:%Y%m%d}"), day.toordinal()
    ladder = JOBS if number % JOB_DAYS == 0 else RUNGS
    return _by_recipe(seed, ladder[number * 7 % len(ladder)])


def between(case: Case, starts: str = "", ends: str = "") -> Case:
    """A case played from one station to another, as it is where nothing is named. Raises `InvalidField`."""
    asked = {name: text for name, text in (("starts", starts), ("ends", ends)) if text}
    return read_case({**write_case(case), **asked}) if asked else case


def case_in_family(seed: int, family: str, draw: int = FIRST_DRAW) -> Case:
    """A case of a seed in a draw whose fault belongs to a family. Raises `InvalidField` on an unknown one."""
    _known_draw(draw)
    if family not in {row.key for row in FAMILIES}:
        raise invalid("family", family, "one of " + ", ".join(row.key for row in FAMILIES))
    return _by_chance(seed, draw, family)


def _known_draw(draw: int) -> None:
    if not FIRST_DRAW <= draw <= newest_draw():
        raise invalid("draw", draw, f"a draw from {FIRST_DRAW} to {newest_draw()}")


def _by_recipe(seed: int, rung: Rung) -> Case:
    chance = Chance(seed).part(rung.key)
    recipe = chance.pick("recipe", rung.recipes)
    unit = BY_NAME[chance.pick("unit", recipe.units)]
    faults = [
        {"fault": fault, "size_pct": round(chance.between(fault, low, high))}
        for fault, (low, high) in recipe.faults.items()
    ]
    call = _with(unit, recipe, rung)
    around = {"wind": recipe.wind} | ({"air_c": recipe.air_c} if recipe.air_c is not None else {})
    data = {
        "format": FORMAT,
        "version": VERSION,
        "title": f"{rung.title}: {unit.where}",
        "teaches": rung.teaches,
        "rung": rung.key,
        "seed": seed,
        "call": call,
        "faults": faults,
        "around": around,
        "starts": rung.starts,
        "ends": rung.ends,
    }
    if recipe.last_visit:
        data["last_visit"] = recipe.last_visit
    return _told(data, chance, recipe.symptom)


def _with(unit: PracticeUnit, recipe: Recipe, rung: Rung) -> dict[str, Any]:
    """A unit's call as the recipe leaves its plates: another label, a unit plate that says otherwise, wires noted."""
    call = _call(unit)
    if recipe.label_factor != 1 or recipe.label_v:
        section = fan_section(read_call(call))
        for row in call["capacitor"]["label"]:
            row["uf"] *= recipe.label_factor if row["section"] == section else 1
        call["capacitor"]["volts_v"] = recipe.label_v or call["capacitor"]["volts_v"]
    call["unit"] |= recipe.plate
    if rung.ends != "finding" and recipe.air_c is not None:
        call["unit"]["ambient_c"] = recipe.air_c
    if recipe.wires:
        names = [row["lead"] for row in call["hookup"]["leads"]]
        ends = (["main.1", "aux.1"], ["aux.2"], ["main.2"])
        call["hookup"]["leads"] = [{"lead": n, "ends": e} for n, e in zip(names, ends, strict=True)]
        call["hookup"]["found"] = [
            {"from": f"motor.{names[0]}", "to": "switch.t1"},
            {"from": f"motor.{names[1]}", "to": "capacitor.common"},
            {"from": f"motor.{names[2]}", "to": "capacitor.fan"},
            {"from": "switch.t2", "to": "capacitor.common"},
        ]
    return call


def _call(unit: PracticeUnit) -> dict[str, Any]:
    return {"format": "keen-coil/call", "version": 1, **copy.deepcopy(unit.call)}


def _told(data: dict[str, Any], chance: Chance, symptom: str = "") -> Case:
    """The case with what the customer says, which follows from what is so."""
    case = read_case(data)
    symptom = symptom or symptom_of(truth_of(case), chance)
    says = customer_says(symptom, chance, bool(case.last_visit))
    return read_case({**data, "call": {**data["call"], "complaint": {"says": says, "symptom": symptom}}})


def _by_chance(seed: int, draw: int, family: str | None = None) -> Case:
    """A case by chance. Faults are drawn by the root of how often they are met, so that rare ones are met as well."""
    for attempt in range(MOST_TRIES):
        chance = Chance(seed).part(f"by chance {attempt}")
        unit = chance.pick("unit", UNITS)
        call = _call(unit)
        names = _drawn(chance, call, family, draw)
        if names is None:
            continue
        faults = [{"fault": name, "size_pct": round(chance.between(name, 5, 95))} for name in names]
        data = {"format": FORMAT, "version": VERSION, "title": unit.where, "seed": seed, "call": call, "faults": faults}
        if draw != FIRST_DRAW:
            data["draw"] = draw
        try:
            return _told(data, chance)
        except InvalidField:
            continue
    raise invalid("family", family, "a family that one of the practice units can have")


def _pointless(fault: str, call: Call) -> bool:
    """A fault that shows nothing on this unit, or that stands for two others."""
    kind = call.motor.kind
    return (
        (fault == "winding_open" and traits_of(kind).has_start_winding)
        or (fault == "wrong_rotation" and traits_of(kind).reversed_by == "nothing")
        or (fault in ("switch_contacts_bad", "switch_not_pulled_in") and traits_of(kind).is_electronic)
        or (fault == "leak_lockout_hold" and not call.unit.refrigerant_mildly_flammable)
    )


def _drawn(chance: Chance, call: dict[str, Any], family: str | None, draw: int) -> list[str] | None:
    """The faults of a unit: none, one, one with its consequence, or two; None where the family has none here."""
    read = read_call(call)
    role = words_of(Role).index(str(read.motor.role))
    rates = {
        name: math.sqrt(row.prior_weight[role])
        for name, row in FAULTS.items()
        if name not in (*NOT_HIDDEN, *ON_PLATES)
        and row.draw <= draw
        and row.prior_weight[role] > 0
        and possible(name, read)
        and not _pointless(name, read)
        and family in (None, OF[name].key)
    }
    if family == "none" or (family is None and chance.happens("none", NONE_SHARE)):
        return []
    if not rates:
        return None
    first = chance.weighted("fault", rates)
    brought = {
        effect: share
        for cause, effect, share in LEADS_TO
        if cause == first and effect in FAULTS and FAULTS[effect].draw <= draw and possible(effect, read)
    }
    for effect, share in brought.items():
        certain = first in TO_GROUND and effect == "breaker_tripped"
        if effect in TRIPS and (certain or chance.happens(effect, share)):
            return [first, effect]
    second = chance.pick("second", SECONDS)
    if chance.happens("two", SECOND_SHARE) and second != first and possible(second, read):
        return [first, second]
    return [first]
