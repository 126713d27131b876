"""The next test: which reading tells most for its minutes, what may not be done yet, and why.

Rate = expected bits / (minutes + minutes to fetch and note it + minutes to change the power state). So tests of the
present power state are worked off before the power is switched; at a tie dead and upstream tests come first.
"""

from __future__ import annotations

from pydantic import BaseModel, Field

from ..field_tests import TESTS, FieldTest, how_of
from ..judge.capacitor import fan_section
from ..judge.cooling import minutes_off, still_to_cool
from ..readings import KINDS, Reading, minutes_between
from .applies import features_of, no_overload
from .belief import Belief
from .case import Case
from .compound import amps_question
from .condemn import COMMUTATED, CondemnGate
from .decide import VERDICT_FROM, is_standing_still, tripped, wire_cleared
from .evidence import QUESTIONS
from .faults import FAULTS, LEADS_TO
from .gain import gains, most_in_question
from .unit_path import LinkReport, is_welded, proved_by_volts
from .wiring_found import wrong_by_color

MOST, SWITCH_POWER_MINUTES, HANDLING_MINUTES = 5, 3, 4.0
PROOF_BITS, GATE_BITS = 0.02, 0.6
SETTLES_FROM = 0.2
SETTLED_BITS, SHARED_FROM = 0.03, 0.1
"""What a test must tell once a verdict stands, and what a fault must weigh to be asked about then."""


class NextTest(BaseModel):
    """A test to make next: its kind and qualifiers, why, minutes, power state, and the bits it is expected to tell."""

    kind: str
    at: str | None = None
    section: str | None = None
    with_: str | None = Field(None, serialization_alias="with")
    why: str
    minutes: float
    power: str
    gain_bits: float


SETTLES: dict[str, tuple[str, ...]] = {
    "bearings_seized": ("shaft", "load"),
    "overload_open": ("conductor",),
    "winding_grounded": ("ground", "megger"),
    "ecm_motor": ("ecm_windings", "ecm_frame", "turns"),
    "ecm_module": ("ecm_windings", "ecm_frame", "turns"),
    "ecm_module_or_motor": ("ecm_windings", "ecm_frame", "turns"),
}
"""Dead tests that settle a condemnation alone, or part what is still one of two."""

_RUNS_ONLY = (
    "run_amps_a",
    "sister_amps_a",
    "run_rpm",
    "air_speed_fpm",
    "static_inwc",
    "draught_inwc",
    "contact_drop_v",
)
_FED = (*_RUNS_ONLY, "turns_way", "starts_with_push", "noise", "trial")


def next_tests(
    case: Case, path: dict[str, LinkReport], belief: Belief, leading: str | None, passed: CondemnGate, verdict: str
) -> list[NextTest]:
    """The tests to make next, best first: what contradicts itself is read again before anything else."""
    repeats = [_repeat(case, index) for index in _to_repeat(case)] if verdict == "not_proved" else []
    if verdict == "cool_and_retest":
        cooling = [_offer(row, case, belief, 1.0) for row in TESTS if row.question in ("shell", "winding")]
        return cooling if _shell_read(case) else cooling[::-1]
    state = power_now(case)
    features = features_of(case.call)
    rows = [
        row
        for row in TESTS
        if row.question and features[row.needs] and _open(row, case, path) and _is_sensible_now(row, case, path)
    ]
    settled = verdict != "not_proved"
    if settled:
        near = related(leading, belief, verdict)
        rows = [row for row in rows if _tells_of(_question(row, case), near)]
    bits = gains(belief, ("runs", *dict.fromkeys(_question(row, case) for row in rows if _question(row, case))))
    settling = {
        question
        for fault, questions in SETTLES.items()
        if belief.marginal.get(fault, 0.0) >= SETTLES_FROM or fault == leading
        for question in questions
    }
    wanted = set(passed.missing) if _wants_gate(leading) and not passed.definite else set()
    found = []
    for order, row in enumerate(rows):
        gain = bits.get(_question(row, case), 0.0)
        to_prove = not settled and any(path[link].state in ("unproved", "suspect") for link in row.proves)
        gain += bits["runs"] * _completes(row, case)
        gain += GATE_BITS * len(wanted & set(row.proves)) + PROOF_BITS * to_prove
        gain += GATE_BITS * (not passed.definite and row.question in settling)
        if row.kind == "shell_c" or (row.question == "winding" and wrong_by_color(case.call)):
            gain += 1.0
        if gain >= (SETTLED_BITS if settled else PROOF_BITS / 2):
            found.append(
                (
                    _first(row, case),
                    -round(_rate(row, gain, state), 4),
                    KINDS[row.kind].power == "live",
                    order,
                    row,
                    gain,
                )
            )
    found.sort(key=lambda item: item[:4])
    offers = [_offer(row, case, belief, gain, settled) for *_, row, gain in found[:MOST]]
    asked = {(offer.kind, offer.at, offer.section, offer.with_) for offer in repeats}
    return [*repeats, *(offer for offer in offers if (offer.kind, offer.at, offer.section, offer.with_) not in asked)][
        :MOST
    ]


