"""What a plate says of a motor's heat: insulation class, ambient, service factor, protection, air over it."""

from __future__ import annotations

from dataclasses import dataclass

from ..plates import Motor
from ..vocabulary import InsulationLetter

IN_THE_AIR = ("condenser_fan", "indoor_blower")
"""Roles whose motor stands in the air it moves, where its plate does not say so (trade)."""


@dataclass(frozen=True)
class HeatPlate:
    """Class A, B, F or H, None where the plate is silent; the ambient it allows, C; `air_over`: cooled by its fan.

    has_overload: False only where the plate says that nothing protects it, or a fuse that opens once.
    """

    insulation_class: InsulationLetter | None = None
    ambient_c: float | None = None
    service_factor: float = 1.0
    air_over: bool = True
    has_overload: bool = True


SILENT_PLATE = HeatPlate()


def heat_plate(motor: Motor) -> HeatPlate:
    """The plate of a motor. An enclosed or open one is cooled by itself; a silent plate goes by its role."""
    in_air = motor.enclosure == "air_over" or (motor.enclosure is None and motor.role in (*IN_THE_AIR, None))
    return HeatPlate(
        insulation_class=motor.insulation_class,
        ambient_c=None if motor.ambient_limit_c is None else float(motor.ambient_limit_c),
        service_factor=float(motor.service_factor or 1.0),
        air_over=in_air,
        has_overload=motor.protection not in ("none", "fuse", "impedance"),
    )
