"""The check of a motor whose winding ends its diagram does not tell: its groups against the plate's table, by rule."""

from __future__ import annotations

from ..call import Call
from ..installation import DiagramTable
from ..plates import Motor
from .answer import Check, Finding
from .circuit import circuit
from .diagram import groups_of
from .faults import by_rule, finding
from .leads import MotorLeads
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
