"""How a whole job of practice ended, as its page shows it: a headline, what comes back, yours beside the program's."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.diagnosis.faults import FAULTS
from ..core.machine.expected import Range
from ..core.practice.job.callbacks import ComesBack, Outcome
from ..core.practice.job.score import JobScore, Took
from ..core.practice.job.table import FIGURES
from ..core.thermal.sentence import life_words

SAME_DAY, A_WEEK = 0.05, 0.4


@dataclass(frozen=True)
class BackLine:
    """A callback: when, with what, what brought it, what is done instead."""

    when: str
    fault: str
    says: str
    instead: str


@dataclass(frozen=True)
class JobLines:
    """The job's part of the result."""

    is_good: bool
    headline: str
    life: str
    backs: list[BackLine]
    order: list[tuple[str, str]]
    wasted: list[str]
    rows: list[tuple[str, str, str]]


def job_lines(job: JobScore | None) -> JobLines | None:
    """The lines of a job; None for a case that ended at Finding."""
    if job is None:
        return None
    mine, engine = job.mine, job.engine
    return JobLines(
        is_good=job.is_good,
        headline=_headline(mine),
        life=_life(mine.outcome),
        backs=[_back(back) for back in mine.outcome.callbacks],
        order=[(row.says, row.instead) for row in job.order],
        wasted=mine.wasted,
        rows=[
            ("parts, cost", _money(mine), _money(engine)),
            ("minutes, all in", f"{mine.minutes:.0f}", f"{engine.minutes:.0f}"),
            ("trips to the van", str(mine.trips), str(engine.trips)),
            ("callbacks", str(len(mine.outcome.callbacks)), str(len(engine.outcome.callbacks))),
            ("winding", _winding(mine.outcome), _winding(engine.outcome)),
        ],
    )


def _headline(mine: Took) -> str:
    found = mine.outcome
    if not found.runs:
        return "It does not run right as you left it."
    if found.trips_after_min is not None:
        return "It runs when you leave, and stops hot."
    if found.callbacks:
        return f"It runs, and it comes back {when_words(found.callbacks[0].months)}."
    if mine.wasted:
        return "It runs, and a good part was thrown away."
    return f"It runs, and nobody calls back within {FIGURES.horizon_months / 12:.0f} years."


def when_words(months: float) -> str:
    """When somebody is called back: `the same day`, `after about 11 months`."""
    if months < SAME_DAY:
        return "the same day"
    if months < A_WEEK:
        return "within two weeks"
    whole = max(1, round(months))
    return f"after about {whole} month{'' if whole == 1 else 's'}"


def _back(back: ComesBack) -> BackLine:
    fault = FAULTS[back.fault].says.rstrip(".")
    return BackLine(when_words(back.months), fault[0].lower() + fault[1:], back.says, back.instead)


def _money(took: Took) -> str:
    return f"{took.cost:.0f}"


def _winding(found: Outcome) -> str:
    return "-" if found.winding_c is None else f"{found.winding_c:.0f} °C"


def _life(found: Outcome) -> str:
    if found.life is None:
        return ""
    return (
        f"By the model the winding gets {life_words(Range(found.life, found.life, found.life))}, here and as it is now."
    )
