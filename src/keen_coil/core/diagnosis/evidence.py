"""The evidence tables: how likely each answer of each test is, given a fault. `evidence.toml` says how to read them."""

from __future__ import annotations

from ..changes import CHANGES
from .question import OTHER, Question, question, questions_of


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
