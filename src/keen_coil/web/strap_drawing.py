"""How capacitors are strapped, drawn: cans from above with their terminals, straps between them, leads that leave."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..core.capacitors.strap import COMMON, Strapped, Terminal

CAN_W, CAN_H, GAP, TOP = 120.0, 112.0, 54.0, 62.0
LEAD_NAMES = {"line": "line side", "motor": "motor's capacitor lead", "compressor": "compressor start"}
LABEL_W = 165.0
"""Room to the right of the last lead for its label."""
TERMINAL_NAMES = {COMMON: "C", "herm": "HERM", "fan": "FAN"}


@dataclass(frozen=True)
class CanDrawn:
    """A can: where it stands, its name, its terminals as (x, y, name, used)."""

    x: float
    y: float
    name: str
    terminals: tuple[tuple[float, float, str, bool], ...]


@dataclass(frozen=True)
class StrapDrawing:
    """The picture of an answer."""

    width: float
    height: float
    cans: list[CanDrawn]
    straps: list[str]
    leads: list[tuple[str, float, float, str]]
    says: str


def strap_drawing(strapped: Strapped, ufs: Mapping[tuple[str, str], float]) -> StrapDrawing:
    """The picture of straps and leads.

    Straps run below the terminals they join. Leads leave upward, each lower than the one before it, its label to the
    right of its end, so that no label is crossed. A section to strap is named by its µF.
    """
    count = len(strapped.cans)
    width = count * CAN_W + (count - 1) * GAP + LABEL_W
    start = 20.0
    cans, where = [], {}
    top = TOP + 22.0 * (len(strapped.leads) - 2)
    for index, can in enumerate(strapped.cans):
        x = start + index * (CAN_W + GAP)
        drawn = []
        step = CAN_W / (len(can.terminals) + 1)
        for place, name in enumerate(can.terminals):
            at = x + step * (place + 1), top + CAN_H * 0.42
            where[Terminal(index, name)] = at
            word = TERMINAL_NAMES.get(name) or (f"{ufs[can.part_no, name]:g}" if (can.part_no, name) in ufs else name)
            drawn.append((*at, word, name in can.used or name == can.terminals[0]))
        cans.append(CanDrawn(x, top, can.part_no, tuple(drawn)))
    straps = [_strap(where[a], where[b], number) for number, (a, b) in enumerate(strapped.straps)]
    leads = []
    for number, (what, terminal) in enumerate(sorted(strapped.leads, key=lambda lead: where[lead[1]][0])):
        x, y = where[terminal]
        up = 20.0 + 22.0 * number
        leads.append((f"M{x:.1f} {y - 8:.1f}V{up - 6:.1f}", x + 8, up, LEAD_NAMES[what]))
    says = "; ".join(f"{LEAD_NAMES[what]}: {strapped.cans[at.can].part_no} {at.name}" for what, at in strapped.leads)
    return StrapDrawing(width, top + CAN_H + 34, cans, straps, leads, says)


def _strap(a: tuple[float, float], b: tuple[float, float], number: int) -> str:
    """A strap from terminal to terminal, hanging below both."""
    low = max(a[1], b[1]) + 26 + 12 * (number % 3)
    return f"M{a[0]:.1f} {a[1] + 8:.1f}V{low:.1f}H{b[0]:.1f}V{b[1] + 8:.1f}"
