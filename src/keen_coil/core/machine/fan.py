"""What the fan that is there takes of another motor, and how that is known.

From amps before horsepower: the amps read on a motor that belongs, else its plate's, else the unit plate's fan amps, at
their volts and speed; horsepower is a name, and counts only where none of those is known. T = k w^2 (fan laws).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..call import Call
from ..plates import Motor
from ..units import WATTS_PER_HP
from ..voltage import Range, plate_amps, range_for, ranges
from .load import blade_share
from .rated import Rated

SPEED_CLASS_PCT = 5.0
AMPS_APART = 0.25
"""A unit plate and an old plate whose amps differ by more name two motors (trade)."""
BACKGROUND_PCT = 5.0
"""Background above this share of the reading: the amps read tell nothing (contract, third round)."""
MOST_OF_PLATE = 1.02
"""Amps read above the old plate by more than plates round are a finding and not what the fan takes."""
How = Literal["amps_read", "old_plate_amps", "unit_plate_amps", "horsepower", "speed_read"]
SAYS: dict[How, str] = {
    "amps_read": "by the amps read",
    "old_plate_amps": "by the old plate's amps",
    "unit_plate_amps": "by the unit plate's amps",
    "horsepower": "by horsepower, which is only a name",
    "speed_read": "by the speed read",
}


@dataclass(frozen=True)
class FanShare:
    """What the fan asks of a motor, as a share of that motor's own rated torque, and how it is known."""

    share: float
    how: How


def plates_apart(call: Call, amps: float | None) -> str | None:
    """How the old plate differs from the unit plate; None when they agree or one is silent. `amps` of the old plate."""
    motor, unit = call.motor, call.unit
    if unit.fan_rpm and motor.rpm and abs(unit.fan_rpm - motor.rpm) > SPEED_CLASS_PCT / 100 * unit.fan_rpm:
        return (
            f"The unit plate calls for {unit.fan_rpm:g} rpm, the old motor has {motor.rpm:g}. It was the wrong motor."
        )
    if unit.fan_amps_a and amps and abs(unit.fan_amps_a - amps) > AMPS_APART * unit.fan_amps_a:
        return f"The unit plate says {unit.fan_amps_a:g} A, the old motor {amps:g}. It was the wrong motor."
    if unit.fan_hp and motor.hp and abs(unit.fan_hp - motor.hp) > 0.05 * unit.fan_hp:
        return "The unit plate calls for another horsepower than the old motor has. It was the wrong motor."
    return None


def connection_of(motor: Motor, line_v: float | None) -> Range | None:
    """The connection of a plate on a line; None where the plate is silent or nobody knows which of two it is."""
    if not motor.volts:
        return None
    return range_for(motor.volts, line_v) if len(ranges(motor.volts)) > 1 else ranges(motor.volts)[0]


def fan_by_amps(call: Call, plate: Rated) -> FanShare | None:
    """What the fan asks of a motor with a run capacitor, from amps at their volts; None where none is known.

    Volt-amperes of two motors of one kind stand for what they can carry at the same slip.
    """
    old, unit, line = call.motor, call.unit, call.line_v
    at = connection_of(old, line)
    on_plate = plate_amps(old.volts, old.amps_a, old.amps_high_a, at.high if at else line)
    by_unit = old.belongs is False or plates_apart(call, on_plate) is not None
    amps, volts = unit.fan_amps_a, line or plate.volts_v
    rpm = unit.fan_rpm or (None if old.belongs is False else old.rpm)
    how: How = "unit_plate_amps"
    if on_plate and at and old.traits.is_modelled and not (by_unit and (amps or old.belongs is False)):
        read = _amps_read(call, on_plate)
        amps, rpm, volts = read or on_plate, old.rpm, at.high
        how = "amps_read" if read else "old_plate_amps"
    if not amps or not rpm:
        return None
    asked = float(amps) * float(volts) / (plate.amps_a * plate.volts_v)
    return FanShare(asked * blade_share(plate.rpm, float(rpm)), how)


def _amps_read(call: Call, on_plate: float) -> float | None:
    """Amps read on the old motor's whole current, net of nothing: only where they are a motor's own, and its fan's.

    A background above its share, a restricted wheel, a slower tap, or more than the plate has (a finding of its own)
    tell not what the fan takes.
    """
    if call.motor.fan == "forward_curved" or call.motor.role == "indoor_blower":
        return None
    beside = [reading.numbers[0] for _, reading in call.standing("background_amps_a")]
    for _, reading in reversed(call.standing("run_amps_a")):
        if reading.wrong_power or (reading.leg or "whole") != "whole" or (reading.speed or 1) > 1:
            continue
        read = reading.numbers[0] / float(reading.turns or 1)
        quiet = not beside or beside[-1] <= BACKGROUND_PCT / 100 * read
        return read if quiet and 0.5 * on_plate <= read <= MOST_OF_PLATE * on_plate else None
    return None


def fan_by_horsepower(call: Call, plate: Rated) -> FanShare | None:
    """What the fan asks by the horsepower of the unit plate, the old motor's where that is silent."""
    unit, old = call.unit, call.motor
    hp, rpm = unit.fan_hp or old.hp, unit.fan_rpm or old.rpm
    if not hp or not rpm:
        return None
    return FanShare(hp * WATTS_PER_HP / plate.shaft_w * blade_share(plate.rpm, rpm), "horsepower")
