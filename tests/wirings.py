"""Hook-ups for tests: a condenser fan with a dual, its leads, and units of other kinds."""

from __future__ import annotations

from typing import Any

from tests.calls import make_call

BLACK, WHITE, BROWN, GREEN = (
    {"lead": "black", "ends": ["main.1", "aux.1"]},
    {"lead": "white", "ends": ["main.2"]},
    {"lead": "brown", "ends": ["aux.2"]},
    {"lead": "green", "ends": ["frame"]},
)
THREE = [BLACK, WHITE, BROWN, GREEN]
FOUR = [BLACK, WHITE, BROWN, {"lead": "brown/white", "ends": ["main.2"]}, GREEN]
UNIT = [
    ("switch.t1", "capacitor.common"),
    ("switch.t1", "compressor.r"),
    ("switch.t2", "compressor.c"),
    ("capacitor.herm", "compressor.s"),
]
GROUND = ("motor.green", "ground.frame")
RIGHT = [("motor.black", "switch.t2"), ("motor.white", "switch.t1"), ("motor.brown", "capacitor.fan"), GROUND]
OLD = [("motor.black", "switch.t2"), ("motor.white", "capacitor.common"), ("motor.brown", "capacitor.fan"), *UNIT]
BLOWER: dict[str, Any] = {
    "role": "indoor_blower",
    "kind": "psc",
    "fan": "forward_curved",
    "hp": 0.5,
    "volts": "115",
    "amps_a": 7.5,
    "phase": 1,
    "hz": 60,
    "rpm": 1075,
    "capacitor_uf": 10,
    "capacitor_v": 370,
    "rotation": {"sense": "cw", "seen_from": "shaft_end"},
}
FURNACE = {"supply_v": 120, "phase": 1, "hz": 60, "kind": "furnace", "run_capacitor": "own"}
DUAL_VOLTS = {
    "kind": "psc",
    "hp": 0.5,
    "volts": "115/230",
    "amps_a": 6.0,
    "phase": 1,
    "hz": 60,
    "rpm": 1075,
    "capacitor_uf": 10,
    "capacitor_v": 370,
    "rotation": {"sense": "cw", "seen_from": "shaft_end"},
}
HALVES = [
    {"lead": "1", "ends": ["main_a.1", "aux.1"]},
    {"lead": "2", "ends": ["main_a.2"]},
    {"lead": "3", "ends": ["main_b.1"]},
    {"lead": "4", "ends": ["main_b.2"]},
    {"lead": "5", "ends": ["aux.2"]},
    GREEN,
]


def wires(pairs: Any) -> list[dict[str, str]]:
    """Wires of a call file from pairs of terminals."""
    return [{"from": a, "to": b} for a, b in pairs]


def planned(*pairs: Any, leads: Any = THREE, unit: Any = UNIT, **changes: Any):
    """The plain condenser with these wires planned."""
    return make_call(hookup={"leads": leads, "planned": wires([*unit, *pairs])}, **changes)
