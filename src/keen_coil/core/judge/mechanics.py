"""Shaft, shell and blade: what hands, ears and a thermometer find.

An ECM cogs by nature; a hot shell may mean an open overload; a sister is the best reference.
"""

from __future__ import annotations

from ..call import Call
from ..limits import TRADE, Limits
from ..readings import Reading
from ..uncertainty import span
from .cooling import class_average_c
from .judged import Band, Judged, Judgement, Signal, State, state_in, suspect, unjudged, verdict_on
from .supply import call_present
from .words import judge_word


def judge_spin(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge turning by hand; stiff or rough says nothing of the bearings of an ECM."""
    cogs = reading.value in ("stiff", "rough")
    if call.motor.traits.is_electronic and cogs:
        says = "An ECM cogs when you turn it. That is normal. Compare with a sister, or unplug the module."
        return suspect(index, says, "bearings", TRADE)
    if not call.motor.traits.is_electronic and reading.value == "brakes":
        return suspect(index, "Only an ECM brakes by itself. Turn it again. Is it stiff, rough or locked?", "bearings")
    found = judge_word(index, reading)
    return found or unjudged(index, "No answer.", "bearings")


def judge_safety(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge a safety switch; an air-proving pressure switch must be open at rest and close when it runs."""
    if proves_air(reading, call) and reading.when == "rest" and reading.value in ("closed", "stuck_closed"):
        says = "Closed at rest, should be open. The board will not start the inducer."
        judgement = Judgement(
            reading=index, state="failed", finding="out", says=says, limit="open at rest", source=TRADE
        )
        return Judged(judgement, "control", (Signal("safety.stuck", "pressure switch closed at rest", (index,)),))
    if proves_air(reading, call) and reading.value == "open" and reading.when != "running":
        says = (
            "Open at rest, as it should be."
            if reading.when == "rest"
            else "Open at rest, as it should be. Read it running too."
        )
        state: State = "normal" if reading.when == "rest" else "unjudged"
        judgement = Judgement(
            reading=index, state=state, finding="good" if state == "normal" else None, says=says, source=TRADE
        )
        signals = (Signal("pressure_rest.open", "pressure switch open at rest", (index,)),) if state == "normal" else ()
        return Judged(judgement, None, signals)
    if proves_air(reading, call) and reading.value == "open":
        says = "It does not close with the inducer running. Check draft, tube, vent, drain and the switch."
        judgement = Judgement(
            reading=index, state="failed", finding="out", says=says, limit="closed when running", source=TRADE
        )
        return Judged(judgement, "control", (Signal("draught.short", "pressure switch open while it runs", (index,)),))
    return judge_word(index, reading) or unjudged(index, "No answer.", "control")


def proves_air(reading: Reading, call: Call) -> bool:
    """Whether a safety is the air-proving switch of an inducer, not a refrigerant one."""
    name = (reading.at or "").lower()
    refrigerant = any(word in name for word in ("high", "low", "refrigerant"))
    return call.motor.role == "inducer" and "pressure" in name and not refrigerant


def judge_switch(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge whether the switch pulled in; out means nothing until the fan is called for."""
    if reading.value is False and not call_present(call):
        says = "Not pulled in, but is the fan called? Check the call."
        judgement = Judgement(reading=index, state="unjudged", says=says)
        return Judged(judgement, "switching", (Signal("switch_uncalled.out", "switch pulled in: no", (index,)),))
    return judge_word(index, reading) or unjudged(index, "No answer.", "switching")


def judge_shell(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge the shell's temperature, C, against its insulation class and its sister's shell."""
    read = span(reading.numbers[0], reading, call.meters)
    letter = (call.motor_on_proof if reading.is_proof else call.motor).insulation_class or "B"
    most = class_average_c(letter)
    band = Band(
        -60,
        most,
        f"at most {most:g} °C, class {letter}",
        "IEC 60034-1 classes, average 10 degrees C below the hot spot",
    )
    state = state_in(read, band)
    text = f"motor {read.mid:.0f} °C"
    if state == "failed":
        says = "Hotter than its insulation is rated for. Let it cool before you judge the windings."
        return Judged(
            verdict_on(index, read, band, "C", state, "over", says), None, (Signal("shell.hot", text, (index,)),)
        )
    air = call.unit.ambient_c if call.unit.ambient_c is not None else HOTTEST_AIR_C
    if not reading.is_proof and stands_still(call) and read.low > air + limits.hot_standing_c:
        says = "Hot and not running. The thermal overload may be open. Power off and let it cool first."
        judgement = verdict_on(index, read, band, "C", "failed", "over", says)
        return Judged(judgement, "overload", (Signal("shell.hot_still", f"{text}, not running", (index,)),))
    warm = call.unit.ambient_c is not None and read.low > call.unit.ambient_c + limits.cool_within_c
    cool = call.unit.ambient_c is not None and read.high <= call.unit.ambient_c + limits.cool_within_c
    if cool and not reading.is_proof and stands_still(call) and call.motor.protection != "manual":
        says = "Cool and not running. It is not a tripped overload."
        judgement = verdict_on(index, read, band, "C", "normal", "good", says)
        return Judged(judgement, None, (Signal("shell.cool", f"{text}, cool and not running", (index,)),))
    says = "Still warm. You can't judge an open winding yet." if warm else "Within its class."
    if reading.is_proof:
        warm, says = (
            False,
            "Within its class. If it keeps climbing, or runs hotter than its sister, check air, load and volts.",
        )
    return Judged(verdict_on(index, read, band, "C", state, "watch" if warm else "good", says), None)


HOTTEST_AIR_C = 40.0
"""The air around a motor when nobody noted it."""


def stands_still(call: Call) -> bool:
    """Whether the motor stands still: seen, else as the complaint has it."""
    rows = [r for _, r in call.standing("turns_way") if not r.wrong_power]
    if rows:
        return bool(rows[-1].value == "not_turning")
    moving = any(r.numbers[0] > 0 for _, r in call.standing("run_rpm"))
    return not moving and call.complaint.symptom in ("quiet", "hums_no_start", "stops_hot")


def judge_sister_shell(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge the sister's shell, C, against ours: much hotter ours is a finding."""
    mine = next((r for _, r in reversed(call.standing("shell_c")) if r.is_proof == reading.is_proof), None)
    if mine is None:
        return unjudged(index, "Read this call's motor too, to compare the two.")
    ours, theirs = span(mine.numbers[0], mine, call.meters), span(reading.numbers[0], reading, call.meters)
    above = ours.mid - theirs.mid
    band = Band(
        -300, limits.sister_shell_c, f"ours at most {limits.sister_shell_c:g} degrees C above the sister's", TRADE
    )
    hotter = above - ours.u - theirs.u > limits.sister_shell_c
    state = "failed" if hotter else "normal" if above + ours.u + theirs.u <= limits.sister_shell_c else "borderline"
    says = f"This motor is {above:+.0f} degrees C against the sister motor."
    finding = {"failed": "over", "normal": "good"}.get(state, "borderline")
    key = {"failed": "shell.hot", "normal": "shell.alike"}.get(state)
    signals = (Signal(key, f"{above:+.0f} degrees C against the sister motor", (index,)),) if key else ()
    return Judged(verdict_on(index, theirs, band, "C", state, finding, says), None, signals)  # type: ignore[arg-type]
