"""The assessment of a call: the one answer that every face shows (contract, Assessment)."""

from __future__ import annotations

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Judgement, Signal
from ..limits import DEFAULTS, Limits
from ..machine.expected import SOURCE
from .belief import Belief, weigh
from .case import Case, Contradiction
from .causes import Cause, causes, cautions, meanwhile
from .compound import all_signals, turns_wheel
from .condemn import gate
from .faults import FAULTS, LEADS_TO, MOTOR_LINKS, ORDER, UNIONS, Verdict
from .model_evidence import ModelEvidence, band_for, model_evidence
from .next_test import NextTest, next_tests, no_live_tests
from .prior import odds
from .unit_path import LinkReport, path_of

LEADS_FROM, VERDICT_FROM = 0.5, 0.8
SHOWN_FROM, SHOWN_MOST = 0.02, 12
TOGETHER_FROM = 0.05
MOVED_BITS = 0.15
EXPLAINED_FROM = 0.5
LETS_RUN = frozenset({
    "parallel_load_fault", "air_restricted", "load_damaged", "hub_loose", "capacitor_high", "capacitor_under_rated",
})  # fmt: skip
"""Faults that let the motor turn: alone they do not explain one that stands still."""



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
    meanwhile: list[str]
    model: ByModel | None = None


def assess(call: Call, limits: Limits = DEFAULTS) -> Assessment:
    """Assess a call: judge its readings, prove its links, weigh its faults, guard the gate, name the next test."""
    case = Case(call, limits)
    path = path_of(case)
    signals = all_signals(case, path)
    modelled = model_evidence(case, tuple(odds(call)), turns_wheel(call))
    belief = weigh(call, signals, modelled)
    likely = likelihoods(belief, case)
    verdict, leading, also = _decide(case, path, belief, likely)
    passed = gate(leading or ("ecm_module" if call.motor.kind == "ecm" else "none"), case, path)
    condemned = verdict == "condemn_motor"
    settled = condemned and passed.definite
    order = sorted(likely, key=lambda fault: -likely[fault])
    states = {link: report.state for link, report in path.items()}
    return Assessment(
        verdict=verdict,
        leading_fault=leading,
        confidence=round(likely[leading or order[0]], 4),
        ranked=[_ranked(fault, likely, belief) for fault in order if likely[fault] >= SHOWN_FROM][:SHOWN_MOST],
        together=[Together(faults=list(pair), probability=round(p, 4)) for pair, p in belief.together(TOGETHER_FROM)[:6]],
        also=also,
        path=path,
        judgements=[case.judged[index].judgement for index in sorted(case.judged)],
        contradictions=case.contradictions,
        next_tests=[] if settled else next_tests(case, path, belief, leading, passed, verdict),
        before_condemning=[] if condemned else passed.missing,
        before_energising=_before_energising(path, condemned) if settled or no_live_tests(case) else [],
        causes=causes(case, verdict, {signal.key for signal in signals}, states),
        cautions=cautions(case),
        meanwhile=meanwhile(case, verdict),
        model=None if modelled is None else _by_model(modelled),
    )


def _by_model(found: ModelEvidence) -> ByModel:
    bands = {row.quantity: band_for(row, found.should) for row in found.reads}
    return ByModel(
        read={row.quantity: (row.read.low, row.read.high) for row in found.reads},
        expected={name: band.ends for name, band in bands.items()},
        conditions=list(found.should.conditions.says), source=SOURCE,
        explained=[
            Explanation(
                faults=list(row.faults), fit=round(row.share, 4), says=row.says, run_rpm=round(row.values["rpm"], 1),
                run_amps_a={leg: round(row.values[leg], 4) for leg in ("whole", "capacitor", "winding")},
                capacitor_v=round(row.values["capacitor_v"], 1),
            )
            for row in found.explained
        ],
    )  # fmt: skip


def likelihoods(belief: Belief, case: Case) -> dict[str, float]:
    """Probability of each fault; one that stands for several is there until a test has told those apart."""
    found = dict(belief.marginal)
    for union, parts in UNIONS.items():
        shares = [found[part] for part in parts if part in found]
        if not shares or (union == "winding_open" and case.call.motor.kind not in (None, "psc")):
            continue
        told = max(shares) >= VERDICT_FROM and (union != "ecm_module_or_motor" or _parted(case))
        if not told and sum(shares) >= VERDICT_FROM:
            found[union] = min(1.0, sum(shares))
    return found


def _parted(case: Case) -> bool:
    """Whether module and motor were tested apart: pairs and frame good, or one of them failed."""
    keys = set(case.signals)
    return {"ecm_windings.even", "ecm_frame.clear"} <= keys or bool({"ecm_windings.failed", "ecm_frame.failed"} & keys)


