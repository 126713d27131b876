"""The evidence table: how likely each answer of each test is, given a fault. Trade judgement and physics, by row.

A row gives the chance of each answer when the named fault is there; `other` is the row of every fault not named,
and of no fault. 0 means that physics excludes the answer. A row may sum to less than 1 where the rest comes by a
second fault that the first brings about (`faults.LEADS_TO`), and to more where an answer can only come from one
kind of unit (a lost phase). Of two faults the likelier abnormal answer counts.
"""

from __future__ import annotations

from typing import NamedTuple

Row = tuple[float, ...]


class Question(NamedTuple):
    """One test or look: its answers, how many of them (the first ones) are normal, the rows."""

    title: str
    answers: tuple[str, ...]
    normal: int
    other: Row
    rows: dict[str, Row]


def _rows(table: dict[str, Row]) -> dict[str, Row]:
    """A table whose keys name one or several faults, by single fault."""
    return {fault: row for names, row in table.items() for fault in names.split()}


def _fact(title: str, good: str, bad: str, fault: str, miss: float = 0.0, slip: float = 0.0001, **more: Row) -> Question:
    """A fault that is itself what is read: good or bad, `miss` the chance to overlook it, `slip` to see it wrongly."""
    return Question(title, (good, bad), 1, (1 - slip, slip), {fault: (miss, 1 - miss), **more})


HELD = "defrost_hold delay_hold fan_control_hold leak_lockout_hold board_lockout door_switch_open safety_open pressure_switch_stuck"
UNFED = f"supply_missing breaker_tripped disconnect_open switch_not_pulled_in control_call_absent ecm_power_absent ecm_command_absent starter_overload_tripped {HELD}"
BROKEN = "winding_open overload_open"
HUMS = "capacitor_open winding_start_open bearings_seized load_jammed"
SYMPTOMS = ("quiet", "hums_no_start", "slow_start", "stops_hot", "trips", "runs_backwards", "noisy", "weak_air", "high_pressure_lockout", "other")
_AMPS: dict[str, Row] = {
    UNFED: (0.002, 0.001, 0.007, 0.99), "fuse_open conductor_open": (0.03, 0.15, 0.1, 0.72),
    f"{BROKEN} overload_tripped": (0.01, 0.01, 0.03, 0.95), "ecm_module ecm_motor": (0.1, 0.05, 0.2, 0.65),
    "capacitor_weak": (0.62, 0.25, 0.1, 0.03), "capacitor_wrong_value": (0.55, 0.35, 0.08, 0.02),
    "capacitor_open winding_start_open": (0.08, 0.8, 0.07, 0.05), "winding_run_open": (0.12, 0.2, 0.58, 0.1),
    "bearings_seized load_jammed": (0.02, 0.93, 0.02, 0.03), "winding_turns_shorted": (0.1, 0.85, 0.04, 0.01),
    "winding_grounded": (0.3, 0.45, 0.1, 0.15), "capacitor_shorted": (0.2, 0.55, 0.15, 0.1), "bearings_worn": (0.62, 0.3, 0.05, 0.03),
    "hub_loose belt_bad": (0.2, 0.02, 0.75, 0.03), "load_damaged": (0.6, 0.18, 0.2, 0.02), "load_rubbing": (0.52, 0.44, 0.02, 0.02),
    "supply_low": (0.6, 0.3, 0.08, 0.02), "supply_high": (0.6, 0.36, 0.02, 0.02), "voltage_unbalance": (0.5, 0.46, 0.02, 0.02),
    "phase_lost": (0.08, 0.72, 0.1, 0.1), "wrong_motor_fitted": (0.3, 0.42, 0.27, 0.01), "miswired": (0.3, 0.4, 0.15, 0.15),
    "wrong_rotation": (0.45, 0.25, 0.28, 0.02), "switch_contacts_bad connection_bad": (0.35, 0.1, 0.15, 0.4),
}  # fmt: skip
_UP, _DOWN = (0.35, 0.62, 0.02, 0.01), (0.32, 0.02, 0.65, 0.01)
_FOLDED: dict[str, Row] = {"bearings_seized load_jammed": (0.05, 0.05, 0.5, 0.4), "ecm_module ecm_motor": (0.05, 0.05, 0.3, 0.6)}
"""A commutated motor that cannot turn limits its own current."""


