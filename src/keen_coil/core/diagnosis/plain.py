"""What a fault means, for the customer in plain words: one sentence each, no trade terms that need explaining.

And how it was found out: what was done, by the kind of reading.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from ..readings import Reading
from ..tables import records, table
from ..vocabulary import Verdict

PLAIN: dict[str, str] = {
    "supply_missing": "No power reached the unit.",
    "supply_low": "The voltage coming in was too low, which makes a motor run hot.",
    "supply_high": "The voltage coming in was too high, which overheats a motor.",
    "voltage_unbalance": "The three legs of the power supply were uneven, which overheats the motor.",
    "phase_lost": "One of the three legs of the power supply was missing.",
    "breaker_tripped": "The breaker had tripped.",
    "disconnect_open": "The power switch next to the unit was off or not making contact.",
    "fuse_open": "A fuse had blown.",
    "starter_overload_tripped": "The motor's safety cutout had tripped.",
    "switch_not_pulled_in": "The relay that turns the fan on did not work.",
    "switch_contacts_bad": "The relay that turns the fan on had burnt contacts.",
    "switch_welded": "The relay that turns the fan on was stuck on, so the fan could not be shut off.",
    "control_call_absent": "The thermostat or controls were not telling the fan to run.",
    "defrost_hold": "The unit was in defrost. It stops this fan on purpose for a few minutes.",
    "delay_hold": "A delay timer was still holding the fan off. That is normal.",
    "fan_control_hold": "The fan's own control was holding it off, as it should in cold weather.",
    "leak_lockout_hold": "The unit had shut itself off on a refrigerant leak alarm.",
    "board_lockout": "The unit's control board had shut itself off after repeated failed starts.",
    "door_switch_open": "The safety switch behind the panel was not closed.",
    "safety_open": "A safety switch had shut the unit off.",
    "pressure_switch_stuck": "A safety switch was stuck and kept the unit from starting.",
    "conductor_open": "A wire was broken.",
    "conductor_chafed": "A wire had rubbed through its insulation.",
    "connection_bad": "A wire connection was loose or burnt.",
    "miswired": "Wires had been connected wrong before our visit.",
    "capacitor_open": "The capacitor, the part that helps the fan motor start and run, had failed.",
    "capacitor_weak": "The capacitor, the part that helps the fan motor start and run, was weak.",
    "capacitor_high": "The fan motor's capacitor was out of range.",
    "capacitor_shorted": "The fan motor's capacitor had failed.",
    "capacitor_grounded": "The fan motor's capacitor had shorted to its own can.",
    "capacitor_damaged": "The fan motor's capacitor was swollen, leaking or burnt.",
    "capacitor_wrong_value": "A capacitor of the wrong size had been installed before our visit.",
    "capacitor_under_rated": "A capacitor rated too low for this motor had been installed before our visit.",
    "winding_run_open": "The fan motor had burnt out.",
    "winding_start_open": "The part of the fan motor that gets it started had burnt out.",
    "winding_open": "The fan motor had burnt out.",
    "winding_tap_open": "One of the motor's speeds had failed; the others still work.",
    "winding_turns_shorted": "The fan motor was burning out inside.",
    "winding_grounded": "The fan motor had burnt out and shorted to its housing.",
    "insulation_low": "The fan motor had water in it and was not safe to run.",
    "overload_tripped": "The fan motor had overheated and shut itself off. It may run again once it cools.",
    "overload_open": "The fan motor's overheat protection had failed for good.",
    "bearings_worn": "The fan motor's bearings are worn. It runs now, but it will lock up.",
    "bearings_seized": "The fan motor's bearings had locked up, so it could not turn.",
    "load_damaged": "The fan was damaged, packed with dirt or installed backwards.",
    "load_jammed": "Something was stuck in the fan.",
    "load_rubbing": "The fan was rubbing on its housing.",
    "hub_loose": "The fan was slipping on the motor shaft.",
    "belt_bad": "The fan belt was worn or broken.",
    "wrong_rotation": "The fan was turning backwards.",
    "wrong_motor_fitted": "The wrong motor for this unit had been installed before our visit.",
    "air_restricted": "The coil or filter was plugged with dirt, so air could not get through.",
    "ecm_command_absent": "The controls were not sending the fan motor a signal to run.",
    "ecm_power_absent": "No power reached the fan motor.",
    "ecm_module": "The electronics of the fan motor had failed.",
    "ecm_motor": "The fan motor had failed.",
    "ecm_module_or_motor": "The fan motor or its electronics had failed.",
    "vent_or_drain_blocked": "The furnace vent or drain was plugged.",
    "parallel_load_fault": "Another part on the same circuit had failed.",
    "none": "We found nothing wrong.",
}
NOT_YET = "We have not found the cause yet."
JUDGED: dict[Verdict, str] = {
    "condemn_motor": "The fan motor had failed.",
    "replace_module": "The electronics of the fan motor had failed.",
    "replace_capacitor": "The capacitor, the part that helps the fan motor start and run, had failed.",
    "replace_wrong_motor": "The wrong motor for this unit had been installed before our visit.",
    "not_the_motor": "The fan motor itself was good. The cause was something else.",
    "runs_worn": "The fan motor is worn but still runs.",
    "usable_limited": "One of the motor's speeds had failed; the others still work.",
    "cool_and_retest": "The fan motor had overheated and has to cool before we test it again.",
    "dry_and_retest": "The fan motor had water in it and has to dry before we test it again.",
    "no_fault_found": "We found nothing wrong.",
}
"""What a technician's judgment means, for the customer, where the program has not proved a cause."""
OF_THE_OLD: dict[str, str] = {
    "bearings_worn": "The old motor's bearings were worn out.",
    "overload_tripped": "The old motor had overheated and shut itself off.",
    "winding_tap_open": "One of the old motor's speeds had failed.",
    "insulation_low": "The old motor had water in it and was not safe to run.",
    "runs_worn": "The old motor was worn out.",
    "usable_limited": "One of the old motor's speeds had failed.",
    "cool_and_retest": "The old motor had overheated.",
    "dry_and_retest": "The old motor had water in it.",
}
"""What is said of a fault or a verdict once the motor is renewed: nothing of it lasts."""
NEVER_JUDGED = "We replaced the part. What exactly failed in it was not confirmed."


