"""What the customer says of a practice unit: it follows from what is so, in the customer's own words."""

from __future__ import annotations

from .chance import Chance
from .running import run_of
from .unit_state import UnitState
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
    hums = amps > 0.4 * float(truth.call.motor.amps_a or 1) and truth.call.motor.kind != "ecm"
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
