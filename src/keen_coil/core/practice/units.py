"""The units that practice cases are made on: plates as a learner finds them on Pellow Island (made up)."""

from __future__ import annotations

from typing import Any, NamedTuple


class PracticeUnit(NamedTuple):
    """A unit to hide faults in: a short name, where it stands, its plates as the call file has them."""

    name: str
    where: str
    call: dict[str, Any]


def _leads(*names: str) -> dict[str, Any]:
    """Leads that are seen and of which nobody knows yet what they bring out."""
    return {"leads": [{"lead": name, "ends": []} for name in names]}


_SHAFT = {"diameter_in": 0.5, "length_in": 6.0, "flats": 1, "keyed": False, "ends": 1}
_COND: dict[str, Any] = {
    "role": "condenser_fan", "kind": "psc", "drive": "direct", "fan": "propeller", "phase": 1, "hz": 60, "speeds": 1,
    "protection": "auto", "ambient_limit_c": 60, "body_diameter_in": 5.6, "body_length_in": 4.8, "mount": "stud",
    "studs": "far_end", "enclosure": "enclosed", "bearing": "ball", "shaft": _SHAFT, "leads": 3,
    "rotation": {"sense": "ccw", "seen_from": "shaft_end"}, "duty": ["shaft_down"],
}  # fmt: skip
_BLOW: dict[str, Any] = {
    "role": "indoor_blower", "kind": "psc", "drive": "direct", "fan": "forward_curved", "phase": 1, "hz": 60,
    "protection": "auto", "ambient_limit_c": 40, "body_diameter_in": 5.6, "body_length_in": 5.4, "mount": "belly_band",
    "enclosure": "open", "bearing": "sleeve", "shaft": {**_SHAFT, "length_in": 5.0}, "duty": ["horizontal"],
    "rotation": {"sense": "ccw", "seen_from": "lead_end"},
}  # fmt: skip
_INDU: dict[str, Any] = {
    "role": "inducer", "drive": "direct", "fan": "inducer_wheel", "phase": 1, "hz": 60, "volts": "115", "speeds": 1,
    "protection": "auto", "ambient_limit_c": 60, "rotation": {"sense": "cw", "seen_from": "shaft_end"},
}  # fmt: skip


def _out(**more: Any) -> dict[str, Any]:
    return {
        "kind": "split_condenser", "supply_v": 230, "phase": 1, "hz": 60, "ambient_c": 29, "mounted": "shaft_down",
        "switch": {"kind": "contactor", "poles": 1}, "run_capacitor": "dual", "age_years": 8, **more,
    }  # fmt: skip


def _in(kind: str, volts: int, **more: Any) -> dict[str, Any]:
    return {"kind": kind, "supply_v": volts, "phase": 1, "hz": 60, "ambient_c": 22, "age_years": 10, **more}


def _dual(fan: float, herm: float, volts: int = 440) -> dict[str, Any]:
    label = [{"section": "fan", "uf": fan}, {"section": "herm", "uf": herm}]
    return {"label": label, "volts_v": volts, "shape": "round"}


def _single(uf: float, volts: int = 370) -> dict[str, Any]:
    return {"label": [{"section": "single", "uf": uf}], "volts_v": volts, "shape": "oval"}