def _completes(row: FieldTest, case: Case) -> bool:
    """Whether with this reading it is seen to run well: the right way, and within its plate."""
    amps = bool({"amps.good", "legs.even"} & set(case.signals))
    return (row.kind == "run_amps_a" and "turns.right" in case.signals) or (row.kind == "turns_way" and amps)


def related(leading: str | None, belief: Belief, verdict: str) -> frozenset[str]:
    """The faults a settled call may still ask about: what leads, what brings it about, and what shares its verdict."""
    if leading in (None, "none"):
        return frozenset(
            fault for fault, p in belief.marginal.items() if FAULTS[fault].verdict == verdict and p > SHARED_FROM
        )
    near = {cause for cause, effect, _ in LEADS_TO if effect == leading}
    open_ = belief.marginal.get(str(leading), 0.0) < VERDICT_FROM
    rivals = {
        fault for fault, p in belief.marginal.items() if open_ and p > SHARED_FROM and FAULTS[fault].verdict == verdict
    }
    likely = {fault for fault in near if belief.marginal.get(fault, 0.0) > SHARED_FROM}
    return frozenset({str(leading), *likely, *rivals})


def _tells_of(question: str, faults: frozenset[str]) -> bool:
    return bool(question) and bool(faults & set(QUESTIONS[question].rows))


def _to_repeat(case: Case) -> list[int]:
    """One reading of each contradiction, the one that is read again most easily; the method's doubts after them."""
    easiest: list[int] = []
    for conflict in case.conflicts:
        rows = [index for side in conflict.sides for index in side]
        easiest.append(
            min(rows, key=lambda i: (minutes_of_test(case.call.readings[i]), case.call.readings[i].content()))
        )
    doubted = [
        i
        for i, judged in case.counting
        if judged.judgement.state == "suspect" and case.call.readings[i].kind in ASKED_AGAIN
    ]
    doubted = [i for i in doubted if [_same_test(case, k) for k in doubted].count(_same_test(case, i)) == 1]
    return list({_same_test(case, index): index for index in [*easiest, *doubted]}.values())


ASKED_AGAIN = ("run_amps_a",)
"""What is read again at once, rightly this time, when it is in doubt."""


def _same_test(case: Case, index: int) -> tuple[object, ...]:
    reading = case.call.readings[index]
    return reading.kind, reading.at, reading.section, reading.with_


def minutes_of_test(reading: Reading) -> float:
    """Minutes that a reading takes to make."""
    return how_of(reading.kind, reading.at).minutes


def _repeat(case: Case, index: int) -> NextTest:
    reading = case.call.readings[index]
    why = next((row.says for row in case.contradictions if index in row.readings), case.judged[index].judgement.says)
    return NextTest(
        kind=reading.kind,
        at=reading.at,
        section=reading.section,
        with_=reading.with_,
        why=why,
        power=reading.row.power,
        minutes=minutes_of_test(reading),
        gain_bits=1.0,
    )


FIRST: tuple[tuple[str, frozenset[str]], ...] = (
    ("shaft", frozenset({"spin.locked", "load.sound"})),
    ("cap", frozenset({"cap.borderline"})),
    ("shell", frozenset({"shell.hot_still"})),
)
"""What comes before everything else once these were seen: locked with a sound blade wants the bare shaft, say."""


