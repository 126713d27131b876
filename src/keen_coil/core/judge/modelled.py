"""What the motor model expects of a call's motor, for the judges: a band on each leg, speed and capacitor volts."""

from __future__ import annotations

from ..call import Call
from ..machine.conditions import model_of
from ..machine.expected import SOURCE, Expected, expected
from ..machine.rated import NoModel
from ..plates import Motor
from ..readings import Reading
from .judged import Band


def expected_now(call: Call, proof: bool = False) -> Expected | None:
    """What the motor as found, or the one that is in now, should read; None where plate rules stay."""
    return call.once(("expected", proof), lambda: _expected(call, proof))


def _expected(call: Call, proof: bool) -> Expected | None:
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
    return highest_in_use(motor, speeds_used) if reading.speed is None else reading.speed == 1


def highest_in_use(motor: Motor, speeds_used: list[int]) -> bool:
    """Whether the unit runs the motor on the speed that the plate speaks of, as far as is known."""
    return (motor.speeds or 1) == 1 or not speeds_used or 1 in speeds_used


def leg_band(found: Expected | None, leg: str) -> Band | None:
    """The amps to expect on a leg as the motor is left alone."""
    if found is None:
        return None
    range_ = found.legs_a[leg]
    return Band(
        range_.low, range_.high, f"{'expected' if found.turns else 'standing still'} {range_.text('A')}", SOURCE
    )
