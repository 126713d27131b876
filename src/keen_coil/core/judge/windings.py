"""Windings: three pairs of a two-winding motor, which lead is which, open and overload patterns.

The pair that does not touch common reads the sum. Common open to both with run-start reading through is
the internal overload, not a winding.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..call import Call
from ..limits import TRADE, Limits
from ..readings import Reading
from ..uncertainty import span, spans
from ..units import Span, fixed
from .cooling import is_cool
from .judged import Judged, Judgement, Signal, State, suspect, unjudged
from .leads import Terminals, roles_known

LINK = "windings"
_JOINED_OHM = 0.5


@dataclass(frozen=True)
class Pairs:
    """The standing pair readings of a single-phase motor: finite ones as spans, open ones by name."""

    finite: dict[frozenset[str], Span]
    open: frozenset[frozenset[str]]
    indices: dict[frozenset[str], int]

    @property
    def leads(self) -> list[str]:
        """Every lead that was touched, in order of the alphabet."""
        return sorted({lead for pair in self.indices for lead in pair})

    @property
    def all_read(self) -> bool:
        """Three leads and all their pairs read."""
        return len(self.leads) == 3 and len(self.indices) == 3


def copper_temperature(r_cold: float, t_cold: float, r_hot: float, constant: float = 234.5) -> float:
    """Winding temperature in C from cold and hot ohms: R2 / R1 = (k + T2) / (k + T1).

    k is 234.5 for copper (IEEE 112), 225 for aluminium. 12.40 ohm at 24 C, 16.90 hot: 117.8 C.
    """
    return (constant + t_cold) * r_hot / r_cold - constant


def sum_allowance(largest: Span, one: Span, other: Span, limits: Limits) -> float:
    """Ohms by which the largest pair may miss the sum of the other two."""
    least = max(limits.winding_sum_pct / 100 * largest.mid, limits.winding_sum_ohm)
    return least + largest.u + one.u + other.u


def standing_pairs(call: Call) -> Pairs:
    """The pairs of the motor as they stand: latest reading of each, sound method only."""
    finite: dict[frozenset[str], Span] = {}
    indices: dict[frozenset[str], int] = {}
    opened: set[frozenset[str]] = set()
    for index, reading in _usable(call):
        pair = frozenset(reading.pair or ())
        indices[pair] = index
        finite.pop(pair, None)
        opened.discard(pair)
        if reading.value == "OL":
            opened.add(pair)
        else:
            finite[pair] = span(reading.numbers[0], reading, call.meters)
    return Pairs(finite, frozenset(opened), indices)


def _usable(call: Call) -> list[tuple[int, Reading]]:
    return [
        (index, reading)
        for index, reading in call.standing("winding_ohm")
        if reading.pair and not isinstance(reading.value, list) and _sound_method(reading)
    ]


def _sound_method(reading: Reading) -> bool:
    return not reading.wrong_power and reading.place == "motor" and reading.isolated is not False


def terminals(call: Call) -> Terminals:
    """Which lead is common, run and start, from three finite pairs, else from what is written down."""
    pairs, known = standing_pairs(call), roles_known(call)
    if not pairs.all_read or len(pairs.finite) != 3:
        return known
    largest = max(pairs.finite, key=lambda pair: pairs.finite[pair].mid)
    common = next(lead for lead in pairs.leads if lead not in largest)
    one, other = sorted(largest, key=lambda lead: pairs.finite[frozenset((common, lead))].mid)
    low, high = pairs.finite[frozenset((common, one))], pairs.finite[frozenset((common, other))]
    others = [span_ for pair, span_ in pairs.finite.items() if pair != largest]
    if any(not pairs.finite[largest].apart(near) for near in others):
        return Terminals(known.common, known.run, known.start)
    if not low.apart(high):
        return Terminals(common, known.run, known.start)
    return Terminals(common, one, other)


def judge_windings(call: Call, limits: Limits) -> dict[int, Judged]:
    """Judge every standing winding reading of the motor at once; the pattern of the pairs decides."""
    pairs = standing_pairs(call)
    pattern = _pattern(pairs, call, limits)
    return {
        index: _judge_one(index, reading, pairs, pattern, call, limits)
        for index, reading in call.standing("winding_ohm")
    }


@dataclass(frozen=True)
class _Pattern:
    state: State
    finding: str
    says: str
    signal: str


def _pattern(pairs: Pairs, call: Call, limits: Limits) -> _Pattern | None:
    """What the pairs read so far amount to; None while they decide nothing."""
    if pairs.open:
        return _open_pattern(pairs, call, limits)
    if len(pairs.leads) == 2 and call.motor.leads == 2:
        return _Pattern("normal", "good", "The winding reads through.", "winding.good")
    if not pairs.all_read:
        return None
    largest, *rest = sorted(pairs.finite.values(), key=lambda read: -read.mid)
    if rest[-1].low <= 0 or rest[-1].mid < _JOINED_OHM:
        says = "A pair reads next to nothing: leads joined, or turns shorted."
        return _Pattern("suspect", "shorted", says, "winding.short")
    off = abs(largest.mid - rest[0].mid - rest[1].mid)
    if off <= sum_allowance(largest, rest[0], rest[1], limits):
        return _Pattern("normal", "good", "The largest pair is the sum of the other two.", "winding.good")
    says = f"The largest pair misses the sum of the other two by {off:.1f} ohm. Repeat on isolated leads."
    return _Pattern("suspect", "out", says, "winding.sum_off")


def _open_pattern(pairs: Pairs, call: Call, limits: Limits) -> _Pattern | None:
    cool = all(is_cool(call, call.readings[pairs.indices[pair]], limits) for pair in pairs.open)
    if len(pairs.open) == 3 and pairs.all_read:
        return _opened(cool, "winding.all_open", "Open between all three leads: more than a protector.")
    if len(pairs.leads) == 2 and call.motor.leads == 2:
        return _overload(cool, "winding.two_lead_open", "Both leads open: overload or winding.")
    lead = cut_off(pairs)
    if lead is None:
        one = len(pairs.open) == 1 and pairs.all_read
        says = "One pair open while the other two read through cannot be. Read it again."
        return _Pattern("suspect", "open", says, "winding.odd") if one else None
    role = roles_known(call).role(lead)
    if role == "common":
        return _overload(cool, "winding.common_open", f"Common ({lead}) open to both: the internal overload.")
    if role in ("start", "run"):
        return _opened(cool, f"winding.{role}_open", f"The {role} winding ({lead}) is open.")
    return _unknown_lead(cool, lead)


def _opened(cool: bool, key: str, says: str) -> _Pattern:
    if cool:
        return _Pattern("failed", "open", says, key)
    return _Pattern("failed", "open", says + " Let it cool and read again before judging.", key + "_hot")


def _overload(cool: bool, key: str, says: str) -> _Pattern:
    if cool:
        return _Pattern("failed", "open", says + " It is cool and should have closed.", key + "_cool")
    return _Pattern("failed", "open", says + " Let it cool and read again.", key)


def _unknown_lead(cool: bool, lead: str) -> _Pattern:
    if cool:
        return _Pattern("failed", "open", f"{lead} is open to the others, on a cool motor.", "winding.lead_open_cool")
    says = f"{lead} is open to the others: the overload if it is common, else a winding. Let it cool, then tell."
    return _Pattern("failed", "open", says, "winding.lead_open")


def cut_off(pairs: Pairs) -> str | None:
    """The lead that is open to leads which read through among themselves; None when there is no such one."""
    groups = _joined(pairs)
    if any(pair <= group for pair in pairs.open for group in groups):
        return None
    alone = {lead for pair in pairs.open for lead in pair if not any(lead in group for group in groups)}
    return alone.pop() if len(alone) == 1 and pairs.finite else None


def _joined(pairs: Pairs) -> list[set[str]]:
    """Groups of leads that read through among themselves."""
    groups: list[set[str]] = []
    for pair in pairs.finite:
        touching = [group for group in groups if group & pair]
        groups = [group for group in groups if not group & pair] + [set(pair).union(*touching)]
    return groups


def _judge_one(
    index: int, reading: Reading, pairs: Pairs, pattern: _Pattern | None, call: Call, limits: Limits
) -> Judged:
    if isinstance(reading.value, list) or call.motor.kind == "three_phase":
        return _judge_three(index, reading, call, limits)
    if not reading.pair:
        return unjudged(index, "Say between which two leads this was read.", LINK)
    opened = reading.value == "OL"
    if not _sound_method(reading):
        if opened:
            return suspect(index, "Open, but not on the motor's isolated leads. Read again there.", LINK)
        return unjudged(index, "Not on isolated leads: other paths may join in. Read again there.", LINK)
    name = "-".join(reading.pair)
    if index not in pairs.indices.values():
        return unjudged(index, "A later reading of this pair counts.", LINK)
    if pattern is None:
        says = "Open. Read the other pairs." if opened else "Reads through. Read the other pairs."
        return Judged(Judgement(reading=index, state="unjudged", says=says), LINK)
    text = f"{name}: {'open' if opened else fixed(reading.numbers[0]) + ' ohm'}"
    if pattern.finding == "open" and not opened:
        return Judged(Judgement(reading=index, state="unjudged", says="Reads through.", source=TRADE), LINK)
    judgement = Judgement(
        reading=index, state=pattern.state, finding=pattern.finding, says=pattern.says,
        limit=_limit_text(pattern, limits), source=TRADE,
    )  # fmt: skip
    return Judged(judgement, LINK, (Signal(pattern.signal, text, (index,)),))


def _limit_text(pattern: _Pattern, limits: Limits) -> str:
    if pattern.finding == "open":
        return "each pair reads through"
    return f"sum within {limits.winding_sum_pct:g} % or {limits.winding_sum_ohm:g} ohm, and the meter's error"


def phase_difference_pct(ohms: list[float]) -> float:
    """Difference of three phase pairs in per cent: 100 * max|R - mean| / mean."""
    mean = sum(ohms) / len(ohms)
    return 100 * max(abs(r - mean) for r in ohms) / mean if mean else 0.0


def _judge_three(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    if len(reading.numbers) != 3:
        return unjudged(index, "Give the three pairs of a three-phase motor together.", LINK)
    if not _sound_method(reading):
        return unjudged(index, "Not on isolated leads: read again there.", LINK)
    read = spans(reading, call.meters)
    if len(read) < 3:
        return _three_open(index, is_cool(call, reading, limits), len(read))
    return _three_pairs(index, read, limits)


def _three_open(index: int, cool: bool, finite: int) -> Judged:
    pattern = (
        _overload(cool, "winding.two_lead_open", "All three pairs open: overload at the star point.")
        if finite == 0
        else _opened(cool, "winding.phase_open", "A phase is open.")
    )
    judgement = Judgement(reading=index, state="failed", finding="open", says=pattern.says, source=TRADE)
    return Judged(judgement, LINK, (Signal(pattern.signal, "three pairs: open", (index,)),))


def _three_pairs(index: int, read: list[Span], limits: Limits) -> Judged:
    share = phase_difference_pct([leg.mid for leg in read])
    corners = [
        phase_difference_pct([leg.mid + way * leg.u * (i == j) for i, leg in enumerate(read)])
        for j in range(3)
        for way in (-1, 1)
    ]
    least, most = min([share, *corners]), max([share, *corners])
    state: State = "normal" if most <= limits.phase_ohm_normal_pct else "borderline"
    state = "failed" if least > limits.phase_ohm_pct else state
    finding = {"normal": "good", "failed": "out"}.get(state, "borderline")
    judgement = Judgement(
        reading=index, state=state, finding=finding, says=f"The three pairs differ by {share:.1f} %.",
        limit=f"up to {limits.phase_ohm_normal_pct:g} % normal, above {limits.phase_ohm_pct:g} % failed", source=TRADE,
    )  # fmt: skip
    key = {"good": "winding.good", "out": "winding.phase_off"}.get(finding)
    return Judged(judgement, LINK, (Signal(key, f"pairs differ by {share:.1f} %", (index,)),) if key else ())
