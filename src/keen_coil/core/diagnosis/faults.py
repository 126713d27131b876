"""The faults of the contract: the link each sits in, the verdict it leads to, its words.

`prior_bits` is the log2 odds of the fault before any reading, on a call that something is wrong (trade).
"""

from __future__ import annotations

from typing import Literal, NamedTuple

Verdict = Literal[
    "condemn_motor", "dry_and_retest", "cool_and_retest", "replace_module", "replace_wrong_motor",
    "replace_capacitor", "not_the_motor", "usable_limited", "runs_worn", "no_fault_found", "not_proved",
]  # fmt: skip
ORDER: tuple[Verdict, ...] = (
    "condemn_motor", "dry_and_retest", "cool_and_retest", "replace_module", "replace_wrong_motor",
    "replace_capacitor", "not_the_motor", "usable_limited", "runs_worn",
)  # fmt: skip
Link = Literal[
    "supply", "protection", "disconnect", "switching", "control", "wiring", "connections", "capacitor",
    "windings", "overload", "insulation", "bearings", "load", "air",
]  # fmt: skip
LINKS: tuple[Link, ...] = (
    "supply", "protection", "disconnect", "switching", "control", "wiring", "connections", "capacitor",
    "windings", "overload", "insulation", "bearings", "load", "air",
)  # fmt: skip


MOTOR_LINKS: frozenset[str] = frozenset({"windings", "overload", "insulation", "bearings"})


class FaultRow(NamedTuple):
    """A row of the fault table."""

    link: Link | None
    verdict: Verdict
    prior_bits: float
    says: str


