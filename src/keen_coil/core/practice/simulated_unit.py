"""A test made on a practice unit: what meter or senses give back, what is warned of, whether it was safe."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from typing import Any, NamedTuple

from ..diagnosis.next_test import NextTest
from ..meter import ASKED, NAMES, Function
from ..readings import KINDS
from .instruments import NUMBERS, PlannedTest, displayed, true_value
from .senses import how_it_shows, seen
from .unit_state import UnitState
from .windings import lead_ends, shell_c, tapped_pairs

ACROSS_CAPACITOR = ("capacitance_uf", "capacitor_case_ohm")
NEEDS_TURNING = ("run_rpm", "air_speed_fpm", "static_inwc", "draught_inwc")


class Slip(NamedTuple):
    """Something that hurts people on site: what was done, what is done instead."""

    says: str
    instead: str


SLIPS: dict[str, Slip] = {
    "live_ohms": Slip(
        "You put a meter on ohms, µF or insulation on live parts.", "Lock out, prove it dead, then measure."
    ),
    "live_hands": Slip(
        "You reached into the unit while it was live.", "Lock out and prove it dead before you touch it."
    ),
    "not_bled": Slip(
        "You put the meter on a capacitor before you bled it.",
        "Bleed it through the resistor, then check it with the voltmeter.",
    ),
    "not_proved": Slip(
        "You took it for dead without proving it.",
        "Tester on a live source, then on the dead parts, then on the live source again.",
    ),
    "onto_fault": Slip(
        "You energized it with bad insulation or a trip not cleared.",
        "Test to ground first. Never energize into a fault.",
    ),
}
"""Safety slips that are counted, each once for each lock-out or test (practice, section 2)."""


@dataclass(frozen=True)
class Moment:
    """The state of the unit as the learner has it: power, bled, proved dead; minutes since the visit began."""

    live: bool
    minutes: float = 0.0
    bled: bool = True
    proved: bool = True


@dataclass(frozen=True)
class Measured:
    """What came of a test. `value` as it would be written down, None when there is none; `true` before the meter."""

    value: Any = None
    true: Any = None
    shows: str = ""
    warns: str = ""
    slip: str = ""


def measure(
    truth: UnitState, asked: PlannedTest, moment: Moment, count: int = 0, function: Function | None = None
) -> Measured:
    """Make a test. `count` is how often it was made before, `function` what the meter is set to (right by default)."""
    stopped = _stopped(truth, asked, moment, function)
    if stopped is not None:
        return stopped
    if asked.kind not in NUMBERS:
        word = seen(truth, asked.kind, asked.at, asked.with_, asked.leg, asked.when, moment.minutes)
        return Measured(word, word, how_it_shows(truth, asked.kind, word), slip=_unproved(asked, moment))
    value = true_value(truth, asked, moment.minutes)
    if value is None or (asked.kind in NEEDS_TURNING and not _some(value)):
        return Measured(warns="Nothing to read there. It is not running, or this unit has none.")
    if asked.kind == "supply_v" and not moment.live:
        value = [0.0, 0.0, 0.0] if isinstance(value, list) else 0.0
    return Measured(displayed(asked.kind, value, _error(truth, asked, count)), value, slip=_unproved(asked, moment))


def _some(value: Any) -> bool:
    return any(value) if isinstance(value, list) else bool(value)


def _error(truth: UnitState, asked: PlannedTest, count: int) -> float:
    """What the meter is off, from -1 to 1 of what it may be: its own, and a little each time."""
    own, now = truth.chance.part("meter"), truth.chance.part(asked.name)
    return min(max(own.spread(KINDS[asked.kind].unit, 0.3) + now.spread(str(count), 0.12), -1.0), 1.0)


def _stopped(truth: UnitState, asked: PlannedTest, moment: Moment, function: Function | None) -> Measured | None:
    """What keeps the test from being made, with the meter's warning; None when it may be."""
    kind, right = KINDS[asked.kind], ASKED.get(asked.kind)
    on = function or right
    instrument = right is not None
    if kind.power == "dead" and moment.live:
        slip = "live_ohms" if instrument else "live_hands"
        warns = (
            "The meter beeps and shows a warning: there are volts on its leads."
            if instrument
            else "It is live: keep your hands out."
        )
        return Measured(warns=warns, slip=slip)
    if instrument and on in ("ohms", "capacitance", "insulation") and moment.live and kind.power == "live":
        return Measured(
            warns=f"The meter beeps: it is on {NAMES[on]}, and there are volts on its leads.", slip="live_ohms"
        )
    if instrument and on != right and on is not None and right is not None:
        return Measured(warns=f"The meter is on {NAMES[on]}; this test asks for {NAMES[right]}.")
    if asked.kind in ACROSS_CAPACITOR and not moment.bled and truth.uf > 0:
        return Measured(warns="The meter shows a warning: the capacitor is charged.", slip="not_bled")
    if kind.power == "live" and not moment.live and asked.kind != "supply_v":
        return Measured(warns="Power is off: there is nothing to see or to measure.")
    return None


def _unproved(asked: PlannedTest, moment: Moment) -> str:
    return "not_proved" if KINDS[asked.kind].power == "dead" and not moment.live and not moment.proved else ""


def brought_back(truth: UnitState, test: NextTest, moment: Moment, count: int = 0) -> list[dict[str, Any]] | None:
    """The readings of a call file that a test which the engine asks for brings back; None when there is nothing."""
    rows = []
    for asked in _each(truth, test):
        found = measure(truth, asked, moment, count)
        if found.value is None:
            return None
        rows.append(reading_of(truth, asked, found.value, moment.minutes))
    return rows or None


def reading_of(truth: UnitState, asked: PlannedTest, value: Any, minutes: float) -> dict[str, Any]:
    """A reading of the call file as the learner's page would write it."""
    row: dict[str, Any] = {
        "kind": asked.kind,
        "value": value,
        "at": asked.at,
        "with": asked.with_,
        "section": asked.section,
        "pair": list(asked.pair) if asked.pair else None,
        "lead": asked.lead,
        "speed": asked.speed,
    }
    if asked.kind in ("winding_ohm", "shell_c", "insulation_mohm"):
        warm = round(shell_c(truth, minutes))
        row |= {"temperature_c": warm} if asked.kind != "shell_c" else {}
        row |= {"minutes_off": round(minutes)} if asked.kind != "insulation_mohm" else {}
    if asked.kind == "draught_inwc":
        row["needs_inwc"] = 0.65
    return {name: item for name, item in row.items() if item is not None}


def _each(truth: UnitState, test: NextTest) -> list[PlannedTest]:
    """A test as it is made here: winding pairs one by one, one lead for all to the frame."""
    plain = PlannedTest(test.kind, test.at, test.with_, test.section)
    if test.kind == "winding_ohm" and not truth.three:
        return _pairs(truth)
    if test.kind in ("ground_ohm", "insulation_mohm") and not truth.three:
        return [PlannedTest(test.kind, test.at, lead=next(iter(lead_ends(truth)), "A"))]
    return [plain]


def _pairs(truth: UnitState) -> list[PlannedTest]:
    taps = tapped_pairs(truth)
    if len(taps) > 1:
        return [PlannedTest("winding_ohm", pair=pair, speed=speed) for speed, pair in sorted(taps.items())]
    return [PlannedTest("winding_ohm", pair=pair) for pair in combinations(list(lead_ends(truth)), 2)]
