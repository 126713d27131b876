"""What a judge says of a reading, and the signals it gives to the diagnosis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel

from ..units import Span

MOST_SAID = 6
State = Literal["normal", "borderline", "failed", "suspect", "unjudged"]


class Judgement(BaseModel):
    """A reading held against its limit. `interval` and `band` are in `unit`; open ends of a band are null."""

    reading: int
    state: State
    finding: str | None = None
    says: str
    limit: str | None = None
    source: str | None = None
    interval: tuple[float, float] | None = None
    band: tuple[float | None, float | None] | None = None
    unit: str | None = None


@dataclass(frozen=True)
class Signal:
    """Something the readings show, as a key of the evidence table, in words with its figure."""

    key: str
    says: str
    readings: tuple[int, ...] = ()


def joined(signals: Sequence[Signal]) -> Signal:
    """Signals of one key as one, in order; of many the latest are said, the others counted."""
    said = [signal.says for signal in signals[-MOST_SAID:]]
    said += [f"and {len(signals) - MOST_SAID} more"] if len(signals) > MOST_SAID else []
    return Signal(signals[0].key, "; ".join(said), tuple(index for signal in signals for index in signal.readings))


@dataclass(frozen=True)
class Judged:
    """A judgment, the link of the path it bears on, and its signals."""

    judgement: Judgement
    link: str | None = None
    signals: tuple[Signal, ...] = ()


@dataclass(frozen=True)
class Band:
    """A limit on a quantity: two ends (either may be open), its wording and source."""

    low: float
    high: float
    text: str
    source: str

    def ends(self) -> tuple[float | None, float | None]:
        """The ends for an answer: None where open."""
        low = None if self.low == float("-inf") else self.low
        return low, None if self.high == float("inf") else self.high


def state_in(span: Span, band: Band) -> State:
    """Wholly inside is normal, wholly outside failed, straddling borderline."""
    if span.within(band.low, band.high):
        return "normal"
    return "failed" if span.outside(band.low, band.high) else "borderline"


def verdict_on(index: int, span: Span, band: Band, unit: str, state: State, finding: str, says: str) -> Judgement:
    """A judgment with its interval and band filled in."""
    return Judgement(
        reading=index,
        state=state,
        finding=finding,
        says=says,
        limit=band.text,
        source=band.source,
        interval=(span.low, span.high),
        band=band.ends(),
        unit=unit,
    )


def unjudged(index: int, says: str, link: str | None = None) -> Judged:
    """A reading that cannot be held against anything, and why."""
    return Judged(Judgement(reading=index, state="unjudged", says=says), link)


def suspect(index: int, says: str, link: str | None = None, source: str | None = None) -> Judged:
    """A reading taken by a method that proves nothing, and why."""
    return Judged(Judgement(reading=index, state="suspect", says=says, source=source), link)
