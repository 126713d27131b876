"""Running amps against the plate: whole-current leg, three legs, speed taps, sister motor, background.

Limit: the larger of plate + 10 % (NEMA MG 1, by analogy) and service factor amps. Legs that carry one
winding only are compared with the motor model, not with the plate. Low is what a motor without its load would draw.
"""

from __future__ import annotations

from dataclasses import replace

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
from .plausible import amps_doubt, plate_doubt

SOURCE = "NEMA MG 1, by analogy"
METHOD = "method before value"
ONE_WINDING = ("capacitor", "winding")
BACKGROUND_SHARE = 0.25
"""From this share of the plate's amps the background hides the reading."""
NO_LEG = 0.02
"""Below this share of the amps at rest a leg carries nothing."""
_NO_CURRENT = {
    "capacitor": "No current in the capacitor lead. The capacitor, its lead or the start winding is open.",
    "winding": "No current in this winding. Its lead or the winding is open.",
}
_LEG_SAYS: dict[State, str] = {
    "normal": "As expected on this lead.",
    "borderline": "At the edge of what is expected on this lead. Put more turns through the clamp and read again.",
    "failed": "Not what is expected on this lead. Capacitor, volts, load or windings are not what was entered.",
}
"""An estimate from a plate is no limit: a leg outside it is looked at again, never failed."""
_SAYS = {
    "good": "Within plate amps.",
    "watch": "Over plate amps, within tolerance. Watch it.",
    "over": "Over the limit. Check load, volts, capacitor and windings.",
    "borderline": "Too close to call with this meter. Put more turns through the clamp and read again.",
    "low": "Low. Check the hub, the load, the airflow, and whether the right motor is installed.",
    "none": "No current. The motor circuit is open or has no power.",
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
    read, background = amps_read(reading, call), _background(reading, call)
    if plate is None:
        plate = amps_on_plate(motor, None, call.supply_now())
        if plate is None:
            return unjudged(index, "Plate amps for this motor or connection are not known.")
        if max(leg.low for leg in read) <= limit_amps(motor, plate, limits):
            says = f"Under the {plate:g} A of its high speed. The plate gives no amps for speed {reading.speed}."
            return unjudged(index, says)
    if background is not None and background.mid / (reading.turns or 1) > BACKGROUND_SHARE * plate:
        return suspect(
            index,
            f"Background of {background.mid:.2f} A is a big part of it. "
            "Move the jaw away from other leads and read again.",
            source=METHOD,
        )
    should = _should(reading, motor, call) if len(read) == 1 else None
    found = _against_plate(index, max(read, key=lambda leg: leg.mid), motor, plate, limits, should)
    lost = _leg_lost(index, read, plate, limits) if len(read) == 3 else None
    if lost is not None:
        return lost
    odd = _odd(reading, max(read, key=lambda leg: leg.mid), plate, should, motor, call, found)
    if odd:
        return suspect(index, odd, source=METHOD)
    if background is not None and found.judgement.state != "suspect":
        says = f"{found.judgement.says} Background of {background.mid:.2f} A taken off."
        found = replace(found, judgement=found.judgement.model_copy(update={"says": says}))
    return _legs(index, read, limits, found) if len(read) == 3 else found


def _odd(
    reading: Reading, read: Span, plate: float, should: Expected | None, motor: Motor, call: Call, found: Judged
) -> str:
    """What must be asked before the amps fail anything."""
    if found.judgement.finding not in ("over", "low"):
        return ""
    plates = plate_doubt(motor) if reading.speed in (None, 1) else ""
    return plates or amps_doubt(reading, read, plate, should, motor, call)


def _legs_text(read: list[Span]) -> str:
    return " / ".join(f"{leg.mid:.2f}" for leg in read) + " A"


def _leg_lost(index: int, read: list[Span], plate: float, limits: Limits) -> Judged | None:
    """A three-phase motor of which one leg carries nothing; None when all do, or none does."""
    amps = [leg.mid for leg in read]
    if not min(amps) < limits.amps_none_pct / 100 * plate < max(amps):
        return None
    says, limit = (
        "One leg has no current. It is running on two phases. Shut it off.",
        f"at most {limits.amps_uneven_pct:g} % apart",
    )
    judgement = Judgement(reading=index, state="failed", finding="out", says=says, limit=limit, source=TRADE)
    return Judged(judgement, None, (Signal("legs.one_dead", _legs_text(read), (index,)),))


def _legs(index: int, read: list[Span], limits: Limits, found: Judged) -> Judged:
    """Three legs against the plate and against each other: the worse of the two is said."""
    share, mean = uneven_pct([leg.mid for leg in read]), sum(leg.mid for leg in read) / 3
    u = 100 * max(leg.u for leg in read) / mean if mean else 0.0
    limit = f"at most {limits.amps_uneven_pct:g} % apart"
    if share - u > limits.amps_uneven_pct:
        says = f"The legs differ by {share:.0f} %. Roll the leads: does the odd leg follow the line or the motor?"
        judgement = Judgement(reading=index, state="failed", finding="out", says=says, limit=limit, source=TRADE)
        over = tuple(signal for signal in found.signals if signal.key == "amps.over")
        return Judged(
            judgement, None, (Signal("legs.uneven", f"{_legs_text(read)}, {share:.0f} % apart", (index,)), *over)
        )
    straddles = share + u > limits.amps_uneven_pct
    if straddles and found.judgement.state == "normal":
        says = f"The legs differ by {share:.0f} %, too close to call with this meter. More turns through the jaw."
        on_limit = {"state": "borderline", "finding": "borderline", "says": says, "limit": limit}
        return Judged(found.judgement.model_copy(update=on_limit), found.link)
    even = (
        () if straddles or found.judgement.finding == "open" else (Signal("legs.even", "three legs alike", (index,)),)
    )
    return Judged(found.judgement, found.link, (*found.signals, *even))


def _should(reading: Reading, motor: Motor, call: Call) -> Expected | None:
    """What the motor model expects; None where the reading is about another tap, or plate rules stay."""
    if not plates_tap(reading, motor, call.speeds_used):
        return None
    return expected_now(call, reading.is_proof)


def _one_winding(index: int, reading: Reading, motor: Motor, call: Call) -> Judged:
    """A leg that carries one winding only: the model alone speaks of it."""
    should, leg = _should(reading, motor, call), reading.leg or "whole"
    band = leg_band(should, leg)
    if should is None or band is None:
        return unjudged(index, "This lead carries one winding only. Plate amps are for the whole current.")
    read = amps_read(reading, call)[0]
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
    return ("good" if read.mid <= plate else "watch"), "normal"


def _beside(read: Span, should: Expected) -> str:
    """The reading beside what the model expects under these volts and this capacitor."""
    expects = should.run_amps_a["whole"]
    if not should.turns:
        return f" Not turning, it would draw {should.rest_amps_a['whole'].text('A')}."
    if read.low > expects.high:
        return f" More than the {expects.text('A')} expected here. Check load, drag, capacitor and windings."
    if read.high < expects.low:
        return f" Less than the {expects.text('A')} expected here. Is it moving its air?"
    return f" {expects.text('A')} expected here."


def _background(reading: Reading, call: Call) -> Span | None:
    """Background as displayed beside this reading's lead; None when nobody read it."""
    proof, leg = reading.is_proof, reading.leg or "whole"
    return call.once(("background", proof, leg), lambda: _background_of(call, proof, leg))


def _background_of(call: Call, proof: bool, leg: str) -> Span | None:
    rows = [r for _, r in call.standing("background_amps_a", proof=proof) if not r.wrong_power]
    beside = [r for r in rows if (r.leg or "whole") == leg] or rows
    return max(spans(beside[-1], call.meters), key=lambda span_: span_.mid) if beside else None


def amps_read(reading: Reading, call: Call) -> list[Span]:
    """Running amps of every leg, the background taken off with its own uncertainty, divided by the turns.

    1.58 A beside a background of 0.07 A: 1.51 A, each with its meter's error.
    """
    background, turns = _background(reading, call), reading.turns or 1
    if background is None or reading.kind != "run_amps_a":
        return spans(reading, call.meters)
    low, high = max(background.low, 0.0) / turns, background.high / turns
    return [Span(max(leg.low - high, 0.0), max(leg.high - low, 0.0)) for leg in spans(reading, call.meters)]


def judge_background(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge the background, amps with the jaw beside the conductor, against 5 % of the plate."""
    plate = amps_on_plate(motor, None, call.supply_now())
    if plate is None:
        return unjudged(index, "Saved. Plate amps are needed to say if it is too much.")
    most = limits.background_pct / 100 * plate
    read = max(reading.numbers)
    limit = f"at most {most:.2f} A for each turn through the jaw"
    if read <= most:
        return Judged(
            Judgement(reading=index, state="normal", finding="good", says="Low enough.", limit=limit, source=TRADE)
        )
    turns = f"or pass the lead {int(read / most) + 1} times through the jaw"
    says = f"{100 * read / plate:.0f} % of plate amps. Move the jaw away from other leads, {turns}."
    return Judged(
        Judgement(reading=index, state="borderline", finding="borderline", says=says, limit=limit, source=TRADE)
    )


def _leg(reading: Reading) -> str:
    return reading.leg or "whole"


def judge_sister(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge the sister motor's amps beside ours: more than 10 % apart is a finding on the pair."""
    rows = reversed(call.standing("run_amps_a", proof=reading.is_proof))
    mine = next(
        ((i, r) for i, r in rows if not r.wrong_power and r.speed == reading.speed and _leg(r) == _leg(reading)), None
    )
    if mine is None:
        return unjudged(index, "Clamp the same lead of this call's motor, same speed, to compare the two.")
    own = judge_amps(*mine, motor, call, limits).judgement
    if own.state == "suspect" and own.source == METHOD:
        return unjudged(index, "This motor's own amps are in doubt. Read them again first.")
    ours = max(amps_read(mine[1], call), key=lambda leg: leg.mid)
    theirs = max(spans(reading, call.meters), key=lambda leg: leg.mid)
    if not theirs.mid:
        return unjudged(index, "The sister motor draws nothing. Nothing to compare with.")
    share = 100 * (ours.mid - theirs.mid) / theirs.mid
    u = 100 * (ours.u + theirs.u) / theirs.mid
    limit = f"at most {limits.sister_amps_pct:g} % apart"
    word = "alike" if abs(share) + u <= limits.sister_amps_pct else "borderline"
    if abs(share) - u > limits.sister_amps_pct:
        word = "above" if share > 0 else "below"
    says = {
        "alike": "Alike.",
        "borderline": "Apart, but too close to call with this meter. Put more turns through the clamp.",
        "above": "This motor draws more than its sister. Check drag, load, capacitor and windings.",
        "below": "This motor draws less than its sister. Check for a slipping hub or less airflow.",
    }[word]
    state: State = {"alike": "normal", "borderline": "borderline"}.get(word, "failed")  # type: ignore[assignment]
    finding = {"alike": "good", "borderline": "borderline"}.get(word, "out")
    judgement = Judgement(
        reading=index, state=state, finding=finding, says=f"{says} {share:+.0f} %.", limit=limit, source=TRADE
    )
    signals = (Signal(f"sister.{word}", f"{ours.mid:.2f} A beside the sister's {theirs.mid:.2f}", (index,)),)
    return Judged(judgement, None, signals if word != "borderline" else ())
