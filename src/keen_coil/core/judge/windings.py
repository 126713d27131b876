"""Windings: three pairs of a two-winding motor, speed taps, open and overload patterns, three phases.

Common open to both with run-start reading through is the internal overload, not a winding; likewise both leads
of a two-lead motor, common to all taps, all pairs of a star-point protector (reckoning, Windings).
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

from ..call import Call
from ..limits import TRADE, Limits
from ..readings import Reading
from ..uncertainty import Meters, digit
from ..units import Span, fixed
from .cooling import is_cool, warmth_says
from .judged import Judged, Judgement, Signal, State, suspect, unjudged
from .pairs import JOINED_OHM, Pair, Pairs, Tap, cut_off, roles_known, sound_method, standing_pairs, taps, two_leads


def phase_difference_pct(ohms: list[float]) -> float:
    """Difference of three phase pairs in per cent: 100 * max|R - mean| / mean."""
    mean = sum(ohms) / len(ohms)
    return 100 * max(abs(r - mean) for r in ohms) / mean if mean else 0.0


def difference_u_pct(ohms: list[float], u: float) -> float:
    """Uncertainty of that difference in per cent, each pair uncertain by u ohms on its own.

    R - mean holds 2/3 of one reading and 1/3 of each of the others: sqrt(6) / 3 of u.
    """
    mean = sum(ohms) / len(ohms)
    return 100 * u * math.sqrt(6) / 3 / mean if mean else 0.0


ALIKE_DIGITS = 1.001


def phase_state(ohms: list[float], reading: Reading, meters: Meters, limits: Limits) -> tuple[float, State]:
    """Difference in per cent, and its state: wholly under 3 % normal, wholly above 5 % failed.

    Pairs that the meter shows alike, or one digit apart, are alike: low ohms are compared by its resolution.
    """
    share, step = phase_difference_pct(ohms), _digit(reading, meters)
    u = difference_u_pct(ohms, min(step / 2, float(reading.u)) if reading.u is not None else step / 2)
    if share + u <= limits.phase_ohm_normal_pct or max(ohms) - min(ohms) <= step * ALIKE_DIGITS:
        return share, "normal"
    return share, "failed" if share - u > limits.phase_ohm_pct else "borderline"


def _digit(reading: Reading, meters: Meters) -> float:
    """The last digit shown, ohms: the meter's, or the finest that was typed."""
    values = reading.value if isinstance(reading.value, list) else [reading.value]
    typed = [len(str(value).partition(".")[2].rstrip()) for value in values if "." in str(value)]
    return min(digit(reading, meters), 10.0 ** -max(typed, default=0)) if typed else digit(reading, meters)


LINK = "windings"

MANY_TAPS = 3
"""A lead that is open to so many others, none of which was read to another, is the line lead of speed taps."""


def sum_allowance(largest: Span, one: Span, other: Span, limits: Limits) -> float:
    """Ohms by which the largest pair may miss the sum of the other two."""
    least = max(limits.winding_sum_pct / 100 * largest.mid, limits.winding_sum_ohm)
    return least + largest.u + one.u + other.u


@dataclass(frozen=True)
class Pattern:
    """What the readings amount to together; an empty signal moves nothing."""

    state: State
    finding: str
    says: str
    signal: str


def judge_windings(call: Call, limits: Limits) -> dict[int, Judged]:
    """Judge every standing winding reading at once; the pattern of pairs and taps decides."""
    if call.motor.traits.is_three_phase:
        return _judge_phases(call, limits)
    pairs, steps = standing_pairs(call), taps(call)
    pattern = _tap_pattern(steps, call, limits) or _pattern(pairs, steps, call, limits)
    counted = {*pairs.indices.values(), *(tap.index for tap in steps)}
    return {
        index: _judge_one(index, reading, counted, pattern, call, limits)
        for index, reading in call.standing("winding_ohm")
    }


def _tap_pattern(steps: list[Tap], call: Call, limits: Limits) -> Pattern | None:
    """What the speed taps say; None while they decide nothing."""
    opened = [tap for tap in steps if tap.read is None]
    if len(steps) > 1 and opened:
        if len(opened) == len(steps):
            cool = all(is_cool(call, call.readings[tap.index], limits) for tap in opened)
            return _overload(
                call, cool, "winding.common_open", "Common reads open to every tap. The thermal overload is open."
            )
        names = " and ".join(str(tap.speed) for tap in opened)
        return Pattern("failed", "open", f"Speed tap {names} is open. The others read good.", "winding.tap_open")
    read = [tap.read for tap in steps if tap.read is not None]
    if any(fast.mid > slow.mid and fast.apart(slow) for fast, slow in pairwise(read)):
        says = "Ohms should rise from high speed to low. Leads mixed up, or shorted turns."
        return Pattern("suspect", "out", says, "winding.taps_wrong")
    return None


