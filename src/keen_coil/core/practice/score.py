"""How a learner did on a practice case: what was found and condemned, at what cost, how safely; and the replay."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Literal

from pydantic import BaseModel

from ..call import Call, read_call, write_call
from ..diagnosis.assess import Assessment, assess
from ..diagnosis.faults import AMBIGUOUS_GROUPS, FAULTS, ORDER
from ..limits import DEFAULTS, Limits
from ..vocabulary import Verdict
from .case import Case
from .job.score import JobScore
from .ladder import causes_among
from .play import engine_plays
from .simulated_unit import SLIPS

LEAST = 0.001
CONDEMNS = ("condemn_motor", "replace_module")
MOTOR_OUT = frozenset({*CONDEMNS, "replace_wrong_motor"})
PARTS: dict[str, str] = {
    "condemn_motor": "motor",
    "replace_module": "module",
    "replace_wrong_motor": "motor",
    "replace_capacitor": "run capacitor",
}
"""What a verdict throws away."""
WORDS: dict[str, str] = {
    "condemn_motor": "Condemn the motor",
    "replace_module": "Replace the module",
    "replace_wrong_motor": "Replace the wrong motor",
    "replace_capacitor": "Replace the capacitor",
    "not_the_motor": "Not the motor",
    "runs_worn": "Worn, still runs",
    "usable_limited": "Usable on other speeds",
    "cool_and_retest": "Cool it, test again",
    "dry_and_retest": "Dry it, test again",
    "no_fault_found": "Nothing wrong",
    "not_proved": "Not checked yet",
}
"""The verdicts a learner chooses from, as they are said."""


class Done(BaseModel):
    """What a learner did, in order: a test (`kind`), a wait, the power; minutes it took, the slip it was, if any.

    A job goes on: what was named (`say`, the verdict, the faults in `says`), steps of the swap, looking at the wires.

    again: another lead or leg of the test before, not a test of its own.
    """

    do: Literal["test", "wait", "power", "say", "step", "look"]
    again: bool = False
    kind: str = ""
    name: str = ""
    minutes: float = 0.0
    slip: str = ""
    says: str = ""


class Belief(BaseModel):
    """A fault with the chance the engine gave it."""

    fault: str
    probability: float


class Step(BaseModel):
    """One reading of the replay: what the engine made of it, what it believed after, what it would have done next."""

    reading: int
    kind: str
    value: str
    says: str
    state: str
    top: list[Belief]
    truth: float
    moved_bits: float
    verdict: str
    next_test: str


class Score(BaseModel):
    """The end of a case. `found` and `missed` are faults; `engine` figures are those of the engine's own play."""

    verdict: str
    said: list[str]
    right_verdict: str
    is_right: bool
    found: list[str]
    missed: list[str]
    wrongly_said: list[str]
    good_parts_condemned: list[str]
    proved: bool
    not_yet_proved: list[str]
    tests: int
    minutes: float
    engine_tests: int
    engine_minutes: float
    engine_verdict: str
    slips: dict[str, int]
    unmeasured: int
    telling: int | None
    replay: list[Step]
    job: JobScore | None = None


def right_verdict(case: Case) -> Verdict:
    """The verdict that what is hidden leads to: of several the first in the contract's order."""
    verdicts = {FAULTS[fault].verdict for fault in causes_among(case.truth)}
    return next((verdict for verdict in ORDER if verdict in verdicts), "no_fault_found")


