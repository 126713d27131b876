"""The ladder: from one plain fault to the traps that condemn good motors. One row a rung, each with its recipes."""

from __future__ import annotations

from typing import NamedTuple


class Recipe(NamedTuple):
    """How a rung's case is made: on which units, which faults with the least and the most of their size, what else."""

    units: str
    faults: tuple[tuple[str, int, int], ...]
    symptom: str = ""
    last_visit: str = ""
    wind: bool = False
    air_c: float | None = None
    label_factor: float = 1.0
    label_v: int = 0
    plate: tuple[tuple[str, float], ...] = ()
    wires: bool = False


class Rung(NamedTuple):
    """A rung of the ladder: its key, level 1 to 4, title (which gives nothing away), what it teaches (told at the end)."""

    key: str
    level: int
    title: str
    teaches: str
    recipes: tuple[Recipe, ...]


LEVELS = {1: "One plain fault", 2: "Look again", 3: "Two at once, or none", 4: "Traps"}
_TURNED = "slow condenser|condenser|twin fans"


def _one(units: str, fault: str, low: int = 20, high: int = 90, symptom: str = "", **more: object) -> Recipe:
    return Recipe(units, ((fault, low, high),), symptom, **more)  # type: ignore[arg-type]


def _two(units: str, one: str, other: str, low: int = 30, high: int = 80, symptom: str = "", **more: object) -> Recipe:
    return Recipe(units, ((one, low, high), (other, low, high)), symptom, **more)  # type: ignore[arg-type]


