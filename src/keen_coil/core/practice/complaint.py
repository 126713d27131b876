"""What the customer says of a practice unit: it follows from what is so, in the customer's own words."""

from __future__ import annotations

from .chance import Chance
from .running import run_of
from .unit_state import UnitState
from .windings import overload_open

WORDS: dict[str, tuple[str, ...]] = {
    "quiet": (
        "It was standing still when we came in this morning.",
        "Nothing moves and nothing is heard.",
        "The room got warm; the fan is dead.",
    ),
    "hums_no_start": ("It hums and stands still.", "You can hear it, but it does not go round."),
    "slow_start": ("It takes its time to get going, longer every day.", "It creeps, then it goes."),
    "stops_hot": ("It runs in the morning and stands still by noon.", "After an hour it stops; later it goes again."),
    "trips": ("The breaker went off and goes off again.", "It trips, every time somebody resets it."),
    "runs_backwards": ("It goes round, but the wrong way.", "The air comes out where it should go in."),
    "noisy": ("There is a noise that was not there before.", "One hears it next door."),
    "weak_air": ("There is hardly any air.", "It runs, but the room does not get cool."),
    "high_pressure_lockout": ("It locks out with a code.", "It gives up after a few minutes, with a light blinking."),
    "other": ("It is not as it was.",),
}
AFTER_A_VISIT = " Somebody was here last week and did something to it."


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
