"""The little picture of a motor's windings: which lead brings out which end, a tap, a half, a protector."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..core.hookup.drawing import end_word
from ..core.hookup.leads import MotorLeads

WIDTH, HEIGHT, TURNS = 300, 132, 4


@dataclass
class WindingPicture:
    """Coils as paths; the points where leads come out, with the height of the names beside them; its words."""

    coils: list[str] = field(default_factory=list)
    points: list[tuple[float, float, float, str, str]] = field(default_factory=list)
    says: str = ""


def winding_picture(leads: MotorLeads | None) -> WindingPicture | None:
    """The picture of a single-phase motor's leads; None for others and where no end is known."""
    if leads is None or not any(end.startswith("main") for end in leads.ends):
        return None
    picture = WindingPicture()
    halves = "main_a.1" in leads.ends
    if halves:
        _coil(picture, leads, (46, 62), (126, 62), ["main_a.1", "main_a.2"])
        _coil(picture, leads, (164, 62), (244, 62), ["main_b.1", "main_b.2"])
    else:
        taps = leads.taps
        far = [*taps] if taps else ["main.2"]
        _coil(picture, leads, (46, 40), (244, 40), ["main.1", *far])
    if {"aux.1", "aux.2"} & leads.ends:
        _coil(picture, leads, (46, 104), (244, 104), ["aux.1", "aux.2"], ("run", "start")[1])
    words = ((lead, ", ".join(dict.fromkeys(end_word(end) for end in ends))) for lead, ends in leads.leads if ends)
    picture.says = "; ".join(f"{lead}: {says}" for lead, says in words)
    return picture


def _coil(
    picture: WindingPicture,
    leads: MotorLeads,
    a: tuple[float, float],
    b: tuple[float, float],
    ends: list[str],
    word: str = "run",
) -> None:
    """A coil from a to b, its ends from left to right, the leads at each end above it."""
    sections = len(ends) - 1
    step = (b[0] - a[0]) / max(sections, 1)
    for number, end in enumerate(ends):
        x = a[0] + step * number
        names = ", ".join(leads.having(end)[:2])
        below = number % 2 == 0 or sections == 1
        picture.points.append((x, a[1], a[1] + (19 if below else -18), names or "inside", word if not number else ""))
        if number < sections:
            bow = step / TURNS
            path = f"M{x:.0f} {a[1]:.0f}" + f"q{bow / 2:.1f} -20 {bow:.1f} 0" * TURNS
            picture.coils.append(path)
