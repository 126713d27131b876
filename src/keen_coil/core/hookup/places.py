"""Where a motor hangs in a unit, by the old wires or as usual; and the terminals that a unit has."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from ..call import Call
from ..errors import InvalidField
from ..motor_kinds import traits_of
from ..outputs import UnitOutput, outputs_of, switched_one_at_a_time
from ..tables import complete
from ..unit_kinds import has_compressor
from ..vocabulary import MotorKind, Role, words_of
from .leads import MotorLeads
from .leads_of_call import leads_for
from .terminals import OTHER_SIDE, Join, hang_together, is_output, terminal_words

BOARD_ENDS = {
    "inducer": ("board.neutral", "board.high"),
    "indoor_blower": ("board.com", "board.fan"),
    "condenser_fan": ("board.com", "board.fan"),
}
"""Return and output of a board for the motor it drives, where neither wires nor outputs were noted (trade)."""
complete(BOARD_ENDS, words_of(Role), "BOARD_ENDS")
USUAL = "The old wires were not noted. This is how such a unit is usually wired. Check it against its diagram."


@dataclass(frozen=True)
class Places:
    """Where a motor hangs: its common line, the line of main.2, the capacitor terminal, each output with its speed.

    `legs` of a three-phase motor's T1, T2, T3; `was` where each lead of the old motor hung.
    """

    common: str
    line: str
    capacitor: str | None = None
    outs: tuple[UnitOutput, ...] = ()
    explains: tuple[str, ...] = ()
    legs: tuple[str, ...] = ("switch.t1", "switch.t2", "switch.t3")
    was: Mapping[str, str] = field(default_factory=dict)

    def mirrored(self) -> Places:
        """The same with its two lines exchanged; a speed stays on its output."""
        return replace(self, common=self.line, line=self.common)


def usual_unit(call: Call, noted: list[Join]) -> list[Join]:
    """The unit's own wires where none were listed: a contactor with the compressor and its can.

    A can's common hangs on the pole that the noted leads leave it: a fan between a pole and the can's common has the
    other pole there, or it never ran.
    """
    if call.unit.run_capacitor not in ("dual", "compressor_only"):
        return []
    herm = "capacitor.herm" if call.unit.run_capacitor == "dual" else "capacitor.2"
    common = "capacitor.common" if call.unit.run_capacitor == "dual" else "capacitor.1"
    one, other = ("line.l1", "line.l2") if switched_one_at_a_time(call) else ("switch.t1", "switch.t2")
    if _on_the_other_pole(call, noted, common, one, other):
        one, other = other, one
    if not has_compressor(call.unit.kind):
        return [Join(one, common)]
    return [
        Join(one, common),
        Join(one, "compressor.r"),
        Join(other, "compressor.c"),
        Join(herm, "compressor.s"),
    ]


def _on_the_other_pole(call: Call, noted: list[Join], common: str, one: str, other: str) -> bool:
    """Whether the old fan's leads leave the can's common the second pole: a lead on the common itself leaves it the
    pole that no lead is on; else the start lead on the fan section had the run lead's pole behind it."""
    at = {wire.lead: wire.terminal for wire in noted if wire.lead}
    if common in at.values():
        return {one, other} & set(at.values()) == {one}
    try:
        leads = leads_for(call, call.motor, set(at), of_old=True)
    except InvalidField:
        return False
    starts = any(at.get(lead) == "capacitor.fan" for lead in leads.having("aux.2"))
    runs = [at.get(lead) for lead in leads.having("main.2")]
    return starts and other in runs and one not in runs


def candidates(call: Call, kind: MotorKind | None, old: list[Join], unit: list[Join]) -> list[Places]:
    """Places to try in order: where the old motor hung, as is usual, and either with its lines exchanged."""
    usual = usual_places(call, unit)
    at = {wire.lead: wire.terminal for wire in reversed(old) if wire.lead}
    if traits_of(kind).is_electronic:
        return [replace(usual, was=at), usual] if old else [usual]
    if traits_of(kind).is_three_phase:
        legs = _legs(call, at)
        return [replace(usual, legs=legs)] if legs else [usual]
    by_old = [places_of_motor(call, old, unit)] if old else []
    straight = [*by_old, usual]
    return [*straight, *(places.mirrored() for places in straight)]


def _legs(call: Call, at: dict[str, str]) -> tuple[str, ...] | None:
    """The legs that T1, T2, T3 of the old motor hung on: the new one then turns the same way."""
    try:
        leads = leads_for(call, call.motor, set(at), of_old=True)
    except InvalidField:
        return None
    found = [next((at[lead] for lead in leads.having(f"t{n}") if lead in at), "") for n in (1, 2, 3)]
    whole = len(set(found)) == 3 and all(leg.startswith("switch.t") for leg in found)
    return tuple(found) if whole else None


