"""Commutated motors: line, ground and commands to their places; no capacitor, no circuit is solved."""

from __future__ import annotations

from ..call import Call
from ..errors import bad
from ..plates import Motor
from .answer import Check, Currents
from .circuit import circuit
from .faults import finding, in_order
from .leads import FRAME, MotorLeads
from .terminals import Join

SAYS = (
    "By rule, no circuit is solved for commutated motors. Power off 5 minutes before a plug is touched; never mate or "
    "part it live."
)


def check_commutated(call: Call, motor: Motor, leads: MotorLeads, wires: list[Join]) -> Check:
    """A commutated hook-up: power on two lines, commands on their terminals, ground on the frame.

    Raises `BadInput` where a lead of it lies on a capacitor: there is no such hook-up.
    """
    for index, wire in enumerate(wires):
        if wire.lead and wire.terminal.split(".")[0] in ("capacitor", "fancap"):
            raise bad(
                f"hookup.planned.{index}.to", wire.terminal,
                "no capacitor: a commutated motor takes line, ground and commands; look at its own diagram",
            )  # fmt: skip
    laid = circuit(call, motor, leads, wires, None, planned=True)
    used = {wire.lead for wire in wires if wire.lead}
    found = []
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
    frame = laid.net_of("ground.frame")
    found += [finding("ground_missing", lead) for lead in leads.having(FRAME) if laid.net_of(f"motor.{lead}") != frame]
    loose = [lead for lead, ends in leads.leads if lead not in used and ends != (FRAME,) and lead not in power]
    found += [finding("lead_uncapped", f"The lead {lead}", "untidy") for lead in loose]
    for net in {laid.net_of(line) for line in laid.lines}:
        lines = laid.lines_on(net)
        if len({laid.lines[line] for line in lines}) > 1:
            found.append(finding("line_short", " and ".join(line[5:].upper() for line in lines)))
    grave = any(item.severity != "untidy" for item in found)
    return Check(
        runs=not grave, turns="not_turning" if grave else "unknown", findings=in_order(found), capacitor_v=None,
        currents_a=Currents(line=None, main=None, aux=None), plate_amps_a=motor.amps_a, says=SAYS, solved=False,
    )  # fmt: skip
