"""The plate's own diagram of a motor with many leads: which are joined, which go to the lines and to the capacitor.

From the tables for low and high volts the winding ends of each lead are worked out, so that the hook-up can be solved:
both halves of the main winding side by side on low volts, one after the other on high, the auxiliary through the
capacitor, and a protector as two leads that are one point (NEMA MG 1, terminal markings of single-phase motors; trade).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from itertools import combinations, product
from typing import Any

import networkx as nx

from ..errors import FieldError, InvalidField
from ..installation import Diagram, DiagramTable
from .functions import LeadQuestion
from .leads import FRAME, MotorLeads

LINES = ("l1", "l2")
PROTECTOR = "protector"
Ends = dict[str, list[str]]


@dataclass(frozen=True)
class Net:
    """One table laid open: the point of each lead, the points of the lines, near and far side of the capacitor.

    `returned` are leads that go to the capacitor's far side alone: inside they are one point with a line lead.
    """

    point: Mapping[str, str]
    lines: tuple[str, str]
    near: str | None
    far: str | None
    returned: tuple[str, ...] = ()


def names_of(table: DiagramTable) -> list[str]:
    """Every lead a table names, in order."""
    sides = [lead for side in table.capacitor for lead in side]
    every = [*table.l1, *table.l2, *(lead for group in table.joins for lead in group), *sides]
    return list(dict.fromkeys(lead for lead in every if lead.lower() not in LINES))


def tables_of(diagram: Diagram) -> dict[str, DiagramTable]:
    """The tables that are there, by the volts they are for."""
    return {name: table for name in ("low", "high") if (table := getattr(diagram, name)) is not None}


def check_diagram(diagram: Diagram, known: Iterable[str], path: str = "hookup.diagram") -> None:
    """Raises `InvalidField` where a table joins both lines, names a lead that is none or leaves one out."""
    tables = tables_of(diagram)
    every = set(known) or {lead for table in tables.values() for lead in names_of(table)}
    faults = [fault for name, table in tables.items() for fault in _faults_of(table, every, f"{path}.{name}")]
    if faults:
        raise InvalidField(faults)


def _faults_of(table: DiagramTable, every: set[str], path: str) -> Iterator[FieldError]:
    """What is wrong with one table of a motor with these leads."""
    for line in LINES:
        if not getattr(table, line):
            yield FieldError(f"{path}.{line}", "no lead", f"the leads that go to {line.upper()}")
    net = _net(table, ())
    sides = [side for side in table.capacitor if side]
    if net.lines[0] == net.lines[1]:
        both = [lead for lead in names_of(table) if net.point[lead] == net.lines[0]]
        expected = "L1 and L2 apart: these groups tie both lines together, a dead short"
        yield FieldError(path, f"{', '.join(both)} on one point", expected)
    elif len(sides) == 1:
        yield FieldError(
            f"{path}.capacitor", f"{', '.join(sides[0])} alone", "where the other side of the capacitor goes"
        )
    elif net.near is not None and net.near == net.far:
        yield FieldError(f"{path}.capacitor", "both sides on one point", "its two sides on two points")
    strange = [lead for lead in names_of(table) if lead not in every]
    left = [lead for lead in sorted(every) if lead not in names_of(table)]
    if strange:
        yield FieldError(path, f"lead {', '.join(strange)}", f"a lead of this motor: {', '.join(sorted(every))}")
    if left:
        expected = "every lead in a group: together with others, to a line, to the capacitor, or by itself"
        yield FieldError(path, f"{', '.join(left)} missing", expected)


def _net(table: DiagramTable, protector: tuple[str, ...]) -> Net:
    graph: nx.Graph[str] = nx.Graph()
    graph.add_nodes_from([*names_of(table), *LINES])
    for group in [*table.joins, ["l1", *table.l1], ["l2", *table.l2], list(protector)]:
        graph.add_edges_from((group[0], other) for other in group[1:])
    sides = [[_same(lead) for lead in side] for side in table.capacitor if side]
    for side in sides:
        graph.add_edges_from((side[0], other) for other in side[1:])
    returned: tuple[str, ...] = ()
    if len(sides) == 2:
        single = [len(side) == 1 and set(nx.node_connected_component(graph, side[0])) == set(side) for side in sides]
        if single[1] and not single[0]:
            sides.reverse()
        elif all(single):
            returned = tuple(sides[1])
            graph.add_edge(sides[1][0], "l2")
    point = {lead: min(part) for part in nx.connected_components(graph) for lead in part}
    lines = (point["l1"], point["l2"])
    near, far = (point[sides[0][0]], point[sides[1][0]]) if len(sides) == 2 else (None, None)
    if near in lines and far not in lines:
        near, far = far, near
    return Net(point, lines, near, far, returned)


def _same(lead: str) -> str:
    return lead.lower() if lead.lower() in LINES else lead


def ends_by_diagram(diagram: Diagram, grounds: Iterable[str] = ()) -> MotorLeads | None:
    """The winding ends of each lead, worked out from the tables; None where they are not those of two windings.

    Raises `InvalidField` as `check_diagram` does.
    """
    check_diagram(diagram, ())
    tables = tables_of(diagram)
    leads = list(dict.fromkeys(lead for table in tables.values() for lead in names_of(table)))
    pairs: list[tuple[str, ...]] = [(), *combinations(leads, 2)]
    for halves, protector in sorted(product((False, True), pairs), key=lambda one: bool(one[1])):
        nets = {name: _net(table, protector) for name, table in tables.items()}
        if (not halves and len(nets) > 1) or any(net.lines[0] == net.lines[1] for net in nets.values()):
            continue
        found = next(_assigned(leads, nets, halves, protector), None)
        if found is not None:
            rows = [(lead, tuple(found[lead])) for lead in leads]
            asked = tuple(_asked(net) for net in nets.values() if net.returned)
            return MotorLeads((*rows, *((lead, (FRAME,)) for lead in grounds)), questions=asked[:1])
    return None


def _asked(net: Net) -> LeadQuestion:
    """Which line lead a capacitor lead repeats: only its ohms tell."""
    lead = net.returned[0]
    others = [name for name, point in net.point.items() if point in net.lines and name not in (*LINES, *net.returned)]
    says = f"{lead} repeats a line lead inside: the one it reads zero ohms to"
    return LeadQuestion(says, tuple((lead, other) for other in others))


def _assigned(leads: list[str], nets: dict[str, Net], halves: bool, protector: tuple[str, ...]) -> Iterator[Ends]:
    """Ways to give every winding end to a lead so that each table makes the motor run; every lead has one at least."""
    for order in product((0, 1), repeat=len(nets)):
        lines = {
            name: (net.lines[first], net.lines[1 - first])
            for (name, net), first in zip(nets.items(), order, strict=True)
        }
        high = nets.get("high") if halves else None
        middles = sorted({*high.point.values()} - {*high.lines, high.near or ""}) if high is not None else [""]
        for middle in middles:
            points = _points(nets, lines, halves, middle)
            choice = [
                [lead for lead in leads if all(net.point[lead] in at[name] for name, net in nets.items())]
                for at in points.values()
            ]
            if points and all(choice):
                yield from _covering(leads, list(points), choice, protector, nets)


def _points(
    nets: dict[str, Net], lines: dict[str, tuple[str, str]], halves: bool, middle: str
) -> dict[str, dict[str, set[str]]]:
    """For each winding end the points that it may lie on in each table; empty where the capacitor feeds nothing."""
    mains = ("main_a.1", "main_a.2", "main_b.1", "main_b.2") if halves else ("main.1", "main.2")
    ends: dict[str, dict[str, set[str]]] = {end: {} for end in mains}
    has_aux = any(net.near is not None for net in nets.values())
    ends |= {end: {} for end in ("aux.1", "aux.2")} if has_aux else {}
    for name, net in nets.items():
        first, second = lines[name]
        series = name == "high" and halves
        ladder = [first, middle, second] if series else [first, second]
        for end in mains:
            if series:
                at = {"main_a.1": first, "main_b.2": second}.get(end, middle)
            else:
                at = first if end.endswith(".1") else second
            ends[end][name] = {at}
        if has_aux:
            if net.near is None or net.far not in ladder[1:]:
                return {}
            ends["aux.1"][name] = set(ladder[: ladder.index(net.far)])
            ends["aux.2"][name] = {net.near}
    return ends


def _covering(
    leads: list[str], ends: list[str], choice: list[list[str]], protector: tuple[str, ...], nets: dict[str, Net]
) -> Iterator[Ends]:
    """Choices that leave no lead without an end; the protector's leads have theirs, a returned lead repeats one."""
    repeats = {lead for net in nets.values() for lead in net.returned}
    for chosen in product(*choice):
        found: Ends = {lead: [PROTECTOR] if lead in protector else [] for lead in leads}
        for end, lead in zip(ends, chosen, strict=True):
            found[lead].append(end)
        for lead in repeats:
            if not found[lead]:
                same = [other for other in leads if all(n.point[other] == n.point[lead] for n in nets.values())]
                found[lead] = [end for other in same for end in found[other] if end.startswith("main")][:1]
        if all(found.values()):
            yield found


