"""The section along the shaft, drawn to scale: what came off in outline, what goes on in full, what meets what."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ..core.match.geometry import PLANE_TOLERANCE_IN, AxialLayout, Section
from ..core.plates import Motor
from ..services.stations.body import BodyView

WIDE, HIGH = 700.0, 470.0
SIDE, TOP, BOTTOM = 16.0, 26.0, 26.0
DRAIN_R = 5.0
BEYOND_IN = 4.0
"""Coil or guard further off than this from everything else is named and not drawn."""
BLADE_IN, BODY_IN, SHAFT_IN, BLADE_DEEP_IN = 20.0, 5.6, 0.5, 1.4
"""What is drawn where a size is not known; the page says that it was not measured."""
INF = float("inf")
Along = Literal["down", "up", "right"]


@dataclass(frozen=True)
class Rect:
    """A rectangle of the drawing, in its pixels."""

    x: float
    y: float
    width: float
    height: float
    kind: str


@dataclass(frozen=True)
class Word:
    """A label, with its leader from where it points."""

    x: float
    y: float
    says: str
    anchor: str
    kind: str
    leader: str = ""


@dataclass
class Drawing:
    """The drawing of a section. `along` is the way to the shaft end on the page, `scale` pixels an inch."""

    along: Along
    scale: float
    says: str
    hub_at: float | None = None
    rects: list[Rect] = field(default_factory=list)
    hub: list[Rect] = field(default_factory=list)
    lines: list[tuple[str, str]] = field(default_factory=list)
    dots: list[tuple[float, float, str]] = field(default_factory=list)
    words: list[Word] = field(default_factory=list)
    clashes: list[Rect] = field(default_factory=list)


@dataclass(frozen=True)
class Frame:
    """Where the section lies on the page: inches along the shaft and across it to pixels."""

    along: Along
    scale: float
    zero: float
    axis: float

    def at(self, along: float) -> float:
        """Pixels on the long axis."""
        return self.zero + (-along if self.along == "up" else along) * self.scale

    def rect(self, low: float, high: float, across: float, kind: str) -> Rect:
        """A body of revolution: from `low` to `high` along the shaft, `across` inches thick."""
        a, b = sorted((self.at(low), self.at(high)))
        half = across * self.scale / 2
        if self.along == "right":
            return Rect(a, self.axis - half, b - a, 2 * half, kind)
        return Rect(self.axis - half, a, 2 * half, b - a, kind)

    def line(self, along: float, across: float) -> str:
        """A line straight across the shaft."""
        half = across * self.scale / 2
        if self.along == "right":
            return f"M{self.at(along):.1f} {self.axis - half:.1f}v{2 * half:.1f}"
        return f"M{self.axis - half:.1f} {self.at(along):.1f}h{2 * half:.1f}"

    def point(self, along: float, across: float) -> tuple[float, float]:
        """A point on the page."""
        if self.along == "right":
            return self.at(along), self.axis - across * self.scale
        return self.axis + across * self.scale, self.at(along)


def drawing_of(view: BodyView) -> Drawing:
    """The drawing of a body view."""
    laid, load = view.laid, view.call.load
    ways: dict[str, Along] = {"shaft_up": "up", "horizontal": "right"}
    along = ways.get(view.call.unit.mounted or "", "down")
    blade = float(load.diameter_in or BLADE_IN) if laid.plane_in is not None or laid.at_in is not None else 0.0
    frame = _frame(view, along, blade)
    drawing = Drawing(along, frame.scale, _says(view), laid.at_in)
    _surroundings(drawing, frame, view, blade)
    if laid.wheel:
        _housing(drawing, frame, view, blade)
    if view.old_laid.laid is not None:
        _motor(drawing, frame, view.old_laid.laid, view.call.motor, "old")
    if view.old_laid.at_in is not None:
        drawing.rects += _rotor(frame, view.old_laid, view, blade, "old")
    if laid.laid is not None:
        _motor(drawing, frame, laid.laid, view.new, "new")
        _drains(drawing, frame, laid.laid, view)
    if laid.at_in is not None:
        drawing.hub = _rotor(frame, laid, view, blade, "new")
    _clashes(drawing, frame, view, blade)
    _labels(drawing, frame, view, blade)
    return drawing


def _extent(view: BodyView) -> tuple[float, float]:
    ends = [0.0]
    for laid in (view.old_laid.laid, view.laid.laid):
        if laid is not None:
            ends += [end for end in (laid.shaft_end, laid.far_end, laid.tip) if end is not None]
            ends += [end for stud in laid.studs for end in stud]
    depth = max(float(view.call.load.width_in or BLADE_DEEP_IN), view.laid.hub_in) / 2
    for at in (view.laid.at_in, view.laid.plane_in):
        ends += [] if at is None else [at - depth, at + depth]
    room = view.laid.rooms
    ends += [] if room.ahead is None or room.ahead > max(ends) + BEYOND_IN else [room.ahead]
    ends += [] if room.behind is None or -room.behind < min(ends) - BEYOND_IN else [-room.behind]
    if view.call.space.housing_width_in is not None and view.laid.plane_in is not None and view.laid.wheel:
        half = view.call.space.housing_width_in / 2
        ends += [view.laid.plane_in - half, view.laid.plane_in + half]
    return min(ends), max(ends)


def _frame(view: BodyView, along: Along, blade: float) -> Frame:
    low, high = _extent(view)
    bodies = [float(motor.body_diameter_in or BODY_IN) for motor in (view.new, view.call.motor)]
    thick = max(blade, *bodies) + 1
    if along == "right":
        scale = min((WIDE - 120) / max(high - low, 1.0), (HIGH - 150) / thick)
        return Frame(along, scale, (WIDE - (high - low) * scale) / 2 - low * scale, 40 + thick * scale / 2)
    long_px = HIGH - TOP - BOTTOM
    scale = min(long_px / max(high - low, 1.0), (WIDE - 2 * SIDE) / thick)
    top = TOP + (long_px - (high - low) * scale) / 2
    return Frame(along, scale, top - low * scale if along == "down" else top + high * scale, WIDE / 2)


def _surroundings(drawing: Drawing, frame: Frame, view: BodyView, blade: float) -> None:
    across = max(blade, float(view.new.body_diameter_in or BODY_IN)) + 1
    room, (low, high) = view.laid.rooms, _extent(view)
    drawing.lines.append((frame.line(0.0, across), "face"))
    if room.ahead is not None and room.ahead <= high + 1e-9:
        drawing.lines.append((frame.line(room.ahead, across), room.ahead_is))
    if room.behind is not None and -room.behind >= low - 1e-9:
        drawing.lines.append((frame.line(-room.behind, across), room.behind_is))


def _housing(drawing: Drawing, frame: Frame, view: BodyView, blade: float) -> None:
    """The blower housing around the wheel, open at its inlet on the motor's side."""
    width, plane = view.call.space.housing_width_in, view.laid.plane_in
    if width is None or plane is None:
        return
    low, high = plane - width / 2, plane + width / 2
    inlet = view.call.space.inlet_in
    half, gap = (blade + 0.8) / 2, 0.0 if inlet is None else inlet / 2
    for side in (-1, 1):
        (x, y), (far_x, far_y) = frame.point(low, side * half), frame.point(high, side * half)
        drawing.lines.append((f"M{x:.1f} {y:.1f}L{far_x:.1f} {far_y:.1f}", "housing"))
        (gap_x, gap_y), (end_x, end_y) = frame.point(low, side * gap), frame.point(high, 0.0)
        drawing.lines.append((f"M{x:.1f} {y:.1f}L{gap_x:.1f} {gap_y:.1f}", "housing"))
        drawing.lines.append((f"M{far_x:.1f} {far_y:.1f}L{end_x:.1f} {end_y:.1f}", "housing"))


