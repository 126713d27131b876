"""Readings that are a word or a yes/no: one table, a row for each answer.

State, finding, link of the path, signal for the evidence table, and what to say.
"""

from __future__ import annotations

from typing import NamedTuple

from ..limits import TRADE
from ..readings import Reading
from .judged import Judged, Judgement, Signal, State


class Row(NamedTuple):
    """One answer of one kind of reading."""

    state: State
    finding: str
    link: str | None
    signal: str
    says: str


_N: State = "normal"
_F: State = "failed"
_S: State = "suspect"
_B: State = "borderline"
_U: State = "unjudged"
ROWS: dict[tuple[str, object], Row] = {
    ("control_call", "present"): Row(_N, "good", "control", "call.present", "The fan is called for."),
    ("control_call", "absent"): Row(
        _F, "out", "control", "call.absent", "Nothing calls for the fan: it stands still because it is told to."
    ),
    ("hold", False): Row(_N, "good", None, "hold.no", "Not held off by this."),
    ("breaker", "closed"): Row(_N, "good", "protection", "breaker.closed", "The breaker is closed."),
    ("breaker", "tripped"): Row(
        _F, "out", "protection", "breaker.tripped", "Tripped. Do not reset it before the dead tests to ground."
    ),
    ("disconnect", "closed"): Row(_N, "good", "disconnect", "disconnect.closed", "The disconnect is closed."),
    ("disconnect", "open"): Row(_F, "out", "disconnect", "disconnect.open", "The disconnect is open."),
    ("safety", "closed"): Row(_N, "good", None, "safety.closed", "This safety is closed."),
    ("safety", "open"): Row(_F, "out", "control", "safety.open", "An open safety keeps the motor off. Find out why."),
    ("safety", "stuck_closed"): Row(
        _F, "out", "control", "safety.stuck", "Closed at rest where it should be open: the board will not start."
    ),
    ("switch_pulled_in", True): Row(_N, "good", "switching", "switch.in", "The switch has pulled in."),
    ("switch_pulled_in", False): Row(_F, "out", "switching", "switch.out", "The switch has not pulled in."),
    ("fuse", "closed"): Row(_N, "good", "protection", "fuse.closed", "This fuse reads through."),
    ("fuse", "open"): Row(_F, "open", "protection", "fuse.open", "Blown. What blew it is still there: test to ground first."),
    ("starter_overload", "closed"): Row(_N, "good", "protection", "starter.closed", "The starter overload is closed."),
    ("starter_overload", "tripped"): Row(_F, "out", "protection", "starter.tripped", "The starter overload has tripped."),
    ("capacitor_look", "sound"): Row(_N, "good", "capacitor", "cap_look.sound", "No bulge, no oil, no burnt terminal."),
    ("capacitor_look", "bulged"): Row(_F, "damaged", "capacitor", "cap_look.damaged", "Bulged: failed, whatever it measures."),
    ("capacitor_look", "leaking"): Row(_F, "damaged", "capacitor", "cap_look.damaged", "Leaking: failed, whatever it measures."),
    ("capacitor_look", "burnt"): Row(_F, "damaged", "capacitor", "cap_look.damaged", "Burnt: failed, whatever it measures."),
    ("conductor", "sound"): Row(_N, "good", "wiring", "conductor.sound", "This wire reads through and is whole."),
    ("conductor", "open"): Row(_F, "open", "wiring", "conductor.open", "This wire is open."),
    ("conductor", "shorted"): Row(_F, "shorted", "wiring", "conductor.chafed", "This wire is shorted."),
    ("conductor", "chafed"): Row(_F, "damaged", "wiring", "conductor.chafed", "This wire has rubbed through."),
    ("connection", "sound"): Row(_N, "good", "connections", "connection.sound", "Tight and clean."),
    ("connection", "loose"): Row(_F, "out", "connections", "connection.bad", "Loose."),
    ("connection", "burnt"): Row(_F, "damaged", "connections", "connection.bad", "Burnt."),
    ("connection", "off"): Row(_F, "open", "connections", "connection.bad", "A lead is off its terminal."),
    ("spin", "free"): Row(_N, "good", "bearings", "spin.free", "Turns freely by hand."),
    ("spin", "stiff"): Row(_F, "out", "bearings", "spin.stiff", "Stiff by hand: the bearings drag, or the blade does."),
    ("spin", "rough"): Row(_F, "out", "bearings", "spin.rough", "Rough by hand: the bearings are worn."),
    ("spin", "locked"): Row(_S, "out", "bearings", "spin.locked", "Locked, but with the load on: free the blade, try the shaft."),
    ("spin", "brakes"): Row(_S, "out", "bearings", "spin.brakes", "Brakes by itself: unplug the module and try again."),
    ("side_play", "none"): Row(_N, "good", "bearings", "play.none", "No side play."),
    ("side_play", "some"): Row(_B, "out", "bearings", "play.some", "A little side play: compare with the sister or a new motor."),
    ("side_play", "much"): Row(_F, "out", "bearings", "play.much", "Much side play: the bearings are worn."),
    ("load_look", "sound"): Row(_N, "good", "load", "load.sound", "Blade whole, tight on the shaft, clear of the shroud."),
    ("load_look", "bent"): Row(_F, "damaged", "load", "load.damaged", "Bent: it shakes the bearings to death."),
    ("load_look", "cracked"): Row(_F, "damaged", "load", "load.damaged", "Cracked: do not run it."),
    ("load_look", "packed"): Row(_F, "out", "load", "load.damaged", "Packed with dirt."),
    ("load_look", "iced"): Row(_F, "out", "load", "load.jammed", "Iced: ice locks a good motor."),
    ("load_look", "jammed"): Row(_F, "out", "load", "load.jammed", "Jammed: free it, then try the shaft."),
    ("load_look", "hub_loose"): Row(_F, "out", "load", "load.loose", "The hub slips on the shaft."),
    ("load_look", "rubbing"): Row(_F, "out", "load", "load.rubbing", "It rubs."),
    ("load_look", "backwards"): Row(_F, "out", "load", "load.damaged", "It is on the wrong way round: little air, much work."),
    ("load_look", "off"): Row(_F, "out", "load", "load.loose", "It has come off the shaft."),
    ("belt_look", "sound"): Row(_N, "good", "load", "belt.sound", "The belt is sound."),
    ("belt_look", "slack"): Row(_F, "out", "load", "belt.bad", "The belt is slack."),
    ("belt_look", "broken"): Row(_F, "out", "load", "belt.bad", "The belt is broken."),
    ("belt_look", "misaligned"): Row(_F, "out", "load", "belt.bad", "The pulleys are out of line."),
    ("air_path", "clear"): Row(_N, "good", "air", "air.clear", "The air path is clear."),
    ("air_path", "dirty"): Row(_F, "out", "air", "air.restricted", "Dirty: clean it, or the next motor cooks too."),
    ("air_path", "blocked"): Row(_F, "out", "air", "air.restricted", "Blocked: clean it, or the next motor cooks too."),
    ("vent_drain", "clear"): Row(_N, "good", "air", "vent.clear", "Vent and drain are clear."),
    ("vent_drain", "blocked"): Row(_F, "out", "air", "vent.blocked", "Blocked."),
    ("starts_with_push", True): Row(_U, "", None, "push.starts", "Starts with a push: capacitor or start winding."),
    ("starts_with_push", False): Row(_U, "", None, "push.no", "Does not start with a push either."),
    ("trial", "runs"): Row(_U, "", None, "trial.runs", "It ran."),
    ("trial", "runs_weak"): Row(_U, "", None, "trial.runs_weak", "It ran, but weakly."),
    ("trial", "no_change"): Row(_U, "", None, "trial.no_change", "No change."),
    ("turned_before_power", True): Row(_U, "", None, "wind.yes", "Wind turned it before power came on."),
    ("turned_before_power", False): Row(_U, "", None, "wind.no", "It stood still before power came on."),
    ("noise", "quiet"): Row(_N, "good", None, "noise.quiet", "Quiet."),
    ("noise", "hum"): Row(_U, "", None, "noise.hum", "It hums: current flows, nothing turns it."),
    ("noise", "squeal"): Row(_F, "out", "bearings", "noise.bearing", "Squeals: dry bearings. Stop it now, not tomorrow."),
    ("noise", "grind"): Row(_F, "out", "bearings", "noise.bearing", "Grinds: worn bearings. Stop it now."),
    ("noise", "rub"): Row(_F, "out", "load", "noise.rub", "Something rubs."),
    ("noise", "rattle"): Row(_F, "out", "load", "noise.rattle", "Something is loose."),
    ("turns_way", "right"): Row(_N, "good", None, "turns.right", "Turns the right way."),
    ("turns_way", "wrong"): Row(_F, "out", None, "turns.wrong", "Turns the wrong way."),
    ("turns_way", "not_turning"): Row(_U, "", None, "turns.not", "It does not turn."),
}  # fmt: skip
HOLDS = {
    "defrost": "In defrost the outdoor fan is meant to stand still.",
    "delay": "A delay is still counting.",
    "fan_control": "A fan control holds it off in the cold.",
    "leak_lockout": "The leak lockout holds it off.",
    "board_lockout": "The board is in lockout.",
    "door_switch": "The door switch is open.",
}
WHOLE_LEGS = ("whole", "common", "line", "run")
_BARE = {
    "locked": Row("failed", "out", "bearings", "shaft.locked", "The bare shaft is locked: the bearings have seized."),
    "free": Row(
        "normal", "good", "bearings", "shaft.free", "The bare shaft turns freely: what held it was on the shaft."
    ),
    "stiff": Row("failed", "out", "bearings", "shaft.stiff", "Stiff on the bare shaft: the bearings drag."),
    "rough": Row("failed", "out", "bearings", "shaft.rough", "Rough on the bare shaft: the bearings are worn."),
}


