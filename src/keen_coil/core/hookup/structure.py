"""What is wrong with a hook-up by how it hangs together, before any current is computed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Literal

import networkx as nx

from ..machine.sections import Coil
from ..plates import Motor
from ..voltage import is_low_connection, ranges
from .answer import Finding
from .circuit import Capacitor, Circuit
from .faults import finding
from .functions import LeadQuestion
from .leads import FRAME
from .terminals import Join, places_of, terminal_words

HalvesIn = Literal["series", "parallel", "against", "apart"]
SAME_V = 1.0
"""Lines nearer than this are one and the same."""


def structural(circuit: Circuit, motor: Motor, wires: list[Join]) -> list[Finding]:
    """Every fault that the joints alone show."""
    found = [*shorts(circuit), *ground(circuit), *_taps(circuit), *_loose(circuit, wires), *full(wires)]
    found += [*_main(circuit, motor), *_aux(circuit), *_capacitors(circuit)]
    if circuit.leads.by_custom:
        found.append(finding("diagram_needed", ", ".join(circuit.leads.names)))
    return [*found, *(_open_question(question) for question in circuit.leads.questions)]


def _open_question(question: LeadQuestion) -> Finding:
    """What the plate's words leave open, and the ohms that settle it."""
    pairs = ", ".join(f"{one} to {other}" for one, other in question.pairs)
    says = f"The plate's words do not settle it: {question.says}."
    return Finding(fault="diagram_needed", severity="untidy", says=says, cure=f"Measure {pairs}.")


def across(circuit: Circuit, a: str, b: str) -> float | None:
    """Volts between two terminals that both lie on lines; None where one does not."""
    one, other = circuit.volts_of(circuit.net_of(a)), circuit.volts_of(circuit.net_of(b))
    return None if one is None or other is None else abs(one - other)


def shorts(circuit: Circuit) -> Iterator[Finding]:
    """Lines of different volts on one point."""
    for net in {circuit.net_of(line) for line in circuit.lines}:
        lines = circuit.lines_on(net)
        if any(abs(circuit.lines[a] - circuit.lines[b]) > SAME_V for a in lines for b in lines):
            yield finding("line_short", " and ".join(line.removeprefix("line.").upper() for line in lines))


def ground(circuit: Circuit) -> Iterator[Finding]:
    """A live frame; ground leads that are not on it."""
    frame = circuit.net_of("ground.frame")
    live = [line for line in circuit.lines_on(frame) if abs(circuit.lines[line]) > SAME_V]
    if live:
        yield finding("ground_fault", live[0].removeprefix("line.").upper())
    for lead in circuit.leads.having(FRAME):
        if circuit.net_of(f"motor.{lead}") != frame:
            yield finding("ground_missing", lead)


def _taps(circuit: Circuit) -> Iterator[Finding]:
    ends = circuit.leads.taps
    nets = Counter(circuit.net_of(f"end.{end}") for end in ends)
    for net, count in nets.items():
        if count > 1:
            joined = [lead for end in ends if circuit.net_of(f"end.{end}") == net for lead in circuit.leads.having(end)]
            yield finding("taps_joined", ", ".join(dict.fromkeys(joined)))


def _loose(circuit: Circuit, wires: list[Join]) -> Iterator[Finding]:
    """Leads that hang open: live where a winding or a joint feeds them."""
    used = {end for wire in wires for end in (wire.a, wire.b)}
    for lead, ends in circuit.leads.leads:
        if f"motor.{lead}" not in used and ends != (FRAME,) and lead not in circuit.leads.plugged:
            live = _energised(circuit, f"motor.{lead}")
            yield finding("lead_uncapped", f"The lead {lead}", None if live else "untidy")


