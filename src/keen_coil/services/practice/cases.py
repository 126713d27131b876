"""Practice from outside: the ladder, the case of the day, progress by family, case files, results."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from ...core.errors import NotFound, invalid
from ...core.practice.case import LARGEST_SEED, Case, read_case, write_case
from ...core.practice.ladder import FAMILIES, JOB_LEVELS, JOBS, LEVELS, RUNGS, Family, Rung
from ...core.practice.make import FIRST_DRAW, between, case_in_family, case_of, case_of_day, newest_draw
from ...core.practice.score import Score
from ...core.units import whole_number
from ...formats.call_file import parse_json
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, record_act
from .practice import begin

LATEST, MOST_FILES = 12, 200
WINDOW = 10
"""Cases of a family that its progress counts: the latest ones."""


@dataclass(frozen=True)
class RungState:
    """A rung with how often it was tried and solved."""

    rung: Rung
    tries: int
    solved: int


@dataclass(frozen=True)
class Progress:
    """A family with the latest cases of it: how many, how many right."""

    family: Family
    tries: int
    right: int

    @property
    def share(self) -> float:
        """Share that was right, 0 where none was tried."""
        return self.right / self.tries if self.tries else 0.0


@dataclass(frozen=True)
class Past:
    """A practice call as its list shows it."""

    id: int
    call_id: int
    title: str
    begun_at: datetime
    ended_at: datetime | None
    is_right: bool | None
    verdict: str


@dataclass(frozen=True)
class PracticeState:
    """The page of practice."""

    ladder: list[tuple[str, list[RungState]]]
    progress: list[Progress]
    weakest: Progress
    today: bool
    running: list[Past]
    latest: list[Past]
    files: list[tuple[int, str]]
    jobs: list[tuple[str, list[RungState]]]


def practice_state(db: Database, day: date, who: int | None = None) -> PracticeState:
    """The page of practice on a day, of one technician or of whoever practises where nobody is chosen."""
    with db.reading() as session:
        query = select(tables.Practice).order_by(tables.Practice.id.desc())
        rows = list(session.scalars(query.where(tables.Practice.technician_id == who) if who else query))
        files = session.execute(
            select(tables.PracticeFile.id, tables.PracticeFile.title).order_by(tables.PracticeFile.title)
        )
        ended = [row for row in rows if row.ended_at]
        progress = [_progress(family, ended) for family in FAMILIES]
        return PracticeState(
            ladder=[
                (says, [_rung(rung, ended) for rung in RUNGS if rung.level == level]) for level, says in LEVELS.items()
            ],
            progress=progress,
            weakest=min(progress, key=lambda row: (row.share, row.tries)),
            today=any(row.day == day for row in ended),
            running=[_past(row) for row in rows if not row.ended_at],
            latest=[_past(row) for row in ended[:LATEST]],
            files=[(number, title) for number, title in files],
            jobs=[
                (says, [_rung(rung, ended) for rung in JOBS if rung.level == level])
                for level, says in JOB_LEVELS.items()
            ],
        )


def _progress(family: Family, ended: list[tables.Practice]) -> Progress:
    mine = [row for row in ended if row.family == family.key][:WINDOW]
    return Progress(family, len(mine), sum(bool(row.is_right) for row in mine))


def _rung(rung: Rung, ended: list[tables.Practice]) -> RungState:
    mine = [row for row in ended if row.rung == rung.key]
    return RungState(rung, len(mine), sum(bool(row.is_right) for row in mine))


def _past(row: tables.Practice) -> Past:
    return Past(
        row.id,
        row.call_id,
        str(row.case["title"]),
        row.begun_at,
        row.ended_at,
        row.is_right,
        str((row.score or {}).get("verdict", "")),
    )


def begin_asked(db: Database, context: ActContext, fields: Mapping[str, str], today: date) -> int:
    """Begin what the page asks for: a rung, the day's case, a family, a case file, a seed, or any; the call's id.

    `starts` and `ends` name other stations than the case's own, as a foreman sets them. A new rung or family case has a
    seed of its own, drawn from the act's id. Raises `InvalidField`.
    """
    advice = fields.get("advice", "yes") != "no"
    # a seed that somebody shared is of the first draw unless said; a new one is of the newest
    shared = fields.get("seed", "").strip()
    draw = whole_number(fields.get("draw", "").strip() or str(FIRST_DRAW), 1000) or 0 if shared else newest_draw()
    seed = _seed(fields.get("seed", ""), context)
    span = fields.get("starts", ""), fields.get("ends", "")
    if fields.get("day"):
        return begin(db, context, case_of_day(today), advice, today)
    if fields.get("file"):
        with db.reading() as session:
            case = read_case(_file(session, fields["file"]).case)
        return begin(db, context, between(case, *span), advice)
    if fields.get("family"):
        return begin(db, context, between(case_in_family(seed, fields["family"], draw), *span), advice)
    return begin(db, context, between(case_of(seed, fields.get("rung") or None, draw), *span), advice)


def _seed(text: str, context: ActContext) -> int:
    if not text.strip():
        return int.from_bytes(context.act_id.encode()[-5:], "big")
    seed = whole_number(text.strip(), LARGEST_SEED + 1)
    if seed is None:
        raise invalid("seed", text[:20], f"a whole number from 0 to {LARGEST_SEED}")
    return seed


def _file(session: Session, number: str) -> tables.PracticeFile:
    """A case file by its number. Raises `NotFound`."""
    found = session.get(tables.PracticeFile, whole_number(number) or 0)
    if found is None:
        raise NotFound(f"case file {number[:20]}")
    return found


def bring_case(db: Database, context: ActContext, content: bytes) -> str:
    """Keep a case file, in place of one of the same title; its title. Raises `InvalidField`."""
    case = read_case(parse_json(content))
    with db.writing() as session:
        record_act(session, context, "bring_case", None)
        had = session.scalar(select(tables.PracticeFile).where(tables.PracticeFile.title == case.title))
        if had is None and session.query(tables.PracticeFile).count() >= MOST_FILES:
            raise invalid("file", case.title, f"at most {MOST_FILES} case files: take one away first")
        row = had or tables.PracticeFile(title=case.title)
        row.case, row.added_at = write_case(case), context.now
        session.add(row)
    return case.title


def drop_case(db: Database, context: ActContext, number: str) -> None:
    """Take a case file away; what was played of it stays. Raises `NotFound`."""
    with db.writing() as session:
        record_act(session, context, "drop_case", None)
        session.delete(_file(session, number))


@dataclass(frozen=True)
class Result:
    """A practice call that has ended: its case, its score, the slips said."""

    id: int
    call_id: int
    case: Case
    score: Score
    ended_at: datetime
    advice: bool


def result(db: Database, number: int) -> Result:
    """The result of an ended practice call. Raises `NotFound` while it runs, and where there is none."""
    with db.reading() as session:
        row = _ended(session, number)
        assert row.ended_at is not None  # noqa: S101  # ended
        return Result(
            row.id, row.call_id, read_case(row.case), Score.model_validate(row.score), row.ended_at, row.advice
        )


def _ended(session: Session, number: int) -> tables.Practice:
    query = select(tables.Practice).options(joinedload(tables.Practice.call)).where(tables.Practice.id == number)
    row = session.scalar(query, execution_options={"practice": True})
    if row is None or row.ended_at is None:
        raise NotFound(f"result of practice {number}")
    return row
