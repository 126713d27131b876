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
        "Dead short: {what} are together. The breaker trips or the wire burns.",
        "Take them apart before you energize.",
    ),
    "ground_fault": WiringFault(
        "danger",
        "{what} is on ground. The cabinet is live until something trips.",
        "Take it off the ground.",
    ),
    "aux_across_line": WiringFault(
        "danger",
        "The start winding is straight across the line with no capacitor. It burns up in minutes.",
        "Put the start lead ({what}) on the capacitor, on the far side from the line.",
    ),
    "capacitor_bypassed": WiringFault(
        "danger",
        "Both sides of the capacitor are tied together ({what}). It does nothing, and the start winding gets full line "
        "voltage.",
        "One lead to each of its terminals.",
    ),
    "capacitor_in_series_with_main": WiringFault(
        "danger",
        "The capacitor is in series with the run winding ({what}). The motor barely turns and overheats.",
        "Line leads to the lines, only the start lead to the capacitor.",
    ),
    "wrong_section": WiringFault(
        "danger",
        "The fan is on the HERM section ({what}). The start winding runs on far too much capacitor and overheats, "
        "and the compressor starts hard.",
        "Move the start lead to the fan section.",
    ),
    "taps_joined": WiringFault(
        "danger",
        "Speed taps are tied together ({what}). The turns between them are shorted and burn up.",
        "One tap on the speed terminal. Cap each of the others by itself.",
    ),
    "wrong_strapping": WiringFault(
        "danger",
        "{what}",
        "Connect the leads for this supply by the motor's own diagram.",
    ),
    "ground_missing": WiringFault(
        "danger",
        "The ground lead ({what}) is not on ground. A fault inside leaves the motor live.",
        "Put it on the ground screw.",
    ),
    "lead_uncapped": WiringFault(
        "danger",
        "{what} is left open and is live while the motor runs.",
        "Cap it by itself.",
    ),
    "capacitor_across_line": WiringFault(
        "wrong",
        "{what} is straight across the line and does nothing.",
        "One side to the line, the other to the start lead.",
    ),
    "aux_open": WiringFault(
        "wrong",
        "The start winding has no feed ({what}). It hums, won't start and draws locked-rotor amps.",
        "Start lead to the capacitor, the capacitor's other side to the line.",
    ),
    "open_circuit": WiringFault(
        "wrong",
        "The run winding is open ({what}). Nothing turns.",
        "Connect its open end to its line.",
    ),
    "no_return": WiringFault(
        "wrong",
        "Both ends are on one line ({what}). No volts across the winding.",
        "Move one end to the other line.",
    ),
    "wrong_speed": WiringFault(
        "wrong",
        "{what}",
        "Put the tap this mode calls for on its output.",
    ),
    "reversed": WiringFault(
        "wrong",
        "It turns {what}.",
        "Swap the reversing plug, or the two start-winding leads as the diagram shows.",
    ),
    "does_not_start": WiringFault(
        "wrong",
        "{what}",
        "Find out why before you leave it so: every lead noted, its capacitor, its volts.",
    ),
    "terminal_overfilled": WiringFault(
        "untidy",
        "{what}: more wires than it has spots.",
        "Splice them and run one wire to it.",
    ),
    "diagram_needed": WiringFault(
        "untidy",
        "This goes by the usual colors or numbers ({what}). Colors prove nothing.",
        "Use the motor's own diagram, or measure: run to start reads highest, and a lead at zero ohms to a line lead "
        "is that same line.",
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
