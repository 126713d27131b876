"""Air: a traverse of speeds with its mean, static pressure, draft against what the pressure switch needs.

Mean of the points, reversed flow negative, times free area; cooling coils take 350 to 450 cfm a ton (trade).
"""

from __future__ import annotations

import math

from ..call import Call
from ..limits import TRADE, Limits
from ..readings import Reading
from ..uncertainty import span, spans
from ..units import Span
from .judged import Band, Judged, Judgement, Signal, state_in, unjudged, verdict_on

LINK = "air"


def mean_fpm(points: list[float]) -> float:
    """Mean of the points of a traverse in fpm; reversed flow counts negative."""
    return sum(points) / len(points)


def cfm(points: list[float], free_area_ft2: float) -> float:
    """Air flow in cfm: mean fpm times free area in square feet."""
    return mean_fpm(points) * free_area_ft2


def judge_traverse(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge air speeds, fpm: reversed points show a fan that stalls near its hub; flow against the tons."""
    points = reading.numbers
    back = [point for point in points if point < 0]
    text = f"mean {mean_fpm(points):.0f} fpm of {len(points)} points"
    if back:
        says = f"Blowing back at {len(back)} of {len(points)} points: plugged coil, or the blade at the wrong height."
        says = f"{says} Mean {mean_fpm(points):.0f} fpm."
        judgement = Judgement(
            reading=index, state="failed", finding="out", says=says, limit="no point reversed", source=TRADE
        )
        return Judged(judgement, LINK, (Signal("flow.reversed", f"{text}, {len(back)} reversed", (index,)),))
    if reading.free_area_ft2 is None:
        return unjudged(index, f"Mean {mean_fpm(points):.0f} fpm. Enter the free area to get cfm.", LINK)
    flow = cfm(points, reading.free_area_ft2)
    if call.unit.tons is None or call.motor.role == "inducer":
        return unjudged(index, f"Mean {mean_fpm(points):.0f} fpm, {flow:.0f} cfm.", LINK)
    if call.motor.role != "indoor_blower":
        return unjudged(index, f"Mean {mean_fpm(points):.0f} fpm, {flow:.0f} cfm: compare with the sister fan.", LINK)
    return _per_ton(index, reading, flow, call, limits)


def _per_ton(index: int, reading: Reading, flow: float, call: Call, limits: Limits) -> Judged:
    tons = float(call.unit.tons or 1)
    read = spans(reading, call.meters)
    area = float(reading.free_area_ft2 or 1)
    whole = Span(mean_fpm([s.low for s in read]) * area, mean_fpm([s.high for s in read]) * area)
    band = Band(
        limits.cfm_per_ton_low * tons,
        limits.cfm_per_ton_high * tons,
        f"{limits.cfm_per_ton_low:g} to {limits.cfm_per_ton_high:g} cfm a ton, {tons:g} tons",
        TRADE,
    )
    state = state_in(whole, band)
    word = {"normal": "even", "borderline": "borderline"}.get(state, "weak" if whole.mid < band.low else "strong")
    says = (
        f"{flow:.0f} cfm, {flow / tons:.0f} a ton: "
        + {
            "even": "right for the coil.",
            "weak": "too little airflow.",
            "strong": "more than the coil needs.",
            "borderline": "too close to call with this meter.",
        }[word]
    )
    finding = {"even": "good", "borderline": "borderline"}.get(word, "out")
    signals = (Signal(f"flow.{word}", f"{flow / tons:.0f} cfm a ton", (index,)),) if word in ("even", "weak") else ()
    return Judged(verdict_on(index, whole, band, "cfm", state, finding, says), LINK, signals)


def judge_static(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge static pressure, inches of water, against the most the blower is rated for (`needs_inwc`)."""
    if reading.needs_inwc is None:
        return unjudged(index, "Enter the static pressure this blower is rated for, from its plate.", LINK)
    read = _size(span(reading.numbers[0], reading, call.meters))
    band = Band(0, abs(reading.needs_inwc), f"at most {abs(reading.needs_inwc):g} in of water", "unit plate")
    state = state_in(read, band)
    word = {"normal": "right", "borderline": "borderline"}.get(state, "high")
    says = {
        "right": "Within what the blower is rated for.",
        "high": "Too high. Check filter, coil and closed registers.",
        "borderline": "Too close to call with this meter.",
    }[word]
    finding = {"right": "good", "borderline": "borderline"}.get(word, "out")
    signals = (
        (Signal(f"static.{word}", f"static {read.mid:.2f} in of water", (index,)),) if word != "borderline" else ()
    )
    return Judged(verdict_on(index, read, band, "in. w.c.", state, finding, says), LINK, signals)


def judge_draught(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge draft, inches of water by size, against what the pressure switch needs (`needs_inwc`)."""
    if reading.needs_inwc is None:
        return unjudged(index, "Enter what the pressure switch needs. It is on the switch.", LINK)
    read = _size(span(reading.numbers[0], reading, call.meters))
    needs = abs(reading.needs_inwc)
    band = Band(needs, math.inf, f"at least {needs:g} in of water", "pressure switch")
    state = state_in(read, band)
    word = {"normal": "enough", "borderline": "borderline"}.get(state, "short")
    says = {
        "enough": "Enough to hold the pressure switch in.",
        "short": "Too low. Check vent, drain, tube, wheel and speed.",
        "borderline": "Right at what the switch needs. It will drop out on a windy day.",
    }[word]
    finding = {"enough": "good", "borderline": "borderline"}.get(word, "out")
    signals = (
        (Signal(f"draught.{word}", f"draft {read.mid:.2f} of {needs:g} in", (index,)),) if word != "borderline" else ()
    )
    return Judged(verdict_on(index, read, band, "in. w.c.", state, finding, says), LINK, signals)


def _size(read: Span) -> Span:
    """Pressure by its size, whatever its sign."""
    low, high = sorted((abs(read.low), abs(read.high)))
    return Span(low, high)


def judge_monoxide(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge carbon monoxide, ppm: in the room above 9 is danger, in the flue above 100 the burner is looked at."""
    flue = reading.at == "flue"
    most = limits.monoxide_flue_ppm if flue else limits.monoxide_room_ppm
    read = span(reading.numbers[0], reading, call.meters)
    band = Band(
        0,
        most,
        f"at most {most:g} ppm in the {'flue' if flue else 'room'}",
        TRADE if flue else "9 ppm over 8 hours, US ambient air standard",
    )
    state = state_in(Span(max(read.low, 0.0), read.high), band)
    bad = (
        "Too high in the flue. Check burner, vent and heat exchanger. Leave it off until you find it."
        if flue
        else "Carbon monoxide in the room. Burner off, people out, ventilate. Find it before it fires again."
    )
    says = {"normal": "Low enough.", "failed": bad}.get(state, "Too close to call with this meter. Read again.")
    finding = {"normal": "good", "failed": "over"}.get(state, "borderline")
    return Judged(verdict_on(index, read, band, "ppm", state, finding, says), None)
