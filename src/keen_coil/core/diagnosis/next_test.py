"""The next test: which reading tells most for its minutes, what may not be done yet, and why.

Gain is the entropy of the faults the test bears on, in bits: what it could settle at most. A change of power
state costs minutes; at a tie dead and upstream tests come first.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from pydantic import BaseModel

from ..judge.capacitor import fan_section
from ..judge.cooling import still_to_cool
from ..readings import KINDS
from .case import Case
from .faults import FAULTS
from .unit_path import LinkReport
from .weigh import Ranked

SWITCH_POWER_MINUTES = 3
MOST = 5


class NextTest(BaseModel):
    """A test to make next: its kind and qualifiers, why, minutes, power state, and the bits it could settle."""

    kind: str
    at: str | None = None
    section: str | None = None
    why: str
    minutes: float
    power: str
    gain_bits: float


class TestRow(NamedTuple):
    """A test that can be made: where, how long it takes, the links it settles, why one makes it."""

    kind: str
    at: str | None
    minutes: float
    links: tuple[str, ...]
    why: str


TESTS: tuple[TestRow, ...] = (
    TestRow("control_call", None, 1, ("control",), "Tells a fan that is not called for from one that cannot run."),
    TestRow("breaker", None, 0.5, ("protection",), "A tripped breaker is seen, not measured."),
    TestRow("disconnect", None, 0.5, ("disconnect",), "An open disconnect is seen, not measured."),
    TestRow("supply_v", "unit", 1, ("supply",), "Proves the supply into the unit."),
    TestRow("supply_v", "switch_line", 1, ("supply", "protection", "disconnect"), "Proves breaker and disconnect too."),
    TestRow("switch_pulled_in", None, 1, ("switching", "control"), "Seen or heard: has the switch pulled in?"),
    TestRow("supply_v", "switch_load", 1.5, ("supply", "protection", "disconnect", "control", "switching"),
            "Right volts behind the switch prove everything up to there."),
    TestRow("supply_v", "motor", 2, ("supply", "protection", "disconnect", "control", "switching", "wiring", "connections"),
            "Right volts at the motor's leads prove the whole way to it."),
    TestRow("capacitor_look", None, 0.5, ("capacitor",), "A bulge or oil condemns a capacitor before the meter is out."),
    TestRow("capacitance_uf", None, 2, ("capacitor",), "The part that fails most, and the cheapest."),
    TestRow("winding_ohm", None, 3, ("windings", "overload"), "Three pairs tell a burnt winding from the capacitor, and which lead is which."),
    TestRow("ground_ohm", None, 1.5, ("insulation",), "Nothing is energised before this has passed."),
    TestRow("spin", None, 0.5, ("bearings", "load"), "Turn it by hand: free, stiff, rough or locked."),
    TestRow("side_play", None, 0.5, ("bearings",), "Push the shaft sideways: play is bearing wear."),
    TestRow("load_look", None, 0.5, ("load",), "A stone or ice locks a good motor."),
    TestRow("air_path", None, 0.5, ("air",), "A blocked coil cooks the next motor too."),
    TestRow("connection", None, 1, ("connections",), "Look at the terminals: loose, burnt, off."),
    TestRow("run_amps_a", None, 2, ("air", "windings", "bearings"), "Amps tell load, volts and windings from each other."),
    TestRow("turns_way", None, 0.5, (), "Say what it does when it is called for."),
    TestRow("shell_c", None, 1, ("overload",), "The overload can only be judged on a cool motor."),
)  # fmt: skip


_SEEN_RUNNING = ["wrong_rotation", "none"]


def next_tests(case: Case, path: dict[str, LinkReport], ranked: list[Ranked], verdict: str) -> list[NextTest]:
    """The tests to make next, best first."""
    if verdict == "cool_and_retest":
        return [_offer(row, case, {}) for row in TESTS if row.kind in ("shell_c", "winding_ohm")][::-1]
    state = power_now(case)
    odds = {row.fault: row.probability for row in ranked}
    found = [
        (order, _offer(row, case, odds)) for order, row in enumerate(TESTS) if _open(row, case, path) and _wise(row, case, path)
    ]
    found = [(order, test) for order, test in found if test.gain_bits > 0.005]
    found.sort(key=lambda item: (-_rate(item[1], state), item[1].power == "live", item[0]))
    return [test for _, test in found[:MOST]]


def power_now(case: Case) -> str | None:
    """The power state the latest reading was taken in, if it says."""
    states = [r.power_state for _, r in case.call.standing() if r.power_state != "any"]
    return states[-1] if states else None


def to_cool(case: Case) -> str:
    """What an open winding reading still lacks for a judgement on a cool motor; empty when nothing."""
    opened = [r for i, r in case.call.standing("winding_ohm") if "OL" in str(r.value) and i not in case.superseded]
    return still_to_cool(case.call, opened[-1], case.limits) if opened else ""


def no_live_tests(case: Case) -> str | None:
    """Why nothing may be energised yet; None when it may."""
    failed = {"ground.grounded", "ground.low", "ground.low_dried", "ground.wire_or_motor", "capacitor.case_grounded"}
    if failed & set(case.signals):
        return "The insulation has failed."
    tripped = {"breaker.tripped", "fuse.open"} & set(case.signals)
    if tripped and "ground.clear" not in case.signals:
        return "Something tripped it: test to ground first."
    return None


def _rate(test: NextTest, state: str | None) -> float:
    other = state is not None and test.power not in (state, "any")
    return test.gain_bits / (test.minutes + SWITCH_POWER_MINUTES * other)


def _open(row: TestRow, case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether the test still has something to settle on a link of this unit."""
    if row.links and all(path[link].state in ("proved", "not_applicable") for link in row.links):
        return False
    if row.kind == "shell_c":
        return bool(to_cool(case))
    done = [
        judged.judgement.state
        for index, judged in case.counting
        if case.call.readings[index].kind == row.kind and row.at in (None, case.call.readings[index].place)
    ]
    if row.kind == "winding_ohm":
        return "winding.good" not in case.signals and ("failed" not in done or bool(to_cool(case)))
    return not any(state in ("normal", "failed") for state in done) and not (row.kind == "turns_way" and done)


def _wise(row: TestRow, case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether the test may be made now, and makes sense in this unit."""
    if KINDS[row.kind].power == "live" and no_live_tests(case):
        return False
    behind = row.kind == "supply_v" and row.at in ("switch_load", "motor")
    if behind and path["control"].state == "failed":
        return False
    if row.kind in ("run_amps_a", "turns_way"):
        return path["supply"].state == "proved" and path["control"].state != "failed"
    return True


def _offer(row: TestRow, case: Case, odds: dict[str, float]) -> NextTest:
    faults = [name for name, fault in FAULTS.items() if fault.link in row.links] if row.links else _SEEN_RUNNING
    gain = 1.0 if row.kind == "shell_c" else sum(_entropy(odds.get(name, 0.0)) for name in faults)
    section = fan_section(case.call) if row.kind == "capacitance_uf" else None
    why = row.why if row.kind != "shell_c" else f"{row.why} Still to do: {to_cool(case)}."
    return NextTest(
        kind=row.kind, at=row.at, section=section, why=why, minutes=row.minutes, power=KINDS[row.kind].power,
        gain_bits=round(gain, 3),
    )  # fmt: skip


def _entropy(p: float) -> float:
    """Entropy of a yes/no question in bits."""
    return 0.0 if p <= 0 or p >= 1 else -p * math.log2(p) - (1 - p) * math.log2(1 - p)
