"""The run proof: volts at the load side, amps against the new plate, direction, noise; pass or what to check next."""

from __future__ import annotations

from typing import Literal, NamedTuple

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Judged, Judgement, State
from ..judge.readings import judge_readings
from ..judge.supply import drop_judgement
from ..limits import DEFAULTS, Limits
from ..readings import Reading
from ..uncertainty import spans

CheckState = Literal["passed", "look", "failed", "missing"]


class Check(BaseModel):
    """One thing the run must show. `reading` is its index in the call."""

    name: str
    title: str
    state: CheckState
    says: str
    reading: int | None = None
    judgement: Judgement | None = None


class RunProof(BaseModel):
    """The run proof of the new motor: passed when every check has passed."""

    passed: bool
    checks: list[Check]
    check_next: list[str]


class Needed(NamedTuple):
    """A check of the run: its reading and how to take it."""

    name: str
    title: str
    kind: str
    at: str | None
    when: str | None
    ask: str


NEEDED = (
    Needed("turns_way", "Direction", "turns_way", None, None, "Power up with people clear. See which way it turns."),
    Needed(
        "supply_v",
        "Volts at the load side",
        "supply_v",
        "switch_load",
        "running",
        "Read across the load side while it runs.",
    ),
    Needed(
        "run_amps_a", "Amps, whole current", "run_amps_a", None, None, "Clamp the lead that carries the whole current."
    ),
    Needed("noise", "Noise", "noise", None, None, "Listen after some minutes."),
)
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
    "noise": "Stop it. Hub, blade, bracket and guard: find what touches or is loose.",
}
_LOW_AMPS = "Low amps: hub slipping, blade at the wrong height or the wrong way round, or a motor too big for the load."


def prove_run(call: Call, limits: Limits = DEFAULTS) -> RunProof:
    """Judge the proof readings of a call against the plate of the motor that is in now."""
    judged = judge_readings(call, limits)
    checks = [_check(needed, call, judged) for needed in NEEDED]
    drop = _drop(call, limits)
    checks += [drop] if drop else []
    passed = all(check.state == "passed" for check in checks)
    return RunProof(passed=passed, checks=checks, check_next=[] if passed else _next(checks))


def proof_reading(needed: Needed, call: Call) -> tuple[int, Reading] | None:
    """The latest standing proof reading for a check, with its index."""
    found = [
        (index, reading)
        for index, reading in call.standing(needed.kind, proof=True)
        if needed.at in (None, reading.at) and needed.when in (None, reading.when)
        and (needed.kind != "run_amps_a" or (reading.leg or "whole") not in ("capacitor", "winding"))
    ]  # fmt: skip
    return found[-1] if found else None


def _check(needed: Needed, call: Call, judged: dict[int, Judged]) -> Check:
    found = proof_reading(needed, call)
    if found is None:
        return Check(name=needed.name, title=needed.title, state="missing", says=needed.ask)
    index, reading = found
    judgement = judged[index].judgement
    state = _STATES[judgement.state]
    if needed.kind == "turns_way" and reading.value == "not_turning":
        state = "failed"
    if needed.kind == "noise" and reading.value == "hum":
        state = "look"
    return Check(
        name=needed.name, title=needed.title, state=state, says=judgement.says, reading=index, judgement=judgement
    )


_STATES: dict[State, CheckState] = {
    "normal": "passed", "borderline": "look", "suspect": "look", "failed": "failed", "unjudged": "look",
}  # fmt: skip


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
        if check.state in ("passed", "missing"):
            continue
        if check.name == "run_amps_a":
            found += _amps_next(check)
        else:
            found.append(_OTHER.get(check.name, check.says))
    return found + [check.says for check in checks if check.state == "missing"]


def _amps_next(check: Check) -> list[str]:
    finding = check.judgement.finding if check.judgement else None
    if finding in ("over", "borderline"):
        return list(HIGH_AMPS)
    return [_LOW_AMPS if finding == "low" else check.says]