def plain_finding(
    verdict: Verdict, fault: str | None, judged: Verdict | None, renewed: bool, proved: bool, motor_in: bool = False
) -> str:
    """What was found, for the customer: the fault where it is proved, else the technician's judgment, else neither.

    Parameters: the program's verdict and leading fault; the technician's; whether a part was renewed; whether a fault
    carries the verdict (`proved`); whether the new motor is in.
    """
    old = OF_THE_OLD if motor_in else {}
    if verdict != "not_proved" and fault in PLAIN and proved:
        return old.get(str(fault), PLAIN[str(fault)])
    if verdict != "not_proved":
        return old.get(verdict, JUDGED[verdict])
    if judged == "no_fault_found":
        return JUDGED[judged]
    if judged is not None:
        said = old.get(judged, JUDGED[judged])
        return f"In our technician's judgment: {said[0].lower()}{said[1:]}"
    return NEVER_JUDGED if renewed else NOT_YET


LOOKED: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("we measured the voltage", ("supply_v", "contact_drop_v", "ecm_power")),
    ("we checked that the thermostat calls for the fan", ("control_call", "ecm_command")),
    ("we checked the safety switches", ("safety",)),
    ("we checked the controls", ("hold",)),
    ("we checked the relay", ("switch_pulled_in",)),
    ("we checked the breaker", ("breaker",)),
    ("we checked the fuses", ("fuse",)),
    ("we checked the disconnect", ("disconnect",)),
    ("we checked the motor's safety cutout", ("starter_overload",)),
    ("we checked the wires", ("conductor",)),
    ("we checked the wire connections", ("connection",)),
    ("we measured the capacitor", ("capacitance_uf", "capacitor_load", "capacitor_case_ohm")),
    ("we looked over the capacitor", ("capacitor_look",)),
    ("we measured the motor's windings", ("winding_ohm", "ecm_winding_ohm")),
    ("we tested the motor for shorts to ground", ("ground_ohm", "insulation_mohm", "ecm_ground_ohm")),
    ("we turned the shaft by hand", ("spin", "side_play")),
    ("we looked over the fan", ("load_look",)),
    ("we looked over the belt", ("belt_look",)),
    ("we measured the current it draws", ("run_amps_a", "sister_amps_a")),
    ("we checked the coil and filter", ("air_path",)),
    ("we checked the vent and drain", ("vent_drain",)),
    ("we measured the airflow", ("air_speed_fpm",)),
    ("we measured the pressure", ("static_inwc", "draught_inwc")),
    ("we measured carbon monoxide", ("co_ppm",)),
    ("we measured temperatures", ("shell_c", "sister_shell_c", "air_c")),
    ("we measured its speed", ("run_rpm",)),
)
"""What was done, in plain words, for kinds of reading: nothing is said that no reading stands behind."""
_VERBS = ("we measured ", "we checked the ", "we looked over ")
TRIED: dict[str, str] = {
    "good_capacitor": "we tried it on a good capacitor",
    "other_speed": "we tried it on another speed",
    "push": "we gave it a push to see if it starts",
    "other_module": "we tried another control module",
    "direct_power": "we ran it straight from the power supply",
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
    return " ".join(f"{said[0].upper()}{said[1:]}." for said in _by_verb(found))


def _by_verb(acts: Iterable[str]) -> list[str]:
    """Acts of the same verb as one sentence: `we measured the voltage and the capacitor`."""
    things: dict[str, list[str]] = {}
    for act in acts:
        verb = next((verb for verb in _VERBS if act.startswith(verb)), act)
        things.setdefault(verb, []).extend([act.removeprefix(verb)] if verb != act else [])
    return [verb + (", ".join(of[:-1]) + " and " * (len(of) > 1) + of[-1] if of else "") for verb, of in things.items()]


class PlainCause(NamedTuple):
    """A cause in a homeowner's words: why it happened, and what to look after from now on."""

    why: str
    watch: str = ""


_TABLE = table(__package__, "plain")
_CAUSES: dict[str, PlainCause] = records(PlainCause, _TABLE["causes"], "plain")
_OF_FAULTS: dict[str, str] = _TABLE["faults"]
PLAIN_FIGURES: dict[str, str] = _TABLE["figures"]
"""What a homeowner calls the figures that are read before and after."""


def why_it_happened(shown: Iterable[str], fault: str | None) -> list[str]:
    """Why it happened: the causes that readings showed, else how such a part fails."""
    found = [_CAUSES[cause].why for cause in shown if cause in _CAUSES and cause != fault]
    return found or [_OF_FAULTS[fault] for fault in [fault] if fault in _OF_FAULTS]


def what_to_watch(shown: Iterable[str]) -> list[str]:
    """What to look after once it is fixed, of the causes that readings showed."""
    return [_CAUSES[cause].watch for cause in shown if cause in _CAUSES and _CAUSES[cause].watch]