def places_of_motor(call: Call, old: list[Join], unit: list[Join]) -> Places:
    """Where the old motor hung, by its winding ends where they are noted, else by which wire is the capacitor's.

    What the unit asks of its outputs comes before what hung on them.
    """
    if not old:
        return usual_places(call, unit)
    try:
        leads = leads_for(call, call.motor, {wire.lead for wire in old if wire.lead}, of_old=True)
        known = not leads.by_custom
    except InvalidField:
        leads, known = MotorLeads(()), False
    at = {wire.lead: wire.terminal for wire in reversed(old) if wire.lead}
    used = {lead: end for lead, end in at.items() if _in_use(end)}
    hung = [(int(tap[6:]), used[lead]) for tap in leads.taps for lead in leads.having(tap) if lead in used]
    outs = tuple(outputs_of(call)) or tuple(UnitOutput(None, end, speed) for speed, end in hung)
    found = _by_ends(leads, at, outs) if known else None
    return found or _by_wires(call, old, unit, at)


def _in_use(terminal: str) -> bool:
    """Whether a lead on this terminal was used: not capped, not parked, not on the capacitor."""
    return not terminal.startswith(("cap.", "board.park", "capacitor.", "fancap."))


def _by_ends(leads: MotorLeads, at: dict[str, str], outs: tuple[UnitOutput, ...]) -> Places | None:
    start = next((at[lead] for lead in leads.having("aux.2") if lead in at), None)
    used = {lead: end for lead, end in at.items() if not end.startswith(("cap.", "ground", "board.park"))}
    line = next((used[lead] for lead in leads.having("main.2") if lead in used and used[lead] != start), None)
    common = next((used[lead] for lead in leads.having("main.1") if lead in used), None)
    line = line or (outs[0].terminal if outs else None)
    if common is None or line is None:
        return None
    says: tuple[str, ...] = ()
    if start is not None:
        says = (f"The capacitor wire was the one on {terminal_words(start)}: that is the start winding.",)
    return Places(common, line, start, outs, says)


def _by_wires(call: Call, old: list[Join], unit: list[Join], at: dict[str, str]) -> Places:
    """Without the diagram: the wire on the fan section, or alone on its capacitor terminal, is the capacitor wire."""
    shared = Counter(end for wire in (*old, *unit) for end in (wire.a, wire.b))
    on_cap = [(lead, end) for lead, end in at.items() if end.split(".")[0] in ("capacitor", "fancap")]
    start = next(((lead, end) for lead, end in on_cap if end == "capacitor.fan"), None)
    start = start or next(((lead, end) for lead, end in on_cap if shared[end] == 1), None)
    alone = {lead for lead, end in on_cap if shared[end] == 1 and start is not None}
    lines = [end for lead, end in at.items() if lead not in alone and (start is None or lead != start[0])]
    lines = [end for end in lines if not end.startswith(("ground", "cap.", "board.park"))]
    usual = usual_places(call, unit)
    if not lines:
        return usual
    apart = switched_one_at_a_time(call)
    outs = [end for end in lines if is_output(end) or end in apart]
    capacitor_side = next((end for end in lines if end.split(".")[0] == "capacitor"), None)
    other_side = OTHER_SIDE.get(start[1]) if start else None
    if capacitor_side is None and other_side is not None and not outs:
        capacitor_side = next((end for end in lines if hang_together(unit, other_side, end)), None)
    line = capacitor_side or (outs[0] if outs else lines[-1])
    common = next((end for end in lines if end != line and end not in outs), None) or usual.common
    hung = tuple(UnitOutput(None, end, speed) for speed, end in enumerate(outs, start=1))
    declared = tuple(outputs_of(call)) or hung
    if start is None:
        return Places(common, line, None, declared)
    why = "on the fan section" if start[1] == "capacitor.fan" else "alone on its terminal"
    says = f"The capacitor wire was {start[0]}. It was {why},  {terminal_words(start[1])}."
    return Places(common, line, start[1], declared, (says,))