def judge_word(index: int, reading: Reading) -> Judged | None:
    """Judge a reading that is a word or a yes/no; None when it is a number."""
    row = _row(reading)
    if row is None:
        return None
    source = "seen or tried on site" if reading.row.power == "any" else TRADE
    judgement = Judgement(
        reading=index, state=row.state, finding=row.finding or None, says=row.says, source=source, limit=None
    )
    says = f"{reading.row.title}{_where(reading)}: {_answer(reading)}"
    signals = [Signal(row.signal, says, (index,))]
    if row.signal == "conductor.open" and (reading.leg or "whole").lower() in WHOLE_LEGS:
        signals.append(Signal("conductor.open_whole", says, (index,)))
    if row.signal in ("turns.right", "turns.wrong"):
        signals.append(Signal("moves.yes", says, (index,)))
    return Judged(judgement, row.link, tuple(signals))


def _row(reading: Reading) -> Row | None:
    if isinstance(reading.value, (list, dict)) or not isinstance(reading.value, (str, bool)):
        return None
    if reading.kind == "hold" and reading.value is True:
        place = reading.at or "delay"
        return Row("failed", "out", "control", f"hold_{place}.yes", HOLDS[place])
    if reading.kind == "hold":
        return ROWS[("hold", False)]._replace(signal=f"hold_{reading.at or 'delay'}.no")
    if reading.kind == "trial":
        return _trial(reading)
    if reading.kind == "spin" and reading.with_ == "bare_shaft":
        return _BARE.get(str(reading.value), ROWS.get((reading.kind, reading.value)))
    return ROWS.get((reading.kind, reading.value))