@dataclass(frozen=True)
class Grouping:
    """A table as groups of leads, each one point: on line 1, on line 2, at the capacitor's near and far side, apart.

    `far_on` is the line that the far side hangs on; None where it hangs on a joint of its own.
    """

    l1: tuple[str, ...]
    l2: tuple[str, ...]
    near: tuple[str, ...]
    far: tuple[str, ...]
    apart: tuple[tuple[str, ...], ...]
    far_on: str | None


def groups_of(table: DiagramTable) -> Grouping:
    """The groups of a table, leads of one point together."""
    net = _net(table, ())
    at: dict[str, list[str]] = {}
    for lead in names_of(table):
        if lead not in net.returned:
            at.setdefault(net.point[lead], []).append(lead)
    first, second = net.lines
    near = tuple(at.get(net.near or "", ()))
    far_on = {first: "l1", second: "l2"}.get(net.far or "") if not net.returned else None
    far = net.returned or (tuple(at.get(net.far or "", ())) if far_on is None else ())
    apart = tuple(tuple(group) for point, group in at.items() if point not in (first, second, net.near, net.far))
    return Grouping(tuple(at.get(first, ())), tuple(at.get(second, ())), near, far, apart, far_on)


_LINE = re.compile(r"^\s*(?P<leads>.+?)\s*[:,]?\s+(?P<to>together|alone|capped|insulated|to\s+.+)\s*$", re.I)
_SPLIT = re.compile(r"\s*(?:[-+,&;]|\band\b|\s)\s*", re.I)
_JOINED = re.compile(r"\s*(?:,|&|\band\b|\bto\b)\s*", re.I)
LINE_WORDS = {"l1": "l1", "line1": "l1", "line 1": "l1", "line": "l1", "l2": "l2", "line2": "l2", "line 2": "l2"}
LINE_WORDS |= {"n": "l2", "neutral": "l2", "common": "l2"}
CAPACITOR = ("capacitor", "cap", "run capacitor", "c")
EXPECTED = "the leads, then where they go, such as 1-6-8 together; 3-5 to L1 and capacitor; 2 to capacitor; 4 to L2"


