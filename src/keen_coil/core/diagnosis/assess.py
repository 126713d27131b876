"""The assessment of a call: the one answer that every face shows (contract, Assessment)."""

from __future__ import annotations

from dataclasses import dataclass, replace

from pydantic import BaseModel

from ..call import Call
from ..changes import CHANGES, state_of
from ..judge.judged import Judgement, Signal
from ..limits import DEFAULTS, Limits
from ..machine.expected import LEGS, SOURCE
from ..vocabulary import Verdict
from .belief import Belief, weigh
from .case import Case, Contradiction
from .causes import Cause, causes, cautions, meanwhile, runs_now
from .compound import all_signals, turns_wheel
from .condemn import gate
from .decide import LEADS_FROM, VERDICT_FROM, Decision, decide, likelihoods, slight_faults
from .faults import AMBIGUOUS_GROUPS, MOTOR_LINKS, TRIPS, odds
from .model_evidence import ModelEvidence, band_for, model_evidence
from .next_test import NextTest, next_tests, no_live_tests
from .states import as_found, as_it_is_now, cured_signals, cures, is_broken, read_since, still_open, with_run_proof
from .unit_path import LinkReport, path_of

SHOWN_FROM, SHOWN_MOST = 0.02, 12
TOGETHER_FROM = 0.05
MOVED_BITS = 0.15
MOST_CONFLICTS = 4
"""With more contradictions than these nothing is decided."""


class Ranked(BaseModel):
    """A fault with its probability and the readings that moved it."""

    fault: str
    probability: float
    speaks_for: list[str]
    speaks_against: list[str]


class Together(BaseModel):
    """Two faults that are true at once with this probability."""

    faults: list[str]
    probability: float


class Explanation(BaseModel):
    """What a fault would read on this motor, at the severity that fits best; `fit` is its share among all of them."""

    faults: list[str]
    fit: float
    says: str
    run_amps_a: dict[str, float]
    run_rpm: float
    capacitor_v: float


class ByModel(BaseModel):
    """The running readings beside what the motor model expects, and which faults would produce them, best first."""

    read: dict[str, tuple[float, float]]
    expected: dict[str, tuple[float, float, float]]
    conditions: list[str]
    explained: list[Explanation]
    source: str


class Assessment(BaseModel):
    """Verdict, faults ranked, links, judgments, what to test next and what to heed."""

    verdict: Verdict
    leading_fault: str | None
    confidence: float
    ranked: list[Ranked]
    together: list[Together]
    also: list[str]
    path: dict[str, LinkReport]
    judgements: list[Judgement]
    contradictions: list[Contradiction]
    next_tests: list[NextTest]
    before_condemning: list[str]
    before_energising: list[str]
    causes: list[Cause]
    cautions: list[str]
    meanwhile: list[str]
    model: ByModel | None = None
    cured: list[str] = []
    still_open: list[str] = []


@dataclass(frozen=True)
class Weighed:
    """A call weighed at one state of its unit: its case, path, belief, and the verdict they lead to."""

    case: Case
    path: dict[str, LinkReport]
    signals: list[Signal]
    modelled: ModelEvidence | None
    belief: Belief
    likely: dict[str, float]
    decision: Decision


def weighed(call: Call, limits: Limits, more: tuple[Signal, ...] = ()) -> Weighed:
    """Judge the readings of a call, prove its links, weigh its faults, guard the gate."""
    case = Case(call, limits)
    path = path_of(case)
    signals = [*all_signals(case, path), *more]
    modelled = model_evidence(case, tuple(odds(case.call)), turns_wheel(call))
    belief = weigh(case.call, signals, modelled, slight_faults(case))
    likely = likelihoods(belief, case)
    return Weighed(case, path, signals, modelled, belief, likely, decide(case, path, belief, likely))


def assess(call: Call, limits: Limits = DEFAULTS) -> Assessment:
    """Assess a call: judge its readings, prove its links, weigh its faults, guard the gate, name the next test.

    Where something was changed in the middle of the call, what was found before and what is read after are weighed
    apart: a fault that a change cured stays the finding, the later readings are its proof.
    """
    if not call.changes:
        return _answer(_held_back(call, limits, weighed(call, limits)))
    return _of_both(call, limits)


def _of_both(call: Call, limits: Limits) -> Assessment:
    """What was found as it came, and what is so since the changes."""
    is_running = runs_now(call)
    call = with_run_proof(call)
    found_call, now_call = as_found(call), as_it_is_now(call)
    first, now = weighed(found_call, limits), weighed(now_call, limits)
    cured = cured_signals(call, first.case, now.case)
    first = weighed(found_call, limits, cured)
    healed = [fault for fault in cures(call, cured) if first.likely.get(fault, 0.0) >= LEADS_FROM]
    later = now.decision
    goes_on = bool(healed) and not is_broken(later.verdict, later.leading, healed) and not _failed_now(now.case, call)
    main = first if goes_on or not read_since(call) else now
    held = _held_back(found_call if main is first else now_call, limits, main)
    answer = _answer(held)
    sure = [fault for fault in first.likely if first.likely[fault] >= VERDICT_FROM]
    parts = {part for fault in [*sure, answer.leading_fault or ""] for part in AMBIGUOUS_GROUPS.get(fault, ())}
    before = [fault for fault in sure if fault not in parts | {"none", answer.leading_fault}]
    judgements = [
        (now if index in now.case.seen else first).case.judged[index].judgement for index in sorted(first.case.judged)
    ]
    contradictions = [
        *first.case.contradictions,
        *(row for row in now.case.contradictions if row not in first.case.contradictions),
    ]
    return answer.model_copy(
        update={
            "path": now.path if read_since(call) else first.path,
            "judgements": judgements,
            "contradictions": contradictions,
            "also": [fault for fault in dict.fromkeys([*answer.also, *before]) if fault not in _renewed(call, now)],
            "cured": healed if goes_on else [],
            "still_open": still_open(now.case),
            "meanwhile": [] if is_running else answer.meanwhile,
            **({"next_tests": [], "before_condemning": []} if goes_on else {}),
        }
    )


