"""The path as a drawing: the parts of this unit at their places, the conductor solid as far as it is proved.

The way runs in rows from left to right; control leads down to the switch; what hangs beside stands below.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from ..core.call import Call
from ..core.diagnosis.case import answer
from ..core.diagnosis.parts import Part, parts_of
from ..core.diagnosis.states import as_it_is_now
from ..core.diagnosis.unit_path import LinkReport
from ..core.field_tests import RUNNING
from ..core.judge.capacitor import fan_section, nominal
from ..services.calls.call_view import CallView

WIDE, NARROW = 720.0, 360.0
ROW, CONTROL_ROW, ASIDE_ROW = 112.0, 92.0, 62.0
FIRST = 26.0
_NAMES = {
    "protection": "breaker, fuses",
    "wiring": "wire",
    "load": "blade",
    "air": "air path",
    "insulation": "winding to ground",
    "control": "call for fan",
    RUNNING: "how it runs",
}
_STATE_WORDS = {
    "unproved": "not yet",
    "proved": "proved",
    "suspect": "suspect",
    "failed": "failed",
    "not_applicable": "not the fan's",
}
_JUDGED = {"normal": "proved", "failed": "failed", "suspect": "suspect", "borderline": "suspect"}
_SHAFT = ("bearings", "belt", "load", "air", "vent")
_SHAPES = {
    "proved": "M-21-21h42v42h-42Z",
    "suspect": "M0-27 27 0 0 27-27 0Z",
    "failed": "M-10-24h20l14 14v20l-14 14h-20l-14-14v-20Z",
    "unproved": "M-21 0a21 21 0 0 1 42 0a21 21 0 0 1-42 0Z",
    "not_applicable": "M-14 0h28",
}
_GLYPH_OF = {
    "fuses": "fuse",
    "starter_overload": "overload",
    "belt": "belt",
    "door": "disconnect",
    "safeties": "safety",
    "pressure": "safety",
    "defrost": "defrost",
    "delay": "delay",
    "lockout": "board",
    "leak": "board",
    "command": "command",
    "module": "board",
    "vent": "drain",
    "sister": "load",
    "running": "running",
}


def link_name(link: str) -> str:
    """What a technician calls a link of the path."""
    return _NAMES.get(link, link)


@dataclass(frozen=True)
class Node:
    """A part at its place: what it is called, its state, the figure or word with it."""

    part: Part
    state: str
    word: str
    x: float
    y: float
    room: float
    chosen: bool

    @property
    def says(self) -> str:
        """The part in words, for who does not see the drawing: what stands in it first, as a voice would call it."""
        state = self.state.replace("_", " ")
        shown = f"{self.part.name} {self.word}".strip()
        return shown if self.word == state else f"{shown}, {state}"

    @property
    def glyph(self) -> str:
        """The name of its sign in the sprite."""
        return _GLYPH_OF.get(self.part.key, self.part.link)

    @property
    def shape(self) -> str:
        """The sign of its state, drawn about its own place."""
        return _SHAPES[self.state]

    @property
    def place(self) -> str:
        """Where its sign sits; control and what hangs beside are drawn smaller."""
        return f"translate({self.x:g} {self.y:g})" + ("" if self.part.place == "way" else " scale(.7)")

    @property
    def ground(self) -> str:
        """The box that can be tapped, as an SVG path."""
        if self.part.place == "aside":
            return f"M{self.x - 24:g} {self.y - 23:g}h{self.room:g}v46h-{self.room:g}Z"
        top, height = (-31, 98) if self.part.place == "way" else (-57, 80)
        return f"M{self.x - self.room:g} {self.y + top:g}h{2 * self.room:g}v{height}h{-2 * self.room:g}Z"

    @property
    def label(self) -> tuple[str, str, str, str]:
        """Where its two lines of text stand: x, y of the name, y of the word, anchor."""
        if self.part.place == "way":
            return f"{self.x:g}", f"{self.y + 42:g}", f"{self.y + 59:g}", "middle"
        if self.part.place == "control":
            return f"{self.x:g}", f"{self.y - 40:g}", f"{self.y - 24:g}", "middle"
        return f"{self.x + 24:g}", f"{self.y - 3:g}", f"{self.y + 14:g}", "start"


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


@dataclass(frozen=True)
class PartShown:
    """A part with its state and the figure or word last read on it."""

    part: Part
    state: str
    word: str


def parts_shown(view: CallView) -> list[PartShown]:
    """The parts of this unit's path as they stand: what every picture of it shows."""
    call = as_it_is_now(view.call) if view.call.changes else view.call
    found = []
    for part in parts_of(view.call):
        read = _readings(call, part)
        state = _state(view, part, read)
        found.append(PartShown(part, state, _word(view, part, state, read)))
    return found