def _amps(turning: str, more: dict[str, Row]) -> Question:
    other = (0.92, 0.03, 0.045, 0.005) if "wheel" not in turning else (0.89, 0.03, 0.075, 0.005)
    return Question(f"running amps, {turning}", ("good", "over", "low", "none"), 1, other, _rows(_AMPS) | _rows(more))


_WINDING = ("good", "start_open", "run_open", "lead_open", "common_open", "two_lead_open", "all_open", "phase_open",
            "start_open_cool", "run_open_cool", "lead_open_cool", "common_open_cool", "two_lead_open_cool", "all_open_cool",
            "phase_open_cool", "tap_open", "taps_wrong", "phase_off", "sum_off", "short")  # fmt: skip


def _winding(default: float = 0.0, **answers: float) -> Row:
    return tuple(answers.get(name, default) for name in _WINDING)


QUESTIONS: dict[str, Question] = {
    "symptom": Question("complaint", SYMPTOMS, 0, (0.28, 0.03, 0.04, 0.08, 0.05, 0.03, 0.14, 0.14, 0.13, 0.08), _rows({
        UNFED: (0.63, 0.01, 0.01, 0.03, 0.03, 0.005, 0.01, 0.06, 0.13, 0.085),
        "breaker_tripped": (0.3, 0.02, 0.01, 0.05, 0.55, 0.005, 0.01, 0.01, 0.03, 0.015),
        "fuse_open": (0.4, 0.15, 0.02, 0.03, 0.3, 0.01, 0.01, 0.02, 0.04, 0.02), "starter_overload_tripped": (0.4, 0.08, 0.03, 0.18, 0.25, 0.005, 0.01, 0.01, 0.02, 0.015),
        "switch_contacts_bad connection_bad conductor_open": (0.52, 0.07, 0.05, 0.12, 0.06, 0.005, 0.03, 0.03, 0.09, 0.025),
        "conductor_chafed winding_grounded capacitor_grounded insulation_low": (0.2, 0.03, 0.01, 0.04, 0.66, 0.005, 0.01, 0.01, 0.02, 0.015),
        "capacitor_open winding_start_open": (0.13, 0.6, 0.07, 0.05, 0.03, 0.05, 0.01, 0.02, 0.03, 0.01),
        "capacitor_weak capacitor_damaged": (0.07, 0.38, 0.22, 0.13, 0.02, 0.05, 0.01, 0.06, 0.05, 0.01),
        "capacitor_wrong_value capacitor_high capacitor_under_rated": (0.1, 0.2, 0.2, 0.25, 0.04, 0.03, 0.04, 0.06, 0.05, 0.03),
        "capacitor_shorted": (0.15, 0.4, 0.04, 0.05, 0.3, 0.02, 0.01, 0.01, 0.01, 0.01),
        "winding_run_open": (0.4, 0.4, 0.04, 0.04, 0.04, 0.01, 0.01, 0.02, 0.03, 0.01), "winding_open overload_open ecm_module ecm_motor": (0.7, 0.06, 0.03, 0.06, 0.04, 0.01, 0.03, 0.02, 0.03, 0.02),
        "winding_turns_shorted": (0.18, 0.22, 0.12, 0.15, 0.25, 0.01, 0.02, 0.02, 0.02, 0.01), "winding_tap_open": (0.55, 0.05, 0.02, 0.02, 0.01, 0.005, 0.01, 0.2, 0.02, 0.115),
        "overload_tripped": (0.38, 0.04, 0.03, 0.4, 0.05, 0.005, 0.02, 0.02, 0.04, 0.015), "bearings_seized": (0.33, 0.43, 0.03, 0.04, 0.08, 0.001, 0.04, 0.01, 0.03, 0.009),
        "bearings_worn": (0.08, 0.07, 0.13, 0.14, 0.03, 0.001, 0.48, 0.04, 0.02, 0.009), "load_jammed": (0.35, 0.42, 0.04, 0.03, 0.07, 0.001, 0.04, 0.02, 0.02, 0.009),
        "load_rubbing": (0.03, 0.05, 0.08, 0.05, 0.02, 0.01, 0.7, 0.03, 0.02, 0.01), "load_damaged hub_loose": (0.06, 0.02, 0.03, 0.03, 0.01, 0.01, 0.45, 0.32, 0.05, 0.02),
        "belt_bad": (0.12, 0.02, 0.03, 0.03, 0.02, 0.005, 0.38, 0.36, 0.01, 0.025), "wrong_rotation": (0.02, 0.01, 0.01, 0.02, 0.01, 0.6, 0.03, 0.24, 0.04, 0.02),
        "miswired": (0.2, 0.2, 0.06, 0.06, 0.15, 0.12, 0.03, 0.08, 0.04, 0.06), "wrong_motor_fitted": (0.03, 0.05, 0.07, 0.35, 0.15, 0.04, 0.09, 0.16, 0.04, 0.02),
        "air_restricted": (0.03, 0.01, 0.02, 0.14, 0.02, 0.001, 0.06, 0.45, 0.24, 0.029), "vent_or_drain_blocked": (0.25, 0.02, 0.02, 0.05, 0.05, 0.001, 0.2, 0.1, 0.2, 0.109),
        "phase_lost": (0.2, 0.45, 0.06, 0.08, 0.17, 0.01, 0.01, 0.01, 0.005, 0.005), "voltage_unbalance": (0.03, 0.05, 0.05, 0.45, 0.3, 0.005, 0.06, 0.03, 0.01, 0.015),
        "supply_low": (0.08, 0.2, 0.3, 0.2, 0.1, 0.02, 0.02, 0.05, 0.02, 0.01), "parallel_load_fault": (0.06, 0.02, 0.02, 0.05, 0.4, 0.005, 0.05, 0.1, 0.15, 0.145),
    })),
    # control and switching
    "call": _fact("call for the fan", "present", "absent", "control_call_absent", supply_missing=(0.03, 0.0001), breaker_tripped=(0.3, 0.0001),
                  disconnect_open=(0.4, 0.0001), safety_open=(0.05, 0.0001), defrost_hold=(0.05, 0.0001), delay_hold=(0.05, 0.0001),
                  board_lockout=(0.05, 0.0001), door_switch_open=(0.03, 0.0001), leak_lockout_hold=(0.05, 0.0001), fan_control_hold=(0.3, 0.0001)),
    "hold_defrost": _fact("in defrost", "no", "yes", "defrost_hold"), "hold_delay": _fact("delay still counting", "no", "yes", "delay_hold"),
    "hold_fan_control": _fact("fan control holds it", "no", "yes", "fan_control_hold"), "hold_leak_lockout": _fact("leak lockout", "no", "yes", "leak_lockout_hold"),
    "hold_board_lockout": _fact("board in lockout", "no", "yes", "board_lockout", board_lockout=(0.0, 1.0)), "hold_door_switch": _fact("door switch open", "no", "yes", "door_switch_open"),
    "safety": Question("safety switch", ("closed", "open", "stuck"), 1, (0.9985, 0.001, 0.0005), _rows({
        "safety_open": (0.02, 0.98, 0), "pressure_switch_stuck": (0.05, 0.01, 0.94), "vent_or_drain_blocked": (0.7, 0.3, 0)})),
    "pressure_rest": Question("pressure switch at rest", ("open", "closed"), 1, (0.999, 0.001), {"pressure_switch_stuck": (0.0, 1.0)}),
    "switch": Question("switch pulled in", ("in", "out"), 1, (0.9997, 0.0003), _rows({
        "switch_not_pulled_in": (0, 1), "control_call_absent": (0.01, 0.99), "supply_missing": (0.1, 0.9), HELD: (0.4, 0.6), "starter_overload_tripped": (0.1, 0.9)})),
    "switch_uncalled": Question("switch pulled in, call not known", ("in", "out"), 1, (0.97, 0.03), _rows({
        "switch_not_pulled_in control_call_absent supply_missing": (0.002, 0.998), HELD: (0.02, 0.98), "breaker_tripped disconnect_open": (0.35, 0.65), "starter_overload_tripped": (0.1, 0.9)})),
    "contact": Question("drop across a closed contact", ("good", "out"), 1, (0.996, 0.004), {"switch_contacts_bad": (0.06, 0.94)}),
    "breaker": _fact("breaker", "closed", "tripped", "breaker_tripped"), "disconnect": _fact("disconnect", "closed", "open", "disconnect_open"),
    "fuse": _fact("fuse", "closed", "open", "fuse_open", 0.15), "starter": _fact("starter overload", "closed", "tripped", "starter_overload_tripped"),
    # volts along the way, called for
    "volts_unit": Question("volts into the unit", ("good", "low", "high", "missing", "unbalance", "phase_lost"), 1, (0.998, 0.0004, 0.0004, 0.0003, 0.0005, 0.0004), _rows({
        "supply_missing": (0, 0, 0, 1, 0, 0), "supply_low": (0.02, 0.98, 0, 0, 0, 0), "supply_high": (0.02, 0, 0.98, 0, 0, 0),
        "voltage_unbalance": (0.03, 0.01, 0.01, 0, 0.94, 0.01), "phase_lost": (0.25, 0.01, 0, 0, 0.01, 0.73)})),
    "volts_switch_line": Question("volts at the switch, line side", ("good", "low", "high", "missing", "unbalance", "phase_lost"), 1, (0.997, 0.001, 0.0005, 0.001, 0.0005, 0.001), _rows({
        "supply_missing breaker_tripped disconnect_open": (0, 0, 0, 1, 0, 0), "supply_low": (0.02, 0.98, 0, 0, 0, 0), "supply_high": (0.02, 0, 0.98, 0, 0, 0),
        "fuse_open": (0.01, 0.02, 0, 0.59, 0.03, 0.35), "voltage_unbalance": (0.03, 0.01, 0.01, 0, 0.94, 0.01), "phase_lost": (0.004, 0.02, 0, 0, 0.02, 0.95), "connection_bad": (0.85, 0.07, 0, 0.07, 0.005, 0.005)})),
    "volts_switch_load": Question("volts at the switch, load side", ("good", "low", "high", "missing", "unbalance", "phase_lost"), 1, (0.9975, 0.0008, 0.0004, 0.0005, 0.0004, 0.0004), _rows({
        UNFED: (0.002, 0, 0, 0.998, 0, 0), "supply_low": (0.02, 0.98, 0, 0, 0, 0), "supply_high": (0.02, 0, 0.98, 0, 0, 0), "fuse_open": (0.05, 0.02, 0, 0.55, 0.03, 0.35),
        "switch_contacts_bad": (0.06, 0.18, 0, 0.63, 0.03, 0.5), "voltage_unbalance": (0.03, 0.01, 0.01, 0, 0.94, 0.01), "phase_lost": (0.02, 0.02, 0, 0, 0.02, 0.94), "connection_bad": (0.9, 0.06, 0, 0.03, 0.005, 0.005)})),
    "volts_motor": Question("volts at the motor", ("good", "low", "high", "missing", "unbalance", "phase_lost"), 1, (0.9975, 0.0008, 0.0004, 0.0005, 0.0004, 0.0004), _rows({
        UNFED: (0.002, 0, 0, 0.998, 0, 0), "supply_low": (0.02, 0.98, 0, 0, 0, 0), "supply_high": (0.02, 0, 0.98, 0, 0, 0), "fuse_open": (0.04, 0.02, 0, 0.56, 0.03, 0.35),
        "switch_contacts_bad": (0.04, 0.19, 0, 0.64, 0.03, 0.5), "conductor_open": (0.01, 0.02, 0, 0.82, 0.02, 0.6), "connection_bad": (0.08, 0.2, 0, 0.62, 0.02, 0.3),
        "conductor_chafed": (0.5, 0.03, 0, 0.4, 0.02, 0.05), "voltage_unbalance": (0.03, 0.01, 0.01, 0, 0.94, 0.01), "phase_lost": (0.02, 0.02, 0, 0, 0.02, 0.94)})),
    "volts_uncalled": Question("volts behind the switch, call not known", ("good", "missing"), 1, (0.93, 0.07), _rows({
        UNFED: (0.002, 0.998), "switch_contacts_bad fuse_open conductor_open": (0.1, 0.9), "connection_bad": (0.6, 0.4)})),
    "drop": Question("drop from standing to running", ("small", "large"), 1, (0.99, 0.01), _rows({
        "switch_contacts_bad": (0.35, 0.65), "connection_bad": (0.5, 0.5), "supply_low": (0.6, 0.4), "winding_turns_shorted bearings_seized": (0.97, 0.03)})),
    # wires and connections
    "conductor": Question("the wire itself", ("sound", "open", "chafed"), 1, (0.999, 0.0005, 0.0005), _rows({"conductor_open": (0.2, 0.8, 0), "conductor_chafed": (0.2, 0.05, 0.75)})),
    "connection": _fact("terminals", "sound", "bad", "connection_bad", 0.2),
    # capacitor
    "cap_look": _fact("look of the capacitor", "sound", "damaged", "capacitor_damaged", 0.02, 0.001),
    "cap": Question("microfarads", ("good", "weak", "high", "open", "shorted", "borderline"), 1, (0.957, 0.0012, 0.0004, 0.0007, 0.0007, 0.04), _rows({
        "capacitor_weak": (0.01, 0.86, 0, 0, 0, 0.13), "capacitor_open": (0, 0.01, 0, 0.985, 0, 0.005), "capacitor_high": (0.01, 0, 0.9, 0, 0, 0.09), "capacitor_shorted": (0, 0, 0, 0.02, 0.98, 0)})),
    "cap_can": _fact("capacitor to its can", "good", "grounded", "capacitor_grounded"),
    "cap_label": Question("label against motor plate", ("right", "stated_wrong", "wrong"), 1, (0.985, 0.0148, 0.0002), {"capacitor_wrong_value": (0.0, 1.0, 1.0)}), "cap_volts": _fact("capacitor volts", "right", "under", "capacitor_under_rated"),
    "herm": Question("compressor section", ("good", "bad"), 1, (0.9993, 0.0007), {"parallel_load_fault": (0.5, 0.5)}),
    # windings and insulation, dead, leads isolated
    "winding": Question("winding pairs", _WINDING, 1, _winding(0.0001, good=0.975, taps_wrong=0.004, sum_off=0.01, short=0.003), _rows({
        "winding_start_open": _winding(start_open=1, start_open_cool=1, lead_open=0.1, lead_open_cool=0.8, all_open=0.02),
        "winding_run_open": _winding(run_open=1, run_open_cool=1, lead_open=0.1, lead_open_cool=0.8, all_open=0.02),
        "winding_open": _winding(two_lead_open=0.12, two_lead_open_cool=0.9, all_open=1, all_open_cool=1, phase_open=1, phase_open_cool=1, lead_open=0.05, lead_open_cool=0.8),
        "overload_tripped": _winding(common_open=1, two_lead_open=1, lead_open=0.7), "overload_open": _winding(common_open=0.2, common_open_cool=1, two_lead_open=0.2, two_lead_open_cool=0.3, lead_open=0.1, lead_open_cool=0.15),
        "winding_turns_shorted": _winding(good=0.25, phase_off=1, sum_off=0.3, short=0.4, taps_wrong=0.1), "winding_tap_open": _winding(good=0.3, tap_open=1), "winding_grounded": _winding(0.0001, good=0.93, sum_off=0.04, phase_off=0.01),
    })),
    "taps": Question("speed taps", ("good", "odd"), 1, (0.99, 0.01), _rows({"winding_run_open overload_tripped overload_open winding_tap_open": (0, 1)})),
    "run": Question("windings from the starter's load side", ("good", "off"), 1, (0.998, 0.002), _rows({
        "winding_open overload_tripped overload_open": (0, 1), "winding_turns_shorted": (0.15, 0.85), "conductor_open": (0.1, 0.9), "connection_bad": (0.4, 0.6), "conductor_chafed": (0.5, 0.5)})),
    "ground": Question("lead to frame, ohmmeter", ("clear", "grounded", "low", "low_dried"), 1, (0.999, 0.0003, 0.0002, 0.0002), _rows({
        "winding_grounded": (0.05, 0.93, 0.02, 0.01), "insulation_low": (0.45, 0, 0.55, 1)})),
    "megger": Question("insulation tester", ("good", "grounded", "low", "low_dried"), 1, (0.9994, 0.0002, 0.0002, 0.0001), _rows({
        "winding_grounded": (0.0, 0.993, 0.004, 0.002), "insulation_low": (0.02, 0, 0.98, 1)})),
    "line_ground": Question("to ground from the switch's load side", ("clear", "low"), 1, (0.999, 0.0005), _rows({
        "winding_grounded": (0.04, 0.96), "insulation_low": (0.3, 0.7), "conductor_chafed": (0.2, 0.8), "capacitor_grounded": (0.5, 0.5)})),
    # shaft, blade, air
    "spin": Question("turned by hand, load on", ("free", "stiff", "rough", "locked", "brakes"), 1, (0.952, 0.03, 0.004, 0.002, 0.002), _rows({
        "bearings_worn": (0.3, 0.3, 0.39, 0.01, 0), "bearings_seized": (0, 0.03, 0, 0.97, 0), "load_jammed": (0.02, 0.05, 0.02, 0.91, 0), "load_rubbing": (0.25, 0.38, 0.33, 0.04, 0),
        "ecm_module": (0.77, 0.01, 0.01, 0.01, 0.2), "ecm_motor": (0.75, 0.08, 0.05, 0.07, 0.05), "hub_loose": (0.95, 0.02, 0.03, 0, 0)})),
    "shaft": Question("bare shaft turned by hand", ("free", "stiff", "rough", "locked"), 1, (0.966, 0.03, 0.004, 0.0004), _rows({
        "bearings_worn": (0.2, 0.35, 0.43, 0.02), "bearings_seized": (0, 0.02, 0, 0.98), "ecm_motor": (0.85, 0.06, 0.05, 0.04)})),
    "play": Question("side play", ("none", "some", "much"), 1, (0.915, 0.08, 0.004), _rows({
        "bearings_worn": (0.25, 0.35, 0.4), "bearings_seized": (0.65, 0.25, 0.1), "load_rubbing": (0.75, 0.2, 0.05)})),
    "load": Question("look of blade or wheel", ("sound", "damaged", "jammed", "rubbing", "loose"), 1, (0.9965, 0.001, 0.0005, 0.001, 0.001), _rows({
        "load_damaged": (0.03, 0.95, 0.0, 0.01, 0.01), "load_jammed": (0.03, 0.0, 0.97, 0, 0), "load_rubbing": (0.12, 0.02, 0, 0.86, 0), "hub_loose": (0.25, 0, 0, 0, 0.75)})),
    "belt": _fact("belt", "sound", "bad", "belt_bad", 0.02), "vent": _fact("vent and drain", "clear", "blocked", "vent_or_drain_blocked", 0.05),
    "air": _fact("air path", "clear", "restricted", "air_restricted", 0.02, 0.004),
    "flow": Question("traverse of the air", ("even", "weak", "reversed"), 1, (0.88, 0.11, 0.01), _rows({
        "air_restricted": (0.1, 0.55, 0.35), "capacitor_weak supply_low": (0.5, 0.48, 0.02), "hub_loose belt_bad": (0.15, 0.8, 0.05), "load_damaged": (0.3, 0.55, 0.15),
        "wrong_rotation": (0.05, 0.6, 0.35), "wrong_motor_fitted": (0.4, 0.5, 0.1)})),
    "static": Question("static pressure", ("right", "high"), 1, (0.92, 0.08), _rows({"air_restricted": (0.12, 0.88)})),
    "draught": Question("draught", ("enough", "short"), 1, (0.96, 0.04), _rows({
        "vent_or_drain_blocked": (0.05, 0.95), "load_damaged hub_loose": (0.25, 0.75), "capacitor_weak supply_low": (0.55, 0.45), "bearings_worn": (0.65, 0.35), "wrong_rotation": (0.1, 0.9)})),
    # running
    "turns": Question("way it turns, called for", ("right", "wrong", "not"), 1, (0.9968, 0.0002, 0.003), _rows({
        UNFED: (0, 0, 1), f"{BROKEN} winding_run_open bearings_seized": (0, 0, 1), "overload_tripped": (0.05, 0, 0.95), "fuse_open": (0.06, 0.002, 0.938), "conductor_open": (0.04, 0.005, 0.955),
        "winding_start_open": (0.03, 0.1, 0.87), "capacitor_open": (0.08, 0.12, 0.8), "capacitor_weak": (0.57, 0.08, 0.35), "capacitor_shorted": (0.1, 0.05, 0.85), "capacitor_wrong_value capacitor_damaged": (0.72, 0.03, 0.25),
        "load_jammed": (0.01, 0, 0.99), "switch_contacts_bad": (0.12, 0, 0.88), "connection_bad": (0.2, 0.001, 0.799), "conductor_chafed capacitor_grounded winding_grounded": (0.2, 0.01, 0.79), "insulation_low": (0.6, 0, 0.4),
        "miswired": (0.44, 0.06, 0.5), "phase_lost": (0.1, 0.002, 0.898), "winding_turns_shorted": (0.35, 0.005, 0.645), "wrong_rotation": (0.005, 0.99, 0.005), "ecm_module ecm_motor": (0.04, 0.02, 0.94),
        "belt_bad hub_loose": (0.55, 0.001, 0.449), "supply_low": (0.65, 0.005, 0.345), "bearings_worn": (0.86, 0.001, 0.139), "winding_tap_open": (0.4, 0.005, 0.595), "parallel_load_fault": (0.7, 0.003, 0.297)})),
    "turns_blown": Question("way it turns, after the wind had turned it", ("right", "wrong", "not"), 1, (0.85, 0.12, 0.03), _rows({
        "capacitor_weak": (0.2, 0.75, 0.05), "capacitor_open winding_start_open": (0.1, 0.75, 0.15), "wrong_rotation": (0.01, 0.98, 0.01), UNFED: (0, 0, 1), f"{BROKEN} bearings_seized": (0, 0, 1), "overload_tripped": (0.05, 0, 0.95)})),
    "push": Question("starts with a push", ("starts", "no"), 0, (0.5, 0.5), _rows({
        f"{UNFED} {BROKEN} overload_tripped winding_run_open": (0.005, 0.995), "bearings_seized load_jammed": (0, 1), "capacitor_open winding_start_open": (0.86, 0.14), "capacitor_weak capacitor_damaged": (0.8, 0.2),
        "phase_lost": (0.75, 0.25), "capacitor_wrong_value": (0.7, 0.3), "ecm_module ecm_motor": (0.05, 0.95), "conductor_open": (0.1, 0.9)})),
    "noise": Question("noise", ("quiet", "hum", "bearing", "rub", "rattle"), 1, (0.84, 0.03, 0.04, 0.04, 0.05), _rows({
        f"{UNFED} {BROKEN} overload_tripped": (0.97, 0.01, 0.01, 0.005, 0.005), "fuse_open conductor_open switch_contacts_bad connection_bad": (0.9, 0.05, 0.02, 0.01, 0.02), HUMS: (0.12, 0.82, 0.03, 0.02, 0.01), "capacitor_weak winding_run_open capacitor_shorted": (0.4, 0.5, 0.04, 0.03, 0.03), "phase_lost": (0.1, 0.86, 0.02, 0.01, 0.01),
        "bearings_worn": (0.14, 0.08, 0.68, 0.05, 0.05), "load_damaged": (0.3, 0.04, 0.06, 0.15, 0.45), "load_rubbing": (0.08, 0.04, 0.05, 0.76, 0.07), "hub_loose": (0.25, 0.04, 0.05, 0.1, 0.56), "belt_bad": (0.3, 0.03, 0.4, 0.1, 0.17),
        "winding_turns_shorted": (0.45, 0.45, 0.05, 0.02, 0.03), "ecm_module ecm_motor": (0.85, 0.07, 0.03, 0.02, 0.03)})),
    "amps": _amps("propeller fan", {"air_restricted": _UP}), "amps_wheel": _amps("wheel in a housing", {"air_restricted vent_or_drain_blocked": _DOWN}),
    "amps_ecm": _amps("commutated, propeller fan", {**_FOLDED, "air_restricted": _UP}), "amps_ecm_wheel": _amps("commutated, wheel", {**_FOLDED, "air_restricted vent_or_drain_blocked": _DOWN}),
    "amps_airflow": _amps("commutated, constant airflow", {**_FOLDED, "air_restricted": _UP}),
    "legs": Question("three line currents", ("even", "uneven", "one_dead"), 1, (0.95, 0.045, 0.005), _rows({
        "phase_lost": (0.02, 0.13, 0.85), "fuse_open conductor_open": (0.05, 0.05, 0.9), "voltage_unbalance": (0.15, 0.84, 0.01), "winding_turns_shorted": (0.1, 0.85, 0.05), "winding_open": (0, 0.1, 0.9), "switch_contacts_bad connection_bad": (0.3, 0.35, 0.35)})),
    "sister": Question("amps beside the sister's", ("alike", "below", "above"), 1, (0.88, 0.06, 0.06), _rows({
        "hub_loose": (0.1, 0.88, 0.02), "belt_bad": (0.2, 0.78, 0.02), "winding_turns_shorted": (0.1, 0.05, 0.85), "bearings_worn": (0.45, 0.05, 0.5), "capacitor_weak": (0.4, 0.1, 0.5), "load_rubbing": (0.3, 0.02, 0.68),
        "air_restricted": (0.6, 0.1, 0.3), "wrong_motor_fitted": (0.2, 0.4, 0.4), "load_damaged": (0.5, 0.3, 0.2)})),
    "rpm": Question("running speed", ("right", "slow", "fast", "other_class"), 1, (0.945, 0.03, 0.02, 0.005), _rows({
        "capacitor_weak capacitor_wrong_value": (0.45, 0.53, 0.01, 0.01), "supply_low": (0.5, 0.48, 0.01, 0.01), "bearings_worn": (0.62, 0.36, 0.01, 0.01), "hub_loose belt_bad": (0.3, 0.02, 0.67, 0.01),
        "winding_turns_shorted": (0.15, 0.83, 0.01, 0.01), "wrong_motor_fitted": (0.2, 0.15, 0.05, 0.6), "phase_lost": (0.2, 0.79, 0.005, 0.005), "load_rubbing": (0.5, 0.48, 0.01, 0.01)})),
    "shell": Question("shell temperature", ("alike", "hot"), 1, (0.9, 0.1), _rows({
        "capacitor_weak capacitor_open bearings_worn air_restricted winding_start_open": (0.45, 0.55), "winding_turns_shorted bearings_seized load_jammed wrong_motor_fitted voltage_unbalance phase_lost overload_tripped": (0.25, 0.75)})),
    # commutated
    "ecm_power": _fact("line power at the plug", "present", "absent", "ecm_power_absent", supply_missing=(0.0, 0.0001), breaker_tripped=(0.01, 0.0001), disconnect_open=(0.0, 0.0001),
                       fuse_open=(0.05, 0.0001), conductor_open=(0.1, 0.0001), connection_bad=(0.15, 0.0001), switch_contacts_bad=(0.15, 0.0001)),
    "ecm_command": _fact("command at the plug", "present", "absent", "ecm_command_absent", control_call_absent=(0.02, 0.0001), defrost_hold=(0.05, 0.0001), delay_hold=(0.05, 0.0001), safety_open=(0.1, 0.0001), board_lockout=(0.1, 0.0001), connection_bad=(0.5, 0.0001), conductor_open=(0.5, 0.0001), switch_contacts_bad=(0.2, 0.0001), switch_not_pulled_in=(0.05, 0.0001),
                         fan_control_hold=(0.1, 0.0001), leak_lockout_hold=(0.05, 0.0001), door_switch_open=(0.05, 0.0001)),
    "ecm_windings": Question("pairs, module unplugged", ("even", "failed"), 1, (0.999, 0.001), {"ecm_motor": (0.25, 0.75)}),
    "ecm_frame": Question("frame, module unplugged", ("clear", "failed"), 1, (0.9996, 0.0004), {"ecm_motor": (0.6, 0.4)}),
    # plates, and several readings together
    "plate_fit": _fact("motor plate against unit plate", "right", "wrong", "wrong_motor_fitted", 0.4, 0.0005),
    "wired": _fact("wiring as found", "right", "wrong", "miswired", 0.4),
    "dead": Question("does not turn with everything ahead proved", ("no", "all_proved", "fed"), 1, (0.996, 0.001, 0.003), _rows({"winding_turns_shorted": (0.3, 0.7, 0.5), "miswired": (0.9, 0.02, 0.05), "ecm_module ecm_motor": (0.05, 0.5, 0.95)})),
    "whole": Question("every link proved", ("no", "yes"), 0, (0.94, 0.06), {"none": (0.05, 0.95)}),
    "runs": Question("runs the right way within its plate", ("no", "well"), 0, (0.87, 0.13), {"none": (0.1, 0.9)}),
}  # fmt: skip
