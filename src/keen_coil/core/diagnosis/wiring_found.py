"""The wiring as found, by which terminals hang together: a lead of the wrong winding at the capacitor, or past it.

A first look only: what currents a wrong wire makes is for the hook-up bench to solve.
"""

from __future__ import annotations

from ..call import Call
from ..judge.leads import roles_known

FAN_TERMINALS = frozenset({"capacitor.fan", "capacitor.1", "capacitor.2", "fancap.1", "fancap.2"})
STRAIGHT = ("line.", "switch.t", "capacitor.common")


def wrong_wire(call: Call) -> str | None:
    """What is wired wrong, in words; empty when the three leads stand where they belong; None when not known.

    The start lead belongs on the fan's capacitor terminal alone: not on the line, not on the compressor's section.
    The run lead belongs on a line, never on a fan or compressor terminal of a dual.
    """
    roles = roles_known(call)
    if not call.hookup.found or roles.start is None or roles.run is None:
        return None
    import networkx as nx

    graph = nx.Graph((wire.from_, wire.to) for wire in call.hookup.found)
    start, run = f"motor.{roles.start}", f"motor.{roles.run}"
    if start not in graph or run not in graph:
        return None
    with_start, with_run = (nx.node_connected_component(graph, lead) for lead in (start, run))
    if "capacitor.herm" in with_start:
        return f"the start lead ({roles.start}) is on the compressor's section"
    if any(name.startswith(STRAIGHT) for name in with_start):
        return f"the start lead ({roles.start}) is straight on the line, past the capacitor"
    if {"capacitor.fan", "capacitor.herm"} & with_run:
        return f"the run lead ({roles.run}) is on the capacitor, in series with it"
    return "" if with_start & FAN_TERMINALS else f"the start lead ({roles.start}) is on no capacitor terminal"
