"""Running amps against the plate: whole-current leg, three legs, speed taps, sister motor, background.

Limit: the larger of plate + 10 % (NEMA MG 1, by analogy) and service factor amps. Legs that carry one
winding only are compared with the motor model, not with the plate. Low is what a motor without its load would draw.
"""

from __future__ import annotations

from ..call import Call
from ..limits import TRADE, Limits
from ..machine.expected import Expected
from ..plates import Motor
from ..readings import Reading
from ..uncertainty import spans
from ..units import Span
from ..voltage import plate_amps
from .judged import Band, Judged, Judgement, Signal, State, state_in, suspect, unjudged, verdict_on
from .modelled import expected_now, leg_band, plates_tap

SOURCE = "NEMA MG 1, by analogy"
METHOD = "method before value"
ONE_WINDING = ("capacitor", "winding")
NO_LEG = 0.02
"""Below this share of the amps at rest a leg carries nothing."""
_NO_CURRENT = {
    "capacitor": "No current in the capacitor's lead: the capacitor, its lead or the start winding is open.",
    "winding": "No current in this winding: its lead or the winding is open.",
}
_LEG_SAYS: dict[State, str] = {
    "normal": "As expected in this leg.",
    "borderline": "Near the edge of what is expected in this leg. Take it again with more turns through the clamp.",
    "failed": "Not what is expected in this leg: capacitor, volts, load or windings differ from what was entered.",
}
"""An estimate from a plate is no limit: a leg outside it is looked at again, never failed."""
_SAYS = {
    "good": "Within the plate.",
    "watch": "Over the plate, inside its tolerance. Watch it.",
    "over": "Over the limit: load, volts, capacitor or windings.",
    "borderline": "Reaches over the limit with the meter's error. Take it again with more turns through the clamp.",
    "low": "Low: look at hub, blade, air, and whether the right motor is fitted.",
    "none": "No current: the motor's circuit is open, or it is not fed.",
}


def amps_on_plate(motor: Motor, speed: int | None, supply_v: float | None) -> float | None:
    """Plate amps for this speed tap (1 is the highest) and supply; None when the plate is silent."""
    if speed is not None and 1 <= speed <= len(motor.speed_amps_a):
        return motor.speed_amps_a[speed - 1]
    if speed is not None and speed > 1:
        return None
    return plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, supply_v)


def limit_amps(motor: Motor, plate: float, limits: Limits) -> float:
    """The most a motor may draw: the larger of plate + 10 % and its service factor amps, never added up."""
    by_factor = plate * motor.service_factor if motor.service_factor else 0.0
    service = motor.sf_amps_a if motor.sf_amps_a and plate == motor.amps_a else by_factor
    return max(plate * (1 + limits.amps_over_pct / 100), service)


def uneven_pct(amps: list[float]) -> float:
    """Unbalance of three line currents in per cent: 100 * max|I - mean| / mean."""
    mean = sum(amps) / len(amps)
    return 100 * max(abs(leg - mean) for leg in amps) / mean if mean else 0.0


