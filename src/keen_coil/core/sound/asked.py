"""What must be known beside a recording: blades, and the speeds that the motor can have."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, ValidationError
from pydantic_core import PydanticCustomError

from ..call import Call
from ..errors import InvalidField, field_errors
from ..plates import Hertz
from ..speed import MOST_POLES, poles_of
from ..units import Number
from .speed import Bounds, induction_bounds

MOST_BLADES = 80
"""A wheel of a blower has up to about sixty."""
ECM_LOW_RPM, ECM_HIGH_RPM = 200.0, 1800.0
"""Where an ECM's plate is silent (trade)."""
LEAST_TONE_HZ = 14.0
USUAL_HZ = 60


def _even(poles: int) -> int:
    if poles % 2:
        raise PydanticCustomError("number", "{expected}", {"expected": f"an even number from 2 to {MOST_POLES}"})
    return poles


Blades = Annotated[int, Number(2, MOST_BLADES, whole=True)]
Poles = Annotated[int, Number(2, MOST_POLES, whole=True), AfterValidator(_even)]


class Asked(BaseModel):
    """Blades, poles and hertz as they were typed."""

    model_config = ConfigDict(extra="forbid")

    blades: Blades
    poles: Poles
    hz: Hertz = USUAL_HZ


def read_bounds(blades: Any, poles: Any, hz: Any = USUAL_HZ) -> Bounds:
    """Bounds from what was typed. Raises `InvalidField` naming blades, poles or hz."""
    try:
        asked = Asked.model_validate({"blades": blades, "poles": poles, "hz": hz})
    except ValidationError as error:
        raise InvalidField(field_errors(error)) from None
    return induction_bounds(int(asked.blades), int(asked.poles), float(asked.hz))


def bounds_for(call: Call, blades: int, proof: bool = False) -> Bounds | None:
    """The speeds that a call's motor can have; None where its plate names neither poles nor speed.

    A belt's wheel turns at another speed than its motor: None for that as well.
    """
    motor = call.motor_on_proof if proof else call.motor
    line = float(call.unit.hz or motor.hz or USUAL_HZ)
    if motor.drive == "belt":
        return None
    if motor.traits.is_electronic:
        low, high = float(motor.rpm_min or ECM_LOW_RPM), float(motor.rpm_max or motor.rpm or ECM_HIGH_RPM)
        least = max(0.95 * low, 60 * LEAST_TONE_HZ / blades)
        return Bounds(blades, least, 1.05 * high, None, line) if least < high else None
    poles = motor.poles or poles_of(motor.rpm, line)
    return induction_bounds(blades, int(poles), line) if poles else None