def usual_places(call: Call, unit: list[Join]) -> Places:
    """Where a fan of such a unit usually hangs, when nothing was noted: the can's common decides between two legs."""
    low = call.has_neutral_return
    kind = call.unit.switch.kind if call.unit.switch else None
    dual = call.unit.run_capacitor == "dual"
    own = "capacitor.2" if call.unit.run_capacitor == "own" else None
    capacitor = "capacitor.fan" if dual else own
    outs = tuple(outputs_of(call))
    apart = switched_one_at_a_time(call)
    if kind == "board":
        back, hot = BOARD_ENDS.get(call.motor.role or "indoor_blower", BOARD_ENDS["indoor_blower"])
        noted = any(not out.assumed for out in outs)
        hot = outs[0].terminal if outs else hot
        return Places(back, "capacitor.common" if dual and not noted else hot, capacitor, outs, (USUAL,))
    if apart:
        back = "line.n" if low else "switch.l2" if kind == "remote_switch" or "switch.t2" in apart else "switch.t2"
        return Places(back, outs[0].terminal if outs else "switch.t1", capacitor, outs, (USUAL,))
    if kind == "sequencer" and not low:
        return Places("line.l2", "switch.t1", capacitor, outs, (USUAL,))
    if low:
        return Places("line.n", "switch.t1", capacitor, outs, (USUAL,))
    straight = Places("switch.t2", "capacitor.common" if dual else "switch.t1", capacitor, outs, (USUAL,))
    if not dual:
        return straight
    on_second_leg = hang_together(unit, "capacitor.common", "switch.t2")
    return replace(straight, common="switch.t1") if on_second_leg else straight


SPLICES, CAPS = 3, 5
BOARDS: dict[str, tuple[str, ...]] = {
    "inducer": ("board.line", "board.neutral", "board.high", "board.low"),
    "indoor_blower": ("board.com", "board.cool", "board.heat", "board.fan", "board.park1", "board.park2"),
    "condenser_fan": ("board.com", "board.fan", "board.high", "board.low"),
}
"""A board's terminals by the motor it drives (trade); one that is marked otherwise is named as an output."""
complete(BOARDS, words_of(Role), "BOARDS")


def terminals_of(call: Call) -> list[str]:
    """The terminals of the unit, in the order in which they are offered; those that something hangs on besides."""
    kind = call.unit.switch.kind if call.unit.switch else None
    wired = [end for wire in (*call.hookup.found, *call.hookup.planned) for end in (wire.from_, wire.to)]
    usual = usual_places(call, [])
    found = [*_switch(call, kind), *(out.terminal for out in outputs_of(call)), *_capacitor(call)]
    if call.motor_on_proof.traits.has_main_winding:
        own = [end for wire in usual_unit(call, []) for end in (wire.a, wire.b)]
        found += [end for end in (usual.common, usual.line, *own) if not end.startswith("compressor.")]
    found += _transformer(call, kind)
    found += ["line.n"] if call.line_phase != 3 else []
    found += ["junction.1", "junction.2", "junction.3"] if call.motor.role == "indoor_blower" else []
    found += [f"splice.{n}" for n in range(1, SPLICES + 1)] + [f"cap.{n}" for n in range(1, CAPS + 1)]
    found += ["ground.frame", *(end for end in wired if not end.startswith("motor."))]
    return list(dict.fromkeys(found))


def _transformer(call: Call, kind: str | None) -> list[str]:
    """A blower's other leg often lies on the transformer's primary, in units that a relay or sequencer switches."""
    if call.motor.role != "indoor_blower" or kind not in ("relay", "sequencer"):
        return []
    return ["transformer.l1", "transformer.n" if call.has_neutral_return else "transformer.l2"]


def _switch(call: Call, kind: str | None) -> list[str]:
    """The terminals of what switches the motor: board, contactor, relay, starter or speed switch."""
    low = call.has_neutral_return
    if kind == "sequencer":
        return ["switch.t1", "line.l1", *([] if low else ["line.l2"])]
    if kind == "board":
        control = [f"board.y{n}" for n in (1, 2)] if call.motor_on_proof.traits.is_electronic else []
        return [*BOARDS.get(call.motor.role or "indoor_blower", BOARDS["indoor_blower"]), *control]
    if kind == "remote_switch":
        return ["switch.l1", "switch.t1", "switch.t2", "switch.t3", *([] if low else ["switch.l2"])]
    if call.line_phase == 3 and (kind == "starter" or call.motor_on_proof.traits.is_three_phase):
        return ["switch.t1", "switch.t2", "switch.t3"]
    poles = (call.unit.switch.poles if call.unit.switch else None) or (1 if low else 2)
    control = ["line.l1", "board.y1"] if call.motor_on_proof.traits.is_electronic else []
    return [*(["switch.t1"] if low and poles == 1 else ["switch.t1", "switch.t2"]), *control]


def _capacitor(call: Call) -> list[str]:
    """The terminals of the capacitor that is there, and of one that may be added for the fan."""
    motor = call.motor_on_proof
    if not motor.traits.has_main_winding and call.unit.run_capacitor in (None, "none", "own"):
        return []
    if call.unit.run_capacitor == "dual":
        return ["capacitor.common", "capacitor.fan", "capacitor.herm", "fancap.1", "fancap.2"]
    return ["capacitor.1", "capacitor.2", "fancap.1", "fancap.2"]
