"""What a fault means, for the customer in plain words: one sentence each, no trade terms that need explaining.

And how it was found out: what was done, by the kind of reading.
"""

from __future__ import annotations

from collections.abc import Iterable

PLAIN: dict[str, str] = {
    "supply_missing": "No power reached the unit.",
    "supply_low": "The voltage of the supply was too low, which makes a motor run hot.",
    "supply_high": "The voltage of the supply was too high, which overheats motors.",
    "voltage_unbalance": "The three phases of the supply were uneven, which overheats the motor.",
    "phase_lost": "One of the three phases of the supply was missing.",
    "breaker_tripped": "The breaker had tripped.",
    "disconnect_open": "The switch beside the unit was off or had not closed.",
    "fuse_open": "A fuse had blown.",
    "starter_overload_tripped": "The motor's protective switch had tripped.",
    "switch_not_pulled_in": "The switch that turns the fan on did not close.",
    "switch_contacts_bad": "The contacts of the switch that turns the fan on were worn.",
    "switch_welded": "The switch that turns the fan on had welded shut, so the fan could not be switched off.",
    "control_call_absent": "The controls never asked the fan to run.",
    "defrost_hold": "The unit was defrosting, which stops this fan on purpose for a while.",
    "delay_hold": "A delay timer was still holding the fan off.",
    "fan_control_hold": "The fan's own control held it off, as it does in cold weather.",
    "leak_lockout_hold": "The unit had locked itself out because of a refrigerant alarm.",
    "board_lockout": "The unit's control board had locked itself out.",
    "door_switch_open": "The switch behind the door was open.",
    "safety_open": "A safety switch had stopped the unit.",
    "pressure_switch_stuck": "A safety switch was stuck and kept the unit from starting.",
    "conductor_open": "A wire was broken.",
    "conductor_chafed": "A wire had rubbed through its insulation.",
    "connection_bad": "A wire connection was loose or burnt.",
    "miswired": "Wires had been put in the wrong places earlier.",
    "capacitor_open": "The part that helps the fan motor start and run, its capacitor, had failed.",
    "capacitor_weak": "The part that helps the fan motor start and run, its capacitor, had worn out.",
    "capacitor_high": "The motor's capacitor was out of its range.",
    "capacitor_shorted": "The motor's capacitor had failed inside.",
    "capacitor_grounded": "The motor's capacitor had failed against its own case.",
    "capacitor_damaged": "The motor's capacitor was swollen, leaking or burnt.",
    "capacitor_wrong_value": "A capacitor of the wrong size had been fitted earlier.",
    "capacitor_under_rated": "A capacitor too weak for this motor had been fitted earlier.",
    "winding_run_open": "A winding inside the fan motor had burnt through.",
    "winding_start_open": "The winding that starts the fan motor had burnt through.",
    "winding_open": "A winding inside the fan motor had burnt through.",
    "winding_tap_open": "One of the motor's speeds had failed; the others still work.",
    "winding_turns_shorted": "The winding inside the fan motor had failed.",
    "winding_grounded": "The winding inside the fan motor had broken through to its case.",
    "insulation_low": "The motor had taken up moisture and could not be switched on safely.",
    "overload_tripped": "The motor had overheated and switched itself off; it may run again once it is cool.",
    "overload_open": "The heat protection inside the motor had failed for good.",
    "bearings_worn": "The motor's bearings are worn; it runs, but it will seize.",
    "bearings_seized": "The motor's bearings had seized: it could not turn any more.",
    "load_damaged": "The fan wheel was damaged, clogged or fitted the wrong way round.",
    "load_jammed": "Something was stuck in the fan.",
    "load_rubbing": "The fan was rubbing on its housing.",
    "hub_loose": "The fan wheel was slipping on the motor's shaft.",
    "belt_bad": "The fan belt was worn or broken.",
    "wrong_rotation": "The fan was turning backwards.",
    "wrong_motor_fitted": "A motor that does not belong in this unit had been fitted earlier.",
    "air_restricted": "The coil or filter was blocked with dirt, so that the air could not get through.",
    "ecm_command_absent": "The controls sent the fan motor no signal to run.",
    "ecm_power_absent": "No power reached the fan motor.",
    "ecm_module": "The electronics of the fan motor had failed.",
    "ecm_motor": "The fan motor had failed behind its electronics.",
    "ecm_module_or_motor": "The fan motor or its electronics had failed.",
    "vent_or_drain_blocked": "The vent or the drain of the furnace was blocked.",
    "parallel_load_fault": "Another part on the same circuit had failed.",
    "none": "Nothing was found wrong.",
}
NOT_YET = "The cause is not proved yet."
LOOKED: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("the voltage was measured", ("supply_v", "contact_drop_v", "ecm_power")),
    (
        "the controls were checked",
        ("control_call", "hold", "safety", "ecm_command", "switch_pulled_in", "breaker", "fuse", "disconnect"),
    ),
    ("the wires were checked", ("conductor", "connection")),
    ("the capacitor was measured", ("capacitance_uf", "capacitor_look", "capacitor_load", "capacitor_case_ohm")),
    ("the motor's windings were measured", ("winding_ohm", "ecm_winding_ohm")),
    ("the motor was tested against its case", ("ground_ohm", "insulation_mohm", "ecm_ground_ohm")),
    ("the shaft was turned by hand", ("spin", "side_play")),
    ("the fan wheel was looked at", ("load_look", "belt_look")),
    ("the current was measured", ("run_amps_a", "sister_amps_a")),
    ("the air path was looked at", ("air_path", "air_speed_fpm", "static_inwc", "draught_inwc", "vent_drain")),
    ("other parts were tried in its place", ("trial",)),
    ("carbon monoxide was measured", ("co_ppm",)),
    ("its temperature was taken", ("shell_c", "sister_shell_c", "air_c")),
)
"""What was done, in plain words, for kinds of reading."""


def what_was_done(kinds: Iterable[str]) -> str:
    """What was looked at and measured, as one sentence; empty when nothing was."""
    there = set(kinds)
    found = [words for words, which in LOOKED if there & set(which)]
    if not found:
        return ""
    said = found[0] if len(found) == 1 else ", ".join(found[:-1]) + " and " + found[-1]
    return said[0].upper() + said[1:] + "."
