"""The evidence tables: how likely each answer of each test is, given a fault; which signals there are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple

from ..changes import CHANGES
from ..tables import TableError, table

Chances = tuple[float, ...]
OTHER = "other"
"""The row of every fault that a question does not name, and of no fault."""
SUM_WITHIN = 0.0021
_TABLE = table(__package__, "evidence")
REASONS: dict[str, str] = _TABLE["reasons"]
"""Why a row of the tables may not sum to one."""


class Question(NamedTuple):
    """One test or look: its answers, how many of them (the first ones) are normal, the rows."""

    title: str
    answers: tuple[str, ...]
    normal: int
    other: Chances
    rows: dict[str, Chances]


def faults_of(names: Sequence[str]) -> list[str]:
    """The faults that some names stand for; `@group` stands for those of a group."""
    found: list[str] = []
    for name in names:
        found += faults_of(_TABLE["groups"][name[1:]]) if name.startswith("@") else [name]
    return found


def questions_of(name: str) -> dict[str, Question]:
    """The questions of a table by name."""
    return {key: question(row) for key, row in table(__package__, name).items()}


def question(written: Mapping[str, Any]) -> Question:
    """A question from its table; each row sums to one, or `need_not_sum` says for its faults why it does not.

    Raises `TableError` on an answer that is none, a chance outside 0 to 1, a sum that is off without a reason.
    """
    title, normal = written["title"], written["normal"]
    names = (*normal, *written["abnormal"])
    rows = {
        fault: _row(title, names, chances)
        for faults, chances in written["chances"].items()
        for fault in faults_of(faults.split())
    }
    free = {
        fault
        for reason, faults in written.get("need_not_sum", {}).items()
        if REASONS[reason]
        for fault in faults_of(faults)
    }
    for fault, row in rows.items():
        if abs(sum(row) - 1) > SUM_WITHIN and fault not in free:
            raise TableError(
                f"{title}: the chances under {fault} sum to {sum(row):.4f}; expected 1, or a reason why not"
            )
    other = rows.pop(OTHER)
    return Question(title, names, len(normal), other, rows)


def _row(title: str, answers: tuple[str, ...], chances: Mapping[str, float]) -> Chances:
    for answer, chance in chances.items():
        if answer not in answers or not 0 <= chance <= 1:
            expected = f"one of {', '.join(answers)} with a chance from 0 to 1"
            raise TableError(f"{title}: got {answer} {chance}; expected {expected}")
    return tuple(float(chances.get(answer, 0.0)) for answer in answers)


def _cured(says: str, cures: tuple[str, ...]) -> Question:
    """Whether it was good after a change: what the change can cure was probably there."""
    rows = {OTHER: {"no": 0.9, "yes": 0.1}, **({" ".join(cures): {"no": 0.1, "yes": 0.9}} if cures else {})}
    return question({"title": f"{says.lower()}, and then", "normal": [], "abnormal": ["no", "yes"], "chances": rows})


QUESTIONS: dict[str, Question] = {
    **questions_of("evidence_path"),
    **questions_of("evidence_motor"),
    **questions_of("evidence_running"),
    **{f"cured_{what}": _cured(row.says, row.cures) for what, row in CHANGES.items()},
}
SIGNALS: frozenset[str] = frozenset(
    {*(f"{name}.{answer}" for name, row in QUESTIONS.items() for answer in row.answers), *_TABLE["unweighed"]}
)
"""Every signal there is: an answer of a question, or one that rules ask for without weight."""


def known_signals(keys: Iterable[str], name: str) -> None:
    """What a table or a rule listens to is sent by something. Raises `TableError` naming those that are no signals."""
    unknown = sorted(set(keys) - SIGNALS)
    if unknown:
        raise TableError(f"{name}: {', '.join(unknown)}: a question of the evidence tables, a point, its answer")
