"""The vocabularies of the contract, each written once: call file, database checks, API schemas, forms are made of them.

A type and, through `words_of`, its words in their order. Vocabularies with more to a word than the word are tables:
faults in `diagnosis/faults.toml`, kinds of reading in `readings.py`, work in `match/work.toml`.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

Role = Literal["condenser_fan", "indoor_blower", "inducer"]
UnitKind = Literal["split_condenser", "heat_pump_outdoor", "package_unit", "furnace", "air_handler", "fan_coil"]
Position = Literal["shaft_up", "shaft_down", "horizontal"]
Mount = Literal["stud", "belly_band", "lug", "integral_arms", "base", "face"]
ShaftSense = Literal["cw", "ccw"]
HubHold = Literal["set_screw", "clip", "pressed", "bolted"]
"""What holds blade or wheel on its shaft: a screw, a spring clip, a press fit, a hub bolted to the blade."""
MotorKind = Literal["psc", "shaded_pole", "three_phase", "ecm"]
"""Each with its traits in `motor_kinds.py`."""
SeenFrom = Literal["shaft_end", "lead_end"]
Plug = Literal["as_shipped", "swapped", "none"]
OutputMode = Literal["cool", "heat", "fan", "low", "medium", "high"]
"""What an output of a unit is switched on for: a call of the thermostat, or the place of a speed switch."""
LeadFunction = Literal[
    "common",
    "high",
    "medium_high",
    "medium",
    "medium_low",
    "low",
    "run",
    "start",
    "capacitor",
    "capacitor_return",
    "line",
    "neutral",
    "ground",
    "reversing",
]
"""What a plate calls a motor lead."""
CapacitorSection = Literal["fan", "herm", "single"]
DualSection = Literal["fan", "herm"]
CapacitorShape = Literal["round", "oval", "box"]
SwitchKind = Literal["contactor", "relay", "sequencer", "board", "starter", "remote_switch"]
"""What switches the motor; a sequencer's blower contact is one pole, like a relay's."""
Symptom = Literal[
    "quiet",
    "hums_no_start",
    "slow_start",
    "stops_hot",
    "trips",
    "runs_backwards",
    "noisy",
    "weak_air",
    "high_pressure_lockout",
    "other",
]
Link = Literal[
    "supply",
    "protection",
    "disconnect",
    "switching",
    "control",
    "wiring",
    "connections",
    "capacitor",
    "windings",
    "overload",
    "insulation",
    "bearings",
    "load",
    "air",
]
"""The links of the path, from the supply to the air."""
Verdict = Literal[
    "condemn_motor",
    "dry_and_retest",
    "cool_and_retest",
    "replace_module",
    "replace_wrong_motor",
    "replace_capacitor",
    "not_the_motor",
    "usable_limited",
    "runs_worn",
    "no_fault_found",
    "not_proved",
]
"""In the order in which one of two faults leads; the last two are of no fault."""
ChangeKind = Literal[
    "coil_cleaned",
    "filter_changed",
    "capacitor_changed",
    "connection_remade",
    "wire_repaired",
    "protection_reset",
    "tap_changed",
    "load_freed",
    "belt_set",
    "drain_cleared",
    "other",
]
"""Each with what it touches and cures in `changes.toml`."""
PowerState = Literal["energised", "dead"]
SizingSchool = Literal["amps", "hp_amps", "ten_percent", "like"]
CapacitorSchool = Literal["dual", "own"]
Renewal = Literal["always", "outside_label", "ten_low"]
Hub = Literal["free", "stuck", "hard"]
InducerBuild = Literal["motor", "assembly"]
"""Whether an inducer is renewed as its motor alone or as a complete assembly."""
Removal = Literal["blade_first", "together"]
FollowUpKind = Literal["temporary", "unfinished", "watch"]
VanPartKind = Literal["motor", "capacitor", "part"]
StockMovementKind = Literal["booked", "restocked", "counted", "moved"]
PlannedPartKind = Literal["capacitor", "motor"]
AccountRole = Literal["technician", "manager"]
RunState = Literal["starts_and_runs", "runs_only_if_pushed", "stalled"]
CurrentLeg = Literal["whole", "capacitor", "winding"]
InsulationLetter = Literal["A", "B", "F", "H"]
NoiseHeard = Literal["quiet", "hum", "squeal", "grind", "rub", "rattle"]
CaseStart = Literal["arrive", "match", "run-proof"]
"""Where a practice case begins: what comes before it was done by somebody else."""
CaseEnd = Literal["finding", "match", "hook-up", "hand-over"]
"""Where a practice case ends: what comes after it is done right by somebody else."""
SweptQuantity = Literal["capacitor_uf", "volts_v", "load_pct", "drag_pct", "air_pct", "ambient_c"]
"""What a reading is drawn against; the last two move heat alone."""


def words_of(vocabulary: Any) -> tuple[Any, ...]:
    """The words of a vocabulary, in their order."""
    return get_args(vocabulary)


_CHOICES: dict[str, str] = {
    "true": "yes",
    "false": "no",
    "psc": "PSC",
    "ecm": "ECM",
    "three_phase": "three-phase",
    "cw": "clockwise",
    "ccw": "counter-clockwise",
    "direct": "direct",
    "constant_torque": "torque",
    "constant_airflow": "airflow",
    "constant_speed": "speed",
}
"""Words of the contract that people write otherwise than with a space for an underscore."""


def choice_words(word: str) -> str:
    """A word of a vocabulary as people read it."""
    return _CHOICES.get(word, word.replace("_", " "))