def score(
    case: Case,
    call: Call,
    done: Sequence[Done],
    verdict: str,
    said: Iterable[str],
    unmeasured: int = 0,
    limits: Limits = DEFAULTS,
) -> Score:
    """Score a learner's case.

    Args: case; call, with the learner's readings; done, tests, waits and switching in order; verdict and said, what
    the learner says is so (what is done after that belongs to the job); unmeasured, readings written down without a
    test; limits of the shop.
    """
    named = [fault for fault in said if fault != "none"]
    found = sorted(fault for fault in case.truth if _names(fault, named))
    missed = sorted(causes_among(case.truth) - set(found))
    wrongly = [fault for fault in named if not any(_names(true, [fault]) for true in case.truth)]
    answers = _answers(call, limits)
    replay, last = replay_of(case, call, answers), answers[-1]
    engine = engine_plays(case)
    by_luck = verdict in CONDEMNS and last.verdict != verdict
    right = right_verdict(case)
    is_right = verdict == right and not missed and not wrongly
    said_at = next((place for place, row in enumerate(done) if row.do == "say"), len(done))
    before = done[:said_at]
    tests = [row for row in before if row.do == "test" and not row.again]
    return Score(
        verdict=verdict,
        said=named,
        right_verdict=right,
        is_right=is_right,
        found=found,
        missed=missed,
        wrongly_said=wrongly,
        good_parts_condemned=_condemned(case, verdict),
        proved=not by_luck,
        not_yet_proved=list(last.before_condemning) if by_luck else [],
        tests=len(tests),
        minutes=round(sum(row.minutes for row in before), 1),
        engine_tests=engine.tests,
        engine_minutes=round(engine.minutes, 1),
        engine_verdict=engine.answer.verdict,
        slips={slip: n for slip in SLIPS if (n := sum(row.slip == slip for row in done))},
        unmeasured=unmeasured,
        telling=_telling(replay),
        replay=replay,
    )


def _names(fault: str, said: Iterable[str]) -> bool:
    """Whether one of the faults said is this one, or stands for it."""
    return any(name == fault or fault in AMBIGUOUS_GROUPS.get(name, ()) for name in said)


def _condemned(case: Case, verdict: str) -> list[str]:
    """Good parts that the verdict would throw away."""
    needed = {FAULTS[fault].verdict for fault in case.truth}
    part = PARTS.get(verdict)
    if part is None or verdict in needed:
        return []
    motor_bad = bool(needed & MOTOR_OUT)
    return [] if part in ("motor", "module") and motor_bad and verdict != "replace_module" else [part]


def _answers(call: Call, limits: Limits) -> list[Assessment]:
    """What the engine said before the first reading and after each."""
    data = write_call(call)
    rows = data.pop("readings", [])
    return [assess(read_call({**data, "readings": rows[:count]}), limits) for count in range(len(rows) + 1)]


def replay_of(case: Case, call: Call, answers: Sequence[Assessment]) -> list[Step]:
    """The whole reasoning, reading by reading: the engine's belief after each, and the test it would have made next.

    Args: answers, the engine's before the first reading and after each.
    """
    shares = [_truth_in(answer, case) for answer in answers]
    return [
        Step(
            reading=index,
            kind=reading.kind,
            value=str(reading.value),
            says=answer.judgements[index].says,
            state=answer.judgements[index].state,
            truth=round(now, 4),
            moved_bits=round(math.log2(now / before), 3),
            top=[Belief(fault=row.fault, probability=row.probability) for row in answer.ranked[:3]],
            verdict=answer.verdict,
            next_test=answer.next_tests[0].kind if answer.next_tests else "",
        )
        for index, (reading, answer, before, now) in enumerate(
            zip(call.readings, answers[1:], shares, shares[1:], strict=False)
        )
    ]


def _truth_in(answer: Assessment, case: Case) -> float:
    """Chance the engine gives to the first cause that is so; to no fault where there is none."""
    wanted = causes_among(case.truth) or {"none"}
    shares = [
        row.probability
        for row in answer.ranked
        if row.fault in wanted or set(AMBIGUOUS_GROUPS.get(row.fault, ())) & wanted
    ]
    return max([LEAST, *shares])


def _telling(replay: list[Step]) -> int | None:
    """The reading that told most: after which the true fault's chance had grown most."""
    best = max(replay, key=lambda step: step.moved_bits, default=None)
    return best.reading if best is not None and best.moved_bits > 0 else None
