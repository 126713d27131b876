"""The assessment of a call: the one answer that every face shows (contract, Assessment)."""

from __future__ import annotations

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Judgement
from ..limits import DEFAULTS, Limits
from .case import Case, Contradiction
from .causes import Cause, causes, cautions
from .compound import GATE_LINKS, all_signals
from .condemn import Gate, gate
from .faults import FAULTS, MOTOR_LINKS, ORDER, Verdict
from .next_test import NextTest, next_tests
from .unit_path import LinkReport, path_of
from .weigh import SHOWN_FROM, Ranked, Together, Weigher, together, weigh

LEADS_FROM, VERDICT_FROM = 0.5, 0.8


class Assessment(BaseModel):
    """Verdict, faults ranked, links, judgements, what to test next and what to heed."""

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


def assess(call: Call, limits: Limits = DEFAULTS, weigher: Weigher = weigh) -> Assessment:
    """Assess a call: judge its readings, prove its links, weigh its faults, guard the gate, name the next test."""
    case = Case(call, limits)
    path = path_of(case)
    signals = all_signals(case, path)
    ranked = weigher(call, signals)
    verdict, leading, also = _decide(case, path, ranked)
    passed = gate(leading, case, path) if leading else Gate(False, False, _unproved(path))
    condemned = verdict == "condemn_motor"
    settled = condemned and passed.definite
    return Assessment(
        verdict=verdict,
        leading_fault=leading,
        confidence=round(_probability(ranked, leading) if leading else ranked[0].probability, 4),
        ranked=[_rounded(row) for row in ranked if row.probability >= SHOWN_FROM][:12],
        together=together(ranked),
        also=also,
        path=path,
        judgements=[case.judged[index].judgement for index in sorted(case.judged)],
        contradictions=case.contradictions,
        next_tests=[] if settled else next_tests(case, path, ranked, verdict),
        before_condemning=[] if condemned else passed.missing,
        before_energising=_before_energising(path, condemned) if settled or _dead_end(case) else [],
        causes=causes(case, verdict, {signal.key for signal in signals}, {k: v.state for k, v in path.items()}),
        cautions=cautions(case),
    )


def _decide(
    case: Case, path: dict[str, LinkReport], ranked: list[Ranked]
) -> tuple[Verdict, str | None, list[str]]:
    """The verdict, the fault that carries it, and the other proved faults."""
    sure = [row.fault for row in ranked if row.probability >= VERDICT_FROM]
    verdicts = {fault: verdict_of(fault, case, path) for fault in sure}
    standing = [fault for fault in sure if verdicts[fault] != "not_proved"]
    if "none" in standing:
        return "no_fault_found", "none", []
    if standing:
        first = min(standing, key=lambda fault: ORDER.index(verdicts[fault]))
        return verdicts[first], first, [fault for fault in sure if fault != first]
    top = ranked[0]
    leading = top.fault if top.probability >= LEADS_FROM else None
    return "not_proved", leading, [fault for fault in sure if fault != leading]


def verdict_of(fault: str, case: Case, path: dict[str, LinkReport]) -> Verdict:
    """The verdict a proved fault leads to, the gate and the dried and running cases heeded."""
    verdict = FAULTS[fault].verdict
    if fault == "insulation_low" and "ground.low_dried" in case.signals:
        verdict = "condemn_motor"
    if verdict == "condemn_motor" and not gate(fault, case, path).is_open:
        return "not_proved"
    if verdict == "runs_worn" and not _turns(case):
        return "not_proved"
    return verdict


def _turns(case: Case) -> bool:
    if {"turns.not", "spin.locked_load", "spin.locked_bare", "amps.none"} & set(case.signals):
        return False
    running = {"turns.right", "turns.wrong", "amps.good", "amps.watch", "amps.over", "amps.low", "noise.bearing"}
    stands = case.call.complaint.symptom in ("quiet", "hums_no_start", "trips")
    return bool(running & set(case.signals)) or not stands


def _dead_end(case: Case) -> bool:
    return bool({"ground.low", "ground.wire_or_motor", "breaker.tripped", "fuse.open"} & set(case.signals))


def _before_energising(path: dict[str, LinkReport], condemned: bool) -> list[str]:
    """Links to prove before power comes back; those inside a condemned motor leave with it."""
    gone = MOTOR_LINKS if condemned else frozenset()
    states = ("unproved", "suspect", "failed")
    return [link for link, report in path.items() if report.state in states and link not in gone]


def _unproved(path: dict[str, LinkReport]) -> list[str]:
    return [link for link in GATE_LINKS if path[link].state not in ("proved", "not_applicable")]


def _probability(ranked: list[Ranked], fault: str) -> float:
    return next(row.probability for row in ranked if row.fault == fault)


def _rounded(row: Ranked) -> Ranked:
    return row.model_copy(update={"probability": round(row.probability, 4)})