RUNGS: tuple[Rung, ...] = (
    Rung("hums", 1, "It hums", "A hum with free bearings points to capacitor or start winding; the meter says which, and the capacitor is the cheaper.",
         (_one("condenser|slow condenser", "capacitor_open"), _one("condenser|air handler", "capacitor_weak", 60, 100))),
    Rung("quiet", 1, "Not a sound", "No volts at the motor: look upstream, link by link, before anything is taken off.",
         (_one("condenser|air handler", "switch_contacts_bad", 85, 100), _one("condenser|heat pump", "conductor_open"), _one("air handler|fan coil", "control_call_absent"))),
    Rung("stiff", 1, "It does not want to turn", "Bearings are felt by hand, sideways and round, with the power locked out.",
         (_one(_TURNED, "bearings_seized"), _one("condenser|air handler", "bearings_worn", 40, 90))),
    Rung("open winding", 1, "Three pairs", "The largest pair is run plus start; the one that reads nothing on a cool motor is burnt.",
         (_one("condenser|air handler", "winding_start_open"), _one("condenser|slow condenser", "winding_run_open"))),
    Rung("thin air", 1, "Weak air", "Amps of a propeller rise and amps of a wheel fall when the air is held up.",
         (_one("condenser|air handler|furnace blower", "air_restricted", 60, 95),)),
    Rung("module", 2, "Own electronics", "Power and command at the plug, a free shaft, three equal pairs: then it is the module.",
         (_one("commutated fan|commutated blower", "ecm_module"), _one("commutated blower", "ecm_command_absent"), _one("commutated fan", "ecm_power_absent"))),
    Rung("phases", 2, "Three lines", "Volts on all pairs, amps on all legs, all three fuses out of circuit.",
         (_one("three-phase fan|belt blower", "phase_lost"), _one("belt blower", "voltage_unbalance"), _one("belt blower", "belt_bad", 40, 100), _one("three-phase fan", "winding_open"))),
    Rung("weak", 2, "Slow to start", "Amps and speed hardly show a weak capacitor; only microfarads against label and plate do.",
         (_one("condenser|twin fans|air handler", "capacitor_weak", 5, 40, "slow_start"),)),
    Rung("furnace", 2, "No heat", "Wheel, drain, vent and pressure switch before the inducer is called dead.",
         (_one("inducer|PSC inducer", "vent_or_drain_blocked", 40, 90), _one("inducer", "winding_open"), _one("inducer", "safety_open"))),
    Rung("noise", 2, "What is that noise", "Sideways play is the bearing; a bright ring is the blade; a hub that slips runs light.",
         (_one(_TURNED, "load_rubbing"), _one("twin fans", "hub_loose"), _one("condenser|air handler", "load_damaged"), _one("air handler", "bearings_worn", 40, 90))),
    Rung("good", 3, "Complaint without a cause", "No fault found is an honest answer once every link is proved.",
         (Recipe("condenser|air handler", (), "noisy"), Recipe("slow condenser|furnace blower", (), "weak_air"))),
    Rung("two", 3, "One is not all", "What is found first may be the consequence, or have company.",
         (_two("condenser|slow condenser", "capacitor_weak", "bearings_worn"), _two("condenser", "winding_start_open", "capacitor_weak"),
          _two("belt blower", "belt_bad", "voltage_unbalance"), _two("air handler", "air_restricted", "capacitor_weak"))),
    Rung("trip", 3, "It tripped", "Nothing is energised before the dead tests to ground.",
         (_two("condenser|slow condenser", "winding_grounded", "breaker_tripped"), _two("condenser", "conductor_chafed", "breaker_tripped"),
          _two("condenser", "capacitor_grounded", "breaker_tripped"))),
    Rung("last visit", 3, "It was fine until somebody came", "Ask what was done last; what is installed is no evidence of what belongs there.",
         (_one("condenser|air handler", "connection_bad", 70, 100, "quiet", last_visit="A wire was left off its terminal at the last visit."),
          _one("slow condenser|air handler", "capacitor_wrong_value", symptom="stops_hot", last_visit="The last visit fitted the capacitor that was on the van, not the one on the plate.", label_factor=2.0),
          _one("condenser", "wrong_motor_fitted", symptom="trips", last_visit="A faster motor was fitted on the slow motor's blade.", plate=(("fan_rpm", 825), ("fan_hp", 1 / 6), ("fan_amps_a", 1.01))),
          _one("condenser", "miswired", symptom="runs_backwards", last_visit="Two wires were exchanged at the capacitor.", wires=True),
          _one("slow condenser", "capacitor_under_rated", symptom="stops_hot", last_visit="A capacitor of fewer volts was fitted.", label_v=250))),
    Rung("hot", 4, "Off for a quarter of an hour", "Common open to both with run to start reading through is the overload: cool it and measure again.",
         (_one("condenser|slow condenser|air handler", "overload_tripped", symptom="stops_hot"), _one("inducer|fan coil", "overload_tripped", symptom="stops_hot"))),
    Rung("wind", 4, "Round the wrong way", "A fan the wind had turning runs on backwards with a weak capacitor: prove that before the rotation.",
         (_one("condenser|slow condenser", "capacitor_weak", 70, 95, "runs_backwards", wind=True),)),
    Rung("stuck", 4, "Stuck fast", "Ice or a stone locks a good motor: the bare shaft tells.",
         (_one(_TURNED, "load_jammed", symptom="hums_no_start"), _one("heat pump", "load_jammed", symptom="hums_no_start", air_c=-2.0))),
    Rung("notches", 4, "From notch to notch", "A commutated motor cogs by nature; power and command are looked for first.",
         (_one("commutated blower|commutated fan", "control_call_absent", symptom="quiet"), _one("commutated fan", "ecm_power_absent", symptom="quiet"))),
    Rung("right value", 4, "The value is right", "A capacitor grounded to its can trips the breaker at normal microfarads.",
         (_two("condenser|slow condenser", "capacitor_grounded", "breaker_tripped", symptom="trips"),)),
    Rung("switch", 4, "Lockout on every start", "A pressure switch closed at rest keeps the board from starting; an open one at rest is as it should be.",
         (_one("inducer|PSC inducer", "pressure_switch_stuck"), _one("inducer", "board_lockout"))),
    Rung("burnt", 4, "Volts, and no volts", "A burnt contact loses its volts under load: read across it.",
         (_one("condenser|air handler", "switch_contacts_bad", 10, 60), _one("condenser", "connection_bad", 35, 60))),
    Rung("wet", 4, "After the rain", "Insulation that is low from wet is dried and tested again before the motor is condemned.",
         (_one("three-phase fan", "insulation_low", symptom="trips"),)),
    Rung("slips", 4, "Beside its sister", "Of two that differ the low one may be wrong: a slipping hub runs light.",
         (_one("twin fans", "hub_loose", symptom="weak_air"),)),
    Rung("one speed", 4, "One speed is gone", "Try another tap before the motor is condemned.",
         (_one("furnace blower", "winding_tap_open", symptom="quiet"),)),
    Rung("meant to", 4, "It is meant to stand still", "Defrost, a delay, an open safety: a dead motor to look at, and nothing wrong with it.",
         (_one("heat pump", "defrost_hold", symptom="quiet"), _one("air handler|condenser", "delay_hold", symptom="quiet"), _one("condenser", "safety_open", symptom="high_pressure_lockout"))),
    Rung("the other half", 4, "Half of a can", "A dual whose compressor section is weak says nothing of the fan.",
         (_two("condenser|heat pump", "parallel_load_fault", "breaker_tripped", symptom="trips"),)),
)  # fmt: skip
BY_KEY = {rung.key: rung for rung in RUNGS}
