"""The verdict: what the belief and the path of a call allow to be said, and what they forbid."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from ..vocabulary import Verdict
from .belief import Belief
from .case import Case
from .condemn import gate
from .faults import AMBIGUOUS_GROUPS, FAULTS, LEADS_TO, ORDER, TRIPS
from .unit_path import LinkReport

LEADS_FROM, VERDICT_FROM = 0.5, 0.8
EXPLAINED_FROM = 0.5
MODULE_FROM = 0.9
"""From here module and motor count as told apart; what is met more often alone tells nothing."""
SHARES_FROM = 0.01
LETS_RUN = frozenset(
    {
        "parallel_load_fault",
        "air_restricted",
        "load_damaged",
        "hub_loose",
        "capacitor_high",
        "capacitor_under_rated",
    }
)
"""Faults that let the motor turn: alone they do not explain one that stands still."""
MUST_BE_PROVED = ("supply", "switching", "wiring", "connections", "capacitor", "windings", "insulation")


@dataclass(frozen=True)
class Decision:
    """The verdict, its probability, the fault that leads and the other proved ones; `held` by a contradiction."""

    verdict: Verdict
    probability: float
    leading: str | None
    also: list[str]
    held: bool = False

    def same(self, other: Decision) -> bool:
        """Whether another decision comes to the same verdict for the same fault."""
        return (self.verdict, self.leading) == (other.verdict, other.leading)


def slight_faults(case: Case) -> frozenset[str]:
    """Faults that were measured to be too slight to keep a sound motor from starting."""
    keys = set(case.signals)
    slight = {"capacitor_weak"} if "mild.weak" in keys and not {"cap.open", "cap.shorted"} & keys else set()
    if "cap_look.damaged" in keys and ({"cap.good"} & keys or slight):
        slight.add("capacitor_damaged")
    return frozenset(slight)


def likelihoods(belief: Belief, case: Case) -> dict[str, float]:
    """Probability of each fault; one that stands for several is there until a test has told those apart."""
    found = dict(belief.marginal)
    for union, parts in AMBIGUOUS_GROUPS.items():
        shares = [found[part] for part in parts if part in found]
        if not shares or (union == "winding_open" and not case.call.motor.traits.has_start_winding):
            continue
        told = max(shares) >= (
            MODULE_FROM if union == "ecm_module_or_motor" and not tested_apart(case) else VERDICT_FROM
        )
        together = belief.any_of(parts)
        if not told and together >= VERDICT_FROM:
            found[union] = min(1.0, together)
    return found


def tested_apart(case: Case) -> bool:
    """Whether module and motor were tested apart: pairs and frame good, one of them failed, or another module tried."""
    keys = set(case.signals)
    apart = {"ecm_windings.failed", "ecm_frame.failed", "trial_other_module.runs", "trial_other_module.no_change"}
    return keys >= {"ecm_windings.even", "ecm_frame.clear"} or bool(apart & keys)


def decide(case: Case, path: dict[str, LinkReport], belief: Belief, likely: dict[str, float]) -> Decision:
    """The verdict: 0.8 counted over all faults that lead to it, the gate and what excludes it heeded."""
    sure = sorted((fault for fault, p in likely.items() if p >= VERDICT_FROM), key=lambda fault: -likely[fault])
    if "none" in sure:
        well = seen_well(case, path) and not case.passed_over and not case.conflicts
        return Decision("no_fault_found" if well else "not_proved", likely["none"], "none", [])
    verdicts = {
        fault: verdict_of(fault, case, path) for fault, p in likely.items() if p >= SHARES_FROM and fault != "none"
    }
    for trip in (fault for fault in TRIPS if fault in sure and verdicts[fault] == "not_proved"):
        verdicts |= {effect: "not_proved" for cause, effect, _ in LEADS_TO if cause == trip and effect in verdicts}
    slight = LETS_RUN | slight_faults(case)
    for verdict in ORDER:
        group = [fault for fault, to in verdicts.items() if to == verdict]
        parts = {part for fault in group for part in AMBIGUOUS_GROUPS.get(fault, (fault,))}
        p = max([belief.any_of(parts), *(likely[fault] for fault in group)], default=0.0)
        if p < VERDICT_FROM or not _carries_verdict(verdict, group, case, path, likely):
            continue
        first = leader(group, likely)
        known = {part for fault in sure for part in AMBIGUOUS_GROUPS.get(fault, (fault,))}
        if (
            set(sure) & set(group)
            and set(sure) <= slight
            and is_standing_still(case)
            and belief.unexplained(known) > EXPLAINED_FROM
        ):
            return _beyond_slight_faults(likely, sure)
        leading = first if likely[first] >= LEADS_FROM else None
        return Decision(
            verdict,
            p,
            leading,
            [fault for fault in sure if fault != leading and fault not in AMBIGUOUS_GROUPS.get(leading or "", ())],
        )
    top = max(likely, key=lambda fault: likely[fault])
    leading = leader(list(likely), likely) if likely[top] >= LEADS_FROM else None
    if leading in slight and is_standing_still(case) and belief.unexplained(set(sure) | {leading}) > EXPLAINED_FROM:
        return _beyond_slight_faults(likely, [*sure, *([] if leading in sure else [leading])])
    return Decision("not_proved", likely[top], leading, [fault for fault in sure if fault != leading])


def _beyond_slight_faults(likely: dict[str, float], slight: list[str]) -> Decision:
    """Nothing proved beyond faults that do not explain why it stands still: they are renewed, the search goes on."""
    rest = {fault: p for fault, p in likely.items() if fault not in slight}
    top = max(rest, key=lambda fault: rest[fault])
    return Decision("not_proved", rest[top], top if rest[top] >= LEADS_FROM else None, slight)


def _carries_verdict(
    verdict: Verdict, group: list[str], case: Case, path: dict[str, LinkReport], likely: dict[str, float]
) -> bool:
    """Whether a verdict may be said while several faults share it: something must show it, or the motor be cleared."""
    if verdict == "not_the_motor" and any(
        likely.get(fault, 0.0) >= LEADS_FROM for fault, row in FAULTS.items() if row.verdict in IN_THE_MOTOR
    ):
        return False
    if any(likely[fault] >= VERDICT_FROM for fault in group) or verdict not in ("not_the_motor", "replace_capacitor"):
        return True
    if verdict == "replace_capacitor":
        return bool(SHOWS_CAPACITOR & set(case.signals))
    if tripped(case):
        return motor_cleared(path) and (wire_cleared(case) or path["wiring"].state == "failed")
    shown = any(
        path[link].state == "failed" or (path[link].state == "suspect" and "lost" in path[link].because)
        for link in LINKS_AHEAD
    )
    return shown or (not case.call.motor.traits.is_electronic and motor_cleared(path))


IN_THE_MOTOR: frozenset[Verdict] = frozenset({"condemn_motor", "dry_and_retest", "cool_and_retest", "replace_module"})
"""Verdicts on the motor itself: while a fault of theirs leads, the motor is not acquitted."""
SHOWS_CAPACITOR = frozenset(
    {
        "cap.weak",
        "cap.open",
        "cap.high",
        "cap.shorted",
        "cap_look.damaged",
        "cap_can.grounded",
        "cap_label.wrong",
        "trial_good_capacitor.runs",
        "trial_good_capacitor.runs_weak",
    }
)
LINKS_AHEAD = ("supply", "protection", "disconnect", "switching", "control", "wiring", "connections")


def motor_cleared(path: dict[str, LinkReport]) -> bool:
    """Whether the motor's windings have been read good and clear of ground."""
    return all(path[link].state in ("proved", "not_applicable") for link in ("windings", "insulation"))