def _energised(circuit: Circuit, terminal: str) -> bool:
    """Whether a terminal is joined to a line, directly or through windings and capacitors."""
    parts = [(c.start, c.end) for c in circuit.coils] + [(c.a, c.b) for c in circuit.capacitors]
    nets: nx.Graph[str] = nx.Graph((circuit.net_of(a), circuit.net_of(b)) for a, b in parts)
    start = circuit.net_of(terminal)
    nets.add_node(start)
    return any(circuit.volts_of(net) is not None for net in nx.node_connected_component(nets, start))


def full(wires: list[Join]) -> Iterator[Finding]:
    """Terminals that hold more wires than they take (trade)."""
    counts = Counter(end for wire in wires for end in (wire.a, wire.b))
    for terminal, count in sorted(counts.items()):
        places = places_of(terminal)
        if places is not None and count > places:
            yield finding("terminal_overfilled", f"{terminal_words(terminal)} has {count} wires, it takes {places}")


def _main(circuit: Circuit, motor: Motor) -> Iterator[Finding]:
    coils = [coil for coil in circuit.coils if coil.axis == "main"]
    if len(coils) == 2 and all(coil.turns == 0.5 for coil in coils):
        yield from _strapping(circuit, motor, coils)
        return
    span = fed_span(circuit, coils)
    if span is None:
        yield from _open_main(circuit, coils)
        return
    a, b = span
    volts = across(circuit, a, b)
    if volts is not None and volts < SAME_V:
        yield finding("no_return", _lines_text(circuit, a))
    elif volts is not None and motor.volts and not in_window(motor.volts, volts):
        yield finding("wrong_strapping", f"The main winding gets {volts:.0f} V, its plate says {motor.volts}.")


def fed_span(circuit: Circuit, coils: list[Coil]) -> tuple[str, str] | None:
    """The two ends of the chain of main sections that lie on lines; None where fewer than two do."""
    ends = list(dict.fromkeys(end for coil in coils for end in (coil.start, coil.end)))
    fed = [end for end in ends if circuit.volts_of(circuit.net_of(end)) is not None]
    return (fed[0], fed[-1]) if len(fed) > 1 else None


def _open_main(circuit: Circuit, coils: list[Coil]) -> Iterator[Finding]:
    """A main winding with one end at most on a line: through a capacitor to the other one, or open."""
    for end in dict.fromkeys(end for coil in coils for end in (coil.start, coil.end)):
        net = circuit.net_of(end)
        for cap in circuit.capacitors:
            nets = circuit.net_of(cap.a), circuit.net_of(cap.b)
            other = nets[1] if nets[0] == net else nets[0] if nets[1] == net else None
            if other is not None and other != net and circuit.volts_of(other) is not None:
                leads = [lead for lead in circuit.leads.names if circuit.net_of(f"motor.{lead}") == net]
                yield finding("capacitor_in_series_with_main", ", ".join(leads) or cap.name)
                return
    loose = [
        lead
        for coil in coils
        for end in (coil.start, coil.end)
        if circuit.volts_of(circuit.net_of(end)) is None
        for lead in circuit.leads.having(end.removeprefix("end."))
    ]
    yield finding("open_circuit", ", ".join(dict.fromkeys(loose)) or "no lead of it")


def halves_in(circuit: Circuit, coils: list[Coil]) -> HalvesIn:
    """How the two halves of a run winding are joined; against each other comes before all else."""
    one, other = coils
    net = circuit.net_of
    if net(one.start) == net(other.end) and net(one.end) == net(other.start):
        return "against"
    if net(one.end) == net(other.start) or net(one.start) == net(other.end):
        return "series"
    return "parallel" if net(one.start) == net(other.start) and net(one.end) == net(other.end) else "apart"


