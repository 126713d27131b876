"""Where a motor hangs in a unit: by the old wires and their ends, by which is the capacitor's, or as usual."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

from ..call import Call
from ..errors import InvalidField
from .circuit import LOW_LINE_V
from .leads import MotorLeads, leads_for
from .terminals import Join, is_output


@dataclass
class Places:
    """Where a motor hangs in this unit: its common line, the line of main.2, the capacitor terminal, speeds by rank."""

    common: str
    line: str
    capacitor: str | None = None
    speeds: dict[int, str] = field(default_factory=dict)
    explains: list[str] = field(default_factory=list)


def usual_unit(call: Call) -> list[Join]:
    """The unit's own wires where none were listed: a contactor with the compressor and its can."""
    if call.unit.run_capacitor not in ("dual", "compressor_only"):
        return []
    herm = "capacitor.herm" if call.unit.run_capacitor == "dual" else "capacitor.2"
    common = "capacitor.common" if call.unit.run_capacitor == "dual" else "capacitor.1"
    return [
        Join("switch.t1", common),
        Join("switch.t1", "compressor.r"),
        Join("switch.t2", "compressor.c"),
        Join(herm, "compressor.s"),
    ]


def places_of_motor(call: Call, old: list[Join], unit: list[Join]) -> Places:
    """Where the old motor hung, by its winding ends where they are noted, else by which wire is the capacitor's."""
    if not old:
        return usual_places(call)
    try:
        leads = leads_for(call, call.motor, {wire.lead for wire in old if wire.lead})
        known = not leads.by_custom
    except InvalidField:
        leads, known = MotorLeads(()), False
    at = {wire.lead: wire.terminal for wire in reversed(old) if wire.lead}
    used = {lead: end for lead, end in at.items() if _in_use(end)}
    speeds = {int(tap[6:]): used[lead] for tap in leads.taps for lead in leads.having(tap) if lead in used}
    if known:
        found = _by_ends(leads, at, speeds)
        if found:
            return found
    return _by_wires(call, old, unit, at)


def _in_use(terminal: str) -> bool:
    """Whether a lead on this terminal was used: not capped, not parked, not on the capacitor."""
    return not terminal.startswith(("cap.", "board.park", "capacitor.", "fancap."))


def _by_ends(leads: MotorLeads, at: dict[str, str], speeds: dict[int, str]) -> Places | None:
    start = next((at[lead] for lead in leads.having("aux.2") if lead in at), None)
    used = {lead: end for lead, end in at.items() if not end.startswith(("cap.", "ground", "board.park"))}
    line = next((used[lead] for lead in leads.having("main.2") if lead in used and used[lead] != start), None)
    common = next((used[lead] for lead in leads.having("main.1") if lead in used), None)
    line = line or (speeds[min(speeds)] if speeds else None)
    if common is None or line is None:
        return None
    says = [] if start is None else [f"The capacitor wire was the one on {start}: it brings out the start winding."]
    return Places(common, line, start, speeds, says)


def _by_wires(call: Call, old: list[Join], unit: list[Join], at: dict[str, str]) -> Places:
    """Without the diagram: the wire on the fan section, or alone on its capacitor terminal, is the capacitor wire."""
    shared = Counter(end for wire in (*old, *unit) for end in (wire.a, wire.b))
    on_cap = [(lead, end) for lead, end in at.items() if end.split(".")[0] in ("capacitor", "fancap")]
    start = next(((lead, end) for lead, end in on_cap if end == "capacitor.fan"), None)
    start = start or next(((lead, end) for lead, end in on_cap if shared[end] == 1), None)
    alone = {lead for lead, end in on_cap if shared[end] == 1 and start is not None}
    lines = [end for lead, end in at.items() if lead not in alone and (start is None or lead != start[0])]
    lines = [end for end in lines if not end.startswith(("ground", "cap.", "board.park"))]
    if not lines:
        return usual_places(call)
    outs = [end for end in lines if is_output(end)]
    capacitor_side = next((end for end in lines if end.split(".")[0] == "capacitor"), None)
    line = capacitor_side or (outs[0] if outs else lines[-1])
    common = next((end for end in lines if end != line and end not in outs), None) or usual_places(call).common
    speeds = dict(enumerate(outs, start=1))
    if start is None:
        return Places(common, line, None, speeds)
    why = "on the fan section" if start[1] == "capacitor.fan" else "alone on its terminal"
    return Places(common, line, start[1], speeds, [f"The capacitor wire was {start[0]}: it sat {why}, {start[1]}."])


def usual_places(call: Call) -> Places:
    """Where a fan of such a unit usually hangs, when nothing was noted."""
    volts = float(call.supply_now() or 230.0)
    low = volts <= LOW_LINE_V
    kind = call.unit.switch.kind if call.unit.switch else None
    dual = call.unit.run_capacitor == "dual"
    own = "capacitor.2" if call.unit.run_capacitor == "own" else None
    capacitor = "capacitor.fan" if dual else own
    says = ["Nothing was noted of the old wires: such a unit is usually wired so. Compare it with its diagram."]
    if kind == "remote_switch":
        used = sorted(set(call.unit.speeds_used))[:3] or [1]
        speeds = {int(speed): f"switch.t{place}" for place, speed in enumerate(used, start=1)}
        return Places("line.n" if low else "switch.l2", "switch.t1", capacitor, speeds, says)
    if kind == "board":
        used = sorted(set(call.unit.speeds_used)) or [1]
        names = ["cool", "heat", "fan", "low", "high"]
        speeds = {int(speed): f"board.{name}" for speed, name in zip(used, names, strict=False)}
        hot = speeds[min(speeds)] if (call.motor.speeds or 1) > 1 else "board.fan"
        return Places("board.com", "capacitor.common" if dual else hot, capacitor, speeds, says)
    if low:
        return Places("line.n", "switch.t1", capacitor, {1: "switch.t1"}, says)
    return Places("switch.t2", "capacitor.common" if dual else "switch.t1", capacitor, {1: "switch.t1"}, says)