LAST = 9
AFTER_A_TRIP: tuple[tuple[str, ...], ...] = (
    ("ground", "megger", "ecm_frame"),
    ("line_ground", "conductor"),
    ("cap_can", "winding", "ecm_windings"),
    ("herm",),
)
"""What is asked after a trip, in order: motor to ground, wire, the rest of the motor, the rest of the circuit."""


def _first(row: FieldTest, case: Case) -> int:
    """Where a test stands before its rate counts: 0 at once, then by the order after a trip, else last."""
    keys = set(case.signals)
    at_once = any(row.question == question and seen <= keys for question, seen in FIRST)
    if at_once or (row.question == "winding" and wrong_by_color(case.call)):
        return 0
    if tripped(case) and not FAILED_TO_GROUND & keys:
        return next((1 + place for place, questions in enumerate(AFTER_A_TRIP) if row.question in questions), LAST)
    return LAST


def _wants_gate(leading: str | None) -> bool:
    return leading is not None and (FAULTS[leading].verdict == "condemn_motor" or leading in COMMUTATED)


def _question(row: FieldTest, case: Case) -> str:
    """The question in the evidence table that this row answers on this motor."""
    if row.question == "amps":
        return amps_question(case.call)
    if row.question == "wind":
        return ""
    return "turns_blown" if row.question == "turns" and "wind.yes" in case.signals else row.question


def power_now(case: Case) -> str | None:
    """The power state the latest reading was taken in, by their times; of untimed ones only when all agree."""
    rows = [r for _, r in case.call.standing() if r.power_state != "any"]
    states = [r.power_state for r in rows]
    if not states or (rows[-1].taken_at is None and len(set(states)) > 1):
        return None
    return states[-1]


def to_cool(case: Case) -> str:
    """What an open winding reading still lacks for a judgment on a cool motor; empty when nothing."""
    if no_overload(case.call) or case.call.motor.protection == "fuse":
        return ""
    opened = [r for i, r in case.call.standing("winding_ohm") if "OL" in str(r.value) and i not in case.superseded]
    tapped = "winding.tap_open" in case.signals
    return still_to_cool(case.call, opened[-1], case.limits) if opened and not tapped else ""


def _shell_read(case: Case) -> bool:
    """Whether the shell was read since a winding was found open: then the windings are what to read again."""
    opened = [i for i, r in case.call.standing("winding_ohm") if "OL" in str(r.value)]
    since = [
        minutes_between(case.call.readings[opened[-1]], r) if opened else 0.0 for _, r in case.call.standing("shell_c")
    ]
    return any(later is None or later >= 0 for later in since)


FAILED_TO_GROUND = frozenset(
    {
        "ground.grounded",
        "ground.low",
        "ground.low_dried",
        "megger.grounded",
        "megger.low",
        "megger.low_dried",
        "line_ground.low",
        "cap_can.grounded",
        "cap.shorted",
        "conductor.chafed",
    }
)
CLEARED = frozenset({"ground.clear", "megger.good", "line_ground.clear", "ecm_frame.clear"})


def no_live_tests(case: Case) -> str | None:
    """Why nothing may be energised yet; None when it may."""
    if FAILED_TO_GROUND & set(case.signals):
        return "The insulation has failed."
    if tripped(case):
        return None if CLEARED & set(case.signals) else "Something tripped it. Test to ground first."
    return None


def _rate(row: FieldTest, gain: float, state: str | None) -> float:
    power = KINDS[row.kind].power
    other = state is not None and power not in (state, "any")
    return gain / (row.minutes + row.waits + HANDLING_MINUTES + SWITCH_POWER_MINUTES * other)


UPSTREAM = ("supply", "protection", "disconnect", "control", "switching", "wiring", "connections")