def _strapping(circuit: Circuit, motor: Motor, coils: list[Coil]) -> Iterator[Finding]:
    """Two halves: in series for the high volts, in parallel for the low ones, and never against each other."""
    how = halves_in(circuit, coils)
    low = None if motor.volts is None else is_low_connection(motor.volts, circuit.supply_v)
    if how == "against":
        yield finding("wrong_strapping", "The two halves of the run winding fight each other. That acts like a short.")
    elif low is True and how == "series":
        says = f"Connected for high voltage on a {circuit.supply_v:.0f} V supply: a quarter of its torque."
        yield finding("wrong_strapping", says, "wrong")
    elif low is False and how == "parallel":
        says = f"Connected for low voltage on a {circuit.supply_v:.0f} V supply: twice the volts on each half."
        yield finding("wrong_strapping", says)
    elif how == "apart":
        yield finding("open_circuit", "half of the main winding")
    elif fed_span(circuit, coils) is None:
        yield from _open_main(circuit, coils)


def in_window(plate: str, volts: float) -> bool:
    """Whether volts belong to one of a plate's connections."""
    return any(low <= volts <= high for low, high in (r.window() for r in ranges(plate)))


def _lines_text(circuit: Circuit, end: str) -> str:
    lines = circuit.lines_on(circuit.net_of(end))
    return " and ".join(line.removeprefix("line.").upper() for line in lines) or "no line"


def _aux(circuit: Circuit) -> Iterator[Finding]:
    aux = next((coil for coil in circuit.coils if coil.axis == "aux"), None)
    if aux is None:
        return
    net = circuit.net_of
    start, end = net(aux.start), net(aux.end)
    leads = circuit.leads.having("aux.2") or ["its lead"]
    volts = across(circuit, aux.start, aux.end)
    if start == end:
        yield finding("aux_open", "both its ends on one point")
    elif volts is not None and volts > SAME_V:
        bypassed = next((cap for cap in circuit.capacitors if _joins_both(circuit, cap, start, end)), None)
        if bypassed:
            yield finding("capacitor_bypassed", ", ".join(leads))
        yield finding("aux_across_line", ", ".join(leads))
    elif volts is not None:
        yield finding("aux_open", f"both its ends on {_lines_text(circuit, aux.start)}")
    else:
        yield from _through_capacitor(circuit, start, end, leads)


def _joins_both(circuit: Circuit, cap: Capacitor, start: str, end: str) -> bool:
    """Whether a capacitor of its own has one terminal with the auxiliary on it and nothing on the other."""
    a, b = circuit.net_of(cap.a), circuit.net_of(cap.b)
    own = not cap.a.startswith("capacitor.common")
    empty = [net for net in (a, b) if len(circuit.on(net)) <= 1]
    return own and (a == b or (bool(empty) and bool({a, b} & {start, end})))


def _through_capacitor(circuit: Circuit, start: str, end: str, leads: list[str]) -> Iterator[Finding]:
    """The auxiliary with one end or none on a line: what feeds the other end."""
    for net, other in ((start, end), (end, start)):
        if circuit.volts_of(net) is not None:
            continue
        feeding = [cap for cap in circuit.capacitors if net in (circuit.net_of(cap.a), circuit.net_of(cap.b))]
        if not feeding:
            yield finding("aux_open", ", ".join(leads))
            return
        for cap in feeding:
            far = circuit.net_of(cap.b) if circuit.net_of(cap.a) == net else circuit.net_of(cap.a)
            if cap.of_compressor and (net != circuit.net_of(cap.a) or cap.a == "capacitor.1"):
                yield finding("wrong_section", ", ".join(leads))
            if far == net:
                yield finding("capacitor_bypassed", ", ".join(leads))
            elif len(circuit.on(far)) <= 1:
                yield finding("aux_open", f"nothing on the other side of {cap.name}")
            elif circuit.volts_of(far) is not None and far == other:
                yield finding("aux_open", f"{cap.name} leads back to the same line")


def _capacitors(circuit: Circuit) -> Iterator[Finding]:
    for cap in circuit.capacitors:
        volts = across(circuit, cap.a, cap.b)
        if volts is not None and volts > SAME_V:
            yield finding("capacitor_across_line", cap.name.capitalize())
