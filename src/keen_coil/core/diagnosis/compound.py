"""Answers that several readings give together: labels against plates, a dead motor with all proved, all proved."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..call import SYMPTOMS, Call
from ..judge.capacitor import label_signals
from ..judge.cooling import COPPER_C
from ..judge.judged import Signal
from ..judge.pairs import standing_pairs
from ..limits import DEFAULTS
from ..machine.fit import fit_plate
from ..machine.rated import RUNNING_C, NoModel, rated
from ..speed import poles_of
from ..voltage import ranges
from .case import Case
from .unit_path import BEHIND, WITHOUT_CALL, LinkReport, is_welded
from .wiring_found import wiring_found

AIR_C = 25.0
"""What the windings of a cool motor are at when nobody noted it."""
TRIED_CAPACITOR = "trial_good_capacitor.no_change"
"""A good capacitor that changed nothing clears the capacitor, whatever its own is worth."""
GATE_LINKS = ("supply", "switching", "wiring", "connections", "capacitor")
AHEAD = ("supply", "protection", "disconnect", "switching", "control", "wiring", "connections", "capacitor")


def all_signals(case: Case, path: dict[str, LinkReport]) -> list[Signal]:
    """The signals of the readings and the complaint, those of the plates, and those of several together."""
    found = dict(case.signals)
    symptom = case.call.complaint.symptom
    if symptom:
        found[f"symptom.{symptom}"] = Signal(f"symptom.{symptom}", f"complaint: {SYMPTOMS[symptom].lower()}")
    _fan_amps(case.call, found)
    _blown(found)
    _welded(case, found)
    _left_over(case, found)
    proved = {link for link, report in path.items() if report.state in ("proved", "not_applicable")}
    for signal in (
        *label_signals(case.call),
        *fitted_signals(case.call),
        *wired_signals(case.call),
        *_running(case, proved),
    ):
        found.setdefault(signal.key, signal)
    return list(found.values())


def _fan_amps(call: Call, found: dict[str, Signal]) -> None:
    """What high or low amps mean depends on what the motor turns and how it is controlled."""
    group = amps_question(call)
    if group != "amps":
        for key in [key for key in found if key.startswith("amps.")]:
            old = found.pop(key)
            found[f"{group}.{key[5:]}"] = Signal(f"{group}.{key[5:]}", old.says, old.readings)


def amps_question(call: Call) -> str:
    """The question of the evidence table that running amps answer on this motor."""
    if not call.motor.traits.is_electronic:
        return "amps_wheel" if turns_wheel(call) else "amps"
    if call.motor.ecm_control == "constant_airflow":
        return "amps_airflow"
    return "amps_ecm_wheel" if turns_wheel(call) else "amps_ecm"


def turns_wheel(call: Call) -> bool:
    """Whether the motor turns a wheel in a housing and not a propeller fan."""
    if call.motor.fan is not None:
        return call.motor.fan != "propeller"
    return call.motor.role in ("indoor_blower", "inducer")


def _blown(found: dict[str, Signal]) -> None:
    """A fan that the wind had turned before power came on: backwards may be a weak capacitor only."""
    if "wind.yes" in found:
        for key in [key for key in found if key.startswith("turns.")]:
            old = found.pop(key)
            says = f"{old.says}, after it was windmilling"
            found[f"turns_blown.{key[6:]}"] = Signal(f"turns_blown.{key[6:]}", says, old.readings)


def _welded(case: Case, found: dict[str, Signal]) -> None:
    if is_welded(case):
        keys = [key for key in (*WITHOUT_CALL, *BEHIND) if key in found]
        says = "volts past the switch with no call"
        found["welded.yes"] = Signal("welded.yes", says, tuple(i for key in keys for i in found[key].readings))


R_SPREAD, TELLS_FROM = 0.3, 0.7
"""How far a winding's ohms stray from what its plate lets expect (one spread, as a logarithm)."""


def _left_over(case: Case, found: dict[str, Signal]) -> None:
    """One lead open, nobody knows which: is the pair that still reads one winding, or run and start together.

    Together they are what is left when common is open: the overload, not a winding.
    """
    opened = [found[key] for key in ("winding.lead_open", "winding.lead_open_cool") if key in found]
    pairs = standing_pairs(case.call)
    if not opened or len(pairs.finite) != 1:
        return
    try:
        plate = rated(case.call.motor, case.call.supply_now(), case.call.unit.hz)
        circuit = fit_plate(plate).windings
    except NoModel:
        return
    ohm = next(iter(pairs.finite.values())).mid
    cold = (COPPER_C + AIR_C) / (COPPER_C + RUNNING_C)
    run, start = float(circuit.r1_ohm) * cold, float(circuit.r1a_ohm) * cold
    fits = [
        math.exp(-0.5 * (math.log(max(ohm, 1e-3) / should) / R_SPREAD) ** 2) for should in (run, start, run + start)
    ]
    both = fits[2] / max(fits[2] + (fits[0] + fits[1]) / 2, 1e-12)
    if both > TELLS_FROM or both < 1 - TELLS_FROM:
        key = f"left.{'both' if both > TELLS_FROM else 'one'}"
        says = f"the pair that reads shows {ohm:.0f} ohm; by the plate run has about {run:.0f}, start {start:.0f}"
        found[key] = Signal(key, says, opened[0].readings)


