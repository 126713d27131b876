"""A hook-up as a circuit: terminals joined into nets, windings, capacitors and the compressor between them, the lines.

Wires and closed contacts are plain joints (networkx); a motor's lead is joined to every end that it brings out.
"""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass, field

import networkx as nx

from ..call import Call
from ..errors import invalid
from ..judge.capacitor import fan_section
from ..machine.circuit import capacitor_ohm
from ..machine.sections import Branch, Coil, Source
from ..outputs import switched_one_at_a_time
from ..plates import Motor
from .leads import MotorLeads
from .terminals import BOARD_LINE, BOARD_RETURN, Join, is_output

SOURCE_OHM = 0.02
"""The supply behind each line, ohms: a dead short then has a figure (an estimate)."""
SLOWER_TAP = 0.14
"""Turns of each slower tap's section, as a share of the winding for the highest speed (an estimate)."""
COMPRESSOR_OHM = {"r": 18 + 12j, "s": 30 + 40j}
"""Run and start winding of a running compressor (an estimate; only what it feeds back matters here)."""
UNKNOWN_HERM_UF, UNKNOWN_FAN_UF = 40.0, 5.0
FAN, COMPRESSOR = "the fan section", "the compressor's section"
NEUTRAL = "star"


@dataclass
class Capacitor:
    """A section between two terminals: its µF, its name in words."""

    name: str
    a: str
    b: str
    uf: float

    @property
    def of_compressor(self) -> bool:
        """Whether it serves the compressor."""
        return self.name == COMPRESSOR


@dataclass
class Circuit:
    """A hook-up laid open: which net each terminal is in, the coils, capacitors, and the potential of each line net."""

    joints: nx.Graph[str]
    coils: tuple[Coil, ...]
    capacitors: list[Capacitor]
    compressor: list[Branch]
    lines: dict[str, complex]
    leads: MotorLeads
    supply_v: float
    net: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for part in nx.connected_components(self.joints):
            name = min(part)
            self.net.update(dict.fromkeys(part, name))

    def net_of(self, terminal: str) -> str:
        """The net of a terminal; a terminal that nothing is joined to is a net of its own."""
        return self.net.get(terminal, terminal)

    def volts_of(self, net: str) -> complex | None:
        """The potential of a net where it is a line; None elsewhere. Of shorted lines the first by name."""
        return next((v for line, v in sorted(self.lines.items()) if self.net_of(line) == net), None)

    def lines_on(self, net: str) -> list[str]:
        """The lines that lie on a net."""
        return [line for line in sorted(self.lines) if self.net_of(line) == net]

    def on(self, net: str) -> set[str]:
        """Every terminal of a net."""
        return {terminal for terminal, name in self.net.items() if name == net}

    def parts(self) -> tuple[tuple[Coil, ...], tuple[Branch, ...], tuple[Source, ...]]:
        """Coils, branches and sources between nets, for the nodal solution."""
        coils = tuple(Coil(c.axis, self.net_of(c.start), self.net_of(c.end), c.turns, c.fitted) for c in self.coils)
        branches = [
            Branch(self.net_of(c.a), self.net_of(c.b), complex(capacitor_ohm(c.uf, 60.0))) for c in self.capacitors
        ]
        branches += [Branch(self.net_of(b.start), self.net_of(b.end), b.ohm) for b in self.compressor]
        sources = tuple(
            Source(self.net_of(line), NEUTRAL, volts, SOURCE_OHM) for line, volts in sorted(self.lines.items())
        )
        return coils, tuple(branches), sources


def outputs(call: Call, wires: list[Join]) -> list[str]:
    """The outputs that are switched on one at a time: board terminals, or those of a remote speed switch.

    Empty where a single contactor or relay feeds the motor.
    """
    used = sorted({end for wire in wires for end in (wire.a, wire.b)})
    apart = switched_one_at_a_time(call)
    return [end for end in used if is_output(end) or end in apart]


def circuit(
    call: Call, motor: Motor, leads: MotorLeads, wires: list[Join], active: str | None, planned: bool
) -> Circuit:
    """The circuit of a hook-up with its switch closed and, where there are several outputs, one of them on.

    Parameters: `planned`, whether the capacitors are those of the plan (the motor's own value) or the labeled ones.
    """
    graph: nx.Graph[str] = nx.Graph()
    graph.add_edges_from((wire.a, wire.b) for wire in wires)
    volts = _line_volts(call)
    lines = _lines(call, volts)
    _close_switch(graph, call, lines, wires, active)
    plug = leads.swapped() if call.hookup.plug == "swapped" else leads
    graph.add_nodes_from(lines)
    for lead, ends in plug.leads:
        graph.add_edges_from((f"motor.{lead}", f"end.{end}") for end in ends)
    caps = _capacitors(call, motor, wires, planned)
    return Circuit(graph, _coils(plug), caps, _compressor(wires), lines, plug, volts)


def _line_volts(call: Call) -> float:
    """Volts of the line. Raises `InvalidField` where they are neither read nor noted and no plate has them."""
    if call.line_v is None:
        takes = f": the motor takes {call.motor.volts} V" if call.motor.volts else ""
        raise invalid("unit.supply_v", "nothing", f"the volts at this unit{takes}")
    return float(call.line_v)


