"""What a chart can be asked under the pointer or by the arrow keys: its values at places along its axis."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class Stop:
    """A place along the axis: its x in the picture, the values in words, and where each value lies with its kind."""

    x: float
    says: str
    dots: tuple[tuple[float, str], ...] = ()


def readout(stops: Iterable[Stop], top: float, bottom: float) -> str:
    """Stops as the page's script reads them, with the ends of the line that is drawn through one."""
    rows = [
        [round(stop.x, 1), stop.says, [[round(y, 1), kind] for y, kind in stop.dots]]
        for stop in sorted(stops, key=lambda stop: stop.x)
    ]
    return json.dumps({"top": round(top, 1), "bottom": round(bottom, 1), "stops": rows}, ensure_ascii=False)


def with_unit(title: str, value: str) -> str:
    """A value with the unit of an axis title: `speed, rpm` and 825 are `825 rpm`; one without a unit is named."""
    name, comma, unit = title.rpartition(", ")
    return f"{value} {unit}" if comma and name else f"{title} {value}"