def draw(view: CallView, parts: list[PartShown], columns: int, chosen: Part | None) -> Drawing:
    """The path of this unit in rows of so many parts."""
    width = WIDE if columns > 4 else NARROW
    shown = {row.part.key: row for row in parts}
    way, control, aside = ([r.part for r in parts if r.part.place == place] for place in ("way", "control", "aside"))
    columns = max(len(row) for row in _rows(way, columns))
    step = width / columns
    nodes: list[Node] = []
    y = FIRST
    for row in _rows(way, columns):
        if any(part.key == "switch" for part in row):
            y += 26 if nodes else 0
            for above in _rows(control, columns):
                start = _control_start(row, above, columns)
                y += CONTROL_ROW
                nodes += [_node(shown, p, step * (start + i + 0.5), y - 61, step, chosen) for i, p in enumerate(above)]
        nodes += [_node(shown, p, step * (i + 0.5), y + 31, step, chosen) for i, p in enumerate(row)]
        y += ROW
    below = y + 17
    across = 3 if columns > 4 else 2
    for i, part in enumerate(aside):
        x = width / across * (i % across) + 36
        nodes.append(_node(shown, part, x, below + ASIDE_ROW * (i // across), 2 * (width / across - 20), chosen))
    height = below + ASIDE_ROW * ((len(aside) - 1) // across) + 30
    at = {node.part.key: node for node in nodes}
    return Drawing(
        width,
        height,
        nodes,
        [
            *_way(view.assessment.path, [at[p.key] for p in way], width),
            *_control([at[p.key] for p in control], at["switch"]),
        ],
    )


def _rows(parts: list[Part], columns: int) -> list[list[Part]]:
    """Parts in rows, filled evenly, so that no row has a single one where it can be helped."""
    count = -(-len(parts) // columns)
    size = -(-len(parts) // count) if count else columns
    return [parts[i : i + size] for i in range(0, len(parts), size)]


def _control_start(row: list[Part], above: list[Part], columns: int) -> int:
    """The column where a control row starts, so that it ends above the switch where it can."""
    column = next(i for i, part in enumerate(row) if part.key == "switch")
    return max(0, min(column - len(above) + 1, columns - len(above)))


def _node(shown: dict[str, PartShown], part: Part, x: float, y: float, step: float, chosen: Part | None) -> Node:
    row = shown[part.key]
    return Node(part, row.state, row.word, x, y, step / 2 - 3, chosen == part)


def _readings(call: Call, part: Part) -> list[int]:
    """Standing readings of the part's own test."""
    if part.key == "capacitor":
        return [i for i, r in call.standing(part.kind) if r.section != "herm"]
    if part.kind == "safety":
        return [i for i, r in call.standing("safety") if ("pressure" in (r.at or "")) == (part.at is not None)]
    return [i for i, r in call.standing(part.kind) if part.at in (None, r.place)]


def _state(view: CallView, part: Part, read: list[int]) -> str:
    """The state of a part: its link's, or that of its own reading where several parts share a link."""
    path: dict[str, LinkReport] = view.assessment.path
    own = [view.assessment.judgements[i].state for i in read]
    mine = _JUDGED.get(own[-1], "unproved") if own else "unproved"
    if part.link == RUNNING:
        return mine
    link = path[part.link].state
    if part.place == "control" and mine == "unproved" and not _proved_with_call(view, part):
        return "unproved"
    shared = part.place == "control" or part.key in ("breaker", "fuses", "starter_overload", "belt", "load")
    if not shared or (link == "proved" and mine == "unproved"):
        return link
    return mine


def _proved_with_call(view: CallView, part: Part) -> bool:
    """Whether a proved call proves this control part too: not a command, nor what an inducer's board weighs."""
    motor = view.call.motor
    return not (part.key == "command" or (motor.role == "inducer" and part.key != "call"))


def _word(view: CallView, part: Part, state: str, found: list[int]) -> str:
    """The figure last read on a part, else its state in words."""
    if not found or state == "not_applicable" or part.key in ("frame", "frame_ecm", "overload", "windings", "module"):
        return part.note if part.note and state == "unproved" else _STATE_WORDS[state]
    reading = view.call.readings[found[-1]]
    if part.key == "capacitor":
        of = nominal(view.call, fan_section(view.call))
        return answer(reading) if of is None else f"{reading.value} of {of[0]:g} µF"
    if isinstance(reading.value, list):
        return f"{min(reading.numbers):.4g} to {max(reading.numbers):.4g}"
    return answer(reading)


def _way(path: dict[str, LinkReport], nodes: list[Node], width: float) -> list[Piece]:
    """The way from part to part, round the end of a row; solid while every part so far is proved."""
    first = nodes[0]
    found = [Piece(f"M{max(4, first.x - 44):g} {first.y:g}H{first.x - 21:g}", "wire", first.state == "proved")]
    solid = True
    for a, b in pairwise(nodes):
        solid = solid and a.state in ("proved", "not_applicable")
        kind = "shaft" if b.part.key in _SHAFT else "wire"
        if a.y == b.y:
            d = f"M{a.x + 21:g} {a.y:g}H{b.x - 21:g}"
        else:
            d = f"M{a.x + 21:g} {a.y:g}H{width - 5:g}V{a.y + 72:g}H5V{b.y:g}H{b.x - 21:g}"
        found.append(Piece(d, kind, solid))
    return found


def _control(nodes: list[Node], switch: Node) -> list[Piece]:
    """Control: along its row, then down to the switch."""
    found = [
        Piece(
            f"M{a.x + 16:g} {a.y:g}H{b.x - 16:g}" if a.y == b.y else f"M{a.x:g} {a.y + 16:g}V{b.y - 50:g}",
            "branch",
            a.state == "proved",
        )
        for a, b in pairwise(nodes)
        if a.y == b.y or a.x == b.x
    ]
    last = nodes[-1]
    bend = "" if last.x == switch.x else f"V{switch.y - 36:g}H{switch.x:g}"
    return [*found, Piece(f"M{last.x:g} {last.y + 16:g}{bend}V{switch.y - 21:g}", "branch", last.state == "proved")]
