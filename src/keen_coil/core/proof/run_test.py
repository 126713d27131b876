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
    "Meter: more turns through the clamp, or one with more resolution.",
    "Interference: keep the jaw away from compressor leads; note the background.",
    "Speed class: same poles and RPM as the old plate?",
    "Capacitor: the new motor's µF, not the old one's?",
    "Blade height: where it was, within 1/8 in?",
    "Coil: clean?",
)
_OTHER = {
    "turns_way": "Stop it. Set the rotation the other way and try again.",
    "supply_v": "Find the volts first: supply, contacts, connections.",
    "draught": "Vent, drain, gasket and wheel: find what leaks or is blocked. The switch is never jumpered.",
    "vent": "Join and clear it before it runs again.",
    "heat": "Stop it: air, load, volts, bearings.",
    "noise": "Stop it. Hub, blade, bracket and guard: find what touches or is loose.",
}
_LOW_AMPS = "Low amps: hub slipping, blade at the wrong height or the wrong way round, or a motor too big for the load."


def prove_run(call: Call, limits: Limits = DEFAULTS) -> RunProof:
    """Judge the proof readings of a call against the plate of the motor that is in now."""
    judged = judge_readings(call, limits)
    checks = [_check(needed, call, judged, limits) for needed in needed_for(call)]
    drop = _drop(call, limits)
    checks += [drop] if drop else []
    passed = all(check.state == "passed" or not (check.must or check.state == "failed") for check in checks)
    return RunProof(passed=passed, checks=checks, check_next=[] if passed else _next(checks))


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
    says = judgement.says
    if needed.speed and judgement.state == "unjudged":
        state, says = _under_highest(reading, call, limits) or (state, says)
    return Check(
        name=needed.name,
        title=needed.title,
        state=state,
        says=says,
        reading=index,
        judgement=judgement,
        must=needed.must,
    )


def _under_highest(reading: Reading, call: Call, limits: Limits) -> tuple[CheckState, str] | None:
    """A slower tap without plate amps of its own: it may not draw more than the plate of the highest (amps)."""
    motor = call.motor_on_proof
    plate = amps_on_plate(motor, None, call.supply_now())
    if plate is None or isinstance(reading.value, list):
        return None
    read, most = spans(reading, call.meters)[0], limit_amps(motor, plate, limits)
    if read.high <= plate:
        return "passed", "No plate amps for this speed; under the plate of the highest."
    if read.low > most:
        return "failed", "Over the limit of the highest speed, on a slower one."
    return "look", "No plate amps for this speed; near the limit of the highest."


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
        if check.state in ("passed", "missing") or not (check.must or check.state == "failed"):
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
    return [_LOW_AMPS if finding == "low" else check.says]