UNITS: tuple[PracticeUnit, ...] = (
    PracticeUnit("condenser", "Kiln cottage, behind the wall", {
        "unit": _out(fan_amps_a=1.48, tons=2.5),
        "motor": {**_COND, "hp": 0.25, "volts": "208-230", "amps_a": 1.48, "rpm": 1075, "capacitor_uf": 5, "capacitor_v": 370},
        "capacitor": _dual(5, 35), "hookup": _leads("black", "brown", "white")}),
    PracticeUnit("slow condenser", "Ropemaker's house, yard", {
        "unit": _out(fan_amps_a=1.01, tons=2, switch={"kind": "contactor", "poles": 2}, run_capacitor="own"),
        "motor": {**_COND, "hp": 1 / 6, "volts": "208-230", "amps_a": 1.01, "rpm": 825, "capacitor_uf": 5, "capacitor_v": 370},
        "capacitor": _single(5), "hookup": _leads("black", "brown", "white")}),
    PracticeUnit("heat pump", "Lightkeeper's row, number 3", {
        "unit": _out(refrigerant_mildly_flammable=True, kind="heat_pump_outdoor", ambient_c=12, fan_amps_a=1.48, tons=3, switch={"kind": "board"}),
        "motor": {**_COND, "hp": 0.25, "volts": "208-230", "amps_a": 1.48, "rpm": 1090, "capacitor_uf": 5, "capacitor_v": 370},
        "capacitor": _dual(5, 40), "hookup": _leads("black", "brown", "purple")}),
    PracticeUnit("twin fans", "Ice store, roof", {
        "unit": _out(kind="package_unit", fan_amps_a=1.93, tons=5, sisters=1, switch={"kind": "contactor", "poles": 2}, run_capacitor="own"),
        "motor": {**_COND, "hp": 1 / 3, "volts": "208-230", "amps_a": 1.93, "rpm": 1100, "capacitor_uf": 7.5, "capacitor_v": 370},
        "capacitor": _single(7.5), "hookup": _leads("black", "brown", "white")}),
    PracticeUnit("three-phase fan", "Boat yard, paint loft roof", {
        "unit": {**_out(kind="package_unit", supply_v=460, phase=3, tons=7.5, run_capacitor="none", switch={"kind": "contactor", "poles": 3})},
        "motor": {**_COND, "kind": "three_phase", "hp": 0.75, "volts": "208-230/460", "amps_a": 3.2, "phase": 3, "rpm": 1140, "service_factor": 1.15}}),
    PracticeUnit("commutated fan", "Harbour office, east side", {
        "unit": _out(fan_amps_a=2.4, tons=3, run_capacitor="none", switch={"kind": "board"}),
        "motor": {**_COND, "kind": "ecm", "ecm_control": "constant_speed", "hp": 1 / 3, "volts": "208-230", "amps_a": 2.4, "rpm": 1050, "leads": 5}}),
    PracticeUnit("furnace blower", "Chapel, cellar", {
        "unit": _in("furnace", 120, switch={"kind": "board"}, run_capacitor="own", speeds_used=[2], tons=2.5),
        "motor": {**_BLOW, "hp": 1 / 3, "volts": "115", "amps_a": 3.85, "rpm": 1075, "speeds": 3, "leads": 6, "capacitor_uf": 10, "capacitor_v": 370},
        "capacitor": _single(10),
        "hookup": {"leads": [{"lead": "white", "ends": ["main.1", "aux.1"]}, {"lead": "black", "ends": ["main.s1"]}, {"lead": "blue", "ends": ["main.s2"]},
                             {"lead": "red", "ends": ["main.s3"]}, {"lead": "brown", "ends": ["aux.2"]}]}}),
    PracticeUnit("air handler", "Bakery, over the oven room", {
        "unit": _in("air_handler", 230, switch={"kind": "relay", "poles": 1}, run_capacitor="own", tons=3),
        "motor": {**_BLOW, "hp": 1 / 3, "volts": "208-230", "amps_a": 1.93, "rpm": 1075, "speeds": 1, "leads": 3, "capacitor_uf": 7.5, "capacitor_v": 370},
        "capacitor": _single(7.5), "hookup": _leads("black", "brown", "white")}),
    PracticeUnit("commutated blower", "Infirmary, plant room", {
        "unit": _in("air_handler", 230, switch={"kind": "board"}, run_capacitor="none", tons=3),
        "motor": {**_BLOW, "kind": "ecm", "ecm_control": "constant_torque", "hp": 0.5, "volts": "208-230", "amps_a": 3.6, "rpm": 1050, "speeds": 5}}),
    PracticeUnit("belt blower", "Sail loft, mezzanine", {
        "unit": _in("package_unit", 460, phase=3, switch={"kind": "starter", "poles": 3}, run_capacitor="none", tons=10),
        "motor": {**_BLOW, "kind": "three_phase", "drive": "belt", "hp": 1.5, "volts": "208-230/460", "amps_a": 5.2, "phase": 3, "rpm": 1725, "service_factor": 1.15, "mount": "base", "protection": "none"}}),
    PracticeUnit("fan coil", "Ferry cabin, ticket side", {
        "unit": _in("fan_coil", 120, switch={"kind": "remote_switch"}, run_capacitor="none", tons=1),
        "motor": {**_BLOW, "kind": "shaded_pole", "hp": 1 / 12, "volts": "115", "amps_a": 3.96, "rpm": 1050, "speeds": 1, "leads": 2}}),
    PracticeUnit("inducer", "School, boiler corner", {
        "unit": _in("furnace", 120, switch={"kind": "board"}, run_capacitor="none"),
        "motor": {**_INDU, "kind": "shaded_pole", "hp": 1 / 30, "volts": "115", "amps_a": 1.58, "rpm": 3000, "leads": 2}}),
    PracticeUnit("PSC inducer", "Net store, loft", {
        "unit": _in("furnace", 120, switch={"kind": "board"}, run_capacitor="own"),
        "motor": {**_INDU, "kind": "psc", "hp": 1 / 25, "volts": "115", "amps_a": 0.85, "rpm": 3200, "protection": "impedance", "leads": 3, "capacitor_uf": 4, "capacitor_v": 370},
        "capacitor": _single(4), "hookup": _leads("black", "brown", "white")}),
)  # fmt: skip
BY_NAME = {unit.name: unit for unit in UNITS}
