"""Commutated motors: line, ground and commands to their places; no capacitor, no circuit is solved."""

from __future__ import annotations

from ..call import Call
from ..errors import invalid
from ..plates import Motor
from .answer import Check
from .circuit import circuit
from .faults import by_rule, finding
from .leads import FRAME, MotorLeads
from .structure import full, ground, shorts
from .terminals import Join

SAYS = (
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
    return by_rule(motor, found, SAYS)