def _lines(call: Call, volts: float) -> dict[str, complex]:
    """Volts of each line against the neutral, RMS phasors."""
    if call.line_phase == 3:
        star = volts / math.sqrt(3)
        turned = {f"line.l{n + 1}": cmath.rect(star, -n * 2 * math.pi / 3) for n in range(3)}
        return turned | {"line.n": 0j}
    if call.has_neutral_return:
        return {"line.l1": complex(volts), "line.n": 0j}
    return {"line.l1": complex(volts / 2), "line.l2": complex(-volts / 2), "line.n": 0j}


def return_line(lines: dict[str, complex]) -> str:
    """The line a two-wire load returns to."""
    return "line.l2" if "line.l2" in lines else "line.n"


def _close_switch(
    graph: nx.Graph[str], call: Call, lines: dict[str, complex], wires: list[Join], active: str | None
) -> None:
    """Close the contacts that are called for. What feeds switch and board is taken for granted if not listed."""
    back = return_line(lines)
    listed = {end for wire in wires for end in (wire.a, wire.b)}
    fed_by_hand = {wire.a if wire.b in lines else wire.b for wire in wires if {wire.a, wire.b} & set(lines)}
    apart = switched_one_at_a_time(call)
    for pole, line in (("1", "line.l1"), ("2", back), ("3", "line.l3")):
        if f"switch.l{pole}" not in fed_by_hand and line in lines:
            graph.add_edge(f"switch.l{pole}", line)
        if f"switch.t{pole}" not in apart:
            graph.add_edge(f"switch.l{pole}", f"switch.t{pole}")
    for name in BOARD_RETURN:
        graph.add_edge(f"board.{name}", back)
    graph.add_edge("transformer.l1", "line.l1")
    graph.add_edge("transformer.l2", back)
    graph.add_edge("transformer.n", "line.n")
    fed = [f"board.{name}" for name in BOARD_LINE if f"board.{name}" in listed]
    if active:
        hot = "switch.l1" if active in apart else fed[0] if fed else "line.l1"
        graph.add_edge(active, hot)


def _coils(leads: MotorLeads) -> tuple[Coil, ...]:
    """The windings by the ends that are brought out: whole, in halves, or tapped; the auxiliary where there is one.

    Positive torque is the direction of the plate: main from main.2 to main.1, auxiliary from aux.2 to aux.1.
    """
    ends, found = leads.ends, []
    taps = leads.taps
    for half in ("main_a", "main_b"):
        if f"{half}.1" in ends:
            found.append(Coil("main", f"end.{half}.2", f"end.{half}.1", 0.5))
    if taps and not found:
        base, out = ("main.2", False) if "main.2" in ends and "main.1" not in ends else ("main.1", True)
        for place, (inner, outer) in enumerate(zip([base, *taps], taps, strict=False)):
            start, end = (outer, inner) if out else (inner, outer)
            turns = SLOWER_TAP if place else 1.0
            found.append(Coil("main", f"end.{start}", f"end.{end}", turns, fitted=not place))
    elif not found and {"main.1", "main.2"} & ends:
        found.append(Coil("main", "end.main.2", "end.main.1"))
    if {"aux.1", "aux.2"} & ends:
        found.append(Coil("aux", "end.aux.2", "end.aux.1"))
    return tuple(found)


def _capacitors(call: Call, motor: Motor, wires: list[Join], planned: bool) -> list[Capacitor]:
    """The capacitor sections that any wire is on, with their µF: in a plan the motor's own value.

    A value that nobody noted leaves the section where it is, at a usual one: whether it hangs right shows all the same.
    """
    used = {end for wire in wires for end in (wire.a, wire.b)}
    label, own = call.capacitor, motor.capacitor_uf
    herm = label.section_uf("herm") or UNKNOWN_HERM_UF
    own = call.hookup.can_uf or own if planned else own
    fan = own if planned and own is not None else label.section_uf(fan_section(call)) or own
    single = own if planned and own is not None else label.section_uf("single") or own
    only = call.unit.run_capacitor == "compressor_only"
    if only:
        single = label.section_uf("single") or herm
    rows = (
        (FAN, "capacitor.common", "capacitor.fan", fan),
        (COMPRESSOR, "capacitor.common", "capacitor.herm", herm),
        (COMPRESSOR if only else "the capacitor", "capacitor.1", "capacitor.2", single),
        ("the fan's capacitor", "fancap.1", "fancap.2", own),
    )
    return [Capacitor(name, a, b, float(uf or UNKNOWN_FAN_UF)) for name, a, b, uf in rows if {a, b} & used]


def _compressor(wires: list[Join]) -> list[Branch]:
    used = {end for wire in wires for end in (wire.a, wire.b)}
    return [
        Branch("compressor.c", f"compressor.{end}", ohm)
        for end, ohm in COMPRESSOR_OHM.items()
        if {"compressor.c", f"compressor.{end}"} <= used
    ]