def _motor(drawing: Drawing, frame: Frame, laid: AxialLayout, motor: Motor, which: str) -> None:
    across = float(motor.body_diameter_in or BODY_IN)
    if laid.far_end is not None:
        drawing.rects.append(frame.rect(laid.far_end, laid.shaft_end, across, f"{which}-body"))
    if laid.tip is not None:
        thick = float((motor.shaft.diameter_in if motor.shaft else None) or SHAFT_IN)
        drawing.rects.append(frame.rect(laid.shaft_end, laid.tip, thick, f"{which}-shaft"))
    for low, high in laid.studs if which == "new" else ():
        for side in (-0.36, 0.36):
            (x, y), (end_x, end_y) = frame.point(low, side * across), frame.point(high, side * across)
            drawing.lines.append((f"M{x:.1f} {y:.1f}L{end_x:.1f} {end_y:.1f}", "stud"))


def _rotor(frame: Frame, laid: Section, view: BodyView, blade: float, which: str) -> list[Rect]:
    """Hub and blade, or hub and wheel, at their place."""
    at = laid.at_in or 0.0
    bore = float(view.call.load.hub_bore_in or SHAFT_IN)
    hub = laid.hub_in or 1.0
    deep = float(view.call.load.width_in or BLADE_DEEP_IN)
    if laid.wheel:
        deep = float(view.call.load.width_in or hub)
    return [
        frame.rect(at - deep / 2, at + deep / 2, blade, f"{which}-blade"),
        frame.rect(at - hub / 2, at + hub / 2, bore + 1.1, f"{which}-hub"),
    ]


