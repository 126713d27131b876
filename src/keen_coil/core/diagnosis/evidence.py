"""The evidence table: how likely each answer of each test is, given a fault. Trade judgement and physics, by row.

A row gives the chance of each answer when the named fault is there; `OTHER` is the row of every fault not named,
and of no fault. What a row does not name physics excludes. A row sums to 1, or says why not: the rest comes by a
second fault that the first brings about (`faults.LEADS_TO`), or an answer can only come from one kind of unit.
Of two faults the likelier abnormal answer counts.
"""

from __future__ import annotations

from ..changes import CHANGES
from .evidence_motor import MOTOR
from .evidence_path import PATH
from .evidence_running import RUNNING
from .question import OTHER, Question, question

CHANGED: dict[str, Question] = {
    f"cured_{what}": question(f"{row.says.lower()}, and then", "| no yes", {
        OTHER: "no 0.9, yes 0.1", **({" ".join(row.cures): "no 0.1, yes 0.9"} if row.cures else {}),
    })
    for what, row in CHANGES.items()
}  # fmt: skip
"""Whether it was good after each change: what the change can cure was probably there."""
QUESTIONS: dict[str, Question] = PATH | MOTOR | RUNNING | CHANGED
