"""Pictures of what was read: windings with their leads, the ladder of taps, a traverse, insulation over the visits."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from ..core.judge.pairs import Tap, standing_pairs, taps
from ..core.units import fixed
from ..services.calls.call_view import CallView
from ..services.log.unit_history import Visit
from .chart import Stop, readout


@dataclass(frozen=True)
class Text:
    """A word at its place."""

    x: float
    y: float
    says: str
    anchor: str = "middle"
    strong: bool = False


@dataclass(frozen=True)
class Line:
    """A path with the class of its stroke."""

    d: str
    kind: str


@dataclass(frozen=True)
class Plot:
    """A picture: lines and words in a box, and what it says to who does not see it; `stops` where it can be asked."""

    width: float
    height: float
    lines: list[Line]
    texts: list[Text]
    says: str
    stops: list[Stop] = field(default_factory=list)

    @property
    def readout(self) -> str:
        """Its values along the axis, for pointer and keys."""
        return readout(self.stops, 0.0, self.height)


_COIL = "a9 9 0 0 1 18 0a9 9 0 0 1 18 0a9 9 0 0 1 18 0a9 9 0 0 1 18 0"


def windings_plot(view: CallView) -> Plot | None:
    """Two windings with common, run and start, the ohms on them; None until common is known from readings."""
    known, pairs = view.terminals, standing_pairs(view.call)
    if known.common is None or len(pairs.leads) != 3:
        return None
    others = [lead for lead in pairs.leads if lead != known.common]
    run = known.run or others[0]
    start = next(lead for lead in others if lead != run)
    texts, lines = [Text(14, 66, known.common, "start", True), Text(14, 84, "common", "start")], []
    for lead, role, y in ((run, "run", 34), (start, "start", 106)):
        pair = frozenset((known.common, lead))
        opened = pair in pairs.open
        lines.append(Line(f"M66 70L104 {y}h18{_COIL}h26", "open" if opened else "wire"))
        named = role if known.run else "run or start"
        read = "open" if opened else f"{fixed(pairs.finite[pair].mid)} ohm" if pair in pairs.finite else "not read"
        texts += [Text(158, y + 22, read), Text(232, y - 2, lead, "start", True), Text(232, y + 15, named, "start")]
    across = frozenset((run, start))
    if across in pairs.indices:
        read = "open" if across in pairs.open else f"{fixed(pairs.finite[across].mid)} ohm"
        texts.append(Text(292, 74, read))
        lines.append(Line("M300 44V58M300 82V96M294 50l6-8 6 8M294 90l6 8 6-8", "thin"))
    says = ", ".join(f"{text.says}" for text in texts)
    return Plot(330, 136, lines, texts, f"Windings: {says}")


def ladder_plot(view: CallView) -> Plot | None:
    """The ladder of speed taps from common, high speed first; None with fewer than two taps read."""
    steps = taps(view.call)
    if len(steps) < 2:
        return None
    lines, texts = [Line("M76 24H92", "wire")], [Text(14, 29, "common", "start")]
    for i, tap in enumerate(steps):
        y = 52 + 34 * i
        lines += [
            Line(f"M92 {y - 28}a7 7 0 0 1 0 14a7 7 0 0 1 0 14", "open" if tap.read is None else "wire"),
            Line(f"M92 {y}H140", "open" if tap.read is None else "wire"),
        ]
        texts += [Text(150, y + 5, f"speed {tap.speed}", "start", True), Text(230, y + 5, _ohms(tap), "start")]
    says = ", ".join(f"speed {tap.speed} {_ohms(tap)}" for tap in steps)
    return Plot(330, 40 + 34 * len(steps), lines, texts, f"Speed taps from common: {says}")


def _ohms(tap: Tap) -> str:
    return "open" if tap.read is None else f"{fixed(tap.read.mid)} ohm"


def traverse_plot(points: list[float]) -> Plot | None:
    """Air speeds of a traverse as bars from hub to rim; those that blow back hang below the line."""
    if not points:
        return None
    top = max(max(map(abs, points)), 1.0)
    step = 300 / len(points)
    lines = [Line("M14 78H318", "thin")]
    for i, point in enumerate(points):
        x, height = 16 + step * i, 60 * point / top
        bar = f"M{x:.1f} 78v{-height:.1f}h{max(2.0, step - 4):.1f}v{height:.1f}Z"
        lines.append(Line(bar, "back" if point < 0 else "air"))
    low = min(points)
    foot = 152 if low < 0 else 94
    texts = [
        Text(14, 14, f"{max(points):.0f} fpm", "start"),
        Text(318, 14, f"lowest {low:.0f}", "end"),
        Text(14, foot, "hub", "start"),
        Text(318, foot, "rim", "end"),
    ]
    back = sum(point < 0 for point in points)
    return Plot(332, foot + 6, lines, texts, f"{len(points)} points from hub to rim, {back} blowing back")


def trend_plot(visits: list[Visit], floor: float, good: float) -> Plot | None:
    """Insulation at 40 C over the visits on a logarithmic scale, with the limits; None with fewer than two visits."""
    if len(visits) < 2:
        return None

    def y(mohm: float) -> float:
        return 118 - 96 * (math.log10(min(max(mohm, 0.1), 1000)) + 1) / 4

    xs = [40 + 270 * i / (len(visits) - 1) for i in range(len(visits))]
    way = "L".join(f"{x:.1f} {y(visit.mohm):.1f}" for x, visit in zip(xs, visits, strict=True))
    lines = [Line(f"M30 {y(floor):.1f}H318", "floor"), Line(f"M30 {y(good):.1f}H318", "thin"), Line("M" + way, "wire")]
    texts = [
        Text(4, y(floor) + 4, f"{floor:g}", "start"),
        Text(4, y(good) + 4, f"{good:g}", "start"),
        Text(165, 138, "Mohm at 40 C"),
    ]
    for x, visit in ((xs[0], visits[0]), (xs[-1], visits[-1])):
        shown = "over" if math.isinf(visit.mohm) else fixed(visit.mohm)
        texts += [
            Text(x, y(visit.mohm) - 8, shown, "middle", True),
            Text(x, 138, f"{visit.on:%b %Y}", "end" if x > 200 else "start"),
        ]
    says = ", ".join(f"{visit.on:%b %d, %Y} {visit.mohm:.3g} Mohm" for visit in visits)
    return Plot(330, 144, lines, texts, f"Insulation over the visits: {says}")
