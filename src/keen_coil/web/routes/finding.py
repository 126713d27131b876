"""Finding: the verdict, what speaks for and against, what is unproved, what to do next."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ...core.diagnosis.assess import Assessment, Ranked
from ...core.diagnosis.faults import FAULTS
from ...core.instructions import how_of, link_of
from ...desk.sheet import open_sheet
from ..page import database, station_page

router = APIRouter()


@router.get("/calls/{call_id}/finding")
def show_finding(request: Request, call_id: int) -> Response:
    """The finding of a call."""
    sheet = open_sheet(database(request), call_id)
    answer = sheet.assessment
    return station_page(
        request, "finding", sheet, answer=answer, faults_table=FAULTS,
        ranked=_leading_first(answer), known=_known(answer),
        link_of=link_of, how_of=how_of,
    )  # fmt: skip


def _leading_first(answer: Assessment) -> list[Ranked]:
    """The likeliest faults, the one that carries the verdict on top."""
    return sorted(answer.ranked, key=lambda row: row.fault != answer.leading_fault)[:5]


def _known(answer: Assessment) -> list[tuple[str, str, list[str]]]:
    """Failed and proved links, those with one and the same reason together."""
    groups: dict[tuple[str, str], list[str]] = {}
    for link, report in answer.path.items():
        if report.state in ("failed", "proved"):
            groups.setdefault((report.state, report.because), []).append(link)
    rows = [(state, because, links) for (state, because), links in groups.items()]
    return sorted(rows, key=lambda row: row[0])