def wire_cleared(case: Case) -> bool:
    """Whether the wire to the motor was tested to ground, alone or with the motor."""
    return bool({"line_ground.clear", "conductor.sound"} & set(case.signals))


def tripped(case: Case) -> bool:
    """Whether something tripped or blew, seen or by the complaint."""
    seen = {"breaker.tripped", "fuse.open", "starter.tripped"} & set(case.signals)
    return bool(seen) or case.call.complaint.symptom == "trips"


def leader(faults: Collection[str], likely: Mapping[str, float]) -> str:
    """The fault that leads among some: the likeliest, or what likely brings it about, cause before consequence."""
    first = max(faults, key=lambda fault: (likely[fault], fault))
    for _ in faults:
        causes = [
            cause
            for cause, effect, _ in LEADS_TO
            if effect == first and cause in faults and likely[cause] >= LEADS_FROM
        ]
        if not causes:
            break
        first = max(causes, key=lambda fault: (likely[fault], fault))
    return first


def verdict_of(fault: str, case: Case, path: dict[str, LinkReport]) -> Verdict:
    """The verdict a proved fault leads to, the gate and the dried and running cases heeded."""
    verdict = FAULTS[fault].verdict
    if fault == "insulation_low" and {"ground.low_dried", "megger.low_dried"} & set(case.signals):
        verdict = "condemn_motor"
    if fault in TRIPS and not (motor_cleared(path) and wire_cleared(case)):
        return "not_proved"
    if verdict in ("condemn_motor", "replace_module") and not gate(fault, case, path).is_open:
        return "not_proved"
    if verdict == "runs_worn" and not (turns(case) and WORN & set(case.signals)):
        return "not_proved"
    if verdict == "usable_limited" and not {"tap.good", "trial_other_speed.runs"} & set(case.signals):
        return "not_proved"
    return verdict


def seen_well(case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether no fault may be said: every link proved, or seen to run within its plate with all electric links proved.

    After a trip the wire from the switch must be clear of ground as well.
    """
    proved = {link for link, report in path.items() if report.state in ("proved", "not_applicable")}
    if tripped(case) and not wire_cleared(case):
        return False
    runs = "turns.right" in case.signals and bool({"amps.good", "legs.even"} & set(case.signals))
    return len(proved) == len(path) or (runs and set(MUST_BE_PROVED) <= proved)


WORN = frozenset({"shaft.stiff", "shaft.rough", "play.some", "play.much", "noise.bearing", "load.sound", "shaft.free"})
"""What tells worn bearings from a blade that rubs: the bare shaft, side play, their noise, a blade seen sound."""


def is_standing_still(case: Case) -> bool:
    """Whether the motor stands still, seen or by the complaint."""
    if "moves.yes" in case.signals:
        return False
    return "turns.not" in case.signals or case.call.complaint.symptom in ("quiet", "hums_no_start")


def turns(case: Case) -> bool:
    """Whether the motor turns, as far as anybody saw."""
    still = {"turns.not", "spin.locked", "shaft.locked", "amps.none"}
    if still & set(case.signals):
        return False
    running = {
        "turns.right",
        "turns.wrong",
        "amps.good",
        "amps.over",
        "amps.low",
        "noise.bearing",
        "rpm.right",
        "rpm.slow",
    }
    stood = case.call.complaint.symptom in ("quiet", "hums_no_start", "trips")
    return bool(running & set(case.signals)) or not stood
