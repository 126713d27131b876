"""What the motor model expects of a call's motor, for the judges: a band on each leg, speed and capacitor volts."""

from __future__ import annotations

from ..call import Call
from ..machine.conditions import model_of
from ..machine.expected import SOURCE, Expected, Range, expected
from ..machine.rated import NoModel
from ..plates import Motor
from ..readings import Reading
from .judged import Band


def expected_now(call: Call, proof: bool = False) -> Expected | None:
    """What the motor as found, or the one that is in now, should read; None where plate rules stay."""
    try:
        return expected(model_of(call, proof))
    except NoModel:
        return None


def why_no_model(call: Call, proof: bool = False) -> str | None:
    """Why plate rules stay, in words; None where the model answers."""
    try:
        model_of(call, proof)
    except NoModel as error:
        return error.because
    return None


def plates_tap(reading: Reading, motor: Motor, speeds_used: list[int]) -> bool:
    """Whether a running reading is about the speed that the plate speaks of, the highest."""
    if reading.speed is not None:
        return reading.speed == 1
    return (motor.speeds or 1) == 1 or not speeds_used or 1 in speeds_used


def leg_band(found: Expected | None, leg: str) -> Band | None:
    """The amps to expect on a leg; at rest where it does not turn by itself."""
    if found is None:
        return None
    if not found.turns:
        return band_of(found.rest_amps_a[leg], "A", "standing still")
    return band_of(found.run_amps_a[leg], "A", "expected")


def band_of(range_: Range, unit: str, what: str, digits: int = 3) -> Band:
    """A range as a band with its wording."""
    return Band(range_.low, range_.high, f"{what} {range_.text(unit, digits)}", SOURCE)
