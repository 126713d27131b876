"""The path as a drawing: where each link sits, and the conductor solid as far as it is proved.

Links run in rows from left to right; control hangs above the switch, the way to the frame below the windings.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from ..core.diagnosis.case import answer
from ..core.diagnosis.unit_path import LinkReport
from ..core.judge.capacitor import fan_section, nominal
from ..desk.sheet import Sheet

STEP_Y, BRANCH_Y = 122.0, 62.0
TOP = 34.0
LABEL_ROOM = 130.0
_MAIN = (
    "supply", "protection", "disconnect", "switching", "wiring", "connections",
    "capacitor", "overload", "windings", "bearings", "load", "air",
)  # fmt: skip
_ABOVE, _BELOW = {"control": "switching"}, {"insulation": "windings"}
NAMES = {
    "protection": "breaker", "wiring": "wire", "load": "blade", "air": "coil", "insulation": "to the frame",
    "control": "call for the fan",
}  # fmt: skip
_SWITCHES = {"remote_switch": "speed switch"}
_STATE_WORDS = {
    "unproved": "not yet",
    "proved": "proved",
    "suspect": "suspect",
    "failed": "failed",
    "not_applicable": "not here",
}
_FIGURE_OF = {
    "supply": ("supply_v", "unit"), "switching": ("supply_v", "switch_load"), "wiring": ("supply_v", "motor"),
    "capacitor": ("capacitance_uf", None), "air": ("air_path", None), "bearings": ("spin", None),
    "load": ("load_look", None), "protection": ("breaker", None), "disconnect": ("disconnect", None),
    "connections": ("connection", None), "control": ("control_call", None), "insulation": ("ground_ohm", None),
}  # fmt: skip


def link_name(link: str) -> str:
    """What a technician calls a link of the path."""
    return NAMES.get(link, link)


_SHAPES = {
    "proved": "M-21-21h42v42h-42Z", "suspect": "M0-27 27 0 0 27-27 0Z",
    "failed": "M-10-24h20l14 14v20l-14 14h-20l-14-14v-20Z",
    "unproved": "M-21 0a21 21 0 0 1 42 0a21 21 0 0 1-42 0Z", "not_applicable": "M-14 0h28",
}  # fmt: skip


@dataclass(frozen=True)
class Node:
    """A link at its place: what it is called, its state, the figure or word below it."""

    link: str
    name: str
    state: str
    word: str
    x: float
    y: float
    chosen: bool
    side: str = "row"
    label_left: bool = False
    room: float = 54.0

    @property
    def says(self) -> str:
        """The link in words, for who does not see the drawing."""
        state = self.state.replace("_", " ")
        return f"{self.name}: {state}" + (f", {self.word}" if self.word not in (state, "not yet") else "")

    @property
    def shape(self) -> str:
        """The sign of its state, drawn about its own place."""
        return _SHAPES[self.state]

    @property
    def place(self) -> str:
        """Where its sign sits; branches are drawn smaller."""
        return f"translate({self.x:g} {self.y:g})" + ("" if self.side == "row" else " scale(.7)")

    @property
    def ground(self) -> str:
        """The box that can be tapped, as an SVG path."""
        if self.side == "row":
            return f"M{self.x - self.room:g} {self.y - 31:g}h{2 * self.room:g}v100h{-2 * self.room:g}Z"
        return f"M{self.x - (132 if self.label_left else 24):g} {self.y - 22:g}h156v44h-156Z"

    @property
    def label(self) -> tuple[str, str, str, str]:
        """Where its two lines of text stand: x, y of the name, y of the word, anchor."""
        if self.side == "row":
            return f"{self.x:g}", f"{self.y + 43:g}", f"{self.y + 61:g}", "middle"
        x = self.x + (-24 if self.label_left else 24)
        return f"{x:g}", f"{self.y - 2:g}", f"{self.y + 15:g}", "end" if self.label_left else "start"


@dataclass(frozen=True)
class Piece:
    """A piece of the way, as an SVG path; electric or the turning shaft, proved or not."""

    d: str
    kind: str
    solid: bool


@dataclass(frozen=True)
class Drawing:
    """The whole picture."""

    width: float
    height: float
    nodes: list[Node]
    pieces: list[Piece]


def draw(sheet: Sheet, columns: int, chosen: str) -> Drawing:
    """The path of this call in rows of so many links."""
    path = sheet.assessment.path
    width = 700.0 if columns > 4 else 360.0
    step = width / columns
    rows = [_MAIN[i : i + columns] for i in range(0, len(_MAIN), columns)]
    nodes: list[Node] = []
    lines: list[float] = []
    y = TOP
    for row in rows:
        y += BRANCH_Y * any(parent in row for parent in _ABOVE.values())
        lines.append(y)
        nodes += [_node(sheet, path, link, step * (i + 0.5), y, chosen, step) for i, link in enumerate(row)]
        y += STEP_Y + 40 * any(parent in row for parent in _BELOW.values())
    at = {node.link: node for node in nodes}
    branches = [_branch(sheet, path, link, at[parent], chosen, "above", width) for link, parent in _ABOVE.items()]
    branches += [_branch(sheet, path, link, at[parent], chosen, "below", width) for link, parent in _BELOW.items()]
    pieces = [*_pieces(path, [at[link] for link in _MAIN], width), *[_branch_piece(b, at, path) for b in branches]]
    return Drawing(width, y - 18, nodes + branches, pieces)


def _node(sheet: Sheet, path: dict[str, LinkReport], link: str, x: float, y: float, chosen: str, step: float) -> Node:
    state = path[link].state
    return Node(
        link, _name(sheet, link), state, _word(sheet, link, state), x, y, link == chosen, room=min(54.0, step / 2 - 2)
    )


def _branch(
    sheet: Sheet, path: dict[str, LinkReport], link: str, parent: Node, chosen: str, side: str, width: float
) -> Node:
    state = path[link].state
    y = parent.y - BRANCH_Y if side == "above" else parent.y + 98
    left = parent.x + LABEL_ROOM > width
    return Node(link, _name(sheet, link), state, _word(sheet, link, state), parent.x, y, link == chosen, side, left)


def _name(sheet: Sheet, link: str) -> str:
    switch = sheet.call.unit.switch
    if link == "switching":
        kind = (
            switch.kind
            if switch and switch.kind
            else "contactor"
            if sheet.call.motor.role == "condenser_fan"
            else "switch"
        )
        return _SWITCHES.get(kind, kind)
    return link_name(link)


def _word(sheet: Sheet, link: str, state: str) -> str:
    """The figure last read on a link, else its state in words."""
    kind, at = _FIGURE_OF.get(link, ("", None))
    found = [r for _, r in sheet.call.standing(kind) if at in (None, r.place)] if kind else []
    if link == "capacitor":
        found = [r for r in found if r.section != "herm"]
    if found and state != "not_applicable" and link != "insulation":
        of = nominal(sheet.call, fan_section(sheet.call)) if link == "capacitor" else None
        return answer(found[-1]) if of is None else f"{found[-1].value} of {of[0]:g} µF"
    return _STATE_WORDS[state]


def _pieces(path: dict[str, LinkReport], nodes: list[Node], width: float) -> list[Piece]:
    """The way from link to link, round the end of a row; solid while every link so far is proved."""
    found, solid = [], True
    first = nodes[0]
    found.append(Piece(f"M{first.x - 42:g} {first.y:g}H{first.x - 21:g}", "wire", path[first.link].state == "proved"))
    for a, b in pairwise(nodes):
        solid = solid and path[a.link].state in ("proved", "not_applicable")
        kind = "shaft" if a.link in ("windings", "bearings", "load") else "wire"
        if a.y == b.y:
            d = f"M{a.x + 21:g} {a.y:g}H{b.x - 21:g}"
        else:
            turn = b.y - 46
            d = f"M{a.x + 21:g} {a.y:g}H{width - 6:g}V{turn:g}H6V{b.y:g}H{b.x - 21:g}"
        found.append(Piece(d, kind, solid))
    return found


def _branch_piece(node: Node, at: dict[str, Node], path: dict[str, LinkReport]) -> Piece:
    parent = at[{**_ABOVE, **_BELOW}[node.link]]
    if node.side == "above":
        return Piece(f"M{node.x:g} {node.y + 16:g}V{parent.y - 21:g}", "branch", path[node.link].state == "proved")
    return Piece(f"M{parent.x:g} {parent.y + 68:g}V{node.y - 16:g}", "branch", path[node.link].state == "proved")
