"""What a test is expected to tell: the information between its answer and the faults, in bits.

I = sum over hypotheses and answers of p(h) p(a|h) log2(p(a|h) / p(a)) (Shannon; mutual information).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .belief import Belief, Floats
from .evidence import QUESTIONS
from .faults import LEADS_TO

HYPOTHESES = 48
FEW_ANSWERS = 6


@lru_cache(maxsize=256)
def _tables(faults: tuple[str, ...], questions: tuple[str, ...]) -> tuple[Floats, Floats]:
    """Chance of each answer by question and fault [questions, answers, faults], and which answers are normal."""
    most = max(len(QUESTIONS[name].answers) for name in questions)
    chance = np.zeros((len(questions), most, len(faults)))
    normal = np.zeros((len(questions), most), dtype=np.float64)
    for i, name in enumerate(questions):
        table = QUESTIONS[name]
        for k in range(len(table.answers)):
            chance[i, k] = [table.rows.get(fault, table.other)[k] for fault in faults]
            normal[i, k] = k < table.normal
    return chance, normal


def _simplest(belief: Belief) -> NDArray[np.int64]:
    """The likeliest hypotheses with no more faults than the likeliest of all, but for what one brings about.

    Nobody hunts for a second fault before the first is settled.
    """
    order = np.argsort(-belief.probability)[: HYPOTHESES * 4]
    sizes = np.array([_own(frozenset(row), belief.faults) for row in belief.members[order].tolist()])
    return np.asarray(order[sizes <= sizes[0]][:HYPOTHESES])


@lru_cache(maxsize=20000)
def _own(members: frozenset[int], faults: tuple[str, ...]) -> int:
    """How many faults of a set nothing else in it brings about."""
    names = {faults[i] for i in members}
    return len(names) - len(
        {consequence for cause, consequence, _ in LEADS_TO if cause in names and consequence in names}
    )


def gains(belief: Belief, questions: tuple[str, ...]) -> dict[str, float]:
    """Bits each question is expected to tell about the faults, given what is believed now.

    Mutual information of answer and set of faults (C. E. Shannon, 1948), over the likeliest of the simplest sets:
        I = sum over S of P(S) sum over a of P(a | S) log2( P(a | S) / P(a) )
    """
    order = _simplest(belief)
    weight = belief.probability[order] / belief.probability[order].sum()
    members = belief.members[order]
    short = tuple(name for name in questions if len(QUESTIONS[name].answers) <= FEW_ANSWERS)
    long = tuple(name for name in questions if len(QUESTIONS[name].answers) > FEW_ANSWERS)
    return {
        name: bits for group in (short, long) if group for name, bits in _told(group, belief.faults, members, weight)
    }


def _told(
    questions: tuple[str, ...], faults: tuple[str, ...], members: NDArray[np.int64], weight: Floats
) -> list[tuple[str, float]]:
    chance, normal = _tables(faults, questions)
    parts = chance[:, :, members]
    least, most = parts.min(axis=3), parts.max(axis=3)
    given = np.where(normal[:, :, None] > 0, least, np.where(least <= 0, 0.0, most))
    total = given.sum(axis=1, keepdims=True)
    given = given / np.where(total > 0, total, 1.0)
    overall = given @ weight
    ratio = given / np.where(overall > 0, overall, 1.0)[:, :, None]
    bits = (given * np.log2(np.where(ratio > 0, ratio, 1.0))).sum(axis=1) @ weight
    return [(name, float(max(0.0, bit))) for name, bit in zip(questions, bits, strict=True)]


def most_in_question(belief: Belief, question: str) -> str | None:
    """The fault whose presence the question bears on and that is least decided; None when all are settled."""
    rows = QUESTIONS[question].rows
    open_ = {fault: p for fault, p in belief.marginal.items() if fault in rows and fault != "none" and 0.02 < p < 0.98}
    return min(open_, key=lambda fault: abs(open_[fault] - 0.5)) if open_ else None
