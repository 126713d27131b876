"""Whether a part goes where the old one sat: its shape under the strap, its height under the lid."""

from __future__ import annotations

from dataclasses import dataclass

from ..plates import CapacitorLabel

HEIGHT_IN = 0.125
"""A part may stand so much higher than the old one without a look (trade)."""


@dataclass(frozen=True)
class Suits:
    """Fit of one part: whether it goes in as it is, and what to do or look at."""

    part_no: str
    as_it_is: bool
    says: str


def suits(part_no: str, shape: str | None, height_in: float | None, old: CapacitorLabel, beside: bool) -> Suits:
    """Fit of a part by shape and height in inches; `beside`: it goes in besides the old one's place."""
    if beside:
        return Suits(
            part_no, False, "It needs its own spot. Check what is behind the sheet metal before you drive a screw."
        )
    says = []
    if shape is None or old.shape is None:
        says.append("compare the shapes")
    elif shape != old.shape:
        says.append(f"{shape}, was {old.shape}: needs another strap")
    if height_in is not None and old.height_in is not None and height_in > old.height_in + HEIGHT_IN:
        says.append(f"{height_in - old.height_in:.1f} in taller: make sure the lid clears the terminals")
    elif height_in is None or old.height_in is None:
        says.append("measure the height" if height_in is None else f"{height_in:g} in high: make sure it fits")
    if not says:
        return Suits(part_no, True, "Same shape, no taller. The old strap holds it.")
    text = "; ".join(says)
    return Suits(part_no, False, text[0].upper() + text[1:] + ".")