TRIAL_SAYS = {
    "good_capacitor": ("With a good capacitor it ran: it is the capacitor.", "With a good capacitor it ran weakly.", "A good capacitor changed nothing: it is not the capacitor."),
    "other_speed": ("On another speed it ran: the tap in use is open.", "On another speed it ran weakly.", "Another speed changed nothing."),
    "push": ("Once pushed it ran: capacitor or start winding.", "Once pushed it ran weakly.", "Pushed, it did not run either."),
    "other_module": ("With another module it ran: the module has failed.", "With another module it ran weakly.", "Another module changed nothing: it is the motor behind it."),
    "direct_power": ("Fed directly it ran: it is not the motor.", "Fed directly it ran weakly.", "Fed directly it did not run: motor, capacitor or what holds it."),
}  # fmt: skip
"""What each trial tells: it ran, it ran weakly, no change."""
_TRIED = ("runs", "runs_weak", "no_change")


def _trial(reading: Reading) -> Row:
    with_, value = str(reading.with_), str(reading.value)
    if with_ not in TRIAL_SAYS:
        return Row(
            "unjudged",
            "",
            None,
            "trial.unsaid",
            "Say what was tried: a good capacitor, another speed, a push, another module, direct power.",
        )
    key = f"trial_{with_}.{value}"
    if with_ == "push":
        key = "push.no" if value == "no_change" else "push.starts"
    return Row("unjudged", "", None, key, TRIAL_SAYS[with_][_TRIED.index(value)])


def _where(reading: Reading) -> str:
    tried = reading.with_ if reading.kind == "trial" else None
    place = reading.at or reading.leg or tried or ("bare shaft" if reading.with_ == "bare_shaft" else None)
    return f" ({place.replace('_', ' ')})" if place else ""


def _answer(reading: Reading) -> str:
    if isinstance(reading.value, bool):
        return "yes" if reading.value else "no"
    return str(reading.value).replace("_", " ")
