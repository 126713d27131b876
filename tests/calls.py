"""Calls for tests: one plain condenser fan, changed by each test where it matters."""

from __future__ import annotations

import copy
from typing import Any

from keen_coil.core.call import Call, read_call

PLAIN: dict[str, Any] = {
    "format": "keen-coil/call",
    "version": 1,
    "complaint": {"symptom": "hums_no_start"},
    "unit": {
        "kind": "split_condenser",
        "supply_v": 230,
        "phase": 1,
        "hz": 60,
        "ambient_c": 31,
        "mounted": "shaft_down",
        "switch": {"kind": "contactor", "poles": 1},
        "run_capacitor": "dual",
    },
    "motor": {
        "role": "condenser_fan",
        "kind": "psc",
        "hp": 0.25,
        "volts": "208-230",
        "amps_a": 1.4,
        "phase": 1,
        "hz": 60,
        "rpm": 1090,
        "leads": 3,
        "capacitor_uf": 5.0,
        "capacitor_v": 370,
        "part_no": "BW-117",
        "mount": "stud",
        "studs": "far_end",
        "body_diameter_in": 5.6,
        "body_length_in": 4.6,
        "enclosure": "enclosed",
        "protection": "auto",
        "ambient_limit_c": 60,
        "shaft": {"diameter_in": 0.5, "length_in": 4.0},
        "rotation": {"sense": "ccw", "seen_from": "shaft_end"},
    },
    "capacitor": {"label": [{"section": "fan", "uf": 5.0}, {"section": "herm", "uf": 40}], "volts_v": 440},
    "readings": [],
}
LEADS = [
    {"lead": "black", "ends": ["main.1", "aux.1"]},
    {"lead": "white", "ends": ["main.2"]},
    {"lead": "brown", "ends": ["aux.2"]},
]


def call_data(*readings: dict[str, Any], **changes: Any) -> dict[str, Any]:
    """The plain call with these readings; `motor__rpm=825` changes one field, `motor={...}` a whole part."""
    data = copy.deepcopy(PLAIN)
    data["readings"] = list(readings)
    for path, value in changes.items():
        *parents, last = path.split("__")
        part = data
        for parent in parents:
            part = part.setdefault(parent, {})
        part[last] = value
    return data


def make_call(*readings: dict[str, Any], **changes: Any) -> Call:
    """The same, read by the core."""
    return read_call(call_data(*readings, **changes))


def reading(kind: str, value: Any, **qualifiers: Any) -> dict[str, Any]:
    """A reading of a call file."""
    return {"kind": kind, "value": value, **{key.rstrip("_"): item for key, item in qualifiers.items()}}


def pair(one: str, other: str, value: Any, **qualifiers: Any) -> dict[str, Any]:
    """A winding reading between two leads."""
    return reading("winding_ohm", value, pair=[one, other], **qualifiers)


VOLTS_AT_MOTOR = reading("supply_v", 238.0, at="motor")
GOOD_CAPACITOR = (reading("capacitance_uf", 4.95, section="fan"), reading("capacitor_look", "sound"))
GOOD_WINDINGS = (pair("black", "white", 14.2), pair("black", "brown", 38.1), pair("brown", "white", 52.3))
FREE = (reading("spin", "free"), reading("side_play", "none"))
COOL = {"minutes_off": 75, "temperature_c": 33}
