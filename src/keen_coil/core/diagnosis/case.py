"""What the diagnosis works on: the call, its judged readings, which of them count, what contradicts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import combinations

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Judged, Signal
from ..judge.readings import judge_readings
from ..judge.supply import volts_seen
from ..limits import Limits
from ..readings import Reading, minutes_between
from ..uncertainty import spans

APART_MINUTES = 10


class Contradiction(BaseModel):
    """Readings that cannot all be true."""

    readings: list[int]
    says: str


@dataclass(frozen=True)
class Case:
    """A call with its judged readings."""

    call: Call
    limits: Limits

    @cached_property
    def judged(self) -> dict[int, Judged]:
        """Every reading judged, by index."""
        return judge_readings(self.call, self.limits)

    @cached_property
    def superseded(self) -> set[int]:
        """Readings that a later one of the same thing, ten minutes or more after, puts out of date."""
        return {
            self._earlier(one, other)
            for one, other in self._same_thing()
            if abs(minutes_between(self.call.readings[one], self.call.readings[other]) or 0.0) >= APART_MINUTES
        }

    @cached_property
    def contradictions(self) -> list[Contradiction]:
        """The same thing read twice with answers that exclude each other, neither withdrawn nor out of date."""
        return [
            Contradiction(readings=[one, other], says=self._differ(one, other))
            for one, other in self._same_thing()
            if not {one, other} & self.superseded and self._disagree(one, other)
        ] + self._physics()

    @cached_property
    def counting(self) -> list[tuple[int, Judged]]:
        """Judged readings that bear on the verdict: found, standing, not out of date."""
        return [(i, self.judged[i]) for i, _ in self.call.standing() if i not in self.superseded]

    @cached_property
    def signals(self) -> dict[str, Signal]:
        """The signals of the readings that count, by key; those of one key joined."""
        found: dict[str, Signal] = {}
        for signal in (signal for _, judged in self.counting for signal in judged.signals):
            had = found.get(signal.key)
            found[signal.key] = signal if had is None or had.says == signal.says else had.joined(signal)
        return found

    @cached_property
    def volts(self) -> dict[str, str]:
        """The latest word on the volts at each point of the way."""
        return volts_seen(self.judged, self.call)

    def _same_thing(self) -> list[tuple[int, int]]:
        """Pairs of standing readings about the same thing, in order."""
        groups: dict[tuple[object, ...], list[int]] = {}
        for index, reading in self.call.standing():
            if not reading.wrong_power and reading.kind != "air_speed_fpm":
                groups.setdefault(reading.qualifiers(), []).append(index)
        return [pair for group in groups.values() for pair in combinations(group, 2)]

    def _earlier(self, one: int, other: int) -> int:
        later = minutes_between(self.call.readings[one], self.call.readings[other]) or 0.0
        return one if later > 0 else other

    def _disagree(self, one: int, other: int) -> bool:
        first, second = self.call.readings[one], self.call.readings[other]
        if not first.row.is_number:
            return bool(first.value != second.value)
        if (first.value in first.row.words) != (second.value in second.row.words):
            return True
        mine, theirs = spans(first, self.call.meters), spans(second, self.call.meters)
        return any(a.apart(b) for a, b in zip(mine, theirs, strict=False))

    def _differ(self, one: int, other: int) -> str:
        first, second = self.call.readings[one], self.call.readings[other]
        return (
            f"{first.row.title}: {answer(first)} and {answer(second)} cannot both stand. "
            "Measure once more and withdraw the wrong one."
        )

    def _physics(self) -> list[Contradiction]:
        seen = self.signals
        found = []
        for one, other, says in _EXCLUDE:
            if one in seen and other in seen:
                found.append(Contradiction(readings=sorted({*seen[one].readings, *seen[other].readings}), says=says))
        return found


_EXCLUDE = (
    ("turns.right", "amps.none", "It turns, and no current is read. Clamp the whole-current leg again."),
    ("turns.not", "amps.low", "It does not turn, yet draws less than a running motor. Look and clamp again."),
    ("supply.motor.good", "control.absent", "Right volts at the motor without a call: a relay stuck in, or a wrong reading."),
    ("supply.switch_load.good", "switch.out", "Volts behind a switch that has not pulled in: welded contacts, or a wrong reading."),
    ("supply.unit.missing", "supply.switch_load.good", "Volts behind the switch and none into the unit. Read both again."),
    ("supply.unit.missing", "supply.motor.good", "Volts at the motor and none into the unit. Read both again."),
    ("spin.free", "spin.locked_bare", "Free and locked. Turn it again."),
)  # fmt: skip


def answer(reading: Reading) -> str:
    """A reading's answer in words, with its unit."""
    if isinstance(reading.value, bool):
        return "yes" if reading.value else "no"
    if isinstance(reading.value, str) and reading.value in reading.row.words:
        return reading.value.replace("_", " ")
    if isinstance(reading.value, list):
        return " / ".join(str(item) for item in reading.value) + f" {reading.row.unit}"
    return f"{reading.value} {reading.row.unit}".strip()
