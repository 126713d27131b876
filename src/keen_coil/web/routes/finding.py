"""Finding: the verdict, what speaks for and against, what is unproved, what to do next, as its page shows them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.diagnosis.assess import Assessment, ByModel, Explanation
from ...core.diagnosis.faults import FAULTS, possible
from ...core.diagnosis.sentence import headline, judgement_says
from ...core.errors import InvalidField
from ...core.field_tests import how_of, link_of
from ...core.practice.case import NOT_HIDDEN
from ...core.practice.score import WORDS
from ...core.vocabulary import Verdict
from ...services.calls.call_view import CallView, open_call_view
from ...services.stations.finding import JUDGED, heat_costs, keep_judgement
from ..auth_middleware import concerns
from ..page import (
    RowId,
    act_context,
    checked_form,
    database,
    faults_by_field,
    figure,
    inner,
    percent,
    redirect,
    station_page,
)

_SIGNS: dict[Verdict, str] = {
    "condemn_motor": "failed",
    "replace_capacitor": "failed",
    "replace_module": "failed",
    "not_proved": "todo",
    "no_fault_found": "proved",
}
SURE = 0.8
SHOWN_FAULTS = 5
COLUMNS = (
    ("whole", "whole A"),
    ("capacitor", "cap. lead A"),
    ("winding", "winding A"),
    ("rpm", "rpm"),
    ("capacitor_v", "cap. V"),
)


@dataclass(frozen=True)
class FaultLine:
    """A fault that could be behind it, with what speaks for and against."""

    says: str
    probability: float
    speaks_for: str
    speaks_against: str


@dataclass(frozen=True)
class ModelLine:
    """A line of the model's table: what it is, under it in small, a value a column, what it explains."""

    says: str
    under: str
    values: list[str]
    explains: str


@dataclass(frozen=True)
class ModelTable:
    """What would read so, by the motor model; columns that were read are marked."""

    caption: str
    columns: list[tuple[str, bool]]
    read: ModelLine
    expected: ModelLine
    explained: list[ModelLine]


@dataclass(frozen=True)
class OpenLink:
    """A link that is still to prove."""

    sign: str
    link: str
    because: str


@dataclass(frozen=True)
class FindingPage:
    """The page; `sure` is a figure and the words after it."""

    sign: str
    title: str
    says: str
    sure: tuple[str, str]
    also: list[str]
    faults: list[FaultLine]
    model: ModelTable | None
    open_title: str
    open_links: list[OpenLink]
    all_proved: str


def shown_finding(answer: Assessment, sentence: str) -> FindingPage:
    """The page of an assessment; `sentence` is its verdict in one sentence."""
    title = headline(answer.verdict)
    says = sentence.removeprefix(f"{title}. ").removeprefix("Found and fixed: ")
    failed = any(link.state == "failed" for link in answer.path.values())
    return FindingPage(
        sign=_SIGNS.get(answer.verdict, "suspect"),
        title="Found and fixed" if answer.cured else title,
        says=says[:1].upper() + says[1:],
        sure=_sure(answer),
        also=[FAULTS[fault].says for fault in answer.also],
        faults=_faults(answer),
        model=_model(answer.model) if answer.model else None,
        open_title="Check before power-up" if answer.before_energising else "Not checked yet",
        open_links=_open_links(answer),
        all_proved=f"Every {'other ' if failed else ''}link of the path is proved.",
    )


def _sure(answer: Assessment) -> tuple[str, str]:
    lead = next((row for row in answer.ranked if row.fault == answer.leading_fault), None)
    if lead and lead.probability >= SURE:
        return percent(lead.probability), "confidence"
    if answer.verdict != "not_proved":
        return percent(answer.confidence), "confidence in this, not in which fault"
    return (percent(lead.probability), "for the likeliest fault") if lead else ("", "no clear suspect yet")


def _faults(answer: Assessment) -> list[FaultLine]:
    """The likeliest faults, the one that carries the verdict on top."""
    ranked = sorted(answer.ranked, key=lambda row: row.fault != answer.leading_fault)[:SHOWN_FAULTS]
    return [
        FaultLine(
            FAULTS[row.fault].says if row.fault != "none" else "No fault.",
            row.probability,
            "; ".join(row.speaks_for) or "nothing yet",
            "; ".join(row.speaks_against) or "nothing",
        )
        for row in ranked
    ]


def _model(found: ByModel) -> ModelTable:
    read = {key: (low + high) / 2 for key, (low, high) in found.read.items()}
    return ModelTable(
        f"{', '.join(found.conditions)}; {found.source}.",
        [(name, key in found.read) for key, name in COLUMNS],
        ModelLine("was read", "", [figure(read[key], key) if key in read else "" for key, _ in COLUMNS], ""),
        ModelLine("should read", "", [_span(found, key) for key, _ in COLUMNS], ""),
        [_explained(row) for row in found.explained],
    )


def _span(found: ByModel, key: str) -> str:
    if key not in found.expected:
        return ""
    low, _, high = found.expected[key]
    return f"{figure(low, key)} to {figure(high, key)}"


def _explained(row: Explanation) -> ModelLine:
    values = {**row.run_amps_a, "rpm": row.run_rpm, "capacitor_v": row.capacitor_v}
    faults = [inner(FAULTS[fault].says) if fault != "none" else "no fault" for fault in row.faults[:3]]
    shown = [figure(values[key], key) for key, _ in COLUMNS]
    return ModelLine(row.says, "; ".join(faults), shown, percent(row.fit))


def _open_links(answer: Assessment) -> list[OpenLink]:
    links = answer.before_energising or [
        link for link, report in answer.path.items() if report.state in ("unproved", "suspect")
    ]
    reports = [(link, answer.path[link]) for link in links]
    return [OpenLink("todo" if row.state == "unproved" else row.state, link, row.because) for link, row in reports]


router = APIRouter()


@router.get("/calls/{call_id}/finding")
@concerns("calls")
def show_finding(request: Request, call_id: RowId) -> Response:
    """The finding of a call."""
    return finding_page(request, open_call_view(database(request), call_id))


@router.post("/calls/{call_id}/judgement")
@concerns("calls")
def keep_own(request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Keep the technician's own judgment, or take it back."""
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
