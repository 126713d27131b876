"""The run proof: volts at the load side, amps against the new plate, direction, noise; pass or what to check next."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from ..call import Call
from ..judge.current import amps_on_plate, limit_amps
from ..judge.judged import Judged, Judgement, State
from ..judge.readings import judge_readings
from ..judge.supply import drop_judgement
from ..limits import DEFAULTS, Limits
from ..readings import Reading
from ..uncertainty import spans
from .plan import Needed, needed_for, proof_reading

WANTED_FIGURES = ("air_c", "shell_c", "air_speed_fpm")
"""Figures that belong in the record whether a limit judges them or not."""
CheckState = Literal["passed", "look", "failed", "missing"]


class Check(BaseModel):
    """One thing the run must show. `reading` is its index in the call."""

    name: str
    title: str
    state: CheckState
    says: str
    reading: int | None = None
    judgement: Judgement | None = None
    must: bool = True


class RunProof(BaseModel):
    """The run proof of the new motor: passed when every check that must has passed and none has failed."""

    passed: bool
    checks: list[Check]
    check_next: list[str]


HIGH_AMPS = (
    "Meter: more turns through the clamp, or a meter with more resolution.",
    "Interference: keep the jaw away from the compressor leads and read the background.",
    "Speed class: same poles and RPM as the old plate?",
    "Capacitor: the new motor's µF, not the old one's?",
    "Blade height: where it was, within 1/8 in?",
    "Coil: clean?",
)
_OTHER = {
    "turns_way": "Shut it off. Reverse the rotation and try again.",
    "supply_v": "Fix the voltage first: supply, contacts, connections.",
    "draught": "Vent, drain, gasket and wheel: find what leaks or is plugged. Never jumper the switch.",
    "vent": "Connect it and clear it before it runs again.",
    "room_co": "Burner off, people out, ventilate. Find it before it fires again.",
    "flue_co": "Burner off. Check burner, vent and heat exchanger before it runs again.",
    "heat": "Shut it off. Check airflow, load, volts and bearings.",
    "noise": "Shut it off. Check hub, blade or wheel, bracket and guard for what rubs or is loose.",
}
LOW_AMPS = (
    "Low amps: does the hub turn with the shaft? Is the blade or wheel on right and at its height?",
    "Low amps on a blower: check filter, coil and registers. Less air is less work.",
    "Low amps: is the clamp on the lead that carries the whole current? More turns through it.",
    "Low amps: a motor bigger than the load needs always draws little.",
)
"""Low amps are a question with its cheap checks, and no failed run."""
PART_LOAD = "At part load an ECM draws only what the airflow needs. That is normal."


def prove_run(call: Call, limits: Limits = DEFAULTS) -> RunProof:
    """Judge the proof readings of a call against the plate of the motor that is in now."""
    judged = judge_readings(call, limits)
    checks = [_check(needed, call, judged, limits) for needed in needed_for(call)]
    drop = _drop(call, limits)
    checks += [drop] if drop else []
    checks += _split(call)
    passed = all(check.state == "passed" or not (check.must or check.state == "failed") for check in checks)
    low = [row for check in checks if _is_low(check) for row in LOW_AMPS]
    return RunProof(passed=passed, checks=checks, check_next=list(dict.fromkeys(low)) if passed else _next(checks))


def _is_low(check: Check) -> bool:
    return check.state == "look" and check.judgement is not None and check.judgement.finding == "low"


def _split(call: Call) -> list[Check]:
    """The air's temperature split, C, where supply and return were both read."""
    read = {reading.at: reading.numbers[0] for _, reading in call.standing("air_c", proof=True) if reading.at}
    if not {"supply", "return"} <= set(read):
        return []
    split = read["supply"] - read["return"]
    says = f"{abs(split):.1f} degrees C {'warmer' if split > 0 else 'cooler'} than the return."
    return [Check(name="split", title="Temperature split", state="passed", says=says, must=False)]


def _check(needed: Needed, call: Call, judged: dict[int, Judged], limits: Limits) -> Check:
    found = proof_reading(needed, call)
    if found is None:
        return Check(name=needed.name, title=needed.title, state="missing", says=needed.ask, must=needed.must)
    index, reading = found
    judgement = judged[index].judgement
    state = _STATES[judgement.state]
    if needed.kind == "turns_way" and reading.value == "not_turning":
        state = "failed"
    if needed.kind == "noise" and reading.value == "hum":
        state = "look"
    says, must = judgement.says, needed.must
    if needed.kind in WANTED_FIGURES and judgement.state == "unjudged":
        state = "passed"
    if needed.kind == "run_amps_a" and (needed.speed or reading.speed) and judgement.state == "unjudged":
        state, says = _under_highest(reading, call, limits) or (state, says)
    if needed.kind == "run_amps_a" and judgement.finding == "low":
        if call.motor_on_proof.traits.is_electronic:
            state, says = "passed", f"{says.split('.')[0]}. {PART_LOAD}"
        else:
            must = False
    return Check(
        name=needed.name,
        title=needed.title,
        state=state,
        says=says,
        reading=index,
        judgement=judgement,
        must=must,
    )


def _under_highest(reading: Reading, call: Call, limits: Limits) -> tuple[CheckState, str] | None:
    """A slower tap without plate amps of its own: it may not draw more than the plate of the highest (amps)."""
    motor = call.motor_on_proof
    plate = amps_on_plate(motor, None, call.supply_now())
    if plate is None or isinstance(reading.value, list):
        return None
    read, most = spans(reading, call.meters)[0], limit_amps(motor, plate, limits)
    if read.high <= plate:
        return "passed", "No plate amps for this speed. Under the plate amps of high speed."
    if read.low > most:
        return "failed", "Over the high-speed limit, on a slower speed."
    return "look", "No plate amps for this speed. Near the high-speed limit."


_STATES: dict[State, CheckState] = {
    "normal": "passed",
    "borderline": "look",
    "suspect": "look",
    "failed": "failed",
    "unjudged": "look",
}


def _drop(call: Call, limits: Limits) -> Check | None:
    """The drop from standing to running volts at the load side, when both were read."""
    load = [r for _, r in call.standing("supply_v", proof=True) if r.at == "switch_load" and r.across != "ground"]
    standing = [r for r in load if r.when != "running"]
    running = [r for r in load if r.when == "running"]
    if not standing or not running:
        return None
    before, after = spans(standing[-1], call.meters)[0], spans(running[-1], call.meters)[0]
    if before.mid <= 0:
        return None
    judgement = drop_judgement(before, after, limits)
    return Check(
        name="drop", title="Drop when it runs", state=_STATES[judgement.state], says=judgement.says, judgement=judgement
    )


def _next(checks: list[Check]) -> list[str]:
    """What to check next, cheapest first: what is wrong before what is missing."""
    found: list[str] = []
    for check in checks:
        if check.state in ("passed", "missing") or not (check.must or check.state == "failed" or _is_low(check)):
            continue
        if check.name.startswith("run_amps_a"):
            found += _amps_next(check)
        else:
            found.append(_OTHER.get(check.name, check.says))
    return found + [check.says for check in checks if check.state == "missing" and check.must]


def _amps_next(check: Check) -> list[str]:
    finding = check.judgement.finding if check.judgement else None
    if finding in ("over", "borderline"):
        return list(HIGH_AMPS)
    return list(LOW_AMPS) if finding == "low" else [check.says]
