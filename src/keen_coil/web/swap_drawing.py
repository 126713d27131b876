"""The time line of a swap: hands above, waits below, to scale; a long time without hands is drawn as a break."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

from ..core.swap.steps import WAITS
from ..services.stations.swap import SwapView
from .page import clock

WIDTH, LEFT = 720.0, 4.0
HANDS_Y, WAITS_Y, HIGH = 22.0, 54.0, 22.0
LONG_GAP_MIN, BREAK_X = 90.0, 34.0
NEAR_X = 110.0
LETTER_X = 6.6
"""Room for a letter of the drawing's words, so that none is cut."""


@dataclass(frozen=True)
class Bar:
    """A box of the time line: hands or a wait, its state, a word where there is room for it."""

    x: float
    y: float
    width: float
    state: str
    says: str
    word: str = ""


@dataclass
class TimeLine:
    """The time line laid out."""

    height: float
    bars: list[Bar] = field(default_factory=list)
    breaks: list[float] = field(default_factory=list)
    marks: list[tuple[float, str, str, str]] = field(default_factory=list)
    says: str = ""


def time_line(view: SwapView) -> TimeLine | None:
    """The time line of a job; None when there is nothing to do."""
    if not view.plan.slots:
        return None
    scale = _Scale(view)
    line = TimeLine(108.0, says=_says(view))
    of = {one.step.key: one for _, steps in view.phases for one in steps}
    for slot in view.plan.slots:
        state = of[slot.key].state
        if slot.end > slot.start or state == "next":
            x, end = scale.x(slot.start), scale.x(slot.end)
            line.bars.append(Bar(x, HANDS_Y, max(2.5, end - x - 1), state, view.title_of(slot.key)))
    for wait in view.plan.waits:
        x, end = scale.x(wait.start), scale.x(wait.end)
        step = of[wait.key].step
        shown = next((word for word in (WAITS[step.wait], step.wait) if len(word) * LETTER_X < end - x - 6), "")
        line.bars.append(Bar(x, WAITS_Y, max(2.0, end - x - 1), "wait", WAITS[step.wait], shown))
    line.breaks = scale.breaks
    line.marks = _marks(view, scale)
    return line


class _Scale:
    """Minutes to x, long gaps between hands drawn in the width of a break."""

    def __init__(self, view: SwapView) -> None:
        edges = sorted((slot.start, slot.end) for slot in view.plan.slots)
        self.gaps: list[tuple[float, float]] = []
        reach = edges[0][1]
        for (_, end), (start, later) in pairwise(edges):
            reach = max(reach, end)
            if start - reach > LONG_GAP_MIN:
                self.gaps.append((reach, start))
            reach = max(reach, later)
        self.first = edges[0][0]
        total = max(view.plan.elapsed, view.now_min, 1.0) - self.first
        drawn = total - sum(end - start for start, end in self.gaps)
        self.per_min = (WIDTH - 2 * LEFT - BREAK_X * len(self.gaps)) / max(drawn, 1.0)
        self.breaks = [self.x(start) + BREAK_X / 2 for start, _ in self.gaps]

    def x(self, minutes: float) -> float:
        """Where a minute lies."""
        at = LEFT + (minutes - self.first) * self.per_min
        for start, end in self.gaps:
            if minutes > start:
                inside = min(minutes, end) - start
                at += inside / (end - start) * BREAK_X - inside * self.per_min
        return at


def _marks(view: SwapView, scale: _Scale) -> list[tuple[float, str, str, str]]:
    """Moments below the line: x, words, where the words stand, which kind."""
    begun = view.begun and view.now_min < view.plan.elapsed
    near = begun and scale.x(view.now_min) - scale.x(scale.first) < NEAR_X
    found = [] if near else [(scale.x(scale.first), clock(view.at(scale.first)), "start", "begin")]
    runs = view.plan.end_of("power")
    if runs is not None:
        found.append((scale.x(runs), f"runs {clock(view.at(runs))}", "end", "runs"))
    if begun:
        found.append((scale.x(view.now_min), "now", "start", "now"))
    return found


def _says(view: SwapView) -> str:
    hands = round(view.plan.hands_on)
    return (
        f"Time line: {hands} minutes of hands-on work, {round(view.plan.elapsed)} minutes in all, "
        f"{len(view.plan.waits)} wait{'' if len(view.plan.waits) == 1 else 's'}"
    )
