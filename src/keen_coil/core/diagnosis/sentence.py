"""The verdict as one plain sentence, and what to do with it."""

from __future__ import annotations

from ..judge.current import METHOD
from ..tables import complete
from ..technician_judgement import TechnicianJudgement
from ..vocabulary import Verdict, words_of
from .assess import Assessment
from .faults import FAULTS

HEADLINES: dict[Verdict, str] = {
    "condemn_motor": "Replace the motor",
    "replace_module": "Replace the motor's module",
    "replace_capacitor": "Replace the run capacitor",
    "replace_wrong_motor": "Replace the wrong motor",
    "not_the_motor": "It is not the motor",
    "runs_worn": "It runs, but it is worn",
    "usable_limited": "Usable on other speeds",
    "cool_and_retest": "Let it cool and test again",
    "dry_and_retest": "Dry it and test again",
    "no_fault_found": "No fault found",
    "not_proved": "Not checked yet",
}
complete(HEADLINES, words_of(Verdict), "HEADLINES")


def headline(verdict: Verdict) -> str:
    """The verdict in a few words."""
    return HEADLINES[verdict]


def judgement_says(judgement: TechnicianJudgement, program: Verdict) -> str:
    """A technician's judgment in one sentence, with what the program says where that is something else."""
    on = f"{judgement.at:%b} {judgement.at.day}, {judgement.at.year}"
    says = f"{HEADLINES[judgement.verdict]}: {judgement.why.rstrip('.')}. Judged by {judgement.by}, {on}"
    if judgement.verdict == program:
        return f"{says}."
    theirs = HEADLINES[program]
    return f"{says}; the program says {theirs[0].lower()}{theirs[1:]}."


def _within(fault: str) -> str:
    """What a fault says, within a sentence."""
    says = FAULTS[fault].says
    return says[:1].lower() + says[1:]


def sentence(assessment: Assessment) -> str:
    """The verdict in one sentence, with the fault behind it."""
    start = HEADLINES[assessment.verdict]
    fault = assessment.leading_fault
    if assessment.verdict == "not_proved" and fault in assessment.cured:
        return f"Fixed. Likely: {_within(fault)} Readings since then are good."
    if assessment.verdict == "not_proved":
        return f"{start}. {_not_proved(assessment)}"
    if fault is None and assessment.verdict != "no_fault_found":
        return f"{start}. {_shared(assessment)}"
    if fault is None or fault == "none":
        left = [link for link, report in assessment.path.items() if report.state not in ("proved", "not_applicable")]
        return f"{start}: " + (
            f"it runs within its plate. Not checked: {', '.join(left)}."
            if left
            else "every link of the path is proved."
        )
    if fault_chance(assessment, fault) < SURE:
        return f"{start}. {_shared(assessment)}"
    if fault in assessment.cured:
        return f"Found and fixed: {_within(fault)} Readings since then are good."
    return f"{start}. {FAULTS[fault].says}"


SURE, SHARES = 0.8, 0.1


def fault_chance(assessment: Assessment, fault: str) -> float:
    """Probability of a fault as the assessment ranks it; 0 when it does not."""
    return next((row.probability for row in assessment.ranked if row.fault == fault), 0.0)


def _shared(assessment: Assessment) -> str:
    """What a verdict rests on while several faults share it: the likeliest of them, none of them as a fact."""
    sharing = [
        row
        for row in assessment.ranked
        if FAULTS[row.fault].verdict == assessment.verdict and row.probability >= SHARES
    ][:3]
    says = "; or ".join(
        FAULTS[row.fault].says.rstrip(".")[:1].lower() + FAULTS[row.fault].says.rstrip(".")[1:] for row in sharing
    )
    return f"Not pinned down yet: {says}." if says else "The fault is not pinned down yet."


def _not_proved(assessment: Assessment) -> str:
    if assessment.contradictions:
        return f"{assessment.contradictions[0].says}"
    doubted = [row.says for row in assessment.judgements if row.state == "suspect" and row.source == METHOD]
    if doubted:
        return f"A reading is in doubt: {doubted[0]}"
    fault = assessment.leading_fault
    if fault and FAULTS[fault].verdict in ("condemn_motor", "replace_module") and assessment.before_condemning:
        missing = ", ".join(assessment.before_condemning)
        return f"{FAULTS[fault].says} Likely, but first prove: {missing}."
    if fault and fault != "none":
        likely = f"Likely: {_within(fault)}"
        return f"{likely} {'Take the next test.' if assessment.next_tests else 'No test is left that would tell.'}"
    if assessment.next_tests:
        return "Take the next test."
    return "No test is left that would tell."
