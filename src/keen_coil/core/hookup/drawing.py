"""A hook-up laid out as a drawing: devices with their terminals at the left, the motor with its leads at the right.

Leads stand in the order of the terminals they go to, each at or below its terminal, and turn down the later the
further up they start: so no wire of the motor crosses another or a word. The unit's own wires run at the far left.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from xml.sax.saxutils import escape

from .answer import Check
from .leads import MotorLeads
from .terminals import Join, terminal_words

WIDTH, ROW, HEAD, GAP, TOP = 720.0, 34.0, 30.0, 14.0, 16.0
DEVICE_X, DEVICE_W, MOTOR_X, MOTOR_W = 96.0, 176.0, 500.0, 212.0
CHANNEL = 15.0
DEVICES = {
    "line": "supply",
    "switch": "switch",
    "board": "board",
    "capacitor": "capacitor",
    "fancap": "fan's own capacitor",
    "compressor": "compressor",
    "transformer": "transformer",
    "plug": "motor plug",
    "junction": "junction box",
    "splice": "splice",
    "cap": "capped",
    "ground": "ground",
}
ENDS = {
    "main.1": "run",
    "main.2": "run",
    "aux.1": "start",
    "aux.2": "start",
    "frame": "ground",
}
STROKES = {
    "black": "#22282b",
    "white": "#f4f1ea",
    "brown": "#7b4a22",
    "blue": "#2b5f9e",
    "red": "#b3261e",
    "yellow": "#d9a900",
    "orange": "#d9741a",
    "green": "#2f7d4a",
    "purple": "#7a4a8c",
    "violet": "#7a4a8c",
    "grey": "#8a9196",
    "gray": "#8a9196",
    "pink": "#d98aa0",
    "tan": "#c2a06a",
}
OTHER = "#9a4a17"
BOLD_W, WORD_W = 8.6, 6.8
"""Width of a letter of a lead's name and of the word after it, drawing units."""


@dataclass(frozen=True)
class TerminalDrawn:
    """A terminal: its name, where it is, the word beside it."""

    name: str
    x: float
    y: float
    word: str


@dataclass(frozen=True)
class Box:
    """A device or the motor: its rectangle, its title."""

    x: float
    y: float
    width: float
    height: float
    title: str


@dataclass(frozen=True)
class LeadDrawn:
    """A lead of the motor: its name and what of it there is room for, what it brings out, its colors, its way."""

    name: str
    shown: str
    word: str
    x: float
    y: float
    strokes: tuple[str, ...]
    path: str
    terminal: str


@dataclass
class Drawing:
    """The drawing of a hook-up."""

    height: float
    boxes: list[Box] = field(default_factory=list)
    terminals: list[TerminalDrawn] = field(default_factory=list)
    leads: list[LeadDrawn] = field(default_factory=list)
    unit: list[str] = field(default_factory=list)
    says: str = ""


def strokes_of(name: str) -> tuple[str, ...]:
    """The colors a lead's name says, at most two; our accent where it says none."""
    found = tuple(STROKES[word] for word in name.lower().replace("-", "/").split("/") if word in STROKES)
    return found[:2] or (OTHER,)


def lead_word(ends: tuple[str, ...]) -> str:
    """What a lead brings out, in a technician's words."""
    if set(ends) == {"main.1", "aux.1"}:
        return "common"
    return ", ".join(dict.fromkeys(end_word(end) for end in ends)) or "not known"


def end_word(end: str) -> str:
    """A winding end in words."""
    if end.startswith("main.s"):
        return f"speed {end[6:]}"
    winding, _, number = end.partition(".")
    half = winding.rpartition("_")[2].upper()
    return ENDS.get(end) or (f"half {half}, {number}" if "_" in winding else end.upper() if end[0] == "t" else end)


def fitting(name: str, word: str) -> tuple[str, str]:
    """A lead's name and word cut so that both stay inside the motor: the word gives way first."""
    room = MOTOR_W - 32
    shown = name if len(name) * BOLD_W <= room else name[: int(room / BOLD_W) - 2] + ".."
    left = int((room - len(shown) * BOLD_W) / WORD_W)
    return shown, word if len(word) <= left else word[: max(left - 2, 0)] + ".." if left > 4 else ""


def lay_out(leads: MotorLeads, wires: list[Join], shown: list[str]) -> Drawing:
    """The drawing of a motor on its wires, with these terminals shown besides those that are used."""
    used = [end for wire in wires for end in (wire.a, wire.b) if not end.startswith("motor.")]
    names = sorted(dict.fromkeys([*shown, *used]), key=_place)
    drawing, where = Drawing(0.0), dict[str, tuple[float, float]]()
    y = TOP
    for device in dict.fromkeys(name.split(".")[0] for name in names):
        mine = [name for name in names if name.split(".")[0] == device]
        box = Box(DEVICE_X, y, DEVICE_W, HEAD + ROW * len(mine), DEVICES.get(device, device))
        drawing.boxes.append(box)
        for row, name in enumerate(mine):
            at = y + HEAD + ROW * (row + 0.5)
            where[name] = (DEVICE_X + DEVICE_W, at)
            drawing.terminals.append(TerminalDrawn(name, DEVICE_X + DEVICE_W, at, name.split(".")[1].replace("_", " ")))
        y += box.height + GAP
    drawing.height = max(y, _leads(drawing, leads, wires, where)) + 4
    drawing.unit = _unit(wires, where)
    drawing.says = _says(wires)
    return drawing


