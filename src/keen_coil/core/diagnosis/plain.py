"""What a fault means, for the customer in plain words: one sentence each, no trade terms that need explaining.

And how it was found out: what was done, by the kind of reading.
"""

from __future__ import annotations

from collections.abc import Iterable

from ..readings import Reading
from ..vocabulary import Verdict

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
JUDGED: dict[Verdict, str] = {
    "condemn_motor": "The fan motor had failed.",
    "replace_module": "The electronics of the fan motor had failed.",
    "replace_capacitor": "The part that helps the fan motor start and run, its capacitor, had failed.",
    "replace_wrong_motor": "A motor that does not belong in this unit had been fitted earlier.",
    "not_the_motor": "The fan motor itself was good; the cause lay elsewhere.",
    "runs_worn": "The motor is worn; it still runs.",
    "usable_limited": "One of the motor's speeds had failed; the others still work.",
    "cool_and_retest": "The motor had overheated and must cool before it is tested again.",
    "dry_and_retest": "The motor had taken up moisture and must dry before it is tested again.",
    "no_fault_found": "Nothing was found wrong.",
}
"""What a technician's judgement means, for the customer, where the program has not proved a cause."""
OF_THE_OLD: dict[str, str] = {
    "bearings_worn": "The old motor's bearings were worn out.",
    "overload_tripped": "The old motor had overheated and switched itself off.",
    "winding_tap_open": "One of the old motor's speeds had failed.",
    "insulation_low": "The old motor had taken up moisture and could not be switched on safely.",
    "runs_worn": "The old motor was worn out.",
    "usable_limited": "One of the old motor's speeds had failed.",
    "cool_and_retest": "The old motor had overheated.",
    "dry_and_retest": "The old motor had taken up moisture.",
}
"""What is said of a fault or a verdict once the motor is renewed: nothing of it lasts."""
NEVER_JUDGED = "The part was renewed; what had failed in it was not proved."


def plain_finding(
    verdict: Verdict, fault: str | None, judged: Verdict | None, renewed: bool, proved: bool, motor_in: bool = False
) -> str:
    """What was found, for the customer: the fault where it is proved, else the technician's judgement, else neither.

    Parameters: the program's verdict and leading fault; the technician's; whether a part was renewed; whether a fault
    carries the verdict (`proved`); whether the new motor is in.
    """
    old = OF_THE_OLD if motor_in else {}
    if verdict != "not_proved" and fault in PLAIN and proved:
        return old.get(str(fault), PLAIN[str(fault)])
    if verdict != "not_proved":
        return old.get(verdict, JUDGED[verdict])
    if judged is not None:
        said = old.get(judged, JUDGED[judged])
        return f"In the technician's judgement: {said[0].lower()}{said[1:]}"
    return NEVER_JUDGED if renewed else NOT_YET


LOOKED: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("the voltage was measured", ("supply_v", "contact_drop_v", "ecm_power")),
    ("the call for the fan was checked", ("control_call", "ecm_command")),
    ("the safety switches were checked", ("safety",)),
    ("the holds of the controls were checked", ("hold",)),
    ("the switching relay was checked", ("switch_pulled_in",)),
    ("the breaker was checked", ("breaker",)),
    ("the fuses were checked", ("fuse",)),
    ("the disconnect was checked", ("disconnect",)),
    ("the motor's protective switch was checked", ("starter_overload",)),
    ("the wires were checked", ("conductor",)),
    ("the wire connections were checked", ("connection",)),
    ("the capacitor was measured", ("capacitance_uf", "capacitor_load", "capacitor_case_ohm")),
    ("the capacitor was looked at", ("capacitor_look",)),
    ("the motor's windings were measured", ("winding_ohm", "ecm_winding_ohm")),
    ("the motor was tested against its case", ("ground_ohm", "insulation_mohm", "ecm_ground_ohm")),
    ("the shaft was turned by hand", ("spin", "side_play")),
    ("the blade or wheel was looked at", ("load_look",)),
    ("the belt was looked at", ("belt_look",)),
    ("the current was measured", ("run_amps_a", "sister_amps_a")),
    ("the air path was looked at", ("air_path",)),
    ("vent and drain were looked at", ("vent_drain",)),
    ("the air was measured", ("air_speed_fpm",)),
    ("the pressure was measured", ("static_inwc", "draught_inwc")),
    ("carbon monoxide was measured", ("co_ppm",)),
    ("temperatures were taken", ("shell_c", "sister_shell_c", "air_c")),
    ("its speed was measured", ("run_rpm",)),
)
"""What was done, in plain words, for kinds of reading: nothing is said that no reading stands behind."""
TRIED: dict[str, str] = {
    "good_capacitor": "a good capacitor was tried",
    "other_speed": "another speed was tried",
    "push": "it was helped to start",
    "other_module": "other electronics were tried",
    "direct_power": "it was tried straight from the supply",
}


def what_was_done(readings: Iterable[Reading]) -> str:
    """What was looked at and measured, as one sentence; empty when nothing was."""
    taken = [reading for reading in readings if not reading.wrong_power]
    there = {reading.kind for reading in taken}
    found = [words for words, which in LOOKED if there & set(which)]
    tried = {str(reading.with_) for reading in taken if reading.kind == "trial"}
    found += [words for key, words in TRIED.items() if key in tried]
    if not found:
        return ""
    said = found[0] if len(found) == 1 else ", ".join(found[:-1]) + " and " + found[-1]
    return said[0].upper() + said[1:] + "."
