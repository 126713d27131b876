"""An ECM: line power and command at its plug, and the motor itself with the module unplugged.

Three equal pairs, each far from the frame, and a free shaft leave the module (trade).
"""

from __future__ import annotations

import math

from ..call import Call
from ..limits import TRADE, Limits
from ..readings import Reading
from ..uncertainty import span
from .judged import Band, Judged, Judgement, Signal, state_in, suspect, unjudged, verdict_on
from .supply import HALF_NEAR, call_present, to_ground_v, window
from .windings import phase_state

MODULE_OFF = "module unplugged, power off 5 minutes"
NO_VOLTS = 20.0
_SAYS = {
    ("ecm_power", True): "Line power is at its plug.",
    ("ecm_power", False): "No line power at its plug. It is not the motor. Look upstream.",
    ("ecm_command", True): "The command reaches it.",
    ("ecm_command", False): "No command reaches it. Check board, thermostat and wiring. It is not the motor.",
}


def judge_fed(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge line power or command at the plug; volts beside the word must bear it out."""
    there = reading.value == "present"
    link = "wiring" if reading.kind == "ecm_power" else "control"
    odd = _volts_say(reading, call, limits)
    if odd:
        return suspect(index, odd, link, "NEMA MG 1")
    if not there and reading.kind == "ecm_command" and call_present(call) is False:
        return unjudged(index, "With no call there is no command. Check the call first.", link)
    if there and reading.kind == "ecm_power" and _half(reading, call, limits):
        says = f"{reading.volts_v:g} V is one leg only. The other leg is lost. It is not the motor. Look upstream."
        judgement = Judgement(reading=index, state="failed", finding="out", says=says, source=TRADE)
        return Judged(
            judgement,
            link,
            (Signal("ecm_power.absent", f"line power at the plug: one leg, {reading.volts_v:g} V", (index,)),),
        )
    word = "present" if there else "absent"
    judgement = Judgement(
        reading=index,
        state="normal" if there else "failed",
        finding="good" if there else "out",
        says=_SAYS[(reading.kind, there)],
        source=TRADE,
    )
    volts = f", {reading.volts_v:g} V" if reading.volts_v is not None else ""
    return Judged(judgement, link, (Signal(f"{reading.kind}.{word}", f"{reading.row.title}: {word}{volts}", (index,)),))


def _volts_say(reading: Reading, call: Call, limits: Limits) -> str:
    """What is odd between the word and the volts beside it; empty when nothing."""
    volts = reading.volts_v
    if volts is None or reading.kind != "ecm_power":
        return ""
    if (reading.value == "present") != (volts >= NO_VOLTS):
        return f"{reading.value}, yet {volts:g} V. Read it again."
    found = window(call.motor, call, limits)
    if _half(reading, call, limits):
        return ""
    if found and volts >= NO_VOLTS and not found[1].low <= volts <= found[1].high:
        return f"{volts:g} V is outside {found[1].text}. Fix the supply first."
    return ""


def _half(reading: Reading, call: Call, limits: Limits) -> bool:
    """Whether the volts at the plug are those of one leg of a pair."""
    found = window(call.motor, call, limits)
    if found is None or reading.volts_v is None or reading.across == "ground":
        return False
    leg = to_ground_v(found[0].high, call.line_phase)
    return leg < found[0].low and abs(float(reading.volts_v) / leg - 1) < HALF_NEAR


def judge_motor_ohms(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge the three pairs of an ECM, ohms, module unplugged: equal within the phase rule."""
    if reading.isolated is False:
        return suspect(index, "With the module plugged in this reads the module too. Unplug it.", "windings")
    if not isinstance(reading.value, list):
        return unjudged(index, "Enter all three pairs.", "windings")
    opened = reading.numbers.count(math.inf)
    if opened:
        says = f"{'A pair is' if opened < 3 else 'All pairs are'} open. It is the motor, not the module."
        judgement = Judgement(
            reading=index, state="failed", finding="open", says=says, limit="three equal pairs", source=TRADE
        )
        return Judged(judgement, "windings", (Signal("ecm_windings.failed", "module off: a pair is open", (index,)),))
    share, state = phase_state(reading.numbers, reading, call.meters, limits)
    finding = {"normal": "good", "failed": "out"}.get(state, "borderline")
    limit = f"up to {limits.phase_ohm_normal_pct:g} % normal, above {limits.phase_ohm_pct:g} % failed"
    judgement = Judgement(
        reading=index,
        state=state,
        finding=finding,
        says=f"The three pairs differ by {share:.1f} %.",
        limit=limit,
        source=TRADE,
    )
    key = {"good": "ecm_windings.even", "out": "ecm_windings.failed"}.get(finding)
    return Judged(
        judgement, "windings", (Signal(key, f"module off: pairs differ by {share:.1f} %", (index,)),) if key else ()
    )


def judge_motor_frame(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge an ECM's winding to frame, ohms, module unplugged."""
    if reading.isolated is False:
        return suspect(index, "With the module plugged in this reads the module too. Unplug it.", "insulation")
    low, high = limits.grounded_mohm * 1e6, limits.ohmmeter_mohm * 1e6
    band = Band(high, math.inf, f"above {limits.ohmmeter_mohm:g} Mohm, {MODULE_OFF}", TRADE)
    if reading.value == "OL":
        judgement = Judgement(
            reading=index,
            state="normal",
            finding="watch",
            says="Not grounded at the meter's own volts.",
            limit=band.text,
            source=TRADE,
        )
        return Judged(judgement, "insulation", (Signal("ecm_frame.clear", "module off: not grounded", (index,)),))
    read = span(reading.numbers[0], reading, call.meters)
    state = state_in(read, band)
    word = {"normal": "clear", "failed": "failed"}.get(state)
    finding = {"normal": "watch", "failed": "grounded" if read.high < low else "do_not_energise"}.get(
        state, "borderline"
    )
    says = {"normal": "Not grounded.", "failed": "Grounded. It is the motor, not the module."}.get(
        state, "Too close to call with this meter."
    )
    signals = (Signal(f"ecm_frame.{word}", f"module off: {read.mid:.0f} ohm to ground", (index,)),) if word else ()
    return Judged(verdict_on(index, read, band, "ohm", state, finding, says), "insulation", signals)
