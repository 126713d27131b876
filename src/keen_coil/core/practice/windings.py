"""The windings of a practice motor as an ohmmeter finds them: its leads, and what lies between each two."""

from __future__ import annotations

import math

import networkx as nx

from ..call import Call
from ..hookup.leads import FRAME, customary
from ..judge.cooling import COPPER_C
from ..machine.rated import RUNNING_C
from .plate_motor import plate_motor
from .running import windings_of
from .unit_state import UnitState

TAP_OHM = 0.2
"""What each speed tap down adds, share of the main winding's ohms."""
CLOSES_RISE_C = 14.0
"""An internal overload that has opened closes again when the shell has come down to so much above the air."""
COOLS_MIN = 24.0
"""Time constant of a small motor cooling in still air, minutes (trade)."""


def shell_c(truth: UnitState, minutes: float) -> float:
    """Temperature of the shell so many minutes after the visit began, C: it cools by the exponential law."""
    return truth.air_c + truth.rise_c * math.exp(-minutes / COOLS_MIN)


def overload_open(truth: UnitState, minutes: float) -> bool:
    """Whether the internal overload is open: for good, or until the motor has cooled."""
    hot = truth.overload == "open" and truth.rise_c * math.exp(-minutes / COOLS_MIN) > CLOSES_RISE_C
    return truth.overload == "failed" or hot


def at_temperature(ohm: float, celsius: float) -> float:
    """Ohms of a running winding (95 C) at another temperature: R2 = R1 (234.5 + T2) / (234.5 + T1), copper."""
    return ohm * (COPPER_C + celsius) / (COPPER_C + RUNNING_C)


def lead_ends(truth: UnitState) -> dict[str, tuple[str, ...]]:
    """What each lead brings out, as it really is: by the diagram where the case has one, else dealt out by chance."""
    noted = [row for row in truth.call.hookup.leads if row.ends != [FRAME]]
    if noted and all(row.ends for row in noted):
        return {row.lead: tuple(row.ends) for row in noted}
    custom = [ends for _, ends in customary(truth.call.motor).leads if ends != (FRAME,)]
    names = [row.lead for row in noted] if len(noted) == len(custom) else lead_letters(truth.call)
    return dict(zip(truth.chance.shuffled("leads", names), custom, strict=False))


def lead_letters(call: Call) -> list[str]:
    """Names for leads that nobody has named: A, B, C, as many as the plate says."""
    return ["A", "B", "C", "D", "E", "F"][: min(call.motor.leads or 3, 6)]


def between(truth: UnitState, one: str, other: str, minutes: float) -> float:
    """Ohms between two leads so many minutes into the visit; infinite where nothing joins them."""
    graph = _network(truth, minutes)
    if one not in graph or other not in graph or not nx.has_path(graph, one, other):
        return math.inf
    return float(nx.shortest_path_length(graph, one, other, weight="ohm"))


def tapped_pairs(truth: UnitState) -> dict[int, tuple[str, str]]:
    """The common lead with each speed tap's lead, by speed."""
    ends = lead_ends(truth)
    line = next((lead for lead, out in ends.items() if "main.1" in out), "")
    return {
        int(end.removeprefix("main.s")): (line, lead)
        for lead, out in ends.items()
        for end in out[:1]
        if end.startswith("main.s")
    }


def _network(truth: UnitState, minutes: float) -> nx.Graph[str]:
    """Leads and winding ends as a graph whose edges carry ohms; what is open is left out."""
    graph: nx.Graph[str] = nx.Graph()
    ends = lead_ends(truth)
    for lead, out in ends.items():
        graph.add_node(lead)
        first = [] if {"main.1", "aux.1"} <= set(out) else [(lead, end) for end in out]
        graph.add_edges_from(first, ohm=0.0)
    common = next((lead for lead, out in ends.items() if {"main.1", "aux.1"} <= set(out)), "main.1")
    if not overload_open(truth, minutes):
        graph.add_edge(common, "inside", ohm=0.0)
    main, aux = _ohms(truth, shell_c(truth, minutes))
    if truth.open not in ("run", "all"):
        _add_main(graph, truth, ends, main * (1 - truth.short))
    if truth.open not in ("start", "all"):
        graph.add_edge("inside" if common != "main.1" else "aux.1", "aux.2", ohm=aux)
    return graph


def _add_main(graph: nx.Graph[str], truth: UnitState, ends: dict[str, tuple[str, ...]], ohm: float) -> None:
    """The main winding: whole, or in series from the highest tap down; an open tap cuts off those below it."""
    taps = sorted({end for out in ends.values() for end in out if end.startswith("main.s")})
    if not taps:
        graph.add_edge("inside", "main.2", ohm=ohm)
        return
    before = "inside"
    for number, end in enumerate(taps, start=1):
        if truth.tap_open == number:
            return
        graph.add_edge(before, end, ohm=ohm if number == 1 else TAP_OHM * ohm)
        before = end


def _ohms(truth: UnitState, celsius: float) -> tuple[float, float]:
    """Main and auxiliary at a temperature; a motor of one winding has no auxiliary."""
    call = truth.call
    if call.motor.kind and call.motor.traits.has_start_winding:
        found = windings_of(truth)[0]
        return at_temperature(float(found.r1_ohm), celsius), at_temperature(float(found.r1a_ohm), celsius)
    ohm = plate_motor(call.motor, call.unit.supply_v, call.unit.hz).r1_ohm
    return at_temperature(ohm, celsius), math.inf


def phase_pairs(truth: UnitState, minutes: float, past_wire: bool = False) -> list[float]:
    """Three pairs of a three-phase motor in star, ohms; from the switch with `past_wire`."""
    ohm, _ = _ohms(truth, shell_c(truth, minutes))
    phases = [ohm, ohm * (1 - truth.short), ohm]
    if truth.open == "all" or (past_wire and (truth.wire == "open" or truth.joint == "off")):
        phases[2] = math.inf
    if overload_open(truth, minutes):
        phases = [math.inf] * 3
    return [phases[0] + phases[1], phases[1] + phases[2], phases[2] + phases[0]]
