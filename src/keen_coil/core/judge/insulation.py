"""Winding to frame: ohmmeter and insulation tester, corrected to 40 C (IEEE 43)."""

from __future__ import annotations

import math

from ..call import Call
from ..limits import TRADE, Limits
from ..readings import Reading
from ..uncertainty import span
from ..units import Span, fixed
from .judged import Band, Judged, Judgement, Signal, state_in, suspect, unjudged, verdict_on

LINK = "insulation"
LEAKS_OHM = 20e6
"""An ohmmeter that shows less than this to the frame passes, and asks for an insulation tester."""
COLDEST_C, HOTTEST_C = 0.0, 90.0
"""What a winding may be at when its temperature was not noted."""
_OWN_VOLTS = "Over range: not grounded at the meter's own volts."


def at_40_c(mohm: float, temperature_c: float) -> float:
    """Insulation resistance corrected to 40 C, Mohm: R * 0.5 ** ((40 - T) / 10) (IEEE 43).

    30 Mohm at 20 C is 7.5 Mohm at 40 C.
    """
    return float(mohm * 0.5 ** ((40 - temperature_c) / 10))


def judge_ground_ohm(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge an ohmmeter from a lead to the frame: under 0.1 Mohm grounded, up to 1 Mohm do not energize."""
    band = Band(limits.ohmmeter_mohm * 1e6, math.inf, f"above {limits.ohmmeter_mohm:g} Mohm", TRADE)
    lead = reading.lead or "lead"
    if reading.value == "OL":
        judgement = Judgement(
            reading=index, state="normal", finding="watch", says=_OWN_VOLTS, limit=band.text, source=TRADE
        )
        return Judged(judgement, LINK, _clear(index, reading, "ground.clear", f"{lead} to ground: over range"))
    read = span(reading.numbers[0], reading, call.meters)
    return _judge(index, reading, read, "ohm", band, limits)


def judge_insulation(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge an insulation tester, Mohm, at 40 C: above 100 good, 5 to 100 watch, below 5 do not energize."""
    if call.motor.traits.is_electronic and reading.isolated is not True:
        return suspect(index, "Never on a motor with its electronics connected. Unplug the module.", LINK)
    floor = limits.insulation_floor_mohm
    band = Band(floor, math.inf, f"above {floor:g} Mohm at 40 C", "IEEE 43, by extension")
    if reading.value == "OL":
        judgement = Judgement(
            reading=index, state="normal", finding="good", says="Over range: good.", limit=band.text, source=band.source
        )
        return Judged(judgement, LINK, _clear(index, reading, "megger.good", "insulation: over range"))
    raw = span(reading.numbers[0], reading, call.meters)
    if reading.temperature_c is None:
        whole = Span(at_40_c(max(raw.low, 0), COLDEST_C), at_40_c(raw.high, HOTTEST_C))
        state = state_in(whole, band)
        if state == "borderline":
            return unjudged(index, "Enter the winding temperature to correct to 40 C.", LINK)
        return _judge(index, reading, whole if state == "normal" else raw, "Mohm", band, limits)
    read = Span(at_40_c(max(raw.low, 0), reading.temperature_c), at_40_c(raw.high, reading.temperature_c))
    return _judge(index, reading, read, "Mohm", band, limits)


def _judge(index: int, reading: Reading, read: Span, unit: str, band: Band, limits: Limits) -> Judged:
    state, tester = state_in(read, band), unit == "Mohm"
    grounded = read.high * (1.0 if tester else 1e-6) < limits.grounded_mohm
    text = f"{reading.lead or 'lead'} to ground {fixed(read.mid)} {unit}" + " at 40 C" * tester
    if state == "failed" and reading.isolated is False:
        return suspect(index, "Low, but something is still connected. Take the leads off and test again.", LINK)
    if state == "normal":
        return _passed(index, reading, read, unit, band, text, limits)
    if state == "borderline":
        says = "Too close to call with this meter. Use an insulation tester."
        return Judged(verdict_on(index, read, band, unit, state, "borderline", says), LINK)
    if reading.place == "switch_load":
        says = "Low past the switch: wire or motor. Disconnect at the motor and test each."
        judgement = verdict_on(index, read, band, unit, "failed", "do_not_energise", says)
        return Judged(judgement, "wiring", (Signal("line_ground.low", text, (index,)),))
    key, says = _low(reading, grounded, tester)
    finding = "grounded" if grounded else "do_not_energise"
    return Judged(verdict_on(index, read, band, unit, state, finding, says), LINK, (Signal(key, text, (index,)),))


def _passed(index: int, reading: Reading, read: Span, unit: str, band: Band, text: str, limits: Limits) -> Judged:
    tester = unit == "Mohm"
    good = tester and read.low > limits.insulation_good_mohm
    says = "Good." if good else "Passed. Track it over the visits." if tester else "Not grounded."
    judgement = verdict_on(index, read, band, unit, "normal", "good" if good else "watch", says)
    return Judged(judgement, LINK, _clear(index, reading, "megger.good" if tester else "ground.clear", text))


def _clear(index: int, reading: Reading, key: str, text: str) -> tuple[Signal, ...]:
    """Clear of ground; from the switch's load side wire and motor together are. Ohms that show at all are noted."""
    found = [Signal(key, text, (index,))]
    if reading.place == "switch_load":
        found.append(Signal("line_ground.clear", text, (index,)))
    if key == "ground.clear":
        leaks = reading.value != "OL" and reading.numbers[0] < LEAKS_OHM
        found.append(Signal("leak.some" if leaks else "leak.none", text, (index,)))
    return tuple(found)


def _low(reading: Reading, grounded: bool, tester: bool) -> tuple[str, str]:
    group = "megger" if tester else "ground"
    if grounded:
        return f"{group}.grounded", "Grounded. Don't energize."
    if reading.dried:
        return f"{group}.low_dried", "Still low after drying. Don't energize."
    return f"{group}.low", "Too low. Don't energize. Dry it and test again."
