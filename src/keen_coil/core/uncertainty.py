"""Reading to interval: meter accuracy, several turns through the clamp.

`u = accuracy * |reading| + counts * resolution`; `I = reading / N`, `u / N` for N turns.
"""

from __future__ import annotations

from collections.abc import Mapping

from .plates import Accuracy
from .readings import Reading
from .units import Span

Meters = Mapping[str, Mapping[str, Accuracy]]
_FUNCTION = {"A": ("amps",), "V": ("volts",), "ohm": ("ohms",), "µF": ("microfarads", "capacitance")}
_OTHERS_PCT = 5.0


def default_u(value: float, unit: str) -> float:
    """Uncertainty of a meter nobody recorded, in the unit of the value (contract, Without a meter record)."""
    size = abs(value)
    if unit == "A":
        return 0.02 * size + 0.03
    if unit == "V":
        return 0.01 * size + 0.3
    if unit == "ohm":
        return 0.015 * size + 0.3
    if unit == "µF":
        return 0.02 * size + (0.3 if size >= 60 else 0.03)
    return _OTHERS_PCT / 100 * size


def uncertainty(value: float, reading: Reading, meters: Meters) -> float:
    """Absolute uncertainty of a displayed value: as stated, from the meter's record, or by default."""
    if reading.u is not None:
        return float(reading.u)
    return meter_u(value, reading.row.unit, reading.meter, meters)


def meter_u(value: float, unit: str, meter: str | None, meters: Meters) -> float:
    """Absolute uncertainty of a displayed value in a unit: from the meter's record, or by default."""
    record = _record(meter, unit, meters)
    if record is None:
        return default_u(value, unit)
    return record.accuracy_pct / 100 * abs(value) + record.counts * record.resolution


def digit(reading: Reading, meters: Meters) -> float:
    """The last digit the meter shows in this function, in the unit of the value."""
    record = _record(reading.meter, reading.row.unit, meters)
    if record is not None and record.resolution > 0:
        return float(record.resolution)
    return {"A": 0.01, "µF": 0.01}.get(reading.row.unit, 0.1)


def _record(meter: str | None, unit: str, meters: Meters) -> Accuracy | None:
    """The named meter's record; when the reading names none, that of the only meter with the function."""
    owners = [meters.get(meter, {})] if meter else list(meters.values())
    found = [owner[name] for owner in owners for name in _FUNCTION.get(unit, ()) if name in owner]
    return found[0] if len(found) == 1 else None


def span(value: float, reading: Reading, meters: Meters) -> Span:
    """The interval of one value of a reading, divided by the turns through the clamp.

    Example: 8.10 A through 5 turns, 2 % + 3 counts of 0.01: 1.620 A +/- 0.038 A.
    """
    turns = reading.turns or 1
    u = uncertainty(value, reading, meters)
    return Span((value - u) / turns, (value + u) / turns)


def spans(reading: Reading, meters: Meters) -> list[Span]:
    """The intervals of every value of a reading; over range is left out."""
    return [span(value, reading, meters) for value in reading.numbers if value != float("inf")]
