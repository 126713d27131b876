"""Three-phase motors: a rule table of strapping, no circuit is solved. Two leads exchanged turn it round."""

from __future__ import annotations

from typing import Literal

from ..call import Call
from ..errors import invalid
from ..plates import Motor
from ..voltage import is_low_connection, ranges
from .answer import Check, Finding
from .circuit import circuit, outputs
from .faults import by_rule, finding
from .leads import MotorLeads
from .structure import full, ground, shorts
from .terminals import Join

STRAPS: dict[str, dict[str, tuple[tuple[str, ...], ...]]] = {
    "low": {"lines": (("t1", "t7"), ("t2", "t8"), ("t3", "t9")), "joined": (("t4", "t5", "t6"),)},
    "high": {"lines": (("t1",), ("t2",), ("t3",)), "joined": (("t4", "t7"), ("t5", "t8"), ("t6", "t9"))},
    "three": {"lines": (("t1",), ("t2",), ("t3",)), "joined": ()},
}
"""Nine leads in star: low volts two stars side by side, high volts in series. By the diagram, never by colour."""
SAYS = (
    "By the rules, no circuit is solved for three-phase motors. Prove the rotation on the first run. Swap two line "
    "leads to reverse it."
)


def connection(call: Call, motor: Motor, leads: MotorLeads) -> str:
    """Which row of the table belongs here: `three`, or `low` or `high` of nine leads at this supply."""
    if "t4" not in leads.ends:
        return "three"
    return volts_row(call, motor)


def volts_row(call: Call, motor: Motor) -> Literal["low", "high"]:
    """How a dual-voltage motor is strapped on this line; low where its plate has one voltage.

    Raises `InvalidField` where nobody knows the line: twice or half the volts would be on the winding.
    """
    if not motor.volts or len(ranges(motor.volts)) < 2:
        return "low"
    if call.line_v is None:
        raise invalid("unit.supply_v", "nothing", f"the volts at this unit: the motor takes {motor.volts} V")
    return "low" if is_low_connection(motor.volts, call.line_v) else "high"


def check_three_phase(call: Call, motor: Motor, leads: MotorLeads, wires: list[Join]) -> Check:
    """A three-phase hook-up against the table: each line its leads, the joined ones joined, nothing short."""
    laid = circuit(call, motor, leads, wires, next(iter(outputs(call, wires)), None), planned=True)
    name = connection(call, motor, leads)
    net = {end: laid.net_of(f"end.{end}") for end in leads.ends}
    found: list[Finding] = [*shorts(laid)]
    fed = [laid.lines_on(net[group[0]]) if group[0] in net else [] for group in STRAPS[name]["lines"]]
    for group, line in zip(STRAPS[name]["lines"], fed, strict=True):
        if not line:
            found.append(finding("open_circuit", f"no line on {group[0].upper()}"))
        found += _together(net, group)
    if len({line[0] for line in fed if line}) < sum(bool(line) for line in fed):
        found.append(finding("no_return", "two leads on one line"))
    for group in STRAPS[name]["joined"]:
        found += _together(net, group)
    found += [*ground(laid), *full(wires)]
    if leads.by_custom:
        found.append(finding("diagram_needed", ", ".join(leads.names)))
    return by_rule(motor, found, SAYS)


def _together(net: dict[str, str], group: tuple[str, ...]) -> list[Finding]:
    here = {net[end] for end in group if end in net}
    if len(here) < 2:
        return []
    names = ", ".join(end.upper() for end in group)
    return [finding("wrong_strapping", f"{names} go together on this supply.")]
