"""Plates: what a technician reads off motor, unit, capacitor and blade, shown and saved."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ...core.call import Call, plate_line_v, read_call
from ...core.errors import FieldError, InvalidField, invalid
from ...core.outputs import OF_MODES
from ...core.unit_kinds import motors_in_words, roles_in
from ...core.units import horsepower_text
from ...core.vocabulary import CapacitorSection, words_of
from ...core.voltage import amps_as_on_plate
from ...formats.dotted import get, nested, put
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.whole_call import call_data
from .plate_fields import FIELDS

_LABEL = words_of(CapacitorSection)
_OF_LABEL = tuple(f"capacitor.{section}" for section in _LABEL)
_LISTS = ("motor.speed_amps_a", "motor.duty", "unit.speeds_used")
_PARTS = ("motor", "unit", "load", "space", "capacitor", "hookup")


def plate_texts(call: Call) -> dict[str, str]:
    """What stands on the plates now, as the fields show it."""
    found = {path: value_text(path, get(call, path)) for path in FIELDS}
    found |= {f"capacitor.{row.section}": str(row.uf) for row in call.capacitor.label}
    found["leads"] = ", ".join(row.lead for row in call.hookup.leads)
    if call.motor.amps_high_a is not None:
        found["motor.amps_a"] += f"/{call.motor.amps_high_a}"
    return found


def value_text(path: str, value: Any) -> str:
    """A value of a plate as its field shows it; empty for none."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, list):
        return ", ".join(map(str, value))
    return horsepower_text(float(value)) if path.endswith("_hp") or path == "motor.hp" else str(value)


def by_motor_plate(call: Call) -> dict[str, str]:
    """Fields of the unit that are blank and follow the plate of the motor in it, each with what that plate says."""
    of_motor = {"unit.supply_v": plate_line_v(call.motor), "unit.phase": call.line_phase, "unit.hz": call.motor.hz}
    return {path: f"{says:g}" for path, says in of_motor.items() if says is not None and get(call, path) is None}


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
    plain = {path: text for path, text in typed.items() if path != "leads" and path not in _OF_LABEL}
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