def _decide(
    case: Case, path: dict[str, LinkReport], belief: Belief, likely: dict[str, float]
) -> tuple[Verdict, str | None, list[str]]:
    """The verdict, the fault that carries it, and the other proved faults."""
    sure = sorted((fault for fault, p in likely.items() if p >= VERDICT_FROM), key=lambda fault: -likely[fault])
    if "none" in sure:
        return ("no_fault_found" if _seen_well(case, path) else "not_proved"), "none", []
    verdicts = {fault: verdict_of(fault, case, path) for fault in sure}
    standing = [fault for fault in sure if verdicts[fault] != "not_proved"]
    if standing:
        first = min(standing, key=lambda fault: (ORDER.index(verdicts[fault]), _brought(fault, sure), -likely[fault]))
        known = {part for fault in sure for part in UNIONS.get(fault, (fault,))}
        if not (first in LETS_RUN and _stands(case) and belief.unexplained(known) > EXPLAINED_FROM):
            return verdicts[first], first, [fault for fault in sure if fault != first]
        return "not_proved", first, [fault for fault in sure if fault != first]
    top = max(likely, key=lambda fault: likely[fault])
    leading = top if likely[top] >= LEADS_FROM else None
    return "not_proved", leading, [fault for fault in sure if fault != leading]


def _brought(fault: str, sure: list[str]) -> bool:
    """Whether another sure fault brings this one about: the cause leads, its consequence stands beside."""
    return any(cause in sure and consequence == fault for cause, consequence, _ in LEADS_TO)


def verdict_of(fault: str, case: Case, path: dict[str, LinkReport]) -> Verdict:
    """The verdict a proved fault leads to, the gate and the dried and running cases heeded."""
    verdict = FAULTS[fault].verdict
    if fault == "insulation_low" and {"ground.low_dried", "megger.low_dried"} & set(case.signals):
        verdict = "condemn_motor"
    if verdict in ("condemn_motor", "replace_module") and not gate(fault, case, path).is_open:
        return "not_proved"
    if fault == "ecm_module" and not _parted(case):
        return "not_proved"
    if verdict == "runs_worn" and not _turns(case):
        return "not_proved"
    if verdict == "usable_limited" and "tap.good" not in case.signals:
        return "not_proved"
    return verdict


MUST_BE_PROVED = ("supply", "switching", "wiring", "connections", "capacitor", "windings", "insulation")


def _seen_well(case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether no fault may be said: every link proved, or seen to run within its plate with all electric links proved.

    After a trip the wire from the switch must be clear of ground as well.
    """
    proved = {link for link, report in path.items() if report.state in ("proved", "not_applicable")}
    if case.call.complaint.symptom == "trips" and not {"line_ground.clear", "conductor.sound"} & set(case.signals):
        return False
    runs = "turns.right" in case.signals and bool({"amps.good", "legs.even"} & set(case.signals))
    return len(proved) == len(path) or (runs and set(MUST_BE_PROVED) <= proved)


def _stands(case: Case) -> bool:
    return "turns.not" in case.signals or case.call.complaint.symptom in ("quiet", "hums_no_start")


def _turns(case: Case) -> bool:
    still = {"turns.not", "spin.locked", "shaft.locked", "amps.none"}
    if still & set(case.signals):
        return False
    running = {"turns.right", "turns.wrong", "amps.good", "amps.over", "amps.low", "noise.bearing", "rpm.right", "rpm.slow"}
    stands = case.call.complaint.symptom in ("quiet", "hums_no_start", "trips")
    return bool(running & set(case.signals)) or not stands


def _before_energising(path: dict[str, LinkReport], condemned: bool) -> list[str]:
    """Links to prove before power comes back; those inside a condemned motor leave with it."""
    gone = MOTOR_LINKS if condemned else frozenset()
    states = ("unproved", "suspect", "failed")
    return [link for link, report in path.items() if report.state in states and link not in gone]


def _ranked(fault: str, likely: dict[str, float], belief: Belief) -> Ranked:
    """A fault with what moved its odds, the strongest first; a union shows what moved its likeliest part."""
    shown = fault if fault in belief.faults else max(UNIONS[fault], key=lambda part: likely.get(part, 0.0))
    if fault in UNIONS and fault in belief.faults and likely[fault] > belief.marginal[fault] + 1e-9:
        shown = max(UNIONS[fault], key=lambda part: belief.marginal.get(part, 0.0))
    bits = belief.moved[:, belief.faults.index(shown)]
    moved: list[tuple[float, Signal]] = [(float(bit), row.signal) for bit, row in zip(bits, belief.seen, strict=True)]
    strongest = sorted((item for item in moved if abs(item[0]) >= MOVED_BITS), key=lambda item: -abs(item[0]))
    return Ranked(
        fault=fault, probability=round(likely[fault], 4),
        speaks_for=[signal.says for bit, signal in strongest if bit > 0],
        speaks_against=[signal.says for bit, signal in strongest if bit < 0],
    )  # fmt: skip
