"""Running speed against the plate: the same class within 5 %, never above synchronous on an induction motor."""

from __future__ import annotations

from dataclasses import replace

from ..call import Call
from ..limits import Limits
from ..plates import Motor
from ..readings import Reading
from ..speed import poles_of, synchronous_speed
from ..uncertainty import span
from ..units import Span
from .judged import Band, Judged, Signal, State, suspect, unjudged, verdict_on
from .modelled import expected_now, plates_tap

SOURCE = "n = 120 f / poles; speed class within 5 % of the plate"
STANDS_RPM = 20.0
_SAYS = {
    "right": "The plate's speed.",
    "slow": "Slow. Check for a weak capacitor, low volts, dragging bearings or too much load.",
    "other_class": "Not the plate's speed class. Wrong motor or wrong plate.",
    "borderline": "Near plate speed, but too close to call with this meter. Enter its own error.",
    "fast": "Fast. Almost no load on it. Check hub, wheel and airflow.",
}


def judge_rpm(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge the speed read, rpm, against plate rpm; other taps than the highest go by their own amps only."""
    found = _judge_rpm(index, reading, motor, call, limits)
    moves = reading.numbers[0] > STANDS_RPM and found.judgement.state != "suspect"
    return (
        replace(found, signals=(*found.signals, Signal("moves.yes", f"{reading.value} rpm", (index,))))
        if moves
        else found
    )


def _judge_rpm(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    read = span(reading.numbers[0], reading, call.meters)
    if motor.traits.is_electronic and motor.rpm_min is not None and motor.rpm_max is not None:
        return _in_range(index, read, Band(motor.rpm_min, motor.rpm_max, "the plate's speed range", "motor plate"))
    if motor.rpm is None:
        return unjudged(index, "The plate's RPM is not known.")
    if reading.speed is not None and reading.speed > 1:
        return unjudged(index, "The plate RPM is for high speed. This is another tap.")
    own_hz = motor.hz or call.unit.hz or 60
    poles = motor.poles or poles_of(motor.rpm, own_hz)
    hz = own_hz if call.unit.hz is None else call.unit.hz
    judged = _by_class(index, read, motor.rpm * hz / own_hz, poles, hz, limits)
    return _with_model(judged, reading, motor, call)


def _with_model(judged: Judged, reading: Reading, motor: Motor, call: Call) -> Judged:
    """The judgment with what the motor model expects under these volts and this capacitor."""
    should = expected_now(call, reading.is_proof) if plates_tap(reading, motor, call.speeds_used) else None
    if should is None or not should.turns or judged.judgement.state == "suspect":
        return judged
    says = f"{judged.judgement.says} {should.run_rpm.text('rpm', 4)} expected here."
    return replace(judged, judgement=judged.judgement.model_copy(update={"says": says}))


def _in_range(index: int, read: Span, band: Band) -> Judged:
    inside = read.high >= band.low and read.low <= band.high
    says = "Inside its speed range." if inside else "Outside its speed range."
    judgement = verdict_on(
        index, read, band, "rpm", "normal" if inside else "failed", "good" if inside else "out", says
    )
    return Judged(judgement, None, (Signal("rpm.right" if inside else "rpm.slow", read.text("rpm"), (index,)),))


def _by_class(index: int, read: Span, plate: float, poles: int | None, hz: int, limits: Limits) -> Judged:
    share = limits.speed_class_pct / 100
    most = synchronous_speed(poles, hz) if poles else plate * (1 + share)
    band = Band(plate * (1 - share), most, f"plate {plate:g} rpm, synchronous {most:g}", SOURCE)
    if read.low > most * 1.01 and not _next_class(read, poles, hz):
        return suspect(
            index, "Above synchronous speed. An induction motor can't do that. Read it again.", source=SOURCE
        )
    word = _word(read, band, poles, hz)
    state: State = "normal" if word == "right" else "failed"
    if word != "right" and read.high >= band.low and read.low <= band.high:
        state, word = "borderline", "borderline"
    finding = "good" if state == "normal" else "borderline" if state == "borderline" else "out"
    signals = (Signal(f"rpm.{word}", f"{read.text('rpm')} of {plate:g}", (index,)),) if state != "borderline" else ()
    return Judged(verdict_on(index, read, band, "rpm", state, finding, _SAYS[word]), None, signals)


def _word(read: Span, band: Band, poles: int | None, hz: int) -> str:
    if read.within(band.low, band.high):
        return "right" if read.low < 0.985 * band.high else "fast"
    if read.low > band.high:
        return "other_class"
    return "slow"


def _next_class(read: Span, poles: int | None, hz: int) -> bool:
    """Whether the speed lies below a higher synchronous speed, as a motor of fewer poles would turn."""
    return poles is not None and poles > 2 and read.low <= synchronous_speed(poles - 2, hz)
