"""What a replacement is held against: the old plate, or the unit plate when what came off was wrong."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..call import Call
from ..plates import Motor
from ..speed import poles_of
from ..voltage import Range, plate_amps, range_for

SPEED_CLASS_PCT = 5.0


@dataclass(frozen=True)
class Reference:
    """The motor that belongs here, as far as plates tell, and the supply it has to live on."""

    whose: Literal["old_motor", "unit_plate", "blade"]
    motor: Motor
    supply_v: float | None
    amps_a: float | None
    hp: float | None
    rpm: float | None
    poles: int | None
    hz: int | None
    phase: int | None
    because: str

    @property
    def connection(self) -> Range | None:
        """The old plate's connection at this supply."""
        return range_for(self.motor.volts, self.supply_v) if self.motor.volts else None


def reference_for(call: Call) -> Reference:
    """The reference of a call. When the unit plate names other amps, horsepower or speed, it is the reference."""
    motor, unit = call.motor, call.unit
    supply = call.supply_now()
    hz, phase = motor.hz or unit.hz, motor.phase or unit.phase
    amps = plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, supply)
    wrong = _disagreement(call, amps)
    whose: Literal["old_motor", "unit_plate", "blade"] = "unit_plate" if wrong else "old_motor"
    if wrong:
        amps, hp, rpm = unit.fan_amps_a or amps, unit.fan_hp or motor.hp, unit.fan_rpm or motor.rpm
    else:
        amps, hp, rpm = amps or unit.fan_amps_a, motor.hp or unit.fan_hp, motor.rpm or unit.fan_rpm
    same_speed = rpm == motor.rpm
    poles = (motor.poles if same_speed else None) or poles_of(rpm, hz)
    return Reference(whose, motor, supply, amps, hp, rpm, poles, hz, phase, wrong or "The plate of what came off.")


def _disagreement(call: Call, amps: float | None) -> str | None:
    """How the old plate differs from the unit plate; None when they agree or one is silent."""
    motor, unit = call.motor, call.unit
    if unit.fan_rpm and motor.rpm and abs(unit.fan_rpm - motor.rpm) > SPEED_CLASS_PCT / 100 * unit.fan_rpm:
        return (
            f"The unit plate asks for {unit.fan_rpm:g} rpm; what came off has {motor.rpm:g}. It was not the reference."
        )
    if unit.fan_amps_a and amps and abs(unit.fan_amps_a - amps) > 0.25 * unit.fan_amps_a:
        return f"The unit plate says {unit.fan_amps_a:g} A; what came off says {amps:g}. It was not the reference."
    if unit.fan_hp and motor.hp and abs(unit.fan_hp - motor.hp) > 0.05 * unit.fan_hp:
        return "The unit plate names another horsepower than what came off. It was not the reference."
    return None