def _pattern(pairs: Pairs, steps: list[Tap], call: Call, limits: Limits) -> Pattern | None:
    """What the pairs read so far amount to; None while they decide nothing."""
    huge = [read for read in pairs.finite.values() if read.mid > limits.ask_winding_ohm]
    if huge:
        says = f"{fixed(huge[0].mid)} ohm is far too high for a winding. Was it kohm? Read it again."
        return Pattern("suspect", "out", says, "")
    if pairs.open:
        return _open_pattern(pairs, call, limits)
    if len(pairs.leads) == 2 and two_leads(call.motor):
        return Pattern("normal", "good", "The winding reads good.", "winding.good")
    if call.motor.traits.windings == "main" and len(steps) > 1:
        return Pattern("normal", "good", "All taps read good, in order.", "winding.good")
    triads = [_triad(triad, limits) for triad in pairs.triads()]
    if triads:
        return next((found for found in triads if found.finding != "good"), triads[0])
    if len(steps) > 1:
        return Pattern("normal", "good", "Taps read in order. Read the start lead too.", "taps.good")
    return None


def _triad(triad: list[Span], limits: Limits) -> Pattern:
    largest, one, other = triad
    if other.low <= 0 or other.mid < JOINED_OHM:
        says = "A pair reads almost zero. Leads touching, or shorted turns."
        return Pattern("suspect", "shorted", says, "winding.short")
    off = abs(largest.mid - one.mid - other.mid)
    if off <= sum_allowance(largest, one, other, limits):
        return Pattern("normal", "good", "The largest pair equals the other two added.", "winding.good")
    says = f"The largest pair is off the other two added by {off:.1f} ohm. Read again on isolated leads."
    return Pattern("suspect", "out", says, "winding.sum_off")


def _open_pattern(pairs: Pairs, call: Call, limits: Limits) -> Pattern | None:
    cool = all(is_cool(call, call.readings[pairs.indices[pair]], limits) for pair in pairs.open)
    if len(pairs.leads) == 2 and two_leads(call.motor):
        return _overload(call, cool, "winding.two_lead_open", "Both leads read open: overload or winding.")
    if len(pairs.open) == 3 and pairs.all_read:
        return _opened(cool, "winding.all_open", "Open between all three leads. More than an overload.")
    lead = cut_off(pairs)
    line = None if pairs.finite or len(pairs.open) < MANY_TAPS else _in_all(pairs.open)
    if line is not None:
        return _overload(
            call, cool, "winding.common_open", f"{line} reads open to every tap. The thermal overload is open."
        )
    if lead is None:
        one = len(pairs.open) == 1 and pairs.all_read
        says = "One pair open and the other two good can't be. Read it again."
        return Pattern("suspect", "open", says, "") if one else None
    role = roles_known(call).role(lead)
    if role == "common":
        return _overload(
            call, cool, "winding.common_open", f"Common ({lead}) reads open to both. The thermal overload is open."
        )
    if role in ("start", "run"):
        return _opened(cool, f"winding.{role}_open", f"The {role} winding ({lead}) is open.")
    return _unknown_lead(call, cool, lead)


def _in_all(pairs: Iterable[Pair]) -> str | None:
    """The lead that is in all of these pairs."""
    shared = frozenset.intersection(*pairs)
    return next(iter(shared)) if len(shared) == 1 else None


def _opened(cool: bool, key: str, says: str) -> Pattern:
    if cool:
        return Pattern("failed", "open", says, key + "_cool")
    return Pattern("failed", "open", says + " Let it cool and read again before you judge it.", key)


def _overload(call: Call, cool: bool, key: str, says: str) -> Pattern:
    """An open that may be the protector: there must be one, and a one-shot fuse never closes again."""
    if call.motor.protection in ("none", "impedance"):
        return _opened(cool, "winding.all_open", "Open, and this motor has no thermal overload. A winding is open.")
    if call.motor.protection == "fuse":
        return Pattern("failed", "open", says + " A one-shot thermal fuse does not reset.", key + "_cool")
    if cool:
        return Pattern("failed", "open", says + " It is cool and should have reset.", key + "_cool")
    return Pattern("failed", "open", says + " Let it cool and read again.", key)


def _unknown_lead(call: Call, cool: bool, lead: str) -> Pattern:
    if cool:
        return Pattern("failed", "open", f"{lead} reads open to the others on a cool motor.", "winding.lead_open_cool")
    says = f"{lead} reads open to the others. Overload if it is common, else a winding. Let it cool and read again."
    return Pattern("failed", "open", says, "winding.lead_open")


def _judge_one(
    index: int, reading: Reading, counted: set[int], pattern: Pattern | None, call: Call, limits: Limits
) -> Judged:
    if isinstance(reading.value, list):
        return unjudged(index, "Three pairs at once are for a three-phase motor. Enter one pair.", LINK)
    if not reading.pair and not reading.speed:
        return unjudged(index, "Pick the two leads you read between.", LINK)
    opened = reading.value == "OL"
    if not sound_method(reading):
        if opened:
            return suspect(index, "Open, but not on isolated leads. Take the leads off and read again.", LINK)
        return unjudged(
            index, "Not on isolated leads, so other paths can read in. Take the leads off and read again.", LINK
        )
    if index not in counted:
        return unjudged(index, "A later reading of this pair counts, or both names are one lead.", LINK)
    if pattern is None:
        says = "Open. Read the other pairs." if opened else "Reads good. Read the other pairs."
        return unjudged(index, says, LINK)
    return _by_pattern(index, reading, pattern, opened, call, limits)