_OUT: Verdict = "not_the_motor"
_CAP: Verdict = "replace_capacitor"
_BAD: Verdict = "condemn_motor"
FAULTS: dict[str, FaultRow] = {
    "supply_missing": FaultRow("supply", _OUT, -6, "No supply reaches the unit."),
    "supply_low": FaultRow("supply", _OUT, -7, "The supply is low."),
    "supply_high": FaultRow("supply", _OUT, -8, "The supply is high."),
    "voltage_unbalance": FaultRow("supply", _OUT, -8, "The three line volts are out of balance."),
    "phase_lost": FaultRow("supply", _OUT, -8, "A phase is lost."),
    "breaker_tripped": FaultRow("protection", _OUT, -6, "The breaker has tripped; what tripped it is still there."),
    "disconnect_open": FaultRow("disconnect", _OUT, -7, "The disconnect is open."),
    "fuse_open": FaultRow("protection", _OUT, -7, "A fuse is blown; what blew it is still there."),
    "starter_overload_tripped": FaultRow("protection", _OUT, -8, "The starter overload has tripped."),
    "switch_not_pulled_in": FaultRow("switching", _OUT, -5, "The fan is called for, and the switch has not pulled in."),
    "switch_contacts_bad": FaultRow("switching", _OUT, -5, "The switch has pulled in and does not pass the volts on."),
    "control_call_absent": FaultRow("control", _OUT, -5, "Nothing calls for the fan."),
    "defrost_hold": FaultRow("control", _OUT, -7, "Defrost holds the fan off."),
    "delay_hold": FaultRow("control", _OUT, -7, "A delay holds the fan off."),
    "fan_control_hold": FaultRow("control", _OUT, -7, "A fan control holds the fan off."),
    "leak_lockout_hold": FaultRow("control", _OUT, -9, "The leak lockout holds the fan off."),
    "board_lockout": FaultRow("control", _OUT, -7, "The board is in lockout."),
    "door_switch_open": FaultRow("control", _OUT, -8, "The door switch is open."),
    "safety_open": FaultRow("control", _OUT, -7, "A safety is open."),
    "pressure_switch_stuck": FaultRow("control", _OUT, -8, "A pressure switch is stuck closed."),
    "conductor_open": FaultRow("wiring", _OUT, -6, "A conductor is open."),
    "conductor_chafed": FaultRow("wiring", _OUT, -7, "A conductor has rubbed through."),
    "connection_bad": FaultRow("connections", _OUT, -6, "A connection is bad."),
    "miswired": FaultRow("connections", _OUT, -8, "It is wired wrong."),
    "capacitor_open": FaultRow("capacitor", _CAP, -5, "The run capacitor is open."),
    "capacitor_weak": FaultRow("capacitor", _CAP, -4, "The run capacitor is weak."),
    "capacitor_high": FaultRow("capacitor", _CAP, -8, "The run capacitor reads high."),
    "capacitor_shorted": FaultRow("capacitor", _CAP, -7, "The run capacitor is shorted."),
    "capacitor_grounded": FaultRow("capacitor", _CAP, -8, "The run capacitor is grounded to its can."),
    "capacitor_damaged": FaultRow("capacitor", _CAP, -6, "The run capacitor is damaged."),
    "capacitor_wrong_value": FaultRow("capacitor", _CAP, -7, "The run capacitor is not the value the motor asks for."),
    "capacitor_under_rated": FaultRow("capacitor", _CAP, -8, "The run capacitor is rated below the motor's volts."),
    "winding_run_open": FaultRow("windings", _BAD, -7, "The run winding is open."),
    "winding_start_open": FaultRow("windings", _BAD, -7, "The start winding is open."),
    "winding_open": FaultRow("windings", _BAD, -7, "A winding is open."),
    "winding_tap_open": FaultRow("windings", "usable_limited", -8, "A speed tap is open."),
    "winding_turns_shorted": FaultRow("windings", _BAD, -7, "Turns of a winding are shorted."),
    "winding_grounded": FaultRow("insulation", _BAD, -7, "A winding is grounded to the frame."),
    "insulation_low": FaultRow("insulation", "dry_and_retest", -8, "The insulation is too low to energise."),
    "overload_tripped": FaultRow("overload", "cool_and_retest", -6, "The internal overload is open; it may close when cool."),
    "overload_open": FaultRow("overload", _BAD, -8, "The internal overload stays open on a cool motor."),
    "bearings_worn": FaultRow("bearings", "runs_worn", -5, "The bearings are worn."),
    "bearings_seized": FaultRow("bearings", _BAD, -6, "The bearings have seized."),
    "load_damaged": FaultRow("load", _OUT, -7, "The blade is damaged or packed."),
    "load_jammed": FaultRow("load", _OUT, -7, "The blade is jammed."),
    "load_rubbing": FaultRow("load", _OUT, -7, "The blade rubs."),
    "hub_loose": FaultRow("load", _OUT, -7, "The hub slips on the shaft."),
    "belt_bad": FaultRow("load", _OUT, -8, "The belt is bad."),
    "wrong_rotation": FaultRow("load", _OUT, -8, "It turns the wrong way."),
    "wrong_motor_fitted": FaultRow("load", "replace_wrong_motor", -8, "The motor that is fitted does not belong here."),
    "air_restricted": FaultRow("air", _OUT, -6, "The air path is restricted."),
    "ecm_command_absent": FaultRow("control", _OUT, -8, "No command reaches the motor."),
    "ecm_power_absent": FaultRow("supply", _OUT, -8, "No line power reaches the motor."),
    "ecm_module": FaultRow("windings", "replace_module", -8, "The motor's module has failed."),
    "ecm_motor": FaultRow("windings", _BAD, -8, "The commutated motor has failed behind its module."),
    "ecm_module_or_motor": FaultRow("windings", _BAD, -8, "Module or motor has failed."),
    "vent_or_drain_blocked": FaultRow("air", _OUT, -8, "Vent or drain is blocked."),
    "parallel_load_fault": FaultRow("protection", _OUT, -9, "Something else on the same circuit is at fault."),
    "none": FaultRow(None, "no_fault_found", -6, "No fault was found."),
}  # fmt: skip
CAPACITOR_FAULTS = tuple(name for name, row in FAULTS.items() if row.verdict == _CAP)
