"""The engine plays a call itself: its own next tests, one after another, until a verdict or too many of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

from ..call import read_call
from ..diagnosis.assess import Assessment, assess
from ..diagnosis.next_test import HANDLING_MINUTES, SWITCH_POWER_MINUTES, NextTest
from ..errors import InvalidField
from ..readings import KINDS
from .case import Case, write_case
from .simulated_unit import Moment, brought_back
from .unit_state import truth_of

MOST_TESTS = 12
BEGINS = datetime(2026, 1, 1, 8, tzinfo=UTC)
COOL_MIN = 60.0
"""How long a motor is left to cool before its open windings are read again (reckoning, Windings)."""
TRACED_ON = frozenset(
    {
        "ecm_power_absent",
        "ecm_command_absent",
        "control_call_absent",
        "supply_missing",
        "breaker_tripped",
        "fuse_open",
        "starter_overload_tripped",
        "board_lockout",
        "phase_lost",
        "switch_not_pulled_in",
    }
)
"""Leading faults that are themselves brought about: the technician goes on to what is behind them."""
SURE = 0.8
"""While several faults share a verdict the technician goes on until one of them is this likely."""
Rows = list[dict[str, Any]]
Ask = Callable[[NextTest, float], Rows | None]


@dataclass
class Play:
    """A call played to its end: the readings, the answer after the last, tests and minutes used."""

    answer: Assessment
    readings: Rows = field(default_factory=list)
    tests: int = 0
    minutes: float = 0.0


def play(data: dict[str, Any], ask: Ask, most: int = MOST_TESTS, cools: bool = False) -> Play:
    """Play a call: of the tests offered the first that can be made, until a verdict or `most` tests.

    Args: data, the call file without readings; ask, gives the readings of a test at a minute of the visit, None when
    it cannot be made; cools, wait once where the engine asks for a motor to cool, and measure again. A reading that is
    refused as out of range costs a test.
    """
    found = Play(assess(read_call({**data, "readings": []})))
    cannot: set[tuple[Any, ...]] = set()
    power: str | None = None
    waits = cools
    while found.tests < most and (_goes_on(found.answer) or (waits and found.answer.verdict == "cool_and_retest")):
        made = _next(found, ask, cannot, waits)
        if made is None:
            break
        test, rows, waited = made
        found.tests += 1
        state = KINDS[test.kind].power
        found.minutes += waited + cost_min(test.minutes, state, power)
        power = state if state != "any" else power
        before = found.answer
        try:
            found.answer = assess(read_call({**data, "readings": found.readings + rows}))
        except InvalidField:
            continue
        found.readings += rows
        if waited and found.answer.path["overload"].state == "proved":
            found.answer = before if before.verdict == "cool_and_retest" else found.answer
            break
        waits = waits and not waited
    return found


def _goes_on(answer: Assessment) -> bool:
    leads = next((row.probability for row in answer.ranked if row.fault == answer.leading_fault), 0.0)
    return answer.verdict == "not_proved" or leads < SURE or answer.leading_fault in TRACED_ON


def cost_min(minutes: float, state: str, power: str | None) -> float:
    """Minutes of a test with handling, and with switching the power where it is in the other state."""
    return minutes + HANDLING_MINUTES + SWITCH_POWER_MINUTES * (power is not None and state not in ("any", power))


def _next(found: Play, ask: Ask, cannot: set[tuple[Any, ...]], waits: bool) -> tuple[NextTest, Rows, float] | None:
    """The first test that can be made, its readings, and the minutes waited for a motor to cool before it."""
    opened = any(row["kind"] == "winding_ohm" and "OL" in str(row["value"]) for row in found.readings)
    for test in found.answer.next_tests:
        key = (test.kind, test.at, test.with_, test.section)
        if key in cannot:
            continue
        waited = COOL_MIN if waits and opened and test.kind == "winding_ohm" and test.at is None else 0.0
        rows = ask(test, found.minutes + waited)
        if rows is not None:
            return test, rows, waited
        cannot.add(key)
    return None


def engine_plays(case: Case, most: int = MOST_TESTS) -> Play:
    """The engine on a practice case, safe and without knowing what is hidden in it."""
    truth = truth_of(case)
    data = write_case(case)["call"]

    def ask(test: NextTest, minutes: float) -> Rows | None:
        rows = brought_back(truth, test, Moment(KINDS[test.kind].power == "live", minutes))
        at = (BEGINS + timedelta(minutes=round(minutes))).isoformat()
        return None if rows is None else [{**row, "taken_at": at} for row in rows]

    return play(data, ask, most, cools=True)
