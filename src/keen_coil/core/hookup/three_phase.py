"""Three-phase motors: a rule table of strapping, no circuit is solved. Two leads exchanged turn it round."""

from __future__ import annotations

from ..call import Call
from ..plates import Motor
from ..voltage import range_for, ranges
from .answer import Check, Currents, Finding
from .circuit import circuit, outputs
from .faults import finding, in_order
from .leads import FRAME, MotorLeads
from .terminals import Join, places_of

STRAPS: dict[str, dict[str, tuple[tuple[str, ...], ...]]] = {
    "low": {"lines": (("t1", "t7"), ("t2", "t8"), ("t3", "t9")), "joined": (("t4", "t5", "t6"),)},
    "high": {"lines": (("t1",), ("t2",), ("t3",)), "joined": (("t4", "t7"), ("t5", "t8"), ("t6", "t9"))},
    "three": {"lines": (("t1",), ("t2",), ("t3",)), "joined": ()},
}
"""Nine leads in star: low volts two stars side by side, high volts in series. By the diagram, never by colour."""
SAYS = (
    "By rule, no circuit is solved for three-phase motors. Prove the direction on the first run; exchange two line "
    "leads to turn it round."
)


def connection(call: Call, motor: Motor, leads: MotorLeads) -> str:
    """Which row of the table belongs here: `three`, or `low` or `high` of nine leads at this supply."""
    if "t4" not in leads.ends:
        return "three"
    if not motor.volts or len(ranges(motor.volts)) < 2:
        return "low"
    return "low" if range_for(motor.volts, call.supply_now()) == ranges(motor.volts)[0] else "high"


def check_three_phase(call: Call, motor: Motor, leads: MotorLeads, wires: list[Join]) -> Check:
    """A three-phase hook-up against the table: each line its leads, the joined ones joined, nothing short."""
    laid = circuit(call, motor, leads, wires, next(iter(outputs(call, wires)), None), planned=True)
    name = connection(call, motor, leads)
    net = {end: laid.net_of(f"end.{end}") for end in leads.ends}
    found: list[Finding] = []
    lines = [line for line in laid.lines if line != "line.n"]
    for one in lines:
        for other in lines:
            if one < other and laid.net_of(one) == laid.net_of(other):
                found.append(finding("line_short", f"{one[5:].upper()} and {other[5:].upper()}"))
    fed = [laid.lines_on(net[group[0]]) if group[0] in net else [] for group in STRAPS[name]["lines"]]
    for group, line in zip(STRAPS[name]["lines"], fed, strict=True):
        if not line:
            found.append(finding("open_circuit", f"no line on {group[0].upper()}"))
        found += _together(net, group)
    if len({line[0] for line in fed if line}) < sum(bool(line) for line in fed):
        found.append(finding("no_return", "two leads on one line"))
    for group in STRAPS[name]["joined"]:
        found += _together(net, group)
    found += [finding("ground_missing", lead) for lead in leads.having(FRAME)
              if laid.net_of(f"motor.{lead}") != laid.net_of("ground.frame")]  # fmt: skip
    if any(line in lines for line in laid.lines_on(laid.net_of("ground.frame"))):
        found.append(finding("ground_fault", "A line"))
    found += _overfilled(wires)
    if leads.by_custom:
        found.append(finding("diagram_needed", ", ".join(leads.names)))
    grave = any(item.severity != "untidy" for item in found)
    return Check(
        runs=not grave, turns="not_turning" if grave else "unknown", findings=in_order(found), capacitor_v=None,
        currents_a=Currents(line=None, main=None, aux=None), plate_amps_a=motor.amps_a, says=SAYS, solved=False,
    )  # fmt: skip


def _together(net: dict[str, str], group: tuple[str, ...]) -> list[Finding]:
    here = {net[end] for end in group if end in net}
    if len(here) < 2:
        return []
    names = ", ".join(end.upper() for end in group)
    return [finding("wrong_strapping", f"{names} belong on one point for this supply.")]


def _overfilled(wires: list[Join]) -> list[Finding]:
    counts: dict[str, int] = {}
    for wire in wires:
        for end in (wire.a, wire.b):
            counts[end] = counts.get(end, 0) + 1
    return [
        finding("terminal_overfilled", f"{end} holds {count}, it takes {places_of(end)}")
        for end, count in sorted(counts.items()) if count > (places_of(end) or count)
    ]  # fmt: skip