def judge_amps(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge running amps; every leg of a list, the whole-current leg only."""
    if (reading.leg or "whole") in ONE_WINDING:
        return _one_winding(index, reading, motor, call)
    plate = amps_on_plate(motor, reading.speed, call.supply_now())
    if plate is None:
        return unjudged(index, "The plate amps of this motor, speed or connection are not known.")
    read = spans(reading, call.meters)
    background = _background(reading, call)
    if background > limits.background_pct / 100 * plate:
        return suspect(
            index, f"Background of {background:.2f} A is over {limits.background_pct:g} % of the plate. "
            "Move the jaw away from other leads and read again.", source=METHOD,
        )  # fmt: skip
    if len(read) == 3:
        legs = _legs(index, read, plate, limits)
        if legs is not None:
            return legs
    should = _should(reading, motor, call) if len(read) == 1 else None
    found = _against_plate(index, max(read, key=lambda leg: leg.mid), motor, plate, limits, should)
    if len(read) == 3 and found.judgement.finding != "open":
        even = Signal("legs.even", "three legs alike", (index,))
        found = Judged(found.judgement, found.link, (*found.signals, even))
    return found


def _legs(index: int, read: list[Span], plate: float, limits: Limits) -> Judged | None:
    """Three legs that do not belong together; None when they do."""
    amps = [leg.mid for leg in read]
    least, share = min(amps), uneven_pct(amps)
    mean = sum(amps) / 3
    u = 100 * max(leg.u for leg in read) / mean if mean else 0.0
    text = " / ".join(f"{leg:.2f}" for leg in amps) + " A"
    limit = f"at most {limits.amps_uneven_pct:g} % apart"
    if least < limits.amps_none_pct / 100 * plate < max(amps):
        says = "A leg carries no current: it runs on two phases. Stop it."
        judgement = Judgement(reading=index, state="failed", finding="out", says=says, limit=limit, source=TRADE)
        return Judged(judgement, None, (Signal("legs.one_dead", text, (index,)),))
    if share - u <= limits.amps_uneven_pct:
        return None
    says = f"The legs differ by {share:.0f} %. Rotate the leads: does it follow the line or the motor?"
    judgement = Judgement(reading=index, state="failed", finding="out", says=says, limit=limit, source=TRADE)
    return Judged(judgement, None, (Signal("legs.uneven", f"{text}, {share:.0f} % apart", (index,)),))


def _should(reading: Reading, motor: Motor, call: Call) -> Expected | None:
    """What the motor model expects; None where the reading is about another tap, or plate rules stay."""
    if not plates_tap(reading, motor, call.unit.speeds_used):
        return None
    return expected_now(call, reading.is_proof)


def _one_winding(index: int, reading: Reading, motor: Motor, call: Call) -> Judged:
    """A leg that carries one winding only: the model alone speaks of it."""
    should, leg = _should(reading, motor, call), reading.leg or "whole"
    band = leg_band(should, leg)
    if should is None or band is None:
        return unjudged(index, "This leg carries one winding only; the plate speaks of the whole current.")
    read = spans(reading, call.meters)[0]
    if read.mid < NO_LEG * should.rest_amps_a["whole"].mid and band.low > read.high:
        return Judged(verdict_on(index, read, band, "A", "failed", "open", _NO_CURRENT[leg]))
    within = state_in(read, band)
    state: State = "normal" if within == "normal" else "borderline"
    finding = "good" if state == "normal" else "borderline"
    return Judged(verdict_on(index, read, band, "A", state, finding, _LEG_SAYS[within]))


def _against_plate(
    index: int, read: Span, motor: Motor, plate: float, limits: Limits, should: Expected | None
) -> Judged:
    """The plate sets the most; the model, where it answers, says how little is too little, and how much is odd."""
    band = amps_band(motor, plate, limits, should)
    low, most = band.low, band.high
    finding, state = _grade(read, plate, low, most, limits)
    says = f"{_SAYS[finding]} {100 * read.mid / plate:.0f} % of the plate."
    says += "" if should is None or finding in ("none", "low") else _beside(read, should)
    public = {"low": "low", "none": "open"}.get(finding, finding)
    judgement = verdict_on(index, read, band, "A", state, public, says)
    key = {"watch": "good", "borderline": ""}.get(finding, finding)
    signals = (Signal(f"amps.{key}", f"{read.text('A')} of {plate:g} A on the plate", (index,)),) if key else ()
    return Judged(judgement, None, signals)


def amps_band(motor: Motor, plate: float, limits: Limits, should: Expected | None) -> Band:
    """The amps within which nothing stands out: from what it draws unloaded to the plate's limit, A."""
    most = limit_amps(motor, plate, limits)
    low = limits.amps_low_pct / 100 * plate if should is None else min(should.unloaded_a, plate)
    return Band(low, most, f"plate {plate:g} A, at most {most:.2f}", SOURCE)


def _grade(read: Span, plate: float, low: float, most: float, limits: Limits) -> tuple[str, State]:
    if read.mid < limits.amps_none_pct / 100 * plate:
        return "none", "failed"
    if read.low > most:
        return "over", "failed"
    if read.high > most:
        return "borderline", "borderline"
    if read.high < low:
        return "low", "suspect"
    return ("good" if read.high <= plate else "watch"), "normal"


def _beside(read: Span, should: Expected) -> str:
    """The reading beside what the model expects under these volts and this capacitor."""
    expects = should.run_amps_a["whole"]
    if not should.turns:
        return f" Standing still it would draw {should.rest_amps_a['whole'].text('A')}."
    if read.low > expects.high:
        return f" More than the {expects.text('A')} expected here: load, drag, capacitor or windings."
    if read.high < expects.low:
        return f" Less than the {expects.text('A')} expected here: is it moving its air?"
    return f" {expects.text('A')} expected here."


def _background(reading: Reading, call: Call) -> float:
    """Background amps near this reading, divided by its turns."""
    rows = reversed(call.standing("background_amps_a", proof=reading.is_proof))
    beside = next((r for _, r in rows if not r.wrong_power), None)
    return max(beside.numbers) / (reading.turns or 1) if beside else 0.0


def judge_background(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge the background, amps with the jaw beside the conductor, against 5 % of the plate."""
    plate = amps_on_plate(motor, None, call.supply_now())
    if plate is None:
        return unjudged(index, "Kept. The plate amps are needed to say whether it is too much.")
    most = limits.background_pct / 100 * plate
    read = max(reading.numbers)
    limit = f"at most {most:.2f} A for each turn through the jaw"
    if read <= most:
        return Judged(
            Judgement(reading=index, state="normal", finding="good", says="Little enough.", limit=limit, source=TRADE)
        )
    turns = f"or pass the lead {int(read / most) + 1} times through the jaw"
    says = f"{100 * read / plate:.0f} % of the plate: move the jaw away from other leads, {turns}."
    return Judged(
        Judgement(reading=index, state="borderline", finding="borderline", says=says, limit=limit, source=TRADE)
    )


def _whole(reading: Reading) -> bool:
    """Taken live on a conductor that carries the whole current."""
    return (reading.leg or "whole") not in ONE_WINDING and not reading.wrong_power


def judge_sister(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge the sister motor's amps beside ours: more than 10 % apart is a finding on the pair."""
    rows = reversed(call.standing("run_amps_a", proof=reading.is_proof))
    mine = next((r for _, r in rows if _whole(r) and r.speed == reading.speed), None)
    if mine is None:
        return unjudged(index, "Clamp our own motor too, then the two can be compared.")
    ours = max(spans(mine, call.meters), key=lambda leg: leg.mid)
    theirs = max(spans(reading, call.meters), key=lambda leg: leg.mid)
    if not theirs.mid:
        return unjudged(index, "The sister draws nothing: it is no reference.")
    share = 100 * (ours.mid - theirs.mid) / theirs.mid
    u = 100 * (ours.u + theirs.u) / theirs.mid
    limit = f"at most {limits.sister_amps_pct:g} % apart"
    word = "alike" if abs(share) + u <= limits.sister_amps_pct else "borderline"
    if abs(share) - u > limits.sister_amps_pct:
        word = "above" if share > 0 else "below"
    says = {
        "alike": "Alike.", "borderline": "Apart, but not beyond the meter's error: more turns through the clamp.",
        "above": "Ours draws more than its sister: drag, load, capacitor or windings.",
        "below": "Ours draws less than its sister: a slipping hub, or less air moved.",
    }[word]  # fmt: skip
    state: State = {"alike": "normal", "borderline": "borderline"}.get(word, "failed")  # type: ignore[assignment]
    finding = {"alike": "good", "borderline": "borderline"}.get(word, "out")
    judgement = Judgement(
        reading=index, state=state, finding=finding, says=f"{says} {share:+.0f} %.", limit=limit, source=TRADE
    )
    signals = (Signal(f"sister.{word}", f"{ours.mid:.2f} A beside the sister's {theirs.mid:.2f}", (index,)),)
    return Judged(judgement, None, signals if word != "borderline" else ())
