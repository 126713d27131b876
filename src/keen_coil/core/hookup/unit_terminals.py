"""The terminals that a unit has for its motor: by what switches it, its capacitor, its phases, and what was noted."""

from __future__ import annotations

from ..call import Call
from ..outputs import outputs_of
from .places import usual_places, usual_unit

SPLICES, CAPS = 3, 5
BOARDS: dict[str, tuple[str, ...]] = {
    "inducer": ("board.line", "board.neutral", "board.high", "board.low"),
    "indoor_blower": ("board.com", "board.cool", "board.heat", "board.fan", "board.park1", "board.park2"),
    "condenser_fan": ("board.com", "board.fan", "board.high", "board.low"),
}
"""A board's terminals by the motor it drives (trade); one that is marked otherwise is named as an output."""


def terminals_of(call: Call) -> list[str]:
    """The terminals of the unit, in the order in which they are offered; those that something hangs on besides."""
    kind = call.unit.switch.kind if call.unit.switch else None
    wired = [end for wire in (*call.hookup.found, *call.hookup.planned) for end in (wire.from_, wire.to)]
    usual = usual_places(call, [])
    found = [*_switch(call, kind), *(out.terminal for out in outputs_of(call)), *_capacitor(call)]
    if call.motor_on_proof.kind not in ("three_phase", "ecm"):
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
        control = [f"board.y{n}" for n in (1, 2)] if call.motor_on_proof.kind == "ecm" else []
        return [*BOARDS.get(call.motor.role or "indoor_blower", BOARDS["indoor_blower"]), *control]
    if kind == "remote_switch":
        return ["switch.l1", "switch.t1", "switch.t2", "switch.t3", *([] if low else ["switch.l2"])]
    if call.line_phase == 3 and (kind == "starter" or call.motor_on_proof.kind == "three_phase"):
        return ["switch.t1", "switch.t2", "switch.t3"]
    poles = (call.unit.switch.poles if call.unit.switch else None) or (1 if low else 2)
    control = ["line.l1", "board.y1"] if call.motor_on_proof.kind == "ecm" else []
    return [*(["switch.t1"] if low and poles == 1 else ["switch.t1", "switch.t2"]), *control]


def _capacitor(call: Call) -> list[str]:
    """The terminals of the capacitor that is there, and of one that may be added for the fan."""
    motor = call.motor_on_proof
    if motor.kind in ("three_phase", "ecm") and call.unit.run_capacitor in (None, "none", "own"):
        return []
    if call.unit.run_capacitor == "dual":
        return ["capacitor.common", "capacitor.fan", "capacitor.herm", "fancap.1", "fancap.2"]
    return ["capacitor.1", "capacitor.2", "fancap.1", "fancap.2"]
