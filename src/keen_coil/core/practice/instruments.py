"""What instruments read on a practice unit: the true value of the circuit and the motor, then as a meter shows it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from ..readings import KINDS
from ..uncertainty import default_u
from .running import Run, run_of
from .unit_state import UnitState
from .windings import between, overload_open, phase_pairs, shell_c

OVER_OHM, OVER_MOHM = 40e6, 2000.0
"""Where an ohmmeter and an insulation tester show over range."""
COUPLED_V = (0.3, 2.5)
"""What a meter of high impedance shows on a wire that is open: coupled from its neighbours."""
FACE_FPM, DRAUGHT_INWC, STATIC_INWC = 820.0, 1.15, 0.42
DRYING_FACTOR = 120.0
SISTER_SPREAD = 0.02
COIL_C = 10.0
"""What a cooling coil takes off its air at full flow."""
DIGITS = {"V": 1, "A": 2, "ohm": 1, "µF": 2, "Mohm": 1, "C": 0, "rpm": 0, "in. w.c.": 2, "ppm": 0}
NUMBERS = frozenset(name for name, kind in KINDS.items() if kind.is_number or kind.many or name == "capacitor_load")


@dataclass(frozen=True)
class PlannedTest:
    """A test as it is made: a kind of reading and where, with what, between which leads, on which leg and speed."""

    kind: str
    at: str | None = None
    with_: str | None = None
    section: str | None = None
    pair: tuple[str, str] | None = None
    lead: str | None = None
    leg: str | None = None
    speed: int | None = None
    when: str | None = None
    turns: int = 1
    dried: bool = False

    @property
    def test(self) -> str:
        """The test it belongs to, whichever lead, leg or speed it is made on."""
        return "/".join(str(part) for part in (self.kind, self.at, self.with_, self.section))

    @property
    def name(self) -> str:
        """What tells it from every other."""
        return "/".join(map(str, (self.test, self.pair, self.lead, self.leg, self.speed, self.when, self.turns)))


def true_value(truth: UnitState, asked: PlannedTest, minutes: float) -> Any:
    """The true value of a test of an instrument, in the unit of its kind; three or several where it has them.

    Args: minutes since the visit began. Infinite ohms are open. None when the unit has nothing to measure there.
    """
    run = run_of(truth, asked.speed or 1, overload_open(truth, minutes))
    kind = asked.kind
    makers: dict[str, Any] = {
        "supply_v": lambda: _one(run.loaded_v.get(asked.at or "motor", (0.0,))),
        "contact_drop_v": lambda: _contact(truth, run),
        "capacitance_uf": lambda: _capacitance(truth, asked),
        "capacitor_case_ohm": lambda: truth.can_mohm * 1e6,
        "capacitor_load": lambda: _under_load(run),
        "winding_ohm": lambda: _windings(truth, asked, minutes),
        "ground_ohm": lambda: _to_frame(truth, asked) * 1e6,
        "insulation_mohm": lambda: _insulation(truth, asked, minutes),
        "run_amps_a": lambda: _amps(run, asked),
        "background_amps_a": lambda: _background(truth),
        "sister_amps_a": lambda: _sister(truth),
        "run_rpm": lambda: run.rpm,
        "shell_c": lambda: shell_c(truth, minutes),
        "sister_shell_c": lambda: truth.air_c + 3,
        "air_speed_fpm": lambda: _air_speeds(truth, run),
        "static_inwc": lambda: _static(truth, run),
        "draught_inwc": lambda: _draught(truth, run),
        "ecm_winding_ohm": lambda: _module_off(truth),
        "ecm_ground_ohm": lambda: math.inf,
        "co_ppm": lambda: _monoxide(truth, asked),
        "air_c": lambda: _air_c(truth, run, asked),
    }
    return makers[kind]()


def _one(values: tuple[float, ...]) -> Any:
    return list(values) if len(values) == 3 else values[0]


def _contact(truth: UnitState, run: Run) -> float:
    """Volts across a contact that should be closed: what its ohms take of the current, all of them when it is open."""
    before, behind = run.loaded_v["switch_line"], run.loaded_v["switch_load"]
    if math.isinf(truth.contact_share):
        return max(before)
    return max(0.0, max(before) - max(behind)) if max(behind) else 0.0


def _capacitance(truth: UnitState, asked: PlannedTest) -> Any:
    label = truth.call.capacitor.section_uf("herm")
    if asked.section == "herm":
        return None if label is None else float(label) * truth.herm_ratio
    return "shorted" if truth.uf_shorted else truth.uf


def _under_load(run: Run) -> Any:
    return None if run.capacitor_v < 1 else {"amps_a": run.capacitor_a, "volts_v": run.capacitor_v}


def _windings(truth: UnitState, asked: PlannedTest, minutes: float) -> Any:
    if truth.call.motor.traits.is_electronic:
        return None
    if truth.three:
        return phase_pairs(truth, minutes, asked.at == "switch_load")
    return between(truth, *asked.pair, minutes) if asked.pair else None


def _to_frame(truth: UnitState, asked: PlannedTest) -> float:
    """Megohms to the frame, the wires from the switch on included where they are still joined."""
    mohm = truth.mohm * (DRYING_FACTOR if truth.wet and asked.dried else 1.0)
    return min(mohm, 0.0006) if asked.at == "switch_load" and truth.wire == "chafed" else mohm


def _insulation(truth: UnitState, asked: PlannedTest, minutes: float) -> float:
    """Megohms at the winding's own temperature: they halve with every 10 C (IEEE 43)."""
    return float(_to_frame(truth, asked) * 2 ** ((40 - shell_c(truth, minutes)) / 10))


