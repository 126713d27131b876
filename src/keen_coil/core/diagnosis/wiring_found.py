"""The wiring as found, by which terminals hang together: a lead of the wrong winding at the capacitor, or past it.

A first look only: what currents a wrong wire makes is for the hook-up bench to solve. Which lead is which is taken
from the diagram or the names, else from the ohms, and last from the colors, which prove nothing and raise a suspicion.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

import networkx as nx

from ..call import Call
from ..judge.pairs import Terminals, roles_written, terminals_by_ohms

FAN_TERMINALS = frozenset({"capacitor.fan", "capacitor.1", "capacitor.2", "fancap.1", "fancap.2"})
STRAIGHT = ("line.", "switch.t", "board.", "capacitor.common")
START_COLORS = frozenset({"brown"})
"""The start lead as it is usually colored (trade custom, no standard)."""


class WiringFound(NamedTuple):
    """What is wrong in words, empty where each lead stands right, and what tells which lead is which."""

    wrong: str
    by: Literal["written", "ohms", "color"]


def wiring_found(call: Call) -> WiringFound | None:
    """What the wires as found show; None where that is not known.

    The start lead belongs on the fan's capacitor terminal alone: not on the line, not on the compressor's section.
    The run lead belongs on a line, never on a fan or compressor terminal of a dual.
    """
    if not call.hookup.found:
        return None
    return call.once("wiring_found", lambda: _look_over(call))


def wrong_by_color(call: Call) -> bool:
    """Whether it is wired wrong if the colors are the usual ones: the ohms of the pairs settle that."""
    found = wiring_found(call)
    return found is not None and found.by == "color" and bool(found.wrong)


def _look_over(call: Call) -> WiringFound | None:
    graph: nx.Graph[str] = nx.Graph((wire.from_, wire.to) for wire in call.hookup.found)
    written, ohms = roles_written(call), terminals_by_ohms(call)
    if _both_noted(written, graph):
        return WiringFound(_wrong(written, graph), "written")
    if _both_noted(ohms, graph):
        return WiringFound(_wrong(ohms, graph), "ohms")
    leads = sorted(end.removeprefix("motor.") for end in graph if end.startswith("motor."))
    starts = [lead for lead in leads if lead.lower() in START_COLORS]
    known = written.start or written.run or written.common
    if len(starts) != 1 or known:
        return None
    on_capacitor = [lead for lead in leads if graph.has_edge(f"motor.{lead}", "capacitor.fan") and lead != starts[0]]
    run = on_capacitor[0] if len(on_capacitor) == 1 else None
    return WiringFound(_wrong(Terminals(start=starts[0], run=run), graph), "color")


def _both_noted(roles: Terminals, graph: nx.Graph[str]) -> bool:
    return f"motor.{roles.start}" in graph and f"motor.{roles.run}" in graph


def _wrong(roles: Terminals, graph: nx.Graph[str]) -> str:
    """What is wrong with the start and the run lead; the run lead may be unknown."""
    with_start = nx.node_connected_component(graph, f"motor.{roles.start}")
    with_run = nx.node_connected_component(graph, f"motor.{roles.run}") if roles.run else set()
    if "capacitor.herm" in with_start:
        return f"the start lead ({roles.start}) is on the compressor's section"
    if any(name.startswith(STRAIGHT) for name in with_start):
        return f"the start lead ({roles.start}) is straight on the line, past the capacitor"
    if {"capacitor.fan", "capacitor.herm"} & with_run:
        return f"the run lead ({roles.run}) is on the capacitor, in series with it"
    if roles.common and f"motor.{roles.common}" in with_run:
        return f"the run lead ({roles.run}) and the common ({roles.common}) are on one line"
    return "" if with_start & FAN_TERMINALS else f"the start lead ({roles.start}) is on no capacitor terminal"
