"""Charts of practice: progress by fault family, and the chance of what was really wrong over the readings of a case."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.practice.score import Step
from ..core.readings import KINDS
from ..services.practice.cases import Progress
from .pictures import Line, Plot, Text
from .readout import Stop

ROW, BAR, THICK = 38.0, 330.0, 9.0
WIDTH, HEIGHT, LEFT, TOP, FOOT = 640.0, 150.0, 52.0, 14.0, 26.0
FEW = 24


@dataclass(frozen=True)
class Bar:
    """A family's bar: where it stands, how long it is."""

    y: float
    name: str
    width: float
    says: str
    tried: bool


@dataclass(frozen=True)
class Bars:
    """Progress by family as bars."""

    width: float
    height: float
    thick: float
    bars: list[Bar]
    says: str


def progress_chart(progress: list[Progress]) -> Bars:
    """A bar a family: the share of its latest cases that was right."""
    bars = [
        Bar(
            20 + ROW * n,
            row.family.name,
            BAR * row.share,
            f"{row.right} of {row.tries}" if row.tries else "not tried",
            bool(row.tries),
        )
        for n, row in enumerate(progress)
    ]
    says = "Right by fault family: " + ", ".join(f"{bar.name} {bar.says}" for bar in bars)
    return Bars(BAR, 4 + ROW * len(bars), THICK, bars, says)


def replay_chart(steps: list[Step]) -> Plot | None:
    """The chance that the engine gave to what was really so, after each reading."""
    if not steps:
        return None
    wide = (WIDTH - LEFT - 16) / (len(steps) + 1)

    def x(n: int) -> float:
        return LEFT + wide * n

    def y(share: float) -> float:
        return HEIGHT - FOOT - (HEIGHT - FOOT - TOP) * share

    shares = [steps[0].truth / 2 ** steps[0].moved_bits, *(step.truth for step in steps)]
    path = f"M{x(0):.1f} {y(shares[0]):.1f}"
    path += "".join(f"H{x(n):.1f}V{y(share):.1f}" for n, share in enumerate(shares)) + f"H{x(len(shares)):.1f}"
    lines = [
        Line(f"M{LEFT:g} {TOP:g}V{HEIGHT - FOOT:g}H{WIDTH - 16:g}", "thin"),
        Line(f"M{LEFT:g} {y(0.8):.1f}H{WIDTH - 16:g}", "floor"),
        Line(path, "wire"),
    ]
    texts = [Text(LEFT - 8, y(share) + 5, says, "end") for share, says in ((1.0, "100 %"), (0.8, "80"), (0.0, "0"))]
    every = 1 if len(steps) <= FEW else 5
    texts += [
        Text(x(n) + wide / 2, HEIGHT - 7, str(n) if n else "before", "middle") for n in range(0, len(shares), every)
    ]
    said = ", ".join(f"{n}: {100 * step.truth:.0f} %" for n, step in enumerate(steps, start=1))
    named = ["before", *(f"{n}, {KINDS[step.kind].title} {step.value}" for n, step in enumerate(steps, start=1))]
    stops = [
        Stop(x(n) + wide / 2, f"{name}: {100 * share:.0f} %", ((y(share), "found"),))
        for n, (name, share) in enumerate(zip(named, shares, strict=True))
    ]
    return Plot(WIDTH, HEIGHT, lines, texts, f"Chance of what was really so after each reading. {said}", stops)
