"""What a unit has, by name: one table for priors, path, pad and next tests.

A fault that a unit cannot have is not weighed, a test that it cannot take is not offered, a part that it lacks is not
drawn; all three name what they need here.
"""

from __future__ import annotations

from collections.abc import Callable

from ..call import Call
from ..plates import phases_of

OUTDOOR = ("split_condenser", "heat_pump_outdoor", "package_unit", None)
REVERSES = ("heat_pump_outdoor", "package_unit")
"""Units that may be heat pumps, and so defrost."""
FUSED = ("furnace", "air_handler", "package_unit")


def three_phases(call: Call) -> bool:
    """Whether the motor is three-phase; a single-phase fan on a three-phase unit is not."""
    return call.motor.traits.is_three_phase or phases_of(call.motor, call.unit) == 3


def has_taps(call: Call) -> bool:
    """Whether the motor has speed taps, by its plate, the speeds used, or the readings."""
    told = (call.motor.speeds or 1) > 1 or len(call.speeds_used) > 1 or len(call.motor.speed_amps_a) > 1
    return (told and not call.motor.traits.is_electronic) or any((r.speed or 1) > 1 for r in call.readings)


def no_capacitor(call: Call) -> str | None:
    """Why this unit's fan has no run capacitor; None when it has one, as far as the plates say."""
    motor, unit = call.motor, call.unit
    if not motor.traits.run_capacitor:
        return "This motor type has no run capacitor."
    if motor.capacitor_uf is not None or unit.run_capacitor not in ("none", "compressor_only"):
        return None
    return "No capacitor in this fan's circuit." if unit.run_capacitor == "none" else "It serves the compressor only."


def no_overload(call: Call) -> str | None:
    """Why this motor has no internal overload to prove; None when it has one or nobody knows."""
    if call.motor.traits.is_electronic:
        return "An ECM is protected by its module."
    if call.motor.protection in ("none", "impedance"):
        return "The plate says it has none." if call.motor.protection == "none" else "Impedance protected."
    return None


def switch_kind(call: Call) -> str:
    """What switches the motor: as read off the unit, else the usual thing for its role."""
    switch = call.unit.switch
    if switch is not None and switch.kind is not None:
        return switch.kind
    return (
        "contactor" if call.motor.role in (None, "condenser_fan") and not call.motor.traits.is_electronic else "board"
    )


def _role(*roles: str | None) -> Callable[[Call], bool]:
    return lambda call: call.motor.role in roles


def _outdoor(call: Call) -> bool:
    return call.motor.role in (None, "condenser_fan") and call.unit.kind in OUTDOOR


def _starter(call: Call) -> bool:
    return call.unit.switch is not None and call.unit.switch.kind == "starter"


HAS: dict[str, Callable[[Call], bool]] = {
    "": lambda call: True,
    "ecm": lambda call: call.motor.traits.is_electronic,
    "not_ecm": lambda call: not call.motor.traits.is_electronic,
    "psc": lambda call: call.motor.traits.run_capacitor,
    "three_phase": three_phases,
    "taps": has_taps,
    "capacitor": lambda call: no_capacitor(call) is None,
    "dual": lambda call: call.unit.run_capacitor in ("dual", "compressor_only"),
    "overload": lambda call: no_overload(call) is None,
    "belt": lambda call: call.motor.drive == "belt",
    "starter": _starter,
    "fused": lambda call: three_phases(call) or call.unit.kind in FUSED or any(r.kind == "fuse" for r in call.readings),
    "switch": lambda call: not call.motor.traits.is_electronic or call.unit.switch is not None,
    "heat_pump": lambda call: (
        call.motor.role in (None, "condenser_fan") and (call.unit.kind in REVERSES or _held(call, "defrost"))
    ),
    "outdoor": _outdoor,
    "fan_control": lambda call: _outdoor(call) or _held(call, "fan_control"),
    "indoor": lambda call: call.motor.role in ("indoor_blower", "inducer") or _held(call, "door_switch"),
    "flammable": lambda call: bool(call.unit.refrigerant_mildly_flammable) or _held(call, "leak_lockout"),
    "inducer": _role("inducer"),
    "blower": _role("indoor_blower"),
    "not_inducer": lambda call: call.motor.role != "inducer",
    "combustion": lambda call: (
        call.motor.role == "inducer"
        or call.unit.kind == "furnace"
        or any(r.kind == "vent_drain" for r in call.readings)
    ),
    "board": lambda call: call.motor.role == "inducer" or switch_kind(call) == "board",
    "sisters": lambda call: bool(call.unit.sisters),
}
"""Features of a unit by name. A reading that can only come from a feature shows that it is there."""


def has(call: Call, feature: str) -> bool:
    """Whether this unit has a feature of the table."""
    return features_of(call)[feature]


def features_of(call: Call) -> dict[str, bool]:
    """Every feature of the table, and whether this unit has it."""
    return call.once("features", lambda: {name: test(call) for name, test in HAS.items()})


def _held(call: Call, hold: str) -> bool:
    return any(r.kind == "hold" and r.at == hold for r in call.readings)
