"""The fields of the Plates page in their order: what decides first and large, the rest folded."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.unit_kinds import roles_in
from ...core.vocabulary import (
    CapacitorShape,
    HubHold,
    MotorKind,
    Mount,
    Position,
    SeenFrom,
    SwitchKind,
    UnitKind,
    words_of,
)
from ...core.voltage import KNOWN


@dataclass(frozen=True)
class Field:
    """A field of the Plates page: its dotted path in the call file, label, unit, choices, the usual values to tap."""

    path: str
    label: str
    unit: str = ""
    choices: tuple[str, ...] = ()
    suggestions: tuple[str, ...] = ()
    numeric: bool = True
    hint: str = ""
    taps: tuple[str, ...] = ()


def _choice(path: str, label: str, *choices: str, hint: str = "") -> Field:
    return Field(path, label, choices=choices, numeric=False, hint=hint)


def _text(
    path: str, label: str, hint: str = "", suggestions: tuple[str, ...] = (), taps: tuple[str, ...] = ()
) -> Field:
    return Field(path, label, numeric=False, hint=hint, suggestions=suggestions, taps=taps)


SECTIONS: tuple[tuple[str, str, tuple[Field, ...]], ...] = (
    (
        "Motor plate",
        "The figures that decide.",
        (
            _text("motor.volts", "volts", "as on the plate", KNOWN, ("208-230", "115", "230", "460", "115/230")),
            Field(
                "motor.hp",
                "horsepower",
                hint="1/4 or 0.25",
                taps=("1/8", "1/6", "1/5", "1/4", "1/3", "1/2", "3/4"),
            ),
            Field("motor.amps_a", "full-load amps", "A", hint="12.4/6.2"),
            Field("motor.rpm", "RPM", "rpm", taps=("1075", "1090", "825", "850", "1625")),
            Field("motor.capacitor_uf", "capacitor", "µF", taps=("3", "4", "5", "7.5", "10", "15")),
            Field("motor.capacitor_v", "capacitor volts", "V", taps=("370", "440")),
            _choice("motor.rotation.sense", "rotation", "cw", "ccw", "reversible"),
            _choice("motor.rotation.seen_from", "rotation viewed from", *words_of(SeenFrom)),
            Field("motor.speeds", "speeds", taps=("1", "2", "3", "4")),
            _choice("motor.kind", "motor type", *words_of(MotorKind)),
        ),
    ),
    (
        "Small print",
        "What else the plate says.",
        (
            _text("motor.part_no", "part number"),
            _text("motor.serial", "serial number"),
            _choice("motor.role", "used for", "condenser_fan", "indoor_blower", "inducer"),
            _choice("motor.fan", "fan type", "propeller", "forward_curved", "inducer_wheel"),
            _choice("motor.drive", "direct or belt drive", "direct", "belt"),
            Field("motor.phase", "phase", choices=("1", "3")),
            Field("motor.hz", "hertz", choices=("60", "50")),
            Field("motor.service_factor", "service factor"),
            Field("motor.sf_amps_a", "service-factor amps", "A"),
            _text("motor.speed_amps_a", "amps by speed", "high to low: 7.5, 6, 4.8"),
            _choice("motor.ecm_control", "ECM control", "constant_torque", "constant_airflow", "constant_speed"),
            _choice("motor.insulation_class", "insulation class", "A", "B", "F", "H"),
            Field("motor.ambient_limit_c", "ambient limit", "C"),
            _choice("motor.protection", "overload", "auto", "manual", "impedance", "fuse", "none"),
            _choice("motor.enclosure", "enclosure", "open", "air_over", "enclosed"),
            _choice("motor.bearing", "bearings", "ball", "sleeve"),
            Field("motor.poles", "poles", hint="when the RPM does not tell"),
            Field("motor.leads", "leads", hint="without ground"),
            _text("leads", "lead names", "black, brown, white"),
            _choice("motor.belongs", "correct part for this unit?", "true", "false"),
        ),
    ),
    (
        "Body and shaft",
        "Match asks for these. Measure what the plate does not say.",
        (
            _text("motor.frame", "frame", "48Y"),
            _choice("motor.mount", "mounting", *words_of(Mount)),
            _choice("motor.studs", "studs", "shaft_end", "far_end", "both", "none"),
            _text("motor.duty", "positions", "blank: any", words_of(Position)),
            Field("motor.body_diameter_in", "body diameter", "in"),
            Field("motor.body_length_in", "body length", "in"),
            Field("motor.shaft.diameter_in", "shaft diameter", "in"),
            Field("motor.shaft.length_in", "shaft length", "in"),
            Field("motor.shaft.flats", "flats on the shaft"),
            Field("motor.shaft.ends", "shaft ends", choices=("1", "2")),
            _choice("motor.shaft.keyed", "keyed", "true", "false"),
        ),
    ),
    (
        "Unit",
        "Its plate, and what stands around.",
        (
            _choice("unit.kind", "unit type", *words_of(UnitKind)),
            Field("unit.supply_v", "supply volts", "V"),
            Field("unit.phase", "phase", choices=("1", "3")),
            Field("unit.hz", "hertz", choices=("60", "50")),
            Field("unit.ambient_c", "temperature around it", "C"),
            _choice("unit.mounted", "motor position", "shaft_down", "shaft_up", "horizontal"),
            _choice("unit.switch.kind", "switched by", *words_of(SwitchKind)),
            Field("unit.switch.poles", "poles of the switch", choices=("1", "2", "3")),
            Field("unit.fan_amps_a", "fan amps on its plate", "A"),
            Field("unit.fan_rpm", "fan RPM on its plate", "rpm"),
            Field("unit.fan_hp", "fan horsepower on its plate"),
            _text("unit.speeds_used", "speeds used", "1, 3"),
            Field("unit.modes.cooling", "cooling on speed"),
            Field("unit.modes.heating", "heating on speed"),
            Field("unit.modes.fan", "fan alone on speed"),
            Field("unit.sisters", "sister motors"),
            Field("unit.tons", "size", "tons"),
            Field("unit.age_years", "age", "years"),
            _text("unit.serial", "serial number"),
            _text("unit.installed", "installed on", "2019-05-30"),
            _text("unit.warranty_until", "parts warranty until", "2029-05-30"),
        ),
    ),
    (
        "Capacitor label",
        "What is installed may be wrong: the motor plate decides.",
        (
            _choice("unit.run_capacitor", "serves", "dual", "own", "none", "compressor_only", "unknown"),
            Field("capacitor.fan", "fan section", "µF"),
            Field("capacitor.herm", "compressor section", "µF"),
            Field("capacitor.single", "single", "µF"),
            Field("capacitor.volts_v", "volts", "V", hint="440/370 is 440"),
            Field("capacitor.tolerance_pct", "tolerance", "± %", hint="blank when silent"),
            _choice("capacitor.shape", "shape", *words_of(CapacitorShape)),
            Field("capacitor.height_in", "height", "in"),
        ),
    ),
    (
        "Blade or wheel",
        "Before anything comes off.",
        (
            Field("load.diameter_in", "diameter", "in"),
            Field("load.hub_bore_in", "hub bore", "in"),
            _choice("load.hub", "hub held by", *words_of(HubHold)),
            Field("load.hub_length_in", "hub length", "in"),
            Field("load.blade_plane_in", "blade plane", "in", hint="from mounting face to middle of hub"),
            Field("load.set_screw_from_face_in", "set screw", "in", hint="from the hub's body side"),
            Field("load.width_in", "width", "in", hint="of blade or wheel"),
            Field("space.to_coil_in", "room toward shaft end", "in"),
            Field("space.to_guard_in", "room behind the body", "in"),
            Field("space.housing_width_in", "blower housing", "in", hint="inside width"),
            Field("space.inlet_in", "blower inlet", "in"),
        ),
    ),
)


def sections_for(kind: str | None) -> list[tuple[str, str, tuple[Field, ...]]]:
    """The fields to ask for on a unit of a kind: which motor it is about is not asked where it has one only."""
    known = ("motor.role",) if kind and len(roles_in(kind)) == 1 else ()
    return [(title, says, tuple(f for f in fields if f.path not in known)) for title, says, fields in SECTIONS]


FIELDS = {field.path: field for _, _, fields in SECTIONS for field in fields}
