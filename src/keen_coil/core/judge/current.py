"""Running amps of the whole-current leg against the plate.

Limit: the larger of plate + 10 % (NEMA MG 1, by analogy) and service factor amps. Legs that carry one
winding only are not compared with the plate.
"""

from __future__ import annotations

from ..call import Call
from ..limits import Limits
from ..plates import Motor
from ..readings import Reading
from ..uncertainty import spans
from ..units import Span
from ..voltage import plate_amps
from .judged import Band, Judged, Signal, State, suspect, unjudged, verdict_on

LINK = "air"
_SAYS = {
    "good": "Within the plate.",
    "watch": "Over the plate, inside its tolerance. Watch it.",
    "over": "Over the limit: load, volts, capacitor or windings.",
    "borderline": "Reaches over the limit with the meter's error. Take it again with more turns through the clamp.",
    "low": "Low: look at hub, blade, air, and whether the right motor is fitted.",
    "none": "No current: the motor's circuit is open, or it is not fed.",
}


def amps_on_plate(motor: Motor, speed: int | None, supply_v: float | None) -> float | None:
    """Plate amps for this speed tap (1 is the highest) and supply; None when the plate is silent."""
    if speed is not None and 1 <= speed <= len(motor.speed_amps_a):
        return motor.speed_amps_a[speed - 1]
    if speed is not None and speed > 1:
        return None
    return plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, supply_v)


def limit_amps(motor: Motor, plate: float, limits: Limits) -> float:
    """The most a motor may draw: the larger of plate + 10 % and its service factor amps, never added up."""
    by_factor = plate * motor.service_factor if motor.service_factor else 0.0
    service = motor.sf_amps_a if motor.sf_amps_a and plate == motor.amps_a else by_factor
    return max(plate * (1 + limits.amps_over_pct / 100), service)


def judge_amps(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge running amps; every leg of a list, the whole-current leg only."""
    if (reading.leg or "whole") in ("capacitor", "winding"):
        return unjudged(index, "This leg carries one winding only; the plate speaks of the whole current.")
    plate = amps_on_plate(motor, reading.speed, call.supply_now())
    if plate is None:
        return unjudged(index, "The plate amps of this motor, speed or connection are not known.")
    read = spans(reading, call.meters)
    top = max(read, key=lambda leg: leg.mid)
    background = _background(reading, call)
    if background > limits.background_pct / 100 * plate:
        return suspect(
            index, f"Background of {background:.2f} A is over {limits.background_pct:g} % of the plate. "
            "Move the jaw away from other leads and read again.", source="method before value",
        )  # fmt: skip
    return _against_plate(index, top, plate, limit_amps(motor, plate, limits), limits)


def _against_plate(index: int, read: Span, plate: float, most: float, limits: Limits) -> Judged:
    low = limits.amps_low_pct / 100 * plate
    band = Band(low, most, f"plate {plate:g} A, at most {most:.2f}", "NEMA MG 1, by analogy")
    finding, state = _grade(read, plate, low, most, limits)
    says = f"{_SAYS[finding]} {100 * read.mid / plate:.0f} % of the plate."
    signal = Signal(f"amps.{finding}", f"{read.text('A')} of {plate:g} A on the plate", (index,))
    link = LINK if finding == "over" else None
    public = {"low": "low", "none": "open"}.get(finding, finding)
    return Judged(verdict_on(index, read, band, "A", state, public, says), link, (signal,))


def _grade(read: Span, plate: float, low: float, most: float, limits: Limits) -> tuple[str, State]:
    if read.mid < limits.amps_none_pct / 100 * plate:
        return "none", "failed"
    if read.low > most:
        return "over", "failed"
    if read.high > most:
        return "borderline", "borderline"
    if read.high < low:
        return "low", "suspect"
    return ("good" if read.high <= plate else "watch"), "normal"


def _background(reading: Reading, call: Call) -> float:
    """Background amps near this reading, divided by its turns."""
    beside = [r for _, r in call.standing("background_amps_a", proof=reading.is_proof) if not r.wrong_power]
    return max(beside[-1].numbers) / (reading.turns or 1) if beside else 0.0