def read_table(text: str, path: str) -> dict[str, Any] | None:
    """A table of the diagram from its lines, as data of a call file; None where nothing was typed.

    Raises `InvalidField` naming each line that is none, a lead in two groups, or more than two sides of a capacitor.
    """
    table: dict[str, Any] = {"joins": [], "l1": [], "l2": [], "capacitor": []}
    faults: list[FieldError] = []
    seen: dict[str, int] = {}
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        found = _LINE.match(line)
        leads = [lead for lead in _SPLIT.split(found["leads"].strip()) if lead] if found else []
        goes = _goes(found["to"]) if found else None
        if not leads or goes is None:
            faults.append(FieldError(path, f"line {number}: {line.strip()[:40]}", EXPECTED))
            continue
        for lead in leads:
            if lead in seen:
                faults.append(FieldError(path, f"line {number}: {lead}", f"one group a lead: line {seen[lead]} has it"))
            seen[lead] = number
        _add(table, leads, goes)
    if len(table["capacitor"]) > 2:
        faults.append(FieldError(path, f"{len(table['capacitor'])} lines to capacitor", "its two sides, one line each"))
    if faults:
        raise InvalidField(faults)
    return table if seen else None


def _goes(words: str) -> set[str] | None:
    """Where a group goes: lines, the capacitor, or nowhere; None where that is not understood."""
    if words.lower() in ("together", "alone", "capped", "insulated"):
        return set()
    found = set()
    for part in _JOINED.split(words.strip()[2:].strip()):
        word = part.strip().lower().removeprefix("the ")
        if not word:
            continue
        if word not in LINE_WORDS and word not in CAPACITOR:
            return None
        found.add(LINE_WORDS.get(word, "capacitor"))
    return found or None


def _add(table: dict[str, Any], leads: list[str], goes: set[str]) -> None:
    lines = sorted(goes & {"l1", "l2"})
    for line in lines:
        table[line] += leads
    if not lines and (len(leads) > 1 or not goes):
        table["joins"].append(leads)
    if "capacitor" in goes:
        table["capacitor"].append([lines[0]] if lines else leads)


def table_text(table: DiagramTable | None) -> str:
    """A table as lines that read back the same."""
    if table is None:
        return ""
    sides = [list(side) for side in table.capacitor]
    rows = []
    for line in ("l1", "l2"):
        if getattr(table, line):
            also = " and capacitor" if [line] in [[one.lower() for one in side] for side in sides] else ""
            rows.append(f"{'-'.join(getattr(table, line))} to {line.upper()}{also}")
    for group in table.joins:
        at_capacitor = any(set(side) & set(group) for side in sides)
        goes = "to capacitor" if at_capacitor else "together" if len(group) > 1 else "alone"
        rows.append(f"{'-'.join(group)} {goes}")
    grouped = {lead for group in table.joins for lead in group} | {"l1", "l2", "L1", "L2"}
    rows += [f"{'-'.join(side)} to capacitor" for side in sides if not set(side) & grouped]
    return "\n".join(rows)
