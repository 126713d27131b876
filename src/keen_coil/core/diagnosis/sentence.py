"""The verdict as one plain sentence, and what to do with it."""

from __future__ import annotations

from .assess import Assessment
from .faults import FAULTS, Verdict

HEADLINES: dict[Verdict, str] = {
    "condemn_motor": "Replace the motor",
    "replace_module": "Replace the motor's module",
    "replace_capacitor": "Replace the run capacitor",
    "replace_wrong_motor": "Replace the motor: it does not belong here",
    "not_the_motor": "It is not the motor",
    "runs_worn": "It runs, and it is worn",
    "usable_limited": "Usable on another speed",
    "cool_and_retest": "Let it cool and test again",
    "dry_and_retest": "Dry it and test again",
    "no_fault_found": "No fault found",
    "not_proved": "Not proved yet",
}


def headline(verdict: Verdict) -> str:
    """The verdict in a few words."""
    return HEADLINES[verdict]


def sentence(assessment: Assessment) -> str:
    """The verdict in one sentence, with the fault behind it."""
    start = HEADLINES[assessment.verdict]
    fault = assessment.leading_fault
    if assessment.verdict == "not_proved":
        return f"{start}. {_not_proved(assessment)}"
    if fault is None or fault == "none":
        left = [link for link, report in assessment.path.items() if report.state not in ("proved", "not_applicable")]
        return f"{start}: " + (f"it runs within its plate. Not looked at: {', '.join(left)}." if left else "every link of the path is proved.")
    return f"{start}. {FAULTS[fault].says}"


def _not_proved(assessment: Assessment) -> str:
    if assessment.contradictions:
        return "Two readings exclude each other."
    fault = assessment.leading_fault
    if fault and FAULTS[fault].verdict in ("condemn_motor", "replace_module") and assessment.before_condemning:
        missing = ", ".join(assessment.before_condemning)
        return f"{FAULTS[fault].says} Likely, but first prove: {missing}."
    if fault and fault != "none":
        return f"Likely: {FAULTS[fault].says[:1].lower()}{FAULTS[fault].says[1:]} Go on with the next test."
    if assessment.next_tests:
        return "Go on with the next test."
    return "Nothing more can be tested here."
