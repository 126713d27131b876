"""A row of the two plates held together: old, new, mark, why; and the work it brings."""

from __future__ import annotations

from typing import Literal, NamedTuple

from ..tables import records, table


class WorkRow(NamedTuple):
    """A kind of work: its sentence, hands-on minutes, the feature a job has by it.

    `covered`: the steps of a swap hold it already. `capacitor`: its part is settled at the capacitor's station.
    `stops`: to be found out, for it could stop the job. `doubt`: choosing the motor takes a written answer.
    """

    do: str
    minutes: float
    feature: str = ""
    covered: bool = False
    capacitor: bool = False
    stops: bool = False
    doubt: bool = False


WORK: dict[str, WorkRow] = records(WorkRow, table(__package__, "work"), "work")
UNKEYED = WorkRow("", 0)
"""Work of a file that names it by a sentence alone."""


class Work(NamedTuple):
    """Something to do for this choice: its key, its sentence, the part it takes, minutes of hands-on time."""

    key: str
    do: str
    part: str | None = None
    minutes: float = 0


def work(key: str, part: str | None = None, /, **words: str) -> Work:
    """A work item of the table, its words filled in. Raises `KeyError` on an unknown key."""
    row = WORK[key]
    return Work(key, row.do.format(part=part, **words), part, row.minutes)


def kind_of(key: str) -> WorkRow:
    """The kind of work a kept item is."""
    return WORK.get(key, UNKEYED)


Mark = Literal["fits", "work", "refused", "not_compared"]
"""`not_compared`: one of the plates is silent, and it could not stop the job."""


class MatchRow(NamedTuple):
    """One field of the old and the new plate with the work it brings.

    `estimate`: judged by an estimate, so that the shop may override a refusal with a written reason.
    """

    field: str
    old: str
    new: str
    mark: Mark
    because: str
    source: str
    work: tuple[Work, ...] = ()
    estimate: bool = False


def fits(field: str, old: object, new: object, because: str, source: str = "trade practice") -> MatchRow:
    """A row that fits as it is."""
    return MatchRow(field, _text(old), _text(new), "fits", because, source)


def refused(
    field: str, old: object, new: object, because: str, source: str = "trade practice", estimate: bool = False
) -> MatchRow:
    """A row that rules the candidate out."""
    return MatchRow(field, _text(old), _text(new), "refused", because, source, (), estimate)


def needs(field: str, old: object, new: object, because: str, todo: Work, source: str = "trade practice") -> MatchRow:
    """A row that fits with work."""
    return MatchRow(field, _text(old), _text(new), "work", because, source, (todo,))


def unknown(field: str, old: object, new: object, key: str, **words: str) -> MatchRow:
    """A row where something is not known that could stop the job: work, namely to find out before it is bought."""
    todo = work(key, **words)
    return needs(field, old, new, f"Not known. {todo.do}.", todo)


def not_compared(field: str, old: object, new: object, because: str = "The plate does not say.") -> MatchRow:
    """A row where a plate is silent and nothing hangs on it."""
    return MatchRow(field, _text(old), _text(new), "not_compared", because, "trade practice")


def _text(value: object) -> str:
    return "not known" if value is None or value == "" else str(value)