def _place(name: str) -> tuple[int, str]:
    device, _, rest = name.partition(".")
    order = list(DEVICES)
    named = {"common": "0", "com": "0", "fan": "1", "herm": "2"}
    return order.index(device), named.get(rest, rest.rjust(4, "0") if rest.isdigit() else rest)


def _leads(drawing: Drawing, leads: MotorLeads, wires: list[Join], where: dict[str, tuple[float, float]]) -> float:
    """Leads in the order of their terminals, those that hang last; the lowest point of the motor."""
    goes = {wire.lead: wire.terminal for wire in reversed(wires) if wire.lead}
    floor = where[max(where, key=lambda name: where[name][1])][1] if where else TOP
    order = sorted(leads.leads, key=lambda row: (where.get(goes.get(row[0], ""), (0, floor + 1))[1], row[0]))
    top, y = TOP, TOP + HEAD - ROW / 2
    for index, (name, ends) in enumerate(order):
        terminal = goes.get(name, "")
        at = where.get(terminal)
        y = max(y + ROW, at[1] if at else 0)
        channel = MOTOR_X - 24 - CHANNEL * index
        path = "" if at is None else f"M{at[0]:.0f} {at[1]:.0f}H{channel:.0f}V{y:.0f}H{MOTOR_X:.0f}"
        if not path:
            path = f"M{MOTOR_X - 34:.0f} {y:.0f}H{MOTOR_X:.0f}"
        shown, word = fitting(name, lead_word(ends))
        drawing.leads.append(LeadDrawn(name, shown, word, MOTOR_X, y, strokes_of(name), path, terminal))
    drawing.boxes.append(Box(MOTOR_X, top, MOTOR_W, y + ROW / 2 + 8 - top, "motor"))
    return y + ROW / 2 + 12


def _unit(wires: list[Join], where: dict[str, tuple[float, float]]) -> list[str]:
    """The unit's own wires, as brackets at the left, the longer ones further out."""
    own = [(where[w.a], where[w.b]) for w in wires if not w.lead and w.a in where and w.b in where]
    paths = []
    for index, (a, b) in enumerate(sorted(own, key=lambda pair: abs(pair[0][1] - pair[1][1]))):
        x = DEVICE_X - 18 - 11 * index
        paths.append(f"M{DEVICE_X:.0f} {a[1]:.0f}H{max(x, 8):.0f}V{b[1]:.0f}H{DEVICE_X:.0f}")
    return paths


def _says(wires: list[Join]) -> str:
    said = [f"{wire.lead} to {terminal_words(wire.terminal)}" for wire in wires if wire.lead]
    return ". ".join(said) + "." if said else "No wire noted."


def svg(drawing: Drawing, check: Check | None = None) -> str:
    """The drawing as an SVG file of its own, colors and words in it."""
    high = drawing.height + 26
    paper = f'<rect width="{WIDTH:.0f}" height="{high:.0f}" fill="#fffdf8"/>'
    parts = [f"<title>{escape(drawing.says)}</title>", paper]
    for box in drawing.boxes:
        parts.append(
            f'<rect x="{box.x:.0f}" y="{box.y:.0f}" width="{box.width:.0f}" height="{box.height:.0f}" rx="8" '
            'fill="#f7f4ee" stroke="#16242b"/>'
        )
        parts.append(_text(box.x + 12, box.y + 20, box.title, bold=True))
    parts += [f'<path d="{path}" fill="none" stroke="#55646c" stroke-width="3"/>' for path in drawing.unit]
    for lead in drawing.leads:
        parts.append(f'<path d="{lead.path}" fill="none" stroke="#16242b" stroke-width="7"/>')
        for number, colour in enumerate(lead.strokes):
            dash = ' stroke-dasharray="12 12"' if number else ""
            parts.append(f'<path d="{lead.path}" fill="none" stroke="{colour}" stroke-width="4.5"{dash}/>')
        parts.append(_text(lead.x + 14, lead.y + 5, f"{lead.shown}: {lead.word}"))
    for place in drawing.terminals:
        parts.append(f'<circle cx="{place.x:.0f}" cy="{place.y:.0f}" r="6" fill="#16242b"/>')
        parts.append(_text(DEVICE_X + 14, place.y + 5, place.word))
    if check is not None:
        parts.append(_text(12, drawing.height + 14, check.says))
    body = "\n".join(parts)
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {high:.0f}" role="img">\n{body}\n</svg>\n'


def _text(x: float, y: float, says: str, bold: bool = False) -> str:
    weight = ' font-weight="700"' if bold else ""
    font = 'font-family="sans-serif" font-size="14" fill="#16242b"'
    return f'<text x="{x:.0f}" y="{y:.0f}" {font}{weight}>{escape(says)}</text>'
