"""What the diagnosis works on: the call, its judged readings, which of them count, what contradicts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import combinations, pairwise

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Judged, Signal, joined
from ..judge.readings import judge_readings
from ..judge.subjects import Value, disagree, groups
from ..judge.supply import volts_seen
from ..limits import Limits
from ..readings import Reading, minutes_between, minutes_of
from ..units import Span

APART_MINUTES = 10
EVERY_PAIR, TWO_ANSWERS, FEW = 8, 2, 4
"""Up to so many readings about the same thing every pair that disagrees is named."""
STRONGER: dict[str, tuple[str, ...]] = {
    "capacitor_load": ("capacitance_uf",),
    "ground_ohm": ("insulation_mohm",),
    "run_rpm": ("run_amps_a",),
}
"""Kinds of reading whose good answer settles a borderline one of another kind."""
UNASKED = ("background_amps_a",)
OVERLOAD_SIGNALS = frozenset(
    {"winding.common_open", "winding.common_open_cool", "winding.two_lead_open", "winding.two_lead_open_cool"}
)


class Contradiction(BaseModel):
    """Readings that cannot all be true."""

    readings: list[int]
    says: str


@dataclass(frozen=True)
class Conflict:
    """A contradiction with its sides: of each, the readings that would have to be wrong."""

    contradiction: Contradiction
    sides: tuple[frozenset[int], ...]


class Case:
    """A call with its judged readings, at the state its unit was found in or is in now.

    `call` is what everything is worked out from: the call without readings of another state, out of date, or in
    doubt. What hangs on several readings is so never mixed up of what cannot be true together.
    """

    def __init__(self, call: Call, limits: Limits) -> None:
        self.whole, self.limits = call, limits
        all_judged = judge_readings(call, limits)
        self._raw = _Raw(call, all_judged, limits)
        self.call = call.without(call.left_out | self.superseded | self.doubted)
        if self.call is call:
            self.judged = all_judged
        else:
            seen = judge_readings(self.call, limits)
            inside = {index for proof in (False, True) for index, _ in self.call.standing(proof=proof)}
            self.judged = {index: (seen if index in inside else all_judged)[index] for index in all_judged}

    @property
    def superseded(self) -> frozenset[int]:
        """Readings out of date: the same thing read ten minutes or more later, dried or loaded since."""
        return self._raw.superseded

    @property
    def doubted(self) -> frozenset[int]:
        """Readings of the same thing that exclude each other and do not say the same."""
        return self._raw.doubted

    @property
    def seen(self) -> frozenset[int]:
        """Readings that the case takes into account at all, doubted ones among them."""
        return frozenset(range(len(self.whole.readings))) - self.whole.left_out

    @property
    def conflicts(self) -> list[Conflict]:
        """Contradictions that matter: their two sides do not say the same."""
        raw = [
            Conflict(row, tuple(frozenset({index}) for index in row.readings))
            for row in self._raw.contradictions
            if set(row.readings) <= self.doubted
        ]
        return [*raw, *self._physics]

    @cached_property
    def contradictions(self) -> list[Contradiction]:
        """Readings that exclude each other, neither withdrawn nor out of date."""
        return [*self._raw.contradictions, *(conflict.contradiction for conflict in self._physics)]

    @cached_property
    def counting(self) -> list[tuple[int, Judged]]:
        """Judged readings that bear on the verdict: found, standing, not out of date, not contradicted."""
        doubted = {index for row in self._physics for index in row.contradiction.readings}
        return [(i, judged) for i, judged in self._current if i not in doubted]

    @cached_property
    def _current(self) -> list[tuple[int, Judged]]:
        return [(i, self.judged[i]) for i, _ in self.call.standing()]

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
    def passed_over(self) -> list[int]:
        """Readings that forbid "no fault": failed, in doubt, or borderline without a better one that explains them."""
        good = {
            (self.call.readings[i].kind, self.call.readings[i].at)
            for i, judged in self.counting
            if judged.judgement.state == "normal"
        }
        kinds, found = {kind for kind, _ in good}, []
        for i, judged in self.counting:
            reading, state = self.call.readings[i], judged.judgement.state
            better = (reading.kind, reading.at) in good or bool(kinds & set(STRONGER.get(reading.kind, ())))
            if reading.kind not in UNASKED and (
                state == "failed" or (state in ("borderline", "suspect") and not better)
            ):
                found.append(i)
        return found

    @cached_property
    def answered(self) -> set[str]:
        """The questions that some reading answers."""
        return {key.partition(".")[0] for key in self.signals}

    @cached_property
    def signals(self) -> dict[str, Signal]:
        """The signals of the readings that count, by key; those of one key joined."""
        return _by_key(self.counting)

    @cached_property
    def volts(self) -> dict[str, str]:
        """The latest word on the volts at each point of the way."""
        seen = volts_seen(self.judged, self.call)
        return {
            place: word
            for place, word in seen.items()
            if f"volts_{place}.{word}" in self.signals or "drop.large" in self.signals
        }

    @cached_property
    def _physics(self) -> list[Conflict]:
        seen = _by_key(self._current)
        found = []
        for one, others, says in EXCLUDE:
            for other in (key for key in others if one in seen and key in seen):
                sides = frozenset(seen[one].readings), frozenset(seen[other].readings)
                if not self._minutes_apart(seen[one], seen[other]):
                    found.append(Conflict(Contradiction(readings=sorted(sides[0] | sides[1]), says=says), sides))
        return found

    def at_one_time(self, one: str, other: str) -> bool:
        """Whether two signals were both seen, and not with minutes between."""
        both = one in self.signals and other in self.signals
        return both and not self._minutes_apart(self.signals[one], self.signals[other])

    def _minutes_apart(self, one: Signal, other: Signal) -> bool:
        """Whether time passed between: what ran then may have stopped since."""
        times = [(minutes_of(self.call.readings[i]), row is one) for row in (one, other) for i in row.readings]
        known = sorted((at, mine) for at, mine in times if at is not None)
        if len(known) < len(times) or not (one.readings and other.readings):
            return False
        # in order of time, only neighbors of different sides can be nearest to each other
        return all(b[0] - a[0] >= APART_MINUTES for a, b in pairwise(known) if a[1] != b[1])


class _Raw:
    """Readings about the same thing, each by itself: what is out of date, what excludes what."""

    def __init__(self, call: Call, judged: dict[int, Judged], limits: Limits) -> None:
        self.call, self.judged, self.limits = call, judged, limits

    @cached_property
    def superseded(self) -> frozenset[int]:
        later: set[int] = set()
        for group in self._same_thing:
            times = {index: at for index, _ in group if (at := minutes_of(self.call.readings[index])) is not None}
            latest = max(times.values(), default=0.0)
            later |= {index for index, at in times.items() if latest - at >= APART_MINUTES}
            later |= self._before_it_cooled([index for index, _ in group])
        return frozenset(later | self._dried | self._unloaded)

    def _before_it_cooled(self, group: list[int]) -> set[int]:
        """Those whose minutes without power were noted, and are of another moment than the latest that has them.

        The later one is told by its time; without times, by the more minutes.
        """
        noted = [(i, self.call.readings[i]) for i in group]
        rows = [(minutes_of(r) or 0.0, float(r.minutes_off), i) for i, r in noted if r.minutes_off is not None]
        latest = max(rows, default=(0.0, 0.0, 0))
        return {index for _, off, index in rows if abs(off - latest[1]) >= APART_MINUTES}

    @property
    def _unloaded(self) -> set[int]:
        """Right volts standing where they fail under load: a burnt contact shows full volts unloaded."""
        rows = [(i, r) for i, r in self.call.standing("supply_v") if r.across != "ground"]
        failing = {r.place for i, r in rows if r.when == "running" and self.judged[i].judgement.state == "failed"}
        return {i for i, r in rows if r.when != "running" and r.place in failing}

    @property
    def _dried(self) -> set[int]:
        """Insulation read wet on a lead that was read again dried, unless the times say that it was before."""
        rows = [(i, r) for i, r in self.call.standing() if r.kind in ("insulation_mohm", "ground_ohm")]
        dry = {(r.kind, r.lead): r for _, r in rows if r.dried}
        return {
            i
            for i, r in rows
            if not r.dried
            and (again := dry.get((r.kind, r.lead))) is not None
            and (minutes_between(r, again) or 0.0) >= 0
        }

    @cached_property
    def contradictions(self) -> list[Contradiction]:
        pairs: dict[tuple[int, ...], Contradiction] = {}
        for group in self._same_thing:
            rows = [row for row in group if row[0] not in self.superseded]
            for one, other in _disagreeing(rows):
                pairs.setdefault(
                    tuple(sorted((one, other))),
                    Contradiction(readings=sorted((one, other)), says=self._differ(one, other)),
                )
        return list(pairs.values())

    @cached_property
    def doubted(self) -> frozenset[int]:
        """Those of a pair that do not say the same: of two that do, whichever is believed."""
        told_apart = [row.readings for row in self.contradictions if not self._say_the_same(*row.readings)]
        return frozenset(index for pair in told_apart for index in pair)

    def _say_the_same(self, one: int, other: int) -> bool:
        if self.call.readings[one].kind != "winding_ohm":
            return _said(self.judged[one]) == _said(self.judged[other])
        if len(self.contradictions) > FEW:
            return False
        alone = [
            judge_readings(self.call.without(self.call.left_out | {gone}), self.limits)[kept]
            for gone, kept in ((other, one), (one, other))
        ]
        return _said(alone[0]) == _said(alone[1])

    @cached_property
    def _same_thing(self) -> list[list[tuple[int, Value]]]:
        return list(groups(self.call).values())

    def _differ(self, one: int, other: int) -> str:
        first, second = self.call.readings[one], self.call.readings[other]
        return (
            f"{first.row.title}: {answer(first)} and {answer(second)} can't both be right. "
            "Measure again and correct the wrong one."
        )


def _said(judged: Judged) -> object:
    return judged.judgement.state, frozenset(signal.key for signal in judged.signals)


def _disagreeing(group: list[tuple[int, Value]]) -> list[tuple[int, int]]:
    """Pairs of a group that exclude each other; in a large one every reading that does, beside the extreme ones."""
    if len(group) <= EVERY_PAIR:
        return [(i, k) for (i, a), (k, b) in combinations(group, 2) if disagree(a, b)]
    extremes = _extremes(group)
    against = {i: next((k for k, b in extremes if disagree(a, b)), None) for i, a in group}
    return sorted({(min(i, k), max(i, k)) for i, k in against.items() if k is not None})


def _extremes(group: list[tuple[int, Value]]) -> list[tuple[int, Value]]:
    """Answers of a group such that whatever excludes any of it excludes one of these."""
    found: dict[object, tuple[int, Value]] = {}
    for index, value in group:
        said = "number" if isinstance(value, Span) else value
        if said in found or len(found) < TWO_ANSWERS:
            found.setdefault(said, (index, value))
    read = [(index, value) for index, value in group if isinstance(value, Span)]
    if read:
        found["low"] = min(read, key=lambda row: row[1].high)
        found["high"] = max(read, key=lambda row: row[1].low)
    return list(found.values())


def _by_key(rows: list[tuple[int, Judged]]) -> dict[str, Signal]:
    found: dict[str, list[Signal]] = {}
    for signal in (signal for _, judged in rows for signal in judged.signals):
        had = found.setdefault(signal.key, [])
        if had and had[-1].says == signal.says:
            had.pop()
        had.append(signal)
    return {key: joined(signals) for key, signals in found.items()}


_BROKEN = (
    "winding.run_open",
    "winding.run_open_cool",
    "winding.common_open_cool",
    "winding.two_lead_open_cool",
    "winding.all_open",
    "winding.all_open_cool",
    "conductor.open_whole",
)
EXCLUDE: tuple[tuple[str, tuple[str, ...], str], ...] = (
    ("moves.yes", ("turns.not",), "One reading says it turns, another says it doesn't. Watch it again."),
    ("moves.yes", ("amps.none",), "It turns and draws no current. Clamp the whole-current lead again."),
    ("moves.yes", _BROKEN, "It turns, but the lead or winding that carries its current reads open. Read both again."),
    (
        "moves.yes",
        ("volts_motor.missing", "volts_unit.missing"),
        "It turns with no volts. Read them again while it runs.",
    ),
    ("moves.yes", ("shaft.locked",), "It turns under power, but the shaft is locked by hand. Try both again."),
    (
        "moves.yes",
        ("breaker.tripped", "disconnect.open", "ecm_power.absent"),
        "It turns with an open link in its path. Look again.",
    ),
    ("turns.not", ("amps.low",), "It does not turn, yet it draws less than a running motor. Look and clamp again."),
    ("noise.hum", ("amps.none",), "It hums and draws no current. Clamp the whole-current lead again."),
    (
        "volts_unit.missing",
        ("volts_switch_line.good", "volts_switch_load.good", "volts_motor.good"),
        "Volts downstream and none into the unit. Read both again.",
    ),
    (
        "breaker.tripped",
        ("volts_switch_line.good", "volts_switch_load.good", "volts_motor.good"),
        "The breaker is tripped and there are volts past it. Look again.",
    ),
    (
        "disconnect.open",
        ("volts_switch_line.good", "volts_switch_load.good", "volts_motor.good"),
        "The disconnect is open and there are volts past it. Look again.",
    ),
    (
        "conductor.open_whole",
        ("volts_motor.good",),
        "The wire reads open and there are volts past it. Read both again.",
    ),
    ("spin.free", ("shaft.locked",), "Free with the load on and locked with it off. Turn it again."),
    (
        "ground.grounded",
        ("megger.good",),
        "The ohmmeter shows a ground and the insulation tester does not. Test again.",
    ),
    ("ground.low", ("megger.good",), "The ohmmeter reads low and the insulation tester does not. Test again."),
)
"""Answers that cannot be true together, and what to do. Ten minutes apart both may be true, each at its time."""


def answer(reading: Reading) -> str:
    """A reading's answer in words, with its unit."""
    if isinstance(reading.value, bool):
        return "yes" if reading.value else "no"
    if isinstance(reading.value, str) and reading.value in reading.row.words:
        return reading.value.replace("_", " ")
    if isinstance(reading.value, list):
        return " / ".join(str(item) for item in reading.value) + f" {reading.row.sign}"
    return f"{reading.value} {reading.row.sign}".strip()
