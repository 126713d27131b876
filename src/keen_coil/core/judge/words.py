"""Readings that are a word or a yes/no, judged by the table `words.toml`, a row for each answer."""

from __future__ import annotations

from typing import NamedTuple

from ..diagnosis.evidence import known_signals
from ..limits import TRADE
from ..readings import Reading
from ..tables import answer, records, table
from .judged import Judged, Judgement, Signal, State


class WordRow(NamedTuple):
    """One answer of one kind of reading."""

    state: State
    finding: str = ""
    link: str | None = None
    signal: str = ""
    says: str = ""


_TABLE = table(__package__, "words")
ROWS: dict[tuple[str, object], WordRow] = {
    (kind, answer(word)): row
    for kind, words in _TABLE["words"].items()
    for word, row in records(WordRow, words, f"words, {kind}").items()
}
BARE_SHAFT: dict[str, WordRow] = records(WordRow, _TABLE["bare_shaft"], "words, bare_shaft")
HOLDS: dict[str, str] = _TABLE["holds"]
TRIAL_SAYS: dict[str, dict[str, str]] = _TABLE["trials"]
"""What each trial tells: it ran, it ran weakly, no change."""
known_signals({row.signal for row in (*ROWS.values(), *BARE_SHAFT.values())} - {""}, "words.toml")
UNSAID = WordRow("unjudged", "", None, "trial.unsaid", _TABLE["trial_unsaid"])
WHOLE_LEGS = ("whole", "common", "line", "run")


def judge_word(index: int, reading: Reading) -> Judged | None:
    """Judge a reading that is a word or a yes/no; None when it is a number."""
    row = _row(reading)
    if row is None:
        return None
    source = "checked on site" if reading.row.power == "any" else TRADE
    judgement = Judgement(
        reading=index, state=row.state, finding=row.finding or None, says=row.says, source=source, limit=None
    )
    says = f"{reading.row.title}{_where(reading)}: {_answer(reading)}"
    signals = [Signal(row.signal, says, (index,))]
    if row.signal == "conductor.open" and (reading.leg or "whole").lower() in WHOLE_LEGS:
        signals.append(Signal("conductor.open_whole", says, (index,)))
    if row.signal in ("turns.right", "turns.wrong"):
        signals.append(Signal("moves.yes", says, (index,)))
    return Judged(judgement, row.link, tuple(signals))


def _row(reading: Reading) -> WordRow | None:
    if isinstance(reading.value, (list, dict)) or not isinstance(reading.value, (str, bool)):
        return None
    if reading.kind == "hold" and reading.value is True:
        place = reading.at or "delay"
        return WordRow("failed", "out", "control", f"hold_{place}.yes", HOLDS[place])
    if reading.kind == "hold":
        return ROWS[("hold", False)]._replace(signal=f"hold_{reading.at or 'delay'}.no")
    if reading.kind == "trial":
        return _trial(reading)
    if reading.kind == "spin" and reading.with_ == "bare_shaft":
        return BARE_SHAFT.get(str(reading.value), ROWS.get((reading.kind, reading.value)))
    return ROWS.get((reading.kind, reading.value))


def _trial(reading: Reading) -> WordRow:
    with_, value = str(reading.with_), str(reading.value)
    if with_ not in TRIAL_SAYS:
        return UNSAID
    key = f"trial_{with_}.{value}"
    if with_ == "push":
        key = "push.no" if value == "no_change" else "push.starts"
    return WordRow("unjudged", "", None, key, TRIAL_SAYS[with_][value])


def _where(reading: Reading) -> str:
    tried = reading.with_ if reading.kind == "trial" else None
    place = reading.at or reading.leg or tried or ("bare shaft" if reading.with_ == "bare_shaft" else None)
    return f" ({place.replace('_', ' ')})" if place else ""


def _answer(reading: Reading) -> str:
    if isinstance(reading.value, bool):
        return "yes" if reading.value else "no"
    return str(reading.value).replace("_", " ")
