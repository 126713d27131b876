"""Finding: the verdict, what speaks for and against, what is unproved, what to do next."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.assess import Assessment
from ...core.diagnosis.faults import FAULTS
from ...core.diagnosis.prior import possible
from ...core.diagnosis.sentence import judgement_says
from ...core.errors import InvalidField
from ...core.field_tests import how_of, link_of
from ...core.practice.case import NOT_HIDDEN
from ...core.practice.score import WORDS
from ...services.calls.call_view import CallView, open_call_view
from ...services.stations.finding import JUDGED, heat_costs, keep_judgement
from ..finding_page import finding_page as shown_finding
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, station_page

router = APIRouter()


@router.get("/calls/{call_id}/finding")
def show_finding(request: Request, call_id: RowId) -> Response:
    """The finding of a call."""
    return finding_page(request, open_call_view(database(request), call_id))


@router.post("/calls/{call_id}/judgement")
def keep_own(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Keep the technician's own judgement, or take it back."""
    try:
        keep_judgement(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        view = open_call_view(database(request), call_id)
        return finding_page(request, view, 422, faults=faults_by_field(error), typed=form)
    return redirect(f"/calls/{call_id}/finding")


def finding_page(request: Request, view: CallView, status: int = 200, **context: object) -> Response:
    """The finding of a call; on a practice call also the form to say it."""
    answer, own = view.assessment, view.call.judgement
    return station_page(
        request,
        "finding",
        view,
        status,
        answer=answer,
        shown=shown_finding(answer, view.sentence),
        faults_table=FAULTS,
        verdicts=WORDS,
        known=_known(answer),
        by_link=_possible_by_link(view) if view.row.practice else [],
        link_of=link_of,
        how_of=how_of,
        own=own,
        own_says=judgement_says(own, answer.verdict) if own else "",
        judged_verdicts=JUDGED,
        heat_costs=heat_costs(view, answer.causes),
        **context,
    )


def _possible_by_link(view: CallView) -> list[tuple[str, list[str]]]:
    """The faults that this unit can have, link by link, to choose from."""
    links: dict[str, list[str]] = {}
    for fault, row in FAULTS.items():
        if row.link is not None and fault not in NOT_HIDDEN and possible(fault, view.call):
            links.setdefault(row.link, []).append(fault)
    return list(links.items())


def _known(answer: Assessment) -> list[tuple[str, str, list[str]]]:
    """Failed and proved links, those with one and the same reason together."""
    groups: dict[tuple[str, str], list[str]] = {}
    for link, report in answer.path.items():
        if report.state in ("failed", "proved"):
            groups.setdefault((report.state, report.because), []).append(link)
    rows = [(state, because, links) for (state, because), links in groups.items()]
    return sorted(rows, key=lambda row: row[0])