def _renewed(call: Call, now: Weighed) -> set[str]:
    """What had tripped or blown, was reset or renewed and holds: it says what happened, and is so no more."""
    done = {fault for change in call.changes for fault in CHANGES[change.what].cures}
    return {fault for fault in done & set(TRIPS) if now.likely.get(fault, 0.0) < VERDICT_FROM}


def _failed_now(case: Case, call: Call) -> bool:
    """Whether a reading taken since the changes still fails."""
    return any(
        judged.judgement.state in ("failed", "suspect") and state_of(case.call.readings[i], call.changes_in_order) > 0
        for i, judged in case.counting
    )


def _held_back(call: Call, limits: Limits, found: Weighed) -> Weighed:
    """The verdict held back where it hangs on a contradiction: where it falls with either side of one."""
    decision = found.decision
    if decision.verdict == "not_proved" or not found.case.conflicts:
        return found
    if len(found.case.conflicts) <= MOST_CONFLICTS and all(
        weighed(call.without(call.left_out | side), limits).decision.same(decision)
        for conflict in found.case.conflicts
        for side in conflict.sides
    ):
        return found
    return replace(found, decision=replace(decision, verdict="not_proved", held=True))


def _answer(found: Weighed) -> Assessment:
    case, path, belief, likely, decision = found.case, found.path, found.belief, found.likely, found.decision
    verdict, leading = decision.verdict, decision.leading
    passed = gate(leading or ("ecm_module" if case.call.motor.traits.is_electronic else "none"), case, path)
    condemned = verdict == "condemn_motor"
    settled = condemned and passed.definite
    order = sorted(likely, key=lambda fault: -likely[fault])
    states = {link: report.state for link, report in path.items()}
    confidence = decision.probability if verdict != "not_proved" else likely[leading or order[0]]
    return Assessment(
        verdict=verdict,
        leading_fault=leading,
        confidence=round(confidence, 4),
        ranked=[_ranked(fault, likely, belief) for fault in order if likely[fault] >= SHOWN_FROM][:SHOWN_MOST],
        together=[
            Together(faults=list(pair), probability=round(p, 4)) for pair, p in belief.together(TOGETHER_FROM)[:6]
        ],
        also=decision.also,
        path=path,
        judgements=[case.judged[index].judgement for index in sorted(case.judged)],
        contradictions=case.contradictions,
        next_tests=[] if settled else next_tests(case, path, belief, leading, passed, verdict),
        before_condemning=[] if condemned else passed.missing,
        before_energising=_before_energising(path, condemned) if settled or no_live_tests(case) else [],
        causes=causes(case, verdict, {signal.key for signal in found.signals}, states),
        cautions=cautions(case),
        meanwhile=meanwhile(case, verdict),
        model=None if found.modelled is None else _by_model(found.modelled),
        still_open=still_open(case),
    )


def _by_model(found: ModelEvidence) -> ByModel:
    bands = {row.quantity: band_for(row, found.should) for row in found.reads}
    return ByModel(
        read={row.quantity: (row.read.low, row.read.high) for row in found.reads},
        expected={name: band.ends for name, band in bands.items()},
        conditions=list(found.should.conditions.says),
        source=SOURCE,
        explained=[
            Explanation(
                faults=list(row.faults),
                fit=round(row.share, 4),
                says=row.says,
                run_rpm=round(row.values["rpm"], 1),
                run_amps_a={leg: round(row.values[leg], 4) for leg in LEGS},
                capacitor_v=round(row.values["capacitor_v"], 1),
            )
            for row in found.explained
        ],
    )


def _before_energising(path: dict[str, LinkReport], condemned: bool) -> list[str]:
    """Links to prove before power comes back; those inside a condemned motor leave with it."""
    gone = MOTOR_LINKS if condemned else frozenset()
    states = ("unproved", "suspect", "failed")
    return [link for link, report in path.items() if report.state in states and link not in gone]


def _ranked(fault: str, likely: dict[str, float], belief: Belief) -> Ranked:
    """A fault with what moved its odds, the strongest first; a union shows what moved its likeliest part."""
    shown = fault if fault in belief.faults else max(AMBIGUOUS_GROUPS[fault], key=lambda part: likely.get(part, 0.0))
    if fault in AMBIGUOUS_GROUPS and fault in belief.faults and likely[fault] > belief.marginal[fault] + 1e-9:
        shown = max(AMBIGUOUS_GROUPS[fault], key=lambda part: belief.marginal.get(part, 0.0))
    bits = belief.evidence_bits[:, belief.faults.index(shown)]
    moved: list[tuple[float, Signal]] = [(float(bit), row.signal) for bit, row in zip(bits, belief.seen, strict=True)]
    strongest = sorted((item for item in moved if abs(item[0]) >= MOVED_BITS), key=lambda item: -abs(item[0]))
    return Ranked(
        fault=fault,
        probability=round(likely[fault], 4),
        speaks_for=[signal.says for bit, signal in strongest if bit > 0],
        speaks_against=[signal.says for bit, signal in strongest if bit < 0],
    )
