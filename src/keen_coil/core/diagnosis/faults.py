"""The faults of the contract: the link each sits in, the verdict it leads to, how often it is met, its words.

The three numbers are how often a fault is met among 100 or so calls for a condenser fan, an indoor blower, an
inducer (trade judgement, not counted); `ages` says whether it grows with the unit's years.
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
    """A row of the fault table; `needs` names what the unit must have for the fault to be possible."""

    link: Link | None
    verdict: Verdict
    met: tuple[float, float, float]
    says: str
    ages: bool = False
    needs: str = ""


_OUT: Verdict = "not_the_motor"
_CAP: Verdict = "replace_capacitor"
_BAD: Verdict = "condemn_motor"
FAULTS: dict[str, FaultRow] = {
    "supply_missing": FaultRow("supply", _OUT, (2, 2, 1), "No supply reaches the unit."),
    "supply_low": FaultRow("supply", _OUT, (1, 1, 1), "The supply is low."),
    "supply_high": FaultRow("supply", _OUT, (0.4, 0.4, 0.4), "The supply is high."),
    "voltage_unbalance": FaultRow("supply", _OUT, (2, 2, 1), "The three line volts are out of balance.", needs="three_phase"),
    "phase_lost": FaultRow("supply", _OUT, (4, 4, 1), "A phase is lost.", needs="three_phase"),
    "breaker_tripped": FaultRow("protection", _OUT, (2, 2, 1), "The breaker has tripped; what tripped it may still be there."),
    "disconnect_open": FaultRow("disconnect", _OUT, (1.5, 1, 0.7), "The disconnect is open."),
    "fuse_open": FaultRow("protection", _OUT, (1.5, 1.5, 1.5), "A fuse is blown; what blew it is still there."),
    "starter_overload_tripped": FaultRow("protection", _OUT, (4, 4, 4), "The starter overload has tripped.", needs="starter"),
    "switch_not_pulled_in": FaultRow("switching", _OUT, (3, 2.5, 1.5), "The fan is called for, and the switch has not pulled in."),
    "switch_contacts_bad": FaultRow("switching", _OUT, (4, 3, 2), "The switch has pulled in and does not pass the volts on.", ages=True),
    "switch_welded": FaultRow("switching", _OUT, (0.3, 0.2, 0.1), "The switch's contacts are welded: it stays on without a call.", True, "not_ecm"),
    "control_call_absent": FaultRow("control", _OUT, (4, 5, 5), "Nothing calls for the fan."),
    "defrost_hold": FaultRow("control", _OUT, (2, 0, 0), "Defrost holds the fan off.", needs="heat_pump"),
    "delay_hold": FaultRow("control", _OUT, (1, 1.2, 1), "A delay holds the fan off."),
    "fan_control_hold": FaultRow("control", _OUT, (0.8, 0.4, 0.2), "A fan control holds the fan off.", needs="fan_control"),
    "leak_lockout_hold": FaultRow("control", _OUT, (0.4, 0.4, 0.2), "The leak lockout holds the fan off.", needs="flammable"),
    "board_lockout": FaultRow("control", _OUT, (1, 1.5, 3), "The board is in lockout."),
    "door_switch_open": FaultRow("control", _OUT, (0.2, 1.5, 1.5), "The door switch is open.", needs="indoor"),
    "safety_open": FaultRow("control", _OUT, (2, 2, 3), "A safety is open."),
    "pressure_switch_stuck": FaultRow("control", _OUT, (0.2, 0.3, 4), "A pressure switch is stuck closed."),
    "conductor_open": FaultRow("wiring", _OUT, (1.5, 1.2, 1), "A conductor is open."),
    "conductor_chafed": FaultRow("wiring", _OUT, (1.5, 0.8, 0.6), "A conductor has rubbed through."),
    "connection_bad": FaultRow("connections", _OUT, (3, 3, 3), "A connection is bad.", ages=True),
    "miswired": FaultRow("connections", _OUT, (0.6, 0.6, 0.4), "It is wired wrong."),
    "capacitor_open": FaultRow("capacitor", _CAP, (5, 4, 2), "The run capacitor is open.", True, "capacitor"),
    "capacitor_weak": FaultRow("capacitor", _CAP, (16, 12, 6), "The run capacitor is weak.", True, "capacitor"),
    "capacitor_high": FaultRow("capacitor", _CAP, (0.3, 0.3, 0.2), "The run capacitor reads high.", False, "capacitor"),
    "capacitor_shorted": FaultRow("capacitor", _CAP, (0.7, 0.6, 0.4), "The run capacitor is shorted.", False, "capacitor"),
    "capacitor_grounded": FaultRow("capacitor", _CAP, (0.5, 0.3, 0.2), "The run capacitor is grounded to its can.", False, "capacitor"),
    "capacitor_damaged": FaultRow("capacitor", _CAP, (4, 2, 1), "The run capacitor is damaged.", True, "capacitor"),
    "capacitor_wrong_value": FaultRow("capacitor", _CAP, (1.5, 1.5, 0.5), "The run capacitor is not the value the motor asks for.", False, "capacitor"),
    "capacitor_under_rated": FaultRow("capacitor", _CAP, (0.5, 0.5, 0.3), "The run capacitor is rated below the motor's volts.", False, "capacitor"),
    "winding_run_open": FaultRow("windings", _BAD, (1.2, 1.2, 1.2), "The run winding is open.", True, "psc"),
    "winding_start_open": FaultRow("windings", _BAD, (2, 1.5, 1), "The start winding is open.", True, "psc"),
    "winding_open": FaultRow("windings", _BAD, (1.5, 1.5, 3), "A winding is open.", True, "not_ecm"),
    "winding_tap_open": FaultRow("windings", "usable_limited", (0.7, 3, 1), "A speed tap is open.", True, "taps"),
    "winding_turns_shorted": FaultRow("windings", _BAD, (1.5, 1.2, 1.2), "Turns of a winding are shorted.", True, "not_ecm"),
    "winding_grounded": FaultRow("insulation", _BAD, (2, 1.2, 1), "A winding is grounded to the frame.", True, "not_ecm"),
    "insulation_low": FaultRow("insulation", "dry_and_retest", (1, 0.6, 0.8), "The insulation is too low to energise.", False, "not_ecm"),
    "overload_tripped": FaultRow("overload", "cool_and_retest", (4, 3, 2), "The internal overload is open; it may close when cool.", False, "overload"),
    "overload_open": FaultRow("overload", _BAD, (0.8, 0.6, 0.6), "The internal overload stays open on a cool motor.", False, "overload"),
    "bearings_worn": FaultRow("bearings", "runs_worn", (10, 10, 12), "The bearings are worn.", True),
    "bearings_seized": FaultRow("bearings", _BAD, (5, 4, 8), "The bearings have seized.", True),
    "load_damaged": FaultRow("load", _OUT, (1.5, 2.5, 1.5), "The blade or wheel is damaged, packed or the wrong way round."),
    "load_jammed": FaultRow("load", _OUT, (2, 1, 2), "Something jams the blade or wheel."),
    "load_rubbing": FaultRow("load", _OUT, (2, 2, 2), "The blade or wheel rubs."),
    "hub_loose": FaultRow("load", _OUT, (1.2, 1.5, 1), "The hub slips on the shaft."),
    "belt_bad": FaultRow("load", _OUT, (6, 9, 1), "The belt is bad.", True, "belt"),
    "wrong_rotation": FaultRow("load", _OUT, (1, 1, 0.3), "It turns the wrong way."),
    "wrong_motor_fitted": FaultRow("load", "replace_wrong_motor", (0.8, 0.8, 0.5), "The motor that is fitted does not belong here."),
    "air_restricted": FaultRow("air", _OUT, (6, 8, 1), "The air path is restricted."),
    "ecm_command_absent": FaultRow("control", _OUT, (4, 4, 4), "No command reaches the motor.", False, "ecm"),
    "ecm_power_absent": FaultRow("supply", _OUT, (3, 3, 3), "No line power reaches the motor.", False, "ecm"),
    "ecm_module": FaultRow("windings", "replace_module", (12, 12, 10), "The motor's module has failed.", True, "ecm"),
    "ecm_motor": FaultRow("windings", _BAD, (2, 2, 2), "The commutated motor has failed behind its module.", True, "ecm"),
    "ecm_module_or_motor": FaultRow("windings", _BAD, (0, 0, 0), "Module or motor has failed.", False, "ecm"),
    "vent_or_drain_blocked": FaultRow("air", _OUT, (0, 0.3, 8), "Vent or drain is blocked.", False, "combustion"),
    "parallel_load_fault": FaultRow("protection", _OUT, (1.2, 0.7, 0.6), "Something else on the same circuit is at fault."),
    "none": FaultRow(None, "no_fault_found", (5, 5, 5), "No fault was found."),
}  # fmt: skip
TRIPS = ("breaker_tripped", "fuse_open", "starter_overload_tripped")
"""These say what happened and not why: no motor is acquitted by them before the dead tests to ground."""
UNIONS: dict[str, tuple[str, ...]] = {
    "ecm_module_or_motor": ("ecm_module", "ecm_motor"),
    "winding_open": ("winding_open", "winding_run_open", "winding_start_open"),
}
"""A fault that stands for one of several when the readings do not tell which."""

ONE_OF: tuple[tuple[str, ...], ...] = (
    ("supply_missing", "supply_low", "supply_high"),
    ("capacitor_open", "capacitor_weak", "capacitor_high", "capacitor_shorted"),
    ("winding_run_open", "winding_start_open", "winding_open"),
    ("winding_grounded", "insulation_low"),
    ("overload_tripped", "overload_open"),
    ("bearings_worn", "bearings_seized"),
    ("ecm_module", "ecm_motor"),
    ("switch_not_pulled_in", "switch_contacts_bad", "switch_welded"),
    ("switch_not_pulled_in", "switch_contacts_bad", "control_call_absent"),
)
"""Faults of which at most one is true at a time: states of the same part."""

LEADS_TO: tuple[tuple[str, str, float], ...] = (
    ("winding_grounded", "breaker_tripped", 0.5), ("winding_grounded", "fuse_open", 0.4),
    ("conductor_chafed", "breaker_tripped", 0.4), ("conductor_chafed", "fuse_open", 0.5),
    ("capacitor_grounded", "breaker_tripped", 0.5), ("capacitor_shorted", "breaker_tripped", 0.2),
    ("winding_turns_shorted", "breaker_tripped", 0.2), ("parallel_load_fault", "breaker_tripped", 0.3),
    ("parallel_load_fault", "fuse_open", 0.2), ("bearings_seized", "starter_overload_tripped", 0.5),
    ("phase_lost", "starter_overload_tripped", 0.4), ("voltage_unbalance", "starter_overload_tripped", 0.3),
    ("fuse_open", "phase_lost", 0.5), ("bearings_worn", "starter_overload_tripped", 0.1),
    ("capacitor_damaged", "capacitor_weak", 0.45), ("capacitor_damaged", "capacitor_open", 0.2),
    ("bearings_seized", "overload_tripped", 0.15), ("bearings_worn", "overload_tripped", 0.1),
    ("capacitor_weak", "overload_tripped", 0.1), ("capacitor_open", "overload_tripped", 0.1),
    ("air_restricted", "overload_tripped", 0.08), ("load_jammed", "overload_tripped", 0.15),
    ("wrong_motor_fitted", "overload_tripped", 0.15), ("voltage_unbalance", "overload_tripped", 0.1),
    ("vent_or_drain_blocked", "safety_open", 0.2), ("air_restricted", "safety_open", 0.06),
    ("supply_low", "overload_tripped", 0.1), ("bearings_worn", "load_rubbing", 0.08),
    ("bearings_worn", "capacitor_weak", 0.2), ("starter_overload_tripped", "switch_not_pulled_in", 0.8),
    ("breaker_tripped", "supply_missing", 0.7), ("disconnect_open", "supply_missing", 0.5),
    *((held, "control_call_absent", 0.8) for held in (
        "supply_missing", "breaker_tripped", "disconnect_open", "safety_open", "defrost_hold", "delay_hold", "board_lockout",
        "door_switch_open", "leak_lockout_hold", "fan_control_hold", "pressure_switch_stuck",
    )),
    *((held, "ecm_command_absent", 0.8) for held in (
        "control_call_absent", "safety_open", "defrost_hold", "delay_hold", "board_lockout", "door_switch_open",
        "leak_lockout_hold", "fan_control_hold", "supply_missing", "breaker_tripped", "conductor_open", "connection_bad",
    )),
    *((gone, "ecm_power_absent", 0.95) for gone in ("supply_missing", "breaker_tripped", "disconnect_open", "fuse_open")),
    ("conductor_open", "ecm_power_absent", 0.4), ("connection_bad", "ecm_power_absent", 0.4),
    ("switch_contacts_bad", "ecm_power_absent", 0.4), ("vent_or_drain_blocked", "board_lockout", 0.4),
    ("safety_open", "board_lockout", 0.3), ("pressure_switch_stuck", "board_lockout", 0.5),
)
"""What one fault brings about: cause, consequence, how often. Other pairs are independent."""
