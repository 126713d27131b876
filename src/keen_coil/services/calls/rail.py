"""The stations of a call, in their order: title, letter, how far each is, and what comes next from it.

This is the one place that knows them: rail, keys, help, the way into a call and the way on read it from here.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, NamedTuple

from ...core.capacitors.needed import needed
from ..stations.hook_up import moves_done
from ..stations.safe_steps import STEPS
from .call_view import CallView

StationState = Literal["todo", "part", "done", "not_needed"]
NEEDS_MOTOR = ("condemn_motor", "replace_wrong_motor", "runs_worn", "not_proved", "usable_limited", "replace_module")
"""Verdicts after which a motor may be matched."""


class NextAction(NamedTuple):
    """What to do from a station: the words of its button, the station it leads to, what to know before.

    `also` is a second way, as words and station.
    """

    says: str
    to: str
    note: str = ""
    also: tuple[str, str] | None = None


class Station(NamedTuple):
    """A station: its key in addresses, its title, the letter after `g`, how far it is, what comes next from it."""

    key: str
    title: str
    letter: str
    how_far: Callable[[CallView], StationState]
    next_action: Callable[[CallView], NextAction | None]

    def state(self, view: CallView) -> StationState:
        """How far it is; on a closed call nothing is left to do."""
        state = self.how_far(view)
        return "not_needed" if state == "todo" and not view.is_open else state


def _arrive(view: CallView) -> StationState:
    return "done" if view.call.complaint.symptom else "todo"


def _make_safe(view: CallView) -> StationState:
    ticked = set(view.ticked)
    # going live for the run took some ticks back: what is left to prove is not the lock-out any more
    behind = not view.is_open or _run_proof(view) == "done"
    return "done" if ticked >= {step.key for step in STEPS} or (ticked and behind) else "part" if ticked else "todo"


def _plates(view: CallView) -> StationState:
    motor = view.call.motor
    known = [motor.kind, motor.volts, motor.amps_a, motor.rpm]
    return "done" if all(known) else "part" if any(known) else "todo"


def _path(view: CallView) -> StationState:
    states = [link.state for link in view.assessment.path.values()]
    if all(state in ("proved", "not_applicable") for state in states) or _finding(view) == "done":
        return "done"
    return "part" if any(state != "unproved" for state in states) else "todo"


def _finding(view: CallView) -> StationState:
    return "done" if view.verdict != "not_proved" else "todo"


def _match(view: CallView) -> StationState:
    if view.call.chosen_motor:
        return "done"
    return "todo" if view.verdict in NEEDS_MOTOR else "not_needed"


def _capacitor(view: CallView) -> StationState:
    if view.row.plan.capacitor:
        return "done"
    if needed(view.call) is None:
        return "not_needed"
    return "todo" if view.call.chosen_motor or view.verdict == "replace_capacitor" else "not_needed"


def _hook_up(view: CallView) -> StationState:
    kept = view.row.plan.hookup
    if kept:
        return "done" if len(moves_done(view.row)) == len(kept.moves) else "part"
    return "todo" if view.call.chosen_motor else "not_needed"


def _swap(view: CallView) -> StationState:
    if view.swap_left is None:
        return "not_needed"
    begun = any(step.station == "swap" for step in view.row.steps)
    return "done" if not view.swap_left else "part" if begun else "todo"


def _run_proof(view: CallView) -> StationState:
    if not any(reading.is_proof for reading in view.call.readings):
        return "todo"
    return "done" if view.proof.passed else "part"


def _hand_over(view: CallView) -> StationState:
    return "todo" if view.is_open else "done"


def _on_from(key: str) -> Callable[[CallView], NextAction | None]:
    """On to the first station after this one that is not done."""

    def next_action(view: CallView) -> NextAction | None:
        place = next(place for place, station in enumerate(STATIONS) if station.key == key)
        left = next((station for station in STATIONS[place + 1 :] if is_left(view, station)), None)
        return None if left is None else NextAction(f"To {left.title}", left.key)

    return next_action


def _after_finding(view: CallView) -> NextAction | None:
    """What the verdict asks for; a motor that is chosen already leads on to what its swap still needs."""
    if view.call.chosen_motor:
        return _on_from("match")(view)
    motor, verdict = view.call.motor, view.verdict
    if verdict == "replace_capacitor":
        volts = f", {motor.capacitor_v} V or higher" if motor.capacitor_v else ""
        asks = f": {motor.capacitor_uf} µF{volts}" if motor.capacitor_uf else ""
        note = f"Install what the motor plate calls for{asks}. Then do the run test."
        return NextAction("Find one on the van", "capacitor", note, ("Run test", "run-proof"))
    if verdict == "replace_wrong_motor" and motor.belongs is None:
        note = "At Nameplate, mark it as not the correct part for this unit. Then the unit plate or the blade decides."
        return NextAction("Match a motor", "match", note, ("To Nameplate", "plates"))
    return _BY_VERDICT.get(verdict)


_MATCH_A_MOTOR = NextAction("Match a motor", "match")
_LEAVE_IT_IN = NextAction("Run test", "run-proof", "Leave the motor in.")
_BY_VERDICT: dict[str, NextAction] = {
    "condemn_motor": _MATCH_A_MOTOR,
    "replace_wrong_motor": _MATCH_A_MOTOR,
    "replace_module": _MATCH_A_MOTOR,
    "runs_worn": _MATCH_A_MOTOR,
    "not_the_motor": NextAction(
        "Run test", "run-proof", "Leave the motor in. Fix what is named, then do the run test."
    ),
    "no_fault_found": _LEAVE_IT_IN,
    "usable_limited": _LEAVE_IT_IN,
}
"""By verdict; the others are followed by the next tests."""

STATIONS: tuple[Station, ...] = (
    Station("arrive", "Arrive", "a", _arrive, _on_from("arrive")),
    Station("make-safe", "Make safe", "k", _make_safe, _on_from("make-safe")),
    Station("plates", "Nameplate", "l", _plates, _on_from("plates")),
    Station("path", "Path", "p", _path, _on_from("path")),
    Station("finding", "Finding", "f", _finding, _after_finding),
    Station("match", "Match", "m", _match, _on_from("match")),
    Station("capacitor", "Capacitor", "c", _capacitor, _on_from("capacitor")),
    Station("hook-up", "Wiring", "h", _hook_up, _on_from("hook-up")),
    Station("swap", "Swap", "s", _swap, _on_from("swap")),
    Station("run-proof", "Run test", "r", _run_proof, _on_from("run-proof")),
    Station("hand-over", "Hand over", "o", _hand_over, _on_from("hand-over")),
)
STATION: dict[str, Station] = {station.key: station for station in STATIONS}


def is_left(view: CallView, station: Station) -> bool:
    """Whether there is something to do at a station."""
    return station.state(view) in ("todo", "part")


def entry(view: CallView) -> str:
    """The station to enter a call at: the first that is not done, and Hand over when all are."""
    return next((station.key for station in STATIONS if is_left(view, station)), STATIONS[-1].key)


def next_after(view: CallView, key: str) -> str:
    """The station that comes after one: where its next action leads, and Hand over when nothing is left."""
    action = STATION[key].next_action(view)
    return action.to if action else STATIONS[-1].key