def _drains(drawing: Drawing, frame: Frame, laid: AxialLayout, view: BodyView) -> None:
    """Drain openings at both ends of the body: open where it is lowest, plugged above."""
    if view.call.motor.role != "condenser_fan" or laid.far_end is None:
        return
    across = float(view.new.body_diameter_in or BODY_IN) * 0.42
    inset = DRAIN_R * 1.6 / frame.scale
    low_end = {"down": laid.shaft_end - inset, "up": laid.far_end + inset}.get(frame.along)
    if low_end is None:
        ends = (laid.far_end + inset, laid.shaft_end - inset)
        drawing.dots += [(*frame.point(end, -across), "open") for end in ends]
        drawing.dots += [(*frame.point(end, across), "plugged") for end in ends]
        return
    high_end = laid.far_end + inset if frame.along == "down" else laid.shaft_end - inset
    drawing.dots += [(*frame.point(low_end, side * across), "open") for side in (-1, 1)]
    drawing.dots += [(*frame.point(high_end, side * across), "plugged") for side in (-1, 1)]


def _clashes(drawing: Drawing, frame: Frame, view: BodyView, blade: float) -> None:
    """Where two things want the same place."""
    refused = {found.what for found in view.laid.found if found.mark == "refused"}
    spans = _meeting(view, blade) if view.laid.laid else {}
    drawing.clashes = [
        frame.rect(low, high, across, "clash")
        for what, places in spans.items()
        if what in refused
        for low, high, across in places
        if high > low
    ]


def _meeting(view: BodyView, blade: float) -> dict[str, list[tuple[float, float, float]]]:
    """What each collision covers, should it be one: from, to, and how many inches across."""
    laid, room, at = view.laid.laid, view.laid.rooms, view.laid.at_in
    body = float(view.new.body_diameter_in or BODY_IN)
    inner, outer = view.laid.hub or (0.0, 0.0)
    half = float(view.call.load.width_in or 0) / 2
    ahead = INF if room.ahead is None else float(room.ahead)
    behind = INF if room.behind is None else float(room.behind)
    if laid is None:
        return {}
    found = {
        "body_meets_behind": [(INF if laid.far_end is None else laid.far_end, -behind, body)],
        "body_meets_ahead": [(ahead, laid.shaft_end, body)],
        "hub_in_body": [(inner, laid.shaft_end, 2.2)],
        "hub_off_shaft": [(INF if laid.tip is None else laid.tip, outer, 2.2)],
        "tip_meets": [(ahead, -INF if laid.tip is None else laid.tip, 1.2)],
    }
    if at is not None:
        far, near = view.laid.gaps_in or (0.0, 0.0)
        found["blade_meets"] = [(ahead, at + half, blade)]
        found["wheel_rubs"] = [(at + half + near, at + half, blade), (at - half, at - half - far, blade)]
    return found