def _by_pattern(index: int, reading: Reading, pattern: Pattern, opened: bool, call: Call, limits: Limits) -> Judged:
    if pattern.finding == "open" and not opened:
        says = "Reads good." if not reading.speed else f"Speed tap {reading.speed} reads good."
        signals = (Signal("tap.good", f"tap {reading.speed} reads good", (index,)),) if reading.speed else ()
        return Judged(Judgement(reading=index, state="unjudged", says=says, source=TRADE), LINK, signals)
    name = "-".join(reading.pair) if reading.pair else f"tap {reading.speed}"
    text = f"{name}: {'open' if opened else fixed(reading.numbers[0]) + ' ohm'}"
    warm = warmth_says(call, index)
    judgement = Judgement(
        reading=index,
        state=pattern.state,
        finding=pattern.finding,
        says=f"{pattern.says}{' ' + warm if warm else ''}",
        limit=_limit_text(pattern, limits),
        source=TRADE,
    )
    return Judged(judgement, LINK, (Signal(pattern.signal, text, (index,)),) if pattern.signal else ())


def _limit_text(pattern: Pattern, limits: Limits) -> str:
    if pattern.finding == "open":
        return "each pair reads good"
    if pattern.signal.startswith(("taps", "winding.taps")):
        return "ohms rise from high speed to low"
    return f"sum within {limits.winding_sum_pct:g} % or {limits.winding_sum_ohm:g} ohm, and the meter's error"


def _judge_phases(call: Call, limits: Limits) -> dict[int, Judged]:
    """Three-phase: three pairs given together, or one by one once all three are there."""
    singles = [(i, r) for i, r in call.standing("winding_ohm") if not isinstance(r.value, list) and r.pair]
    latest = {frozenset(r.pair or ()): (i, r) for i, r in singles if sound_method(r)}
    together = [r.numbers[0] for _, r in latest.values()] if len(latest) == 3 else []
    return {
        index: _judge_phase_reading(index, reading, together, call, limits)
        for index, reading in call.standing("winding_ohm")
    }


def _judge_phase_reading(index: int, reading: Reading, together: list[float], call: Call, limits: Limits) -> Judged:
    ohms = reading.numbers if isinstance(reading.value, list) else together
    if len(ohms) != 3:
        return unjudged(index, "Read all three pairs. On a three-phase motor they are judged together.", LINK)
    if reading.isolated is False:
        return unjudged(index, "Not on isolated leads. Take the leads off and read again.", LINK)
    at_motor = reading.place == "motor"
    if math.inf in ohms:
        return _phase_open(index, reading, ohms, at_motor, call, limits)
    share, state = phase_state(ohms, reading, call.meters, limits)
    finding = {"normal": "good", "failed": "out"}.get(state, "borderline")
    judgement = Judgement(
        reading=index,
        state=state,
        finding=finding,
        says=f"The three pairs differ by {share:.1f} %.",
        limit=f"up to {limits.phase_ohm_normal_pct:g} % normal, above {limits.phase_ohm_pct:g} % failed",
        source=TRADE,
    )
    group = "winding" if at_motor else "run"
    key = {"good": f"{group}.good", "out": "winding.phase_off" if at_motor else "run.off"}.get(finding)
    signals = (Signal(key, f"pairs differ by {share:.1f} %", (index,)),) if key else ()
    if not at_motor and state == "failed":
        says = f"{judgement.says} Wire or motor. Disconnect at the motor and read there."
        return Judged(judgement.model_copy(update={"state": "suspect", "says": says}), LINK, signals)
    return Judged(judgement, LINK if at_motor else None, signals)


def _phase_open(index: int, reading: Reading, ohms: list[float], at_motor: bool, call: Call, limits: Limits) -> Judged:
    text = f"{ohms.count(math.inf)} of three pairs open"
    if not at_motor:
        says = "Open from the starter's load side: wire, connection or motor. Disconnect at the motor and read there."
        judgement = Judgement(reading=index, state="suspect", finding="open", says=says, source=TRADE)
        return Judged(judgement, LINK, (Signal("run.off", text, (index,)),))
    cool = is_cool(call, reading, limits)
    pattern = (
        _overload(call, cool, "winding.two_lead_open", "All three pairs open. The overload in the motor is open.")
        if ohms.count(math.inf) == 3
        else _opened(cool, "winding.phase_open", "A phase is open.")
    )
    judgement = Judgement(
        reading=index, state="failed", finding="open", says=pattern.says, limit="each pair reads good", source=TRADE
    )
    return Judged(judgement, LINK, (Signal(pattern.signal, text, (index,)),))
