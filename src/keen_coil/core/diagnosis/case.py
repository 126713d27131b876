"""What the diagnosis works on: the call, its judged readings, which of them count, what contradicts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import combinations, pairwise

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Judged, Signal, joined
from ..judge.readings import judge_readings
from ..judge.supply import volts_seen
from ..limits import Limits
from ..readings import Reading, minutes_of
from ..uncertainty import spans
from ..units import Span

APART_MINUTES = 10
EVERY_PAIR, TWO_ANSWERS = 8, 2
"""Up to so many readings about the same thing every pair that disagrees is named."""
OVERLOAD_SIGNALS = frozenset({"winding.common_open", "winding.common_open_cool", "winding.two_lead_open", "winding.two_lead_open_cool"})


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
        """Readings out of date: the same thing read ten minutes or more later, or dried since."""
        later: set[int] = set()
        for group in self._same_thing:
            times = {index: at for index in group if (at := minutes_of(self.call.readings[index])) is not None}
            latest = max(times.values(), default=0.0)
            later |= {index for index, at in times.items() if latest - at >= APART_MINUTES}
        return later | self._dried | self._unloaded

    @property
    def _unloaded(self) -> set[int]:
        """Right volts read standing at a place where they fail under load: a burnt contact shows full volts unloaded."""
        rows = [(i, r) for i, r in self.call.standing("supply_v") if r.across != "ground"]
        failing = {r.place for i, r in rows if r.when == "running" and self.judged[i].judgement.state == "failed"}
        return {i for i, r in rows if r.when != "running" and r.place in failing}

    @property
    def _dried(self) -> set[int]:
        """Insulation read wet on a lead that was dried and read again."""
        rows = [(i, r) for i, r in self.call.standing() if r.kind in ("insulation_mohm", "ground_ohm")]
        dry = {(r.kind, r.lead): i for i, r in rows if r.dried}
        return {i for i, r in rows if not r.dried and dry.get((r.kind, r.lead), -1) > i}

    @cached_property
    def contradictions(self) -> list[Contradiction]:
        """Readings that exclude each other, neither withdrawn nor out of date."""
        return [
            Contradiction(readings=[one, other], says=self._differ(one, other))
            for group in self._same_thing
            for one, other in self._disagreeing([index for index in group if index not in self.superseded])
        ] + self._physics()

    def _disagreeing(self, group: list[int]) -> list[tuple[int, int]]:
        """Pairs of a group that exclude each other; in a large one every reading that does, beside the extreme ones."""
        if len(group) <= EVERY_PAIR:
            return [pair for pair in combinations(group, 2) if self._disagree(*pair)]
        extremes = self._extremes(group)
        against = {one: next((other for other in extremes if self._disagree(one, other)), None) for one in group}
        return sorted({(min(one, other), max(one, other)) for one, other in against.items() if other is not None})

    def _extremes(self, group: list[int]) -> list[int]:
        """Readings of a group such that whatever excludes any of it excludes one of these."""
        found: dict[object, int] = {}
        for index in group:
            reading = self.call.readings[index]
            said = reading.value in reading.row.words if reading.row.is_number else str(reading.value)
            if said in found or len(found) < TWO_ANSWERS:
                found.setdefault(said, index)
        read = {index: self._spans[index] for index in group}
        for place in range(max(map(len, read.values()), default=0)):
            having = [index for index in group if len(read[index]) > place]
            found[place, "low"] = min(having, key=lambda index: read[index][place].high)
            found[place, "high"] = max(having, key=lambda index: read[index][place].low)
        return list(dict.fromkeys(found.values()))

    @cached_property
    def _current(self) -> list[tuple[int, Judged]]:
        return [(i, self.judged[i]) for i, _ in self.call.standing() if i not in self.superseded]

    @cached_property
    def counting(self) -> list[tuple[int, Judged]]:
        """Judged readings that bear on the verdict: found, standing, not out of date, not contradicted."""
        doubted = {index for row in self.contradictions for index in row.readings}
        return [(i, judged) for i, judged in self._current if i not in doubted]

    @cached_property
    def by_link(self) -> dict[str, dict[tuple[object, ...], list[Judged]]]:
        """Judged readings that count, by the link they bear on and by what they are about."""
        found: dict[str, dict[tuple[object, ...], list[Judged]]] = {}
        for index, judged in self.counting:
            reading = self.call.readings[index]
            on_overload = any(signal.key in OVERLOAD_SIGNALS for signal in judged.signals)
            link = "overload" if on_overload else judged.link
            if link and reading.kind != "supply_v":
                found.setdefault(link, {}).setdefault(reading.qualifiers(), []).append(judged)
        return found

    @cached_property
    def signals(self) -> dict[str, Signal]:
        """The signals of the readings that count, by key; those of one key joined."""
        return _by_key(self.counting)

    @cached_property
    def volts(self) -> dict[str, str]:
        """The latest word on the volts at each point of the way."""
        seen = volts_seen(self.judged, self.call)
        return {place: word for place, word in seen.items() if f"volts_{place}.{word}" in self.signals or "drop.large" in self.signals}

    @cached_property
    def _same_thing(self) -> list[list[int]]:
        """Standing readings about the same thing, in order; hot and cold ohms are not the same thing."""
        groups: dict[tuple[object, ...], list[int]] = {}
        for index, reading in self.call.standing():
            if not reading.wrong_power and reading.kind != "air_speed_fpm":
                groups.setdefault(reading.qualifiers(), []).append(index)
        return [group for group in groups.values() if len(group) > 1]

    @cached_property
    def _spans(self) -> dict[int, list[Span]]:
        return {
            index: spans(self.call.readings[index], self.call.meters) if self.call.readings[index].row.is_number else []
            for group in self._same_thing for index in group
        }  # fmt: skip

    def _disagree(self, one: int, other: int) -> bool:
        first, second = self.call.readings[one], self.call.readings[other]
        if not first.row.is_number:
            return bool(first.value != second.value)
        if (first.value in first.row.words) != (second.value in second.row.words):
            return True
        return any(a.apart(b) for a, b in zip(self._spans[one], self._spans[other], strict=False))

    def _differ(self, one: int, other: int) -> str:
        first, second = self.call.readings[one], self.call.readings[other]
        return (
            f"{first.row.title}: {answer(first)} and {answer(second)} cannot both stand. "
            "Measure once more and withdraw the wrong one."
        )

    def _physics(self) -> list[Contradiction]:
        seen = _by_key(self._current)
        found = []
        for one, others, says in EXCLUDE:
            for other in (key for key in others if one in seen and key in seen):
                if not self._minutes_apart(seen[one], seen[other]):
                    found.append(Contradiction(readings=sorted({*seen[one].readings, *seen[other].readings}), says=says))
        return found

    def _minutes_apart(self, one: Signal, other: Signal) -> bool:
        """Whether time passed between: what ran then may have stopped since."""
        times = [(minutes_of(self.call.readings[i]), row is one) for row in (one, other) for i in row.readings]
        known = sorted((at, mine) for at, mine in times if at is not None)
        if len(known) < len(times) or not (one.readings and other.readings):
            return False
        # in order of time, only neighbors of different sides can be nearest to each other
        return all(b[0] - a[0] >= APART_MINUTES for a, b in pairwise(known) if a[1] != b[1])


def _by_key(rows: list[tuple[int, Judged]]) -> dict[str, Signal]:
    found: dict[str, list[Signal]] = {}
    for signal in (signal for _, judged in rows for signal in judged.signals):
        had = found.setdefault(signal.key, [])
        if had and had[-1].says == signal.says:
            had.pop()
        had.append(signal)
    return {key: joined(signals) for key, signals in found.items()}


_BROKEN = (
    "winding.run_open", "winding.run_open_cool", "winding.common_open_cool", "winding.two_lead_open_cool",
    "winding.all_open", "winding.all_open_cool", "conductor.open_whole",
)  # fmt: skip
EXCLUDE: tuple[tuple[str, tuple[str, ...], str], ...] = (
    ("turns.right", ("amps.none",), "It turns, and no current is read. Clamp the whole-current leg again."),
    ("turns.right", _BROKEN, "It turns, and the lead or winding that carries its current reads open. Read both again."),
    ("turns.right", ("volts_motor.missing", "volts_unit.missing"), "It turns without volts. Read them again while it runs."),
    ("turns.right", ("shaft.locked",), "It turns under power, and by hand the shaft is locked. Try both again."),
    ("turns.right", ("breaker.tripped", "disconnect.open", "ecm_power.absent"), "It turns, and its way is cut. Look again."),
    ("turns.not", ("amps.low",), "It does not turn, yet draws less than a running motor. Look and clamp again."),
    ("noise.hum", ("amps.none",), "It hums, and no current is read. Clamp the whole-current leg again."),
    ("call.absent", ("volts_motor.good",), "Right volts at the motor without a call: a relay stuck in, or a wrong reading."),
    ("switch.out", ("volts_switch_load.good",), "Volts behind a switch that has not pulled in: welded contacts, or a wrong reading."),
    ("volts_unit.missing", ("volts_switch_line.good", "volts_switch_load.good", "volts_motor.good"), "Volts further on and none into the unit. Read both again."),
    ("breaker.tripped", ("volts_switch_line.good", "volts_switch_load.good"), "The breaker has tripped, and there are volts behind it. Look again."),
    ("disconnect.open", ("volts_switch_line.good", "volts_switch_load.good"), "The disconnect is open, and there are volts behind it. Look again."),
    ("spin.free", ("shaft.locked",), "Free with the blade on and locked without. Turn it again."),
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