def fitted_signals(call: Call) -> Iterator[Signal]:
    """Whether the motor that is fitted belongs here, by its plate against the unit's."""
    why = _wrong_plate(call)
    if why:
        yield Signal("plate_fit.wrong", why)
    elif call.unit.fan_rpm is not None and call.motor.rpm is not None:
        yield Signal("plate_fit.right", f"motor plate {call.motor.rpm:g} rpm, unit plate {call.unit.fan_rpm:g}")


def wired_signals(call: Call) -> Iterator[Signal]:
    """Whether the wiring as found stands where it belongs, as far as it was noted."""
    found = wiring_found(call)
    if found is None:
        return
    key = "wired_color" if found.by == "color" else "wired"
    if found.wrong:
        usual = " if the colors are the usual ones: three pairs of ohms tell" if found.by == "color" else ""
        yield Signal(f"{key}.wrong", f"wiring as found: {found.wrong}{usual}")
    else:
        yield Signal(f"{key}.right", "wiring as found: every lead is right")


def _wrong_plate(call: Call) -> str:
    motor, unit = call.motor, call.unit
    if not motor.traits.is_electronic and motor.rpm is not None and unit.fan_rpm is not None:
        hz = motor.hz or unit.hz or 60
        apart = abs(motor.rpm - unit.fan_rpm) > DEFAULTS.speed_class_pct / 100 * unit.fan_rpm
        if apart or poles_of(motor.rpm, hz) != poles_of(unit.fan_rpm, hz):
            return f"the motor turns at {motor.rpm:g} rpm, the unit plate asks for {unit.fan_rpm:g}"
    if motor.hz is not None and unit.hz is not None and motor.hz != unit.hz and not motor.traits.is_electronic:
        return f"the motor is made for {motor.hz} Hz, the supply has {unit.hz}"
    if motor.volts is not None and unit.supply_v is not None:
        windows = [plate.window() for plate in ranges(motor.volts)]
        if not any(low <= unit.supply_v <= high for low, high in windows):
            return f"the motor is made for {motor.volts} V, the unit is fed {unit.supply_v:g} V"
    if motor.traits.is_three_phase and unit.phase == 1:
        return "a three-phase motor on a single-phase unit"
    if motor.hp is not None and unit.fan_hp is not None and motor.hp < 0.9 * unit.fan_hp:
        return f"the motor has {motor.hp:g} hp, the unit plate asks for {unit.fan_hp:g}"
    return ""


def _running(case: Case, proved: set[str]) -> Iterator[Signal]:
    keys = set(case.signals)
    if TRIED_CAPACITOR in keys:
        proved = proved | {"capacitor"}
    still = "turns.not" in keys and bool({"spin.free", "shaft.free"} & keys)
    is_ecm = case.call.motor.traits.is_electronic
    fed = {"ecm_power.present", "ecm_command.present"} <= keys
    if still and is_ecm and fed:
        says = "line power and command at its plug, a free shaft, and it still does not turn"
        yield Signal("dead.fed", says, _of(case, "turns.not", "ecm_power.present", "ecm_command.present"))
    elif (
        still
        and not is_ecm
        and (case.call.motor.drive != "belt" or "belt.sound" in keys)
        and set(AHEAD) <= proved
        and "windings" in proved
    ):
        says = "right volts, a good capacitor, good windings, a free shaft, and it still does not turn"
        yield Signal("dead.all_proved", says, _of(case, "turns.not"))
    if case.passed_over:
        return
    if not set(LINKS_SEEN) - proved and "turns.right" in keys:
        yield Signal("whole.yes", "every link of the path is proved")
    runs = {"turns.right"} <= keys and bool({"amps.good", "legs.even"} & keys)
    if runs:
        yield Signal("runs.well", "it turns the right way within its plate amps", _of(case, "turns.right", "amps.good"))


LINKS_SEEN = (*AHEAD, "windings", "overload", "insulation", "bearings", "load", "air")


def _of(case: Case, *keys: str) -> tuple[int, ...]:
    return tuple(index for key in keys if key in case.signals for index in case.signals[key].readings)
