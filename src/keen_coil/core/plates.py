"""The plates: motor, unit, capacitor, blade and space, as the call file and the catalog hold them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from .moments import Day
from .motor_kinds import MotorTraits, traits_of
from .units import Amps, Celsius, Count, Hp, Inches, Microfarads, Number, Rpm, Share, Text, Volts
from .vocabulary import (
    CapacitorSection,
    CapacitorShape,
    HubHold,
    InsulationLetter,
    MotorKind,
    Mount,
    OutputMode,
    Position,
    Role,
    SeenFrom,
    ShaftSense,
    SwitchKind,
    UnitKind,
)
from .voltage import plate_volts

Hertz = Annotated[int, Number(50, 60, whole=True, unit="Hz"), AfterValidator(lambda hz: _one_of(hz, (50, 60)))]
Phase = Annotated[int, Number(1, 3, whole=True, unit="phase"), AfterValidator(lambda phase: _one_of(phase, (1, 3)))]
PlateVolts = Annotated[Text, AfterValidator(plate_volts)]


def _one_of(value: int, allowed: tuple[int, ...]) -> int:
    if value not in allowed:
        raise ValueError(" or ".join(map(str, allowed)))
    return value


class StrictModel(BaseModel):
    """Base of everything in a call file: unknown keys are refused, absent means unknown."""

    model_config = ConfigDict(extra="forbid", validate_assignment=False)


class Switch(StrictModel):
    """What switches the motor, and how many of its legs."""

    kind: SwitchKind | None = None
    poles: Annotated[int, Number(1, 4, whole=True)] | None = None


class Modes(StrictModel):
    """The speed that each mode uses, 1 the highest; a mode that is absent is not used or not known."""

    cooling: Count | None = None
    heating: Count | None = None
    fan: Count | None = None


class Output(StrictModel):
    """An output of the unit: what switches it on, its terminal, the speed it asks for (1 the highest)."""

    mode: OutputMode
    terminal: Text | None = None
    speed: Count | None = None


class Unit(StrictModel):
    """The unit plate and what stands around it."""

    kind: UnitKind | None = None
    supply_v: Volts | None = None
    phase: Phase | None = None
    hz: Hertz | None = None
    ambient_c: Celsius | None = None
    mounted: Position | None = None
    fan_amps_a: Amps | None = None
    fan_hp: Hp | None = None
    fan_rpm: Rpm | None = None
    tons: Annotated[float, Number(0, 200, above=True)] | None = None
    sisters: Count | None = None
    age_years: Annotated[float, Number(0, 100)] | None = None
    switch: Switch | None = None
    run_capacitor: Literal["dual", "own", "none", "compressor_only", "unknown"] | None = None
    speeds_used: Annotated[list[Count], Field(max_length=20)] = []
    modes: Modes | None = None
    outputs: Annotated[list[Output], Field(max_length=12)] = []
    refrigerant_mildly_flammable: bool | None = None
    serial: Text | None = None
    installed: Day | None = None
    warranty_until: Day | None = None


class Shaft(StrictModel):
    """The shaft, inches; `length_in` is what stands out of the body, `flat_length_in` the flat, from the tip."""

    diameter_in: Inches | None = None
    length_in: Inches | None = None
    flats: Count | None = None
    keyed: bool | None = None
    flat_length_in: Inches | None = None
    ends: Annotated[int, Number(1, 2, whole=True)] | None = None


class Rotation(StrictModel):
    """Which way the motor turns, and from which end that is seen."""

    sense: Literal["cw", "ccw", "reversible"] | None = None
    seen_from: SeenFrom | None = None
    shipped: ShaftSense | None = None


class Motor(StrictModel):
    """A motor plate with its body. `amps_a` belongs to the lowest voltage of `volts`.

    `belongs` false: it is known that this motor is not the one that belongs here.
    """

    role: Role | None = None
    kind: MotorKind | None = None
    ecm_control: Literal["constant_torque", "constant_airflow", "constant_speed"] | None = None
    drive: Literal["direct", "belt"] | None = None
    fan: Literal["propeller", "forward_curved", "inducer_wheel"] | None = None
    hp: Hp | None = None
    volts: PlateVolts | None = None
    amps_a: Amps | None = None
    amps_high_a: Amps | None = None
    phase: Phase | None = None
    hz: Hertz | None = None
    rpm: Rpm | None = None
    speeds: Annotated[int, Number(1, 20, whole=True)] | None = None
    speed_amps_a: Annotated[list[Amps], Field(max_length=20)] = []
    service_factor: Annotated[float, Number(0.5, 2)] | None = None
    sf_amps_a: Amps | None = None
    insulation_class: InsulationLetter | None = None
    winding_material: Literal["copper", "aluminium"] | None = None
    ambient_limit_c: Celsius | None = None
    protection: Literal["auto", "manual", "impedance", "fuse", "none"] | None = None
    frame: Text | None = None
    body_diameter_in: Inches | None = None
    body_length_in: Inches | None = None
    mount: Mount | None = None
    studs: Literal["shaft_end", "far_end", "both", "none"] | None = None
    stud_length_in: Inches | None = None
    shaft: Shaft | None = None
    rotation: Rotation | None = None
    duty: Annotated[list[Position], Field(max_length=3)] = []
    enclosure: Literal["open", "air_over", "enclosed"] | None = None
    bearing: Literal["ball", "sleeve"] | None = None
    poles: Annotated[int, Number(2, 24, whole=True)] | None = None
    rpm_min: Rpm | None = None
    rpm_max: Rpm | None = None
    torque_nm: Annotated[float, Number(0, 500, above=True)] | None = None
    command: Text | None = None
    face_to_shaft_end_in: Annotated[float, Number(-240, 240)] | None = None
    leads: Annotated[int, Number(1, 40, whole=True)] | None = None
    capacitor_uf: Microfarads | None = None
    capacitor_v: Volts | None = None
    part_no: Text | None = None
    mildly_flammable_listed: bool | None = None
    belongs: bool | None = None
    serial: Text | None = None

    @property
    def traits(self) -> MotorTraits:
        """What is true of its kind."""
        return traits_of(self.kind)

    @property
    def has_run_capacitor(self) -> bool:
        """Whether its kind is known to have one."""
        return self.kind is not None and self.traits.run_capacitor

    @property
    def capacitor_words(self) -> str:
        """The run capacitor that this plate calls for, in words."""
        if self.capacitor_uf is None:
            return "what the motor plate calls for"
        volts = f", {self.capacitor_v:g} V or higher" if self.capacitor_v else ""
        return f"{self.capacitor_uf:g} µF{volts}"


class Load(StrictModel):
    """The blade or wheel on the shaft, inches."""

    diameter_in: Inches | None = None
    hub_bore_in: Inches | None = None
    hub_length_in: Inches | None = None
    set_screw_from_face_in: Inches | None = None
    blade_plane_in: Annotated[float, Number(-240, 240)] | None = None
    width_in: Inches | None = None
    hub: HubHold | None = None


class Space(StrictModel):
    """Room for the motor, inches; towards the shaft end and away from it."""

    to_coil_in: Inches | None = None
    to_guard_in: Inches | None = None
    housing_width_in: Inches | None = None
    inlet_in: Inches | None = None


class LabelSection(StrictModel):
    """One section as a capacitor's label states it."""

    section: CapacitorSection
    uf: Microfarads


class CapacitorLabel(StrictModel):
    """The label of the capacitor that is in the unit."""

    label: Annotated[list[LabelSection], Field(max_length=4)] = []
    volts_v: Volts | None = None
    tolerance_pct: Share | None = None
    shape: CapacitorShape | None = None
    height_in: Inches | None = None

    def section_uf(self, section: str) -> float | None:
        """The labeled microfarads of a section, if it states one."""
        return next((row.uf for row in self.label if row.section == section), None)


class Accuracy(StrictModel):
    """A meter's accuracy in one function: per cent of reading plus counts of its resolution."""

    accuracy_pct: Annotated[float, Number(0, 100)]
    counts: Annotated[float, Number(0, 1000)] = 0
    resolution: Annotated[float, Number(0, 1000)] = 0


def phases_of(motor: Motor, unit: Unit) -> int | None:
    """Phases of a motor: its plate's, those of its kind, else the unit's.

    A single-phase fan on a three-phase unit is single-phase.
    """
    return motor.phase or motor.traits.phases or unit.phase
