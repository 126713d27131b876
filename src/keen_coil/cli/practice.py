"""Commands of practice: rungs, making case files, checking one, letting the program play one."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..core.errors import invalid
from .shared import Json, read_file, refusing

if TYPE_CHECKING:
    from ..core.practice.case import Case

practice_app = typer.Typer(add_completion=False, no_args_is_help=True, help="Units with hidden faults to practice on.")
CaseFile = Annotated[Path, typer.Argument(help="A case file, *.case.json")]


@practice_app.command("rungs")
def rungs() -> None:
    """List the rungs of both ladders."""
    from ..core.practice.ladder import JOB_LEVELS, JOBS, LEVELS, RUNGS

    levels = LEVELS | JOB_LEVELS
    for rung in (*RUNGS, *JOBS):
        typer.echo(f"{rung.key:<16} {levels[rung.level]}: {rung.title}")


@practice_app.command("make")
def make(
    seed: Annotated[int, typer.Option(help="The same seed gives the same case on every machine")] = 1,
    rung: Annotated[str | None, typer.Option(help="A rung of the ladder")] = None,
    family: Annotated[str | None, typer.Option(help="A fault family")] = None,
    day: Annotated[str | None, typer.Option(help="The case of a date, such as 2026-11-25")] = None,
    draw: Annotated[int, typer.Option(help="The draw a shared seed belongs to")] = 1,
    starts: Annotated[str, typer.Option(help="The station it begins at: arrive, match, run-proof")] = "",
    ends: Annotated[str, typer.Option(help="The station it ends at: finding, match, hook-up, hand-over")] = "",
) -> None:
    """Print a case file."""
    from ..core.practice.case import write_case
    from ..core.practice.make import between, case_in_family, case_of, case_of_day

    with refusing(Path("practice make")):
        if day is not None:
            case = case_of_day(_day(day))
        else:
            case = case_in_family(seed, family, draw) if family else case_of(seed, rung, draw)
        case = between(case, starts, ends)
    typer.echo(json.dumps(write_case(case), indent=2, ensure_ascii=False))


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise invalid("day", text, "a date such as 2026-11-25") from None


def _case_of(file: Path) -> Case:
    from ..core.practice.case import read_case
    from ..formats.call_file import parse_json

    with refusing(file):
        return read_case(parse_json(read_file(file)))


@practice_app.command("check")
def check(file: CaseFile) -> None:
    """Say whether a case file can be played, and what is hidden in it."""
    from ..core.practice.score import right_verdict

    case = _case_of(file)
    hidden = ", ".join(sorted(case.truth)) or "nothing"
    typer.echo(f"{case.title}: {hidden} hidden; right is {right_verdict(case)}.")


@practice_app.command("play")
def play(file: CaseFile, as_json: Json = False) -> None:
    """Let the program play a case, which it does not know: what it tests, what it says.

    A whole job it plays to its end, with what comes back.
    """
    from ..core.practice.play import engine_plays

    case = _case_of(file)
    if case.is_job:
        _play_job(case, as_json)
        return
    found = engine_plays(case)
    if as_json:
        answer = {
            "readings": found.readings,
            "tests": found.tests,
            "minutes": found.minutes,
            "verdict": found.answer.verdict,
            "leading_fault": found.answer.leading_fault,
            "confidence": found.answer.confidence,
            "hidden": sorted(case.truth),
        }
        typer.echo(json.dumps(answer, indent=2, ensure_ascii=False))
        return
    for row in found.readings:
        where = " ".join(str(row[name]) for name in ("at", "section", "pair", "lead", "speed") if name in row)
        typer.echo(f"  {row['kind']} {where}: {row['value']}".replace("  :", ":"))
    typer.echo(f"{found.answer.verdict}, {found.answer.leading_fault}, {found.tests} tests, {found.minutes:g} minutes.")
    typer.echo("Hidden: " + (", ".join(sorted(case.truth)) or "nothing"))


def _play_job(case: Case, as_json: bool) -> None:
    """The program's own job on a case: what it found, put in and did, what it took, what comes back."""
    from ..core.practice.job.engine import engine_works
    from ..core.practice.job.score import engine_took
    from ..services.catalog.shelf import practice_shelf

    job = engine_works(case, practice_shelf())
    took = engine_took(case, job, practice_shelf())
    if as_json:
        verdicts = [each.play.answer.verdict for each in job.rounds]
        answer = {
            **took.model_dump(),
            "verdicts": verdicts,
            "acts": sorted(job.work.acts),
            "hidden": sorted(case.truth),
        }
        typer.echo(json.dumps(answer, indent=2, ensure_ascii=False))
        return
    for each in job.rounds:
        typer.echo(f"{each.play.answer.verdict}, {each.play.answer.leading_fault}, {each.play.tests} tests.")
    parts = ", ".join(part.name for part in took.parts) or "no part"
    trips = "1 trip" if took.trips == 1 else f"{took.trips} trips"
    typer.echo(f"Put in: {parts}; {took.cost:g} in parts, {took.minutes:g} minutes, {trips}.")
    typer.echo("It runs." if took.outcome.runs else "It does not run.")
    for back in took.outcome.callbacks:
        typer.echo(f"  comes back after {back.months:g} months, {back.fault}: {back.says}")
    typer.echo("Hidden: " + (", ".join(sorted(case.truth)) or "nothing"))
