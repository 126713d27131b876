"""Every reading of a call judged by the judge of its quantity."""

from __future__ import annotations

import math
from collections.abc import Callable

from ..call import Call
from ..limits import Limits
from ..plates import Motor
from ..readings import Reading
from ..units import plain
from . import air, capacitor, current, electronics, insulation, mechanics, speed, supply
from .judged import Judged, suspect, unjudged
from .windings import judge_windings
from .words import judge_word

_BY_CALL: dict[str, Callable[[int, Reading, Call, Limits], Judged]] = {
    "capacitance_uf": capacitor.judge_capacitance,
    "capacitor_load": capacitor.judge_under_load,
    "capacitor_case_ohm": capacitor.judge_case,
    "contact_drop_v": supply.judge_contact_drop,
    "ground_ohm": insulation.judge_ground_ohm,
    "insulation_mohm": insulation.judge_insulation,
    "air_speed_fpm": air.judge_traverse,
    "static_inwc": air.judge_static,
    "draught_inwc": air.judge_draught,
    "co_ppm": air.judge_monoxide,
    "spin": mechanics.judge_spin,
    "safety": mechanics.judge_safety,
    "switch_pulled_in": mechanics.judge_switch,
    "shell_c": mechanics.judge_shell,
    "sister_shell_c": mechanics.judge_sister_shell,
    "ecm_power": electronics.judge_fed,
    "ecm_command": electronics.judge_fed,
    "ecm_winding_ohm": electronics.judge_motor_ohms,
    "ecm_ground_ohm": electronics.judge_motor_frame,
}
_BY_MOTOR: dict[str, Callable[[int, Reading, Motor, Call, Limits], Judged]] = {
    "supply_v": supply.judge_volts,
    "run_amps_a": current.judge_amps,
    "background_amps_a": current.judge_background,
    "sister_amps_a": current.judge_sister,
    "run_rpm": speed.judge_rpm,
}


def judge_readings(call: Call, limits: Limits) -> dict[int, Judged]:
    """Judge every reading; withdrawn ones say so and prove nothing. Proof readings go against the chosen motor."""
    gone, windings = call.withdrawn(), judge_windings(call, limits)
    found: dict[int, Judged] = {}
    for index, reading in enumerate(call.readings):
        if index in gone:
            found[index] = unjudged(index, "Corrected by a later reading.")
        elif reading.wrong_power:
            says = f"Taken {reading.power_state}; this is a {reading.row.power} test. It proves nothing."
            found[index] = suspect(index, says, source=current.METHOD)
        else:
            found[index] = windings.get(index) or _judge(index, reading, call, limits)
    return found


def _judge(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    if reading.kind in _BY_CALL:
        return _BY_CALL[reading.kind](index, reading, call, limits)
    if reading.kind in _BY_MOTOR:
        motor = call.motor_on_proof if reading.is_proof else call.motor
        return _BY_MOTOR[reading.kind](index, reading, motor, call, limits)
    return judge_word(index, reading) or unjudged(index, "Saved with the call.")


TO_FRAME = ("ground_ohm", "capacitor_case_ohm")


def ask_about(reading: Reading, limits: Limits) -> str:
    """What is odd about a reading's unit, as a question; empty when nothing is (trade; `limits.ask_*`, ohms)."""
    if reading.kind not in ("winding_ohm", *TO_FRAME) or not reading.numbers or isinstance(reading.value, list):
        return ""
    ohms = reading.numbers[0]
    odd_winding = math.isfinite(ohms) and (ohms > limits.ask_winding_ohm or 0 < ohms < limits.ask_winding_least_ohm)
    if reading.kind == "winding_ohm" and odd_winding:
        return f"{plain(ohms)} ohm for a winding. Is the meter in kohm? Pick its unit, or confirm it."
    if reading.kind in TO_FRAME and ohms < limits.ask_frame_ohm:
        return f"{plain(ohms)} ohm to ground. Is the meter in ohm, kohm or Mohm? Pick its unit, or confirm it."
    return ""
