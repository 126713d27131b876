"""The check of a motor whose winding ends its diagram does not tell: its groups against the plate's table, by rule."""

from __future__ import annotations

from typing import Literal

from ..call import Call
from ..errors import invalid
from ..installation import DiagramTable
from ..plates import Motor
from ..voltage import is_low_connection, ranges
from .answer import Check, Finding
from .circuit import circuit, outputs
from .diagram import groups_of
from .faults import by_rule, finding
from .leads import FRAME, MotorLeads
from .structure import full, ground, shorts
from .terminals import Join

SAYS = "By the plate's own diagram. No circuit is solved, the groups alone don't say which winding is which."


def check_by_table(call: Call, motor: Motor, leads: MotorLeads, wires: list[Join], table: DiagramTable) -> Check:
    """Each group of the table on one point, the line groups on two lines, no two groups on one point."""
    laid = circuit(call, motor, leads, wires, None, planned=True)
    groups = groups_of(table)
    found: list[Finding] = [*shorts(laid), *ground(laid), *full(wires)]
    points: dict[str, tuple[str, ...]] = {}
    for group in (groups.l1, groups.l2, groups.near, groups.far, *groups.apart):
        nets = {laid.net_of(f"motor.{lead}") for lead in group}
        if len(nets) > 1:
            found.append(finding("wrong_strapping", f"{', '.join(group)} go together on this supply."))
        for net in nets:
            if points.setdefault(net, group) != group:
                says = f"{', '.join(points[net])} and {', '.join(group)} are together. The plate keeps them apart."
                found.append(finding("wrong_strapping", says))
    lines = [laid.lines_on(laid.net_of(f"motor.{group[0]}")) for group in (groups.l1, groups.l2) if group]
    if any(not line for line in lines):
        found.append(finding("open_circuit", "a line group on no line"))
    elif len(lines) == 2 and lines[0] == lines[1]:
        found.append(finding("no_return", "both line groups on one line"))
    return by_rule(motor, found, SAYS)


ECM_SAYS = (
    "By the rules, no circuit is solved for ECMs. "
    "Power off 5 minutes before you touch a plug. Never plug or unplug it live."
)


def check_ecm(call: Call, motor: Motor, leads: MotorLeads, wires: list[Join]) -> Check:
    """An ECM hook-up: power on two lines, commands on their terminals, ground on the frame.

    Raises `InvalidField` where a lead of it lies on a capacitor: there is no such hook-up.
    """
    for index, wire in enumerate(wires):
        if wire.lead and wire.terminal.split(".")[0] in ("capacitor", "fancap"):
            raise invalid(
                f"hookup.planned.{index}.to",
                wire.terminal,
                "no capacitor: an ECM takes line, ground and commands. Use its own diagram",
            )
    laid = circuit(call, motor, leads, wires, None, planned=True)
    used = {wire.lead for wire in wires if wire.lead}
    found = [*shorts(laid), *ground(laid), *full(wires)]
    power = [lead for lead, ends in leads.leads if any(end.startswith("power") for end in ends)]
    nets = [laid.net_of(f"motor.{lead}") for lead in power]
    volts = [laid.volts_of(net) for net in nets]
    if len(power) < 2 or any(v is None for v in volts):
        found.append(finding("open_circuit", ", ".join(power) or "no power lead noted"))
    elif len(set(nets)) < len(nets):
        found.append(finding("no_return", ", ".join(power)))
    commands = [lead for lead, ends in leads.leads if any(end.startswith(("command", "tap")) for end in ends)]
    if commands and not set(commands) & used:
        found.append(finding("open_circuit", f"no command: {', '.join(commands)}"))
    loose = [lead for lead, ends in leads.leads if lead not in used and ends != (FRAME,) and lead not in power]
    found += [finding("lead_uncapped", f"The lead {lead}", "untidy") for lead in loose]
    return by_rule(motor, found, ECM_SAYS)


STRAPS: dict[str, dict[str, tuple[tuple[str, ...], ...]]] = {
    "low": {"lines": (("t1", "t7"), ("t2", "t8"), ("t3", "t9")), "joined": (("t4", "t5", "t6"),)},
    "high": {"lines": (("t1",), ("t2",), ("t3",)), "joined": (("t4", "t7"), ("t5", "t8"), ("t6", "t9"))},
    "three": {"lines": (("t1",), ("t2",), ("t3",)), "joined": ()},
}
"""Nine leads in star: low volts two stars side by side, high volts in series. By the diagram, never by color."""
THREE_PHASE_SAYS = (
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
        found += _group_findings(net, group)
    if len({line[0] for line in fed if line}) < sum(bool(line) for line in fed):
        found.append(finding("no_return", "two leads on one line"))
    for group in STRAPS[name]["joined"]:
        found += _group_findings(net, group)
    found += [*ground(laid), *full(wires)]
    if leads.by_custom:
        found.append(finding("diagram_needed", ", ".join(leads.names)))
    return by_rule(motor, found, THREE_PHASE_SAYS)


def _group_findings(net: dict[str, str], group: tuple[str, ...]) -> list[Finding]:
    here = {net[end] for end in group if end in net}
    if len(here) < 2:
        return []
    names = ", ".join(end.upper() for end in group)
    return [finding("wrong_strapping", f"{names} go together on this supply.")]
