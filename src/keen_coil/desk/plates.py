"""Plates: the fields a technician reads off motor, unit, capacitor and blade, in the order of the page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..core.call import Call, read_call
from ..core.errors import FieldError, InvalidField, invalid
from ..core.outputs import OF_MODES
from ..core.unit_kinds import motors_in_words, roles_in
from ..core.units import horsepower_text
from ..core.vocabulary import CapacitorSection, CapacitorShape, HubHold, Mount, SeenFrom, SwitchKind, UnitKind, words_of
from ..core.voltage import KNOWN, amps_as_on_plate
from ..formats.dotted import get, nested, put
from ..store.database import Database
from .acts import ActContext, act_on
from .whole_call import call_data


@dataclass(frozen=True)
class Field:
    """A field of the Plates page: its dotted path in the call file, label, unit, choices."""

    path: str
    label: str
    unit: str = ""
    choices: tuple[str, ...] = ()
    suggestions: tuple[str, ...] = ()
    numeric: bool = True
    hint: str = ""


def _choice(path: str, label: str, *choices: str, hint: str = "") -> Field:
    return Field(path, label, choices=choices, numeric=False, hint=hint)


def _text(path: str, label: str, hint: str = "", suggestions: tuple[str, ...] = ()) -> Field:
    return Field(path, label, numeric=False, hint=hint, suggestions=suggestions)


SECTIONS: tuple[tuple[str, str, tuple[Field, ...]], ...] = (
    (
        "Motor plate",
        "What came off, as its plate says.",
        (
            _choice("motor.role", "drives", "condenser_fan", "indoor_blower", "inducer"),
            _choice("motor.kind", "kind", "psc", "shaded_pole", "three_phase", "ecm"),
            _choice("motor.fan", "turns", "propeller", "forward_curved", "inducer_wheel"),
            _choice("motor.drive", "drive", "direct", "belt"),
            Field("motor.hp", "horsepower", hint="1/4 or 0.25"),
            _text("motor.volts", "volts", "as on the plate", KNOWN),
            Field("motor.amps_a", "full-load amps", "A", hint="two voltages: 12.4/6.2"),
            Field("motor.rpm", "RPM", "rpm"),
            Field("motor.phase", "phase", choices=("1", "3")),
            Field("motor.hz", "hertz", choices=("60", "50")),
            Field("motor.capacitor_uf", "capacitor", "µF"),
            Field("motor.capacitor_v", "capacitor volts", "V"),
            Field("motor.service_factor", "service factor"),
            Field("motor.speeds", "speeds"),
            _text("motor.speed_amps_a", "amps by speed", "high to low: 7.5, 6, 4.8"),
            _choice("motor.ecm_control", "commutated: holds", "constant_torque", "constant_airflow", "constant_speed"),
            _choice("motor.insulation_class", "insulation class", "A", "B", "F", "H"),
            _choice("motor.rotation.sense", "rotation", "cw", "ccw", "reversible"),
            _choice("motor.rotation.seen_from", "seen from", *words_of(SeenFrom)),
            Field("motor.leads", "leads", hint="without ground"),
            _text("leads", "lead names", "black, brown, white"),
            _text("motor.part_no", "part number"),
            _text("motor.serial", "serial number"),
            _choice("motor.belongs", "the right part here", "true", "false"),
        ),
    ),
    (
        "Body and shaft",
        "Measure what the plate does not say.",
        (
            _choice("motor.mount", "mounting", *words_of(Mount)),
            _choice("motor.studs", "studs", "shaft_end", "far_end", "both", "none"),
            Field("motor.body_diameter_in", "body diameter", "in"),
            Field("motor.body_length_in", "body length", "in"),
            Field("motor.shaft.diameter_in", "shaft diameter", "in"),
            Field("motor.shaft.length_in", "shaft out of body", "in"),
            Field("motor.shaft.flats", "flats on the shaft"),
            Field("motor.shaft.ends", "shaft ends", choices=("1", "2")),
            _choice("motor.shaft.keyed", "keyed", "true", "false"),
            _choice("motor.enclosure", "enclosure", "open", "air_over", "enclosed"),
            _choice("motor.protection", "overload", "auto", "manual", "impedance", "fuse", "none"),
            Field("motor.ambient_limit_c", "ambient limit", "C"),
        ),
    ),
    (
        "Unit",
        "Its plate, and what stands around.",
        (
            _choice("unit.kind", "kind", *words_of(UnitKind)),
            Field("unit.supply_v", "nominal supply", "V"),
            Field("unit.phase", "phase", choices=("1", "3")),
            Field("unit.hz", "hertz", choices=("60", "50")),
            Field("unit.ambient_c", "air around it", "C"),
            _choice("unit.mounted", "motor sits", "shaft_down", "shaft_up", "horizontal"),
            _choice("unit.switch.kind", "switched by", *words_of(SwitchKind)),
            Field("unit.switch.poles", "its poles", choices=("1", "2", "3")),
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
            Field("space.to_coil_in", "room towards shaft end", "in"),
            Field("space.to_guard_in", "room behind the body", "in"),
            Field("space.housing_width_in", "blower housing", "in", hint="inside width"),
            Field("space.inlet_in", "blower inlet", "in"),
        ),
    ),
)
FIELDS = {field.path: field for _, _, fields in SECTIONS for field in fields}
_LABEL = words_of(CapacitorSection)
_LISTS = ("motor.speed_amps_a", "unit.speeds_used")
_PARTS = ("motor", "unit", "load", "space", "capacitor", "hookup")


def plate_texts(call: Call) -> dict[str, str]:
    """What stands on the plates now, as the fields show it."""
    found = {path: _shown(call, path) for path in FIELDS}
    found |= {f"capacitor.{row.section}": str(row.uf) for row in call.capacitor.label}
    found["leads"] = ", ".join(row.lead for row in call.hookup.leads)
    if call.motor.amps_high_a is not None:
        found["motor.amps_a"] += f"/{call.motor.amps_high_a}"
    return found


def _shown(call: Call, path: str) -> str:
    value = get(call, path)
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, list):
        return ", ".join(map(str, value))
    return horsepower_text(value) if path.endswith("_hp") or path == "motor.hp" else str(value)


def save_plates(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Save the plates, all or none. Raises `InvalidField` with the paths of the page's fields."""
    typed = with_both_amps({path: fields[path] for path in FIELDS if path in fields})
    with act_on(db, call_id, context, "save_plates") as (_, row):
        data = _merged(call_data(row), typed)
        try:
            call = read_call(data)
        except InvalidField as error:
            raise InvalidField([_on_page(fault, data) for fault in error.errors]) from None
        if call.motor.role is not None and call.motor.role not in roles_in(call.unit.kind):
            raise invalid("motor.role", call.motor.role.replace("_", " "), motors_in_words(call.unit.kind))
        row.motor.plate, row.motor.unit.plate = data["motor"], data["unit"]
        row.motor.installation = call.installation


