"""What a replacement is held against: the old plate, or the unit plate when what came off was wrong."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..call import Call
from ..machine.conditions import blade_asks
from ..machine.fan import plates_apart
from ..plates import Motor, phases_of
from ..speed import poles_of
from ..voltage import Range, plate_amps, range_for

Whose = Literal["old_motor", "unit_plate", "blade"]


@dataclass(frozen=True)
class Reference:
    """The motor that belongs here, as far as plates tell, and the supply it has to live on.

    `blade`: what the fan was measured to take, W at rpm, where no plate decides.
    """

    whose: Whose
    motor: Motor
    supply_v: float | None
    amps_a: float | None
    hp: float | None
    rpm: float | None
    poles: int | None
    hz: int | None
    phase: int | None
    because: str
    blade: tuple[float, float] | None = None

    @property
    def connection(self) -> Range | None:
        """The old plate's connection at this supply."""
        return range_for(self.motor.volts, self.supply_v) if self.motor.volts else None


def reference_for(call: Call) -> Reference:
    """The reference of a call.

    The old plate; the unit plate where it names other amps, horsepower or speed or the old motor does not belong; the
    blade where neither plate decides.
    """
    motor, unit, supply = call.motor, call.unit, call.supply_now()
    hz, phase = motor.hz or unit.hz, phases_of(motor, unit)
    own = plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, supply), motor.hp, motor.rpm
    named = unit.fan_amps_a, unit.fan_hp, unit.fan_rpm
    wrong = plates_apart(call, own[0])
    whose: Whose = "unit_plate" if wrong else "old_motor"
    because = wrong or "The old motor's plate."
    if motor.belongs is False:
        whose, own = "unit_plate", (None, None, None)
        because = "The old motor was the wrong one for this unit. Size to the unit plate."
    first, second = (named, own) if whose == "unit_plate" else (own, named)
    amps, hp, rpm = (a if a is not None else b for a, b in zip(first, second, strict=True))
    if amps is None and hp is None and rpm is None:
        whose, because = "blade", _by_blade(motor.belongs is False)
    poles = (motor.poles if rpm is not None and rpm == own[2] else None) or poles_of(rpm, hz)
    blade = blade_asks(call) if whose == "blade" else None
    return Reference(whose, motor, supply, amps, hp, rpm, poles, hz, phase, because, blade)


def _by_blade(foreign: bool) -> str:
    why = "No plate gives power or speed"
    if foreign:
        why = "The old motor was the wrong one and the unit plate does not say"
    return f"{why}. The blade and the motor model decide, an estimate. Prove airflow and amps on the first run."
