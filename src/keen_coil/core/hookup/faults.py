"""The faults of a hook-up as a table: how grave, what it does, how to cure it (physics of the circuit; trade)."""

from __future__ import annotations

from typing import NamedTuple

from ..plates import Motor
from .answer import Check, Currents, Finding, HookupFault, Severity


class WiringFault(NamedTuple):
    """A fault: severity, what it does, the cure. `{what}` in either is filled in by the check."""

    severity: Severity
    says: str
    cure: str


FAULTS: dict[HookupFault, WiringFault] = {
    "line_short": WiringFault(
        "danger",
        "Dead short: {what} meet. The breaker trips, or the wire burns.",
        "Part them before anything is energized.",
    ),
    "ground_fault": WiringFault(
        "danger",
        "{what} lies on the frame: the cabinet is live until something trips.",
        "Take it off the ground.",
    ),
    "aux_across_line": WiringFault(
        "danger",
        "The auxiliary winding lies straight across the line, without its capacitor: it burns within minutes.",
        "Put the start lead ({what}) on the capacitor, on the far side from the line.",
    ),
    "capacitor_bypassed": WiringFault(
        "danger",
        "Both sides of the capacitor are one point ({what}): it does nothing, the auxiliary sees the whole line.",
        "One lead to each of its terminals.",
    ),
    "capacitor_in_series_with_main": WiringFault(
        "danger",
        "The capacitor is in series with the main winding ({what}): the motor hardly turns and overheats.",
        "The line leads to the lines, the start lead alone to the capacitor.",
    ),
    "wrong_section": WiringFault(
        "danger",
        "The fan is on the compressor's section ({what}): the auxiliary runs on far too much capacitor and overheats, "
        "and the compressor's start suffers.",
        "Move the start lead to the fan section.",
    ),
    "taps_joined": WiringFault(
        "danger",
        "Speed taps are joined ({what}): the turns between them are shorted and burn.",
        "One tap on the speed terminal, each other one in a cap of its own.",
    ),
    "wrong_strapping": WiringFault(
        "danger",
        "{what}",
        "Strap the leads for this supply by the motor's own diagram.",
    ),
    "ground_missing": WiringFault(
        "danger",
        "The ground lead ({what}) is not on the frame: a fault inside leaves the motor live.",
        "Put it on the ground screw.",
    ),
    "lead_uncapped": WiringFault(
        "danger",
        "{what} hangs open and is live while the motor runs.",
        "Give it a cap of its own.",
    ),
    "capacitor_across_line": WiringFault(
        "wrong",
        "{what} lies straight across the line and serves nothing.",
        "One side to the line, the other to the start lead.",
    ),
    "aux_open": WiringFault(
        "wrong",
        "The auxiliary winding is fed by nothing ({what}): it hums and does not start, and draws its locked current.",
        "Start lead to the capacitor, the capacitor's other side to the line.",
    ),
    "open_circuit": WiringFault(
        "wrong",
        "The main winding has no way through ({what}): nothing turns.",
        "Join its open end to the line it belongs to.",
    ),
    "no_return": WiringFault(
        "wrong",
        "Both ends lie on one line ({what}): no volts across the winding.",
        "Move one end to the other line.",
    ),
    "wrong_speed": WiringFault(
        "wrong",
        "{what}",
        "Put the tap that this mode asks for on its output.",
    ),
    "reversed": WiringFault(
        "wrong",
        "It turns {what}.",
        "Exchange the reversing plug, or the two leads of the auxiliary as the diagram says.",
    ),
    "terminal_overfilled": WiringFault(
        "untidy",
        "{what}: more wires than it has places.",
        "Join them in a splice and bring one wire on.",
    ),
    "diagram_needed": WiringFault(
        "untidy",
        "This goes by the usual colors or numbers ({what}), and that proves nothing.",
        "Look at the motor's own diagram, or measure: run to start reads the most, a lead at zero ohms to a line lead "
        "is that line.",
    ),
}
ORDER = list(FAULTS)


def finding(fault: HookupFault, what: str, severity: Severity | None = None) -> Finding:
    """A finding of the table with its particulars."""
    row = FAULTS[fault]
    says, cure = (text.format(what=what) for text in (row.says, row.cure))
    return Finding(fault=fault, severity=severity or row.severity, says=says, cure=cure)


def in_order(found: list[Finding]) -> list[Finding]:
    """Dangerous ones first, then as the table stands; the same said twice is said once."""
    rank = {"danger": 0, "wrong": 1, "untidy": 2}
    once = {(item.fault, item.says): item for item in found}
    return sorted(once.values(), key=lambda item: (rank[item.severity], ORDER.index(item.fault)))


def by_rule(motor: Motor, found: list[Finding], says: str) -> Check:
    """The check of a motor for which no circuit is solved: it runs where nothing is worse than untidy."""
    grave = any(item.severity != "untidy" for item in found)
    return Check(
        runs=not grave,
        turns="not_turning" if grave else "unknown",
        findings=in_order(found),
        capacitor_v=None,
        currents_a=Currents(line=None, main=None, aux=None),
        plate_amps_a=motor.amps_a,
        says=says,
        solved=False,
    )