def with_both_amps(typed: Mapping[str, str]) -> dict[str, str]:
    """The typed fields, the amps of a plate of two voltages ("12.4/6.2") in their two places.

    Raises `InvalidField` where the plate names one voltage.
    """
    if "motor.amps_a" not in typed:
        return dict(typed)
    low, high = amps_as_on_plate(typed["motor.amps_a"])
    if high and "/" not in typed.get("motor.volts", "/"):
        raise invalid("motor.amps_a", typed["motor.amps_a"], "one figure: the plate names one voltage")
    return {**typed, "motor.amps_a": low, "motor.amps_high_a": high}


def _merged(data: dict[str, Any], typed: Mapping[str, str]) -> dict[str, Any]:
    """The call's data with the typed fields in place of what they show; other fields stay."""
    parts = {key: _without(data.get(key, {}), key, typed) for key in _PARTS}
    plain = {path: text for path, text in typed.items() if path != "leads" and path.split(".")[-1] not in _LABEL}
    plain |= {path: plain[path].replace(",", "|") for path in _LISTS if path in plain}
    for path, value in _leaves(nested(plain, Call)):
        put(parts, path, value)
    label = [
        {"section": s, "uf": typed[f"capacitor.{s}"].strip()} for s in _LABEL if typed.get(f"capacitor.{s}", "").strip()
    ]
    if any(f"capacitor.{s}" in typed for s in _LABEL):
        parts["capacitor"]["label"] = label
    for key, mode in OF_MODES:
        for out in parts["unit"].get("outputs", []) if f"unit.modes.{key}" in typed else []:
            if out["mode"] == mode:
                out["speed"] = (parts["unit"].get("modes") or {}).get(key)
    if "leads" in typed:
        parts["hookup"]["leads"] = _leads(typed["leads"], data.get("hookup", {}).get("leads", []))
    return {**data, **parts}


def _without(part: dict[str, Any], key: str, typed: Mapping[str, str]) -> dict[str, Any]:
    """A part with the typed fields taken out, so that a cleared one is gone."""
    kept: dict[str, Any] = {}
    for path, value in _leaves({key: part}):
        if path not in typed:
            put(kept, path, value)
    found: dict[str, Any] = kept.get(key, {})
    return found


def _leaves(data: Mapping[str, Any], prefix: str = "") -> list[tuple[str, Any]]:
    found: list[tuple[str, Any]] = []
    for key, value in data.items():
        found += _leaves(value, f"{prefix}{key}.") if isinstance(value, dict) else [(prefix + key, value)]
    return found


def _leads(text: str, known: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Lead names as typed; what was known of a lead of the same name stays."""
    names = list(dict.fromkeys(name.strip() for name in text.split(",") if name.strip()))
    by_name = {row["lead"]: row for row in known}
    return [by_name.get(name, {"lead": name, "ends": []}) for name in names]


def _on_page(fault: FieldError, data: Mapping[str, Any]) -> FieldError:
    """A fault under the name the page has for its field."""
    parts = fault.path.split(".")
    if parts[:2] == ["capacitor", "label"] and len(parts) > 2:
        return FieldError(
            "capacitor." + data["capacitor"]["label"][int(parts[2])]["section"], fault.value, fault.expected
        )
    if ".".join(parts[:2]) in _LISTS:
        return FieldError(".".join(parts[:2]), fault.value, fault.expected)
    if parts[:2] == ["hookup", "leads"]:
        return FieldError("leads", fault.value, fault.expected)
    if fault.path == "motor.amps_high_a":
        return FieldError("motor.amps_a", fault.value, fault.expected)
    return fault