def _open(row: FieldTest, case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether the test has not been made yet with an answer that holds, and is not ahead of what is proved."""
    if row.kind == "shell_c":
        return "shell.hot_still" in case.signals or bool(to_cool(case)) and not _shell_read(case)
    answered = case.answered
    if row.question == "winding":
        return "winding" not in answered or bool(to_cool(case)) or "winding.sum_off" in case.signals
    if (
        row.question == "ground"
        and "megger.good" in case.signals
        or row.question == "line_ground"
        and wire_cleared(case)
        and answered & {"ground", "megger"}
    ):
        return False
    if row.question == "shaft":
        return "shaft" not in answered and bool({"spin.locked", "spin.stiff", "spin.rough"} & set(case.signals))
    if (
        row.question == "cap"
        and "cap.borderline" in case.signals
        and not any(r.section != "herm" for _, r in case.call.standing("capacitance_uf"))
    ):
        return True
    if row.kind in ("control_call", "switch_pulled_in") and is_welded(case) and row.question not in answered:
        return not _made(row, case)
    proves = proved_by_volts(str(row.at), case.call) if row.kind == "supply_v" else row.proves
    ahead = [link for link in (proves or row.links) if link in UPSTREAM]
    if ahead and all(path[link].state == "proved" for link in ahead) and row.question not in TOLD_UNDER_LOAD:
        return False
    return row.question not in answered and not _made(row, case)


TOLD_UNDER_LOAD = ("contact", "conductor", "line_ground", "run")
"""Tests that find what right volts do not exclude: a contact under load, a wire to the metal around it."""


def _made(row: FieldTest, case: Case) -> bool:
    """Whether it was made and told nothing; a suspect or borderline reading may be made better once."""
    states = [
        judged.judgement.state
        for index, judged in case.counting
        if (r := case.call.readings[index]).kind == row.kind
        and row.at in (None, r.at, r.place)
        and (row.detail != "herm") == (r.section != "herm")
        and (row.kind != "trial" or r.with_ == row.detail)
        and row.question != "shaft"
    ]
    cogs = row.kind == "spin" and case.call.motor.traits.is_electronic
    return bool(states) and (len(states) > 1 or cogs or states[0] in ("normal", "failed", "unjudged"))


def _is_sensible_now(row: FieldTest, case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether the test may be made now, and makes sense."""
    if KINDS[row.kind].power == "live" and no_live_tests(case):
        return False
    if row.kind == "supply_v" and row.at in ("switch_load", "motor") and path["control"].state == "failed":
        return False
    if row.kind in _RUNS_ONLY and "turns.not" in case.signals and row.kind != "run_amps_a":
        return False
    if row.kind == "trial" and not is_standing_still(case):
        return False
    if (
        row.kind in _FED
        and row.kind != "trial"
        and {"volts_motor.missing", "volts_switch_load.missing"} & set(case.signals)
    ):
        return False
    if row.kind in _FED:
        return path["supply"].state == "proved" and path["control"].state != "failed"
    return True


def _cooling_min(case: Case) -> float:
    """Minutes still to wait before windings that read open may be judged."""
    opened = [r for _, r in case.call.standing("winding_ohm") if "OL" in str(r.value)]
    return max(0.0, case.limits.cool_minutes - (minutes_off(case.call, opened[-1]) or 0.0)) if opened else 0.0


def _offer(row: FieldTest, case: Case, belief: Belief, gain: float, settled: bool = False) -> NextTest:
    section = None
    if row.kind == "capacitance_uf":
        section = "herm" if row.detail == "herm" else fan_section(case.call)
    why = row.why if row.kind != "shell_c" or not to_cool(case) else f"{row.why} Still to do: {to_cool(case)}."
    if row.kind == "shell_c" and "shell.hot_still" in case.signals:
        why = "It is hot and not running. Power off, let it cool, then read the motor temperature and the windings."
    if row.question == "winding" and wrong_by_color(case.call):
        why = "By the usual colors it is miswired. All three pairs tell you which lead is common, run and start."
    asked = most_in_question(belief, _question(row, case)) if _question(row, case) else None
    if asked and not settled:
        why += f" Rules in or out: {FAULTS[asked].says[:1].lower()}{FAULTS[asked].says[1:]}"
    waits = row.waits + (_cooling_min(case) if row.question == "winding" and to_cool(case) else 0.0)
    waits += case.limits.cool_minutes * (row.kind == "shell_c" and "shell.hot_still" in case.signals)
    return NextTest(
        kind=row.kind,
        at=row.at,
        section=section,
        with_=None if row.detail in ("", "herm") else row.detail,
        why=why,
        minutes=row.minutes + waits,
        power=KINDS[row.kind].power,
        gain_bits=round(gain, 3),
    )