def _labels(drawing: Drawing, frame: Frame, view: BodyView, blade: float) -> None:
    laid, section = view.laid.laid, view.laid
    body = float(view.new.body_diameter_in or BODY_IN) / 2
    wide = (max(blade, 2 * body) + 1) / 2
    low, high = _extent(view)
    items = [Label(0.0, -wide, "mounting face", "soft", "on")]
    for at, name, inches in _limits(section):
        far = at > high + 1e-9 or at < low - 1e-9
        where = min(max(at, low), high)
        says = f"{name} {inches:g} in from the face{', further off' if far else ''}"
        items.append(Label(where, -wide, says, "soft", "on"))
    if laid is not None and laid.far_end is not None:
        old = view.call.motor.body_length_in
        was = f", was {old:g}" if old is not None and view.new.body_length_in != old else ""
        says = f"body {view.new.body_length_in:g} in{was}"
        items.append(Label((laid.far_end + laid.shaft_end) / 2, body, says, "strong"))
    deep = float(view.call.load.width_in or BLADE_DEEP_IN) / 2
    if section.at_in is not None:
        kind = "strong" if _kept(section) else "bad"
        level = frame.along == "right"
        items.append(Label(section.at_in - (0 if level else deep), wide, plane_says(section), kind, "end"))
    if laid is not None and laid.tip is not None:
        cut = laid.tip - section.cut_in
        clear = cut if section.at_in is None else max(cut, section.at_in + deep + 10 / frame.scale)
        if section.cut_in > 0:
            drawing.lines.append((frame.line(cut, 2.6), "cut"))
            items.append(Label(clear, 1.5, f"cut here: {section.left_in:.2f} in left", "bad"))
        else:
            items.append(Label(clear, 0.6, f"shaft {laid.tip - laid.shaft_end:g} in out of the body", "soft"))
    drawing.words += _in_rows(frame, items) if frame.along == "right" else [_beside(frame, item) for item in items]


@dataclass(frozen=True)
class Label:
    """A label: where it points, inches along and across; `place` is beside it, on its line, or ending at it."""

    along: float
    across: float
    says: str
    kind: str
    place: str = "beside"


def _limits(section: Section) -> list[tuple[float, str, float]]:
    """Coil and guard: where they stand, inches along the shaft, their name and their distance."""
    room = section.rooms
    found = [] if room.ahead is None else [(float(room.ahead), str(room.ahead_is), float(room.ahead))]
    return found + ([] if room.behind is None else [(-float(room.behind), str(room.behind_is), float(room.behind))])


def _beside(frame: Frame, item: Label) -> Word:
    """A label of an upright shaft: beside what it names, on its line, or over the end of the blade."""
    x, y = frame.point(item.along, item.across)
    if item.place == "on":
        low = y > HIGH / 2
        return Word(x + 2, y + 18 if low else y - 7, item.says, "start", item.kind)
    if item.place == "end":
        return Word(x - frame.scale / 2, y - 7 if frame.along == "down" else y + 18, item.says, "end", item.kind)
    return Word(x + 8, y + 5, item.says, "start", item.kind)


def _in_rows(frame: Frame, items: list[Label]) -> list[Word]:
    """The labels of a level shaft: in two rows under the drawing, each with its leader."""
    placed = sorted(items, key=lambda item: frame.at(item.along))
    words = []
    for index, item in enumerate(placed):
        row = HIGH - 74 + 40 * (index % 2)
        middle = WIDE / len(placed) * (index + 0.5)
        x = frame.at(item.along)
        leader = f"M{x:.1f} {HIGH - 96:.1f}L{middle:.1f} {row:.1f}"
        words.append(Word(middle, row + 16, item.says, "middle", item.kind, leader))
    return words


def _kept(section: Section) -> bool:
    return section.off_in is None or abs(section.off_in) <= PLANE_TOLERANCE_IN + 1e-9


def plane_says(section: Section) -> str:
    """The blade plane in words: kept, or by how much it is off."""
    name = "wheel's middle" if section.wheel else "blade plane"
    if section.off_in is None:
        return f"{name} {section.at_in:.2f} in"
    if abs(section.off_in) < 0.005:
        return f"{name} {section.at_in:.2f} in, as it was"
    return f"{name} {abs(section.off_in):.2f} in too far {'out' if section.off_in > 0 else 'in'}"


def _says(view: BodyView) -> str:
    clashes = " ".join(found.says for found in view.laid.found if found.mark == "refused")
    what = "wheel" if view.laid.wheel else "blade"
    return f"Section along the shaft of {view.part_no} with its {what}, to scale. {clashes or 'Nothing meets.'}"