def _amps(run: Run, asked: PlannedTest) -> Any:
    if len(run.amps) == 3:
        return [amps * asked.turns for amps in run.amps]
    by_leg = {"capacitor": run.capacitor_a, "winding": run.winding_a}
    return by_leg.get(asked.leg or "whole", run.amps[0]) * asked.turns


def _background(truth: UnitState) -> Any:
    near = truth.chance.between("background", 0.0, 0.04)
    return [near, near, near] if truth.three else near


def _sister(truth: UnitState) -> Any:
    sister = float(truth.call.motor.amps_a or 1) * 0.93 * (1 + truth.chance.spread("sister", SISTER_SPREAD))
    return [sister, sister, sister] if truth.three else sister


def _flow(truth: UnitState, run: Run) -> float:
    """Air moved, share of what it should be: by speed, less what slips, what is blocked, a belt that is off."""
    speed = run.rpm / float(truth.call.motor.rpm or 1000)
    return speed * (1 - truth.slip) * (1 - 0.75 * truth.air) * (0.0 if truth.belt == "broken" else 1.0)


def _air_speeds(truth: UnitState, run: Run) -> list[float]:
    shape = (0.35, 0.8, 1.1, 1.2, 1.0)
    mean, sense = FACE_FPM * _flow(truth, run), -0.4 if truth.backwards else 1.0
    back = 0.7 * max(0.0, truth.air - 0.4) if not truth.wheel else 0.0
    return [sense * mean * (part - back * (number < 2)) for number, part in enumerate(shape)]


def _static(truth: UnitState, run: Run) -> float:
    return STATIC_INWC * (run.rpm / float(truth.call.motor.rpm or 1000)) ** 2 * (1 + 1.6 * truth.air)


def _draught(truth: UnitState, run: Run) -> float:
    speed = run.rpm / float(truth.call.motor.rpm or 1000)
    return DRAUGHT_INWC * speed**2 * (0.35 if truth.vent_blocked else 1.0) * (1 - truth.slip)


def _monoxide(truth: UnitState, asked: PlannedTest) -> Any:
    """Carbon monoxide in the flue or the room, ppm; a blocked vent makes it."""
    if truth.call.motor.role != "inducer":
        return None
    return (380.0 if truth.vent_blocked else 35.0) if asked.at == "flue" else 12.0 if truth.vent_blocked else 0.0


def _air_c(truth: UnitState, run: Run, asked: PlannedTest) -> Any:
    """Air at return or supply of a blower that moves it: the less flow, the further apart."""
    if truth.call.motor.role != "indoor_blower" or not run.turns:
        return None
    return truth.air_c if asked.at == "return" else truth.air_c - COIL_C / max(0.4, 1 - 0.5 * truth.air)


def _module_off(truth: UnitState) -> list[float]:
    """Three pairs of an ECM with its module off."""
    pair = truth.chance.between("coils", 3.0, 9.0)
    return [pair, pair, pair] if truth.coils else [pair, pair * 0.4, math.inf]


def displayed(kind: str, value: Any, error: float) -> Any:
    """A true value as a meter shows it: with an error from -1 to 1 of what the meter may be off, its digits, OL.

    Words pass through; the error of several values is the same meter's, so they agree with each other.
    """
    if isinstance(value, list):
        return [displayed(kind, item, error) for item in value]
    if isinstance(value, dict):
        return {"amps_a": _shown("A", value["amps_a"], error), "volts_v": _shown("V", value["volts_v"], error)}
    if isinstance(value, str) or value is None:
        return value
    if kind == "supply_v" and value < COUPLED_V[0]:
        return f"{COUPLED_V[0] + (COUPLED_V[1] - COUPLED_V[0]) * abs(error):.1f}"
    unit = KINDS[kind].unit or "fpm"
    over = {"ohm": OVER_OHM, "Mohm": OVER_MOHM}.get(unit, math.inf)
    if "OL" in KINDS[kind].words and value > over:
        return "OL"
    return _shown(unit, value, error)


def _shown(unit: str, value: float, error: float) -> str:
    off = error * default_u(value, unit) * (0.2 if unit in ("C", "rpm", "fpm", "in. w.c.", "Mohm") else 0.6)
    shown = max(value + off, 0.0) if unit != "fpm" else value + off
    return f"{shown:.{0 if unit == 'fpm' else DIGITS.get(unit, 1)}f}"
