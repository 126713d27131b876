"""Calls played to their end by following the engine's next test, and what came of them."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

from keen_coil.core.call import read_call, write_call
from keen_coil.core.diagnosis.applies import has
from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.diagnosis.evidence import QUESTIONS
from keen_coil.core.diagnosis.faults import AMBIGUOUS_GROUPS, FAULTS
from keen_coil.core.diagnosis.next_test import NextTest
from keen_coil.core.field_tests import TESTS
from keen_coil.core.practice import play as engine
from keen_coil.core.practice.ladder import FAMILIES, family_of
from keen_coil.core.practice.make import case_of
from keen_coil.core.practice.play import Rows
from keen_coil.core.practice.unit_state import truth_of

from .faulted_units import MOTOR_FAULTS, call, make
from .instruments import read

MOST_TESTS = 8
TELLS_FROM = 0.4
"""How far apart the answers of a test must lie under two faults, as a share, to tell them apart."""
WEAK_FROM = 0.94
CONDEMNS = ("condemn_motor", "replace_module")


@dataclass(frozen=True)
class Played:
    """One call: what was true, what the engine said after at most eight tests."""

    seed: int
    role: str
    kind: str
    truth: frozenset[str]
    unforeseen: str
    verdict: str
    leading: str | None
    confidence: float
    tests: int
    would_tell: str = ""
    """Of a call that was missed: the test, not made within the eight, that tells what is true from what was said best."""

    @property
    def right(self) -> bool:
        """The leading fault is one that is there; one that stands for several counts when one of those is."""
        said = set(AMBIGUOUS_GROUPS.get(self.leading or "", ())) | {self.leading}
        if self.leading is None and self.verdict != "not_proved":
            return any(verdict_by_table(fault) == self.verdict for fault in self.truth)
        return bool(said & self.truth)

    @property
    def good_motor_condemned(self) -> bool:
        return self.verdict in CONDEMNS and not self.truth & MOTOR_FAULTS


def verdict_by_table(fault: str) -> str:
    """The verdict that a fault leads to."""
    return FAULTS[fault].verdict


def by_tables_only() -> None:
    """Weigh amps and speed by the evidence table instead of the motor model, to compare the two."""
    from keen_coil.core.diagnosis import assess as weighing

    weighing.model_evidence = lambda *_: None  # type: ignore[assignment]


def play(seed: int) -> Played:
    """Play one call of the generator that does not know the engine."""
    unit = make(seed)

    def ask(test: NextTest, minutes: float) -> Rows | None:
        rows = read(unit, test.kind, test.at, test.with_, test.section)
        return (
            None
            if rows is None
            else [{name: value for name, value in row.items() if value is not None} for row in rows]
        )

    found = engine.play(call(unit), ask, MOST_TESTS)
    return _played(seed, unit.role, unit.kind, frozenset(unit.faults), unit.unforeseen, found, call(unit))


def play_practice(seed: int) -> Played:
    """Play one call of the practice bench: its faults drawn by chance, its readings by motor model and circuit."""
    case = case_of(seed)
    motor, found = case.call.motor, engine.engine_plays(case, MOST_TESTS)
    truth = set(case.truth) or {"none"}
    if "capacitor_damaged" in truth and truth_of(case).uf < WEAK_FROM * float(motor.capacitor_uf or 0):
        truth.add("capacitor_weak")  # as in the other generator: a damaged part that has lost its value is both
    return _played(seed, str(motor.role), str(motor.kind), frozenset(truth), "", found, write_call(case.call))


def _played(
    seed: int, role: str, kind: str, truth: frozenset[str], unforeseen: str, found: engine.Play, data: dict[str, Any]
) -> Played:
    answer = found.answer
    played = Played(
        seed, role, kind, truth, unforeseen, answer.verdict, answer.leading_fault, answer.confidence, found.tests
    )
    return played if played.right else replace(played, would_tell=would_tell(data, found, truth))


def would_tell(data: dict[str, Any], found: engine.Play, truth: frozenset[str]) -> str:
    """The test of the contract that was not made and tells the true faults from the likeliest wrong one best; empty when none does."""
    call_ = read_call({**data, "readings": found.readings})
    made = {(row["kind"], row.get("at"), row.get("with")) for row in found.readings}
    wrong = next((row.fault for row in found.answer.ranked if row.fault not in truth), "none")
    best = (TELLS_FROM, "")
    for row in TESTS:
        if row.question not in QUESTIONS or not has(call_, row.needs) or (row.kind, row.at, row.detail or None) in made:
            continue
        table = QUESTIONS[row.question]
        for fault in truth:
            chances = zip(table.rows.get(fault, table.other), table.rows.get(wrong, table.other), strict=True)
            best = max(
                best, (sum(abs(a - b) for a, b in chances) / 2, f"{row.kind} {row.at or row.detail or ''}".strip())
            )
    return best[1]


def clamped(seed: int) -> tuple[float, float, bool, bool] | None:
    """Volts, amps on two legs and speed of a PSC motor that turns: what the truth is given, by the table and by the model.

    Probability of the true fault (the likeliest when there are two), and whether it leads; None for other units.
    """
    from keen_coil.core.diagnosis import assess as weighing

    unit = make(seed)
    if unit.motor is None or unit.unforeseen in ("misread", "missing_tests", "wrong_complaint") or not unit.turns:
        return None
    data = call(unit)
    rows = [
        row
        for kind in ("supply_v", "run_amps_a", "run_rpm", "turns_way")
        for row in read(unit, kind, "motor" if kind == "supply_v" else None, None, None) or []
    ]
    through = round(unit.state[4] * unit.rng.gauss(1.0, 0.01), 2)
    data["readings"] = [{k: v for k, v in row.items() if v is not None} for row in rows] + [
        {"kind": "run_amps_a", "value": through, "leg": "capacitor"}
    ]
    with_model, kept = assess(read_call(data)), weighing.model_evidence
    by_tables_only()
    by_table = assess(read_call(data))
    weighing.model_evidence = kept
    found = [
        max((row.probability for row in answer.ranked if row.fault in unit.faults), default=0.001)
        for answer in (by_table, with_model)
    ]
    return (*found, *(answer.ranked[0].fault in unit.faults for answer in (by_table, with_model)))  # type: ignore[return-value]


def clamp_all(seeds: Iterable[int], workers: int = 2) -> list[tuple[float, float, bool, bool]]:
    """The clamped motors among the seeds."""
    with ProcessPoolExecutor(workers) as pool:
        return [row for row in pool.map(clamped, seeds, chunksize=100) if row]


def play_all(
    seeds: Iterable[int], workers: int = 2, model: bool = True, one: Callable[[int], Played] = play
) -> list[Played]:
    """Play calls in a few processes, in order of their seeds; without the motor model on request."""
    with ProcessPoolExecutor(workers, initializer=None if model else by_tables_only) as pool:
        return list(pool.map(one, seeds, chunksize=100))


def by_family(rows: list[Played]) -> dict[str, str]:
    """By fault family: calls, right leading faults, tests used, good motors condemned."""
    found = {}
    for family in FAMILIES:
        group = [row for row in rows if family_of(row.truth - {"none"}) == family]
        good = [row for row in group if not row.truth & MOTOR_FAULTS]
        if group:
            right, low, high = share(sum(row.right for row in group), len(group))
            condemned = (
                f", good motors condemned {sum(row.good_motor_condemned for row in good)} of {len(good)}"
                if good
                else ""
            )
            tests = sum(row.tests for row in group) / len(group)
            found[family.name] = (
                f"{len(group)} calls, right {right:.1f} % ({low:.1f} to {high:.1f}), tests {tests:.1f}{condemned}"
            )
    return found


def share(hits: int, of: int) -> tuple[float, float, float]:
    """A share in per cent with its 95 % interval (Wilson)."""
    if not of:
        return 0.0, 0.0, 0.0
    p, z = hits / of, 1.96
    mid = (p + z * z / (2 * of)) / (1 + z * z / of)
    half = z * math.sqrt(p * (1 - p) / of + z * z / (4 * of * of)) / (1 + z * z / of)
    return 100 * p, 100 * (mid - half), 100 * (mid + half)


def report(rows: list[Played]) -> list[str]:
    """By kind and role: right leading faults, tests used, good motors condemned; then calibration."""
    lines = []
    groups = {
        f"{kind}, {role}": [r for r in rows if (r.kind, r.role) == (kind, role)]
        for kind, role in sorted({(r.kind, r.role) for r in rows})
    }
    groups |= {
        "with something unforeseen": [r for r in rows if r.unforeseen],
        "plain": [r for r in rows if not r.unforeseen],
        "all": rows,
    }
    for name, group in ((name, group) for name, group in groups.items() if group):
        right, low, high = share(sum(r.right for r in group), len(group))
        good = [r for r in group if not r.truth & MOTOR_FAULTS]
        wrong, wrong_low, wrong_high = share(sum(r.good_motor_condemned for r in good), len(good))
        tests = sorted(r.tests for r in group)
        lines.append(
            f"{name}: {len(group)} calls, right {right:.1f} % ({low:.1f} to {high:.1f}), tests {sum(tests) / len(tests):.1f} "
            f"(median {tests[len(tests) // 2]}), good motors condemned {wrong:.2f} % ({wrong_low:.2f} to {wrong_high:.2f})"
        )
    for low_end, high_end in ((0.0, 0.5), (0.5, 0.8), (0.8, 0.9), (0.9, 0.97), (0.97, 1.01)):
        inside = [r for r in rows if low_end <= r.confidence < high_end and r.leading]
        if inside:
            said = 100 * sum(r.confidence for r in inside) / len(inside)
            right, low, high = share(sum(r.right for r in inside), len(inside))
            lines.append(
                f"calibration, said {said:.0f} %: {len(inside)} calls, right {right:.1f} % ({low:.1f} to {high:.1f})"
            )
    return lines


def misses(rows: list[Played], most: int = 10) -> list[str]:
    """The largest groups of misses, what test would have told them apart, and the share that none can."""
    missed = [row for row in rows if not row.right]
    groups = Counter(("+".join(sorted(row.truth)), row.leading or "nothing said") for row in missed)
    lines = []
    for (truth, said), count in groups.most_common(most):
        tests = Counter(
            row.would_tell
            for row in missed
            if ("+".join(sorted(row.truth)), row.leading or "nothing said") == (truth, said)
        )
        told = ", ".join(f"{name or 'no test'} {n}" for name, n in tests.most_common(3))
        lines.append(f"missed {count}: {truth}, said {said}; would have told: {told}")
    none = sum(not row.would_tell for row in missed)
    wrongly = sum(bool(row.unforeseen) for row in missed)
    return [
        *lines,
        f"of {len(missed)} misses {100 * none / max(len(missed), 1):.1f} % no test left can separate; {100 * wrongly / max(len(missed), 1):.1f} % had something unforeseen",
    ]
