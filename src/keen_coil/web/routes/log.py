"""The log: calls found by anything typed, figures with their calls, a unit's history, follow-ups, in and out."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.units import whole_number
from ...services.log.log import figures, of_figure, search, title_of_figure
from ...services.log.unit_history import unit_history
from ...services.stations.follow_ups import as_calendar, open_follow_ups, settle
from ...services.stations.listening import over_the_visits
from ..history_drawing import history_plot
from ..page import RowId, act_context, checked_form, database, faults_by_field, page_number, redirect, render
from ..sound_picture import sounds_picture

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
YEAR = timedelta(days=365)


def _log(request: Request, status: int = 200, **context: object) -> Response:
    db, asked = database(request), request.query_params
    words, of, year = asked.get("find", "")[:100].strip(), asked.get("of", ""), asked.get("time") != "all"
    midnight = datetime.now(UTC).replace(hour=0, minute=0, second=0, microsecond=0)
    since = midnight - YEAR if year else None
    if of:
        of_figure(of)
    found = search(db, words, of, page_number(request), since if of else None)
    return render(
        request,
        "log.html",
        status,
        station="log",
        found=found,
        find=words,
        of=of,
        year=year,
        of_title=title_of_figure(of) if of else "",
        figures=figures(db, since),
        due=open_follow_ups(db),
        today=datetime.now().astimezone().date(),
        **context,
    )


@router.get("/log")
def show_log(request: Request) -> Response:
    """The calls, newest first."""
    return _log(request)


@router.get("/log/units/{unit_id}")
def show_unit(request: Request, unit_id: RowId) -> Response:
    """A unit over its visits."""
    found = unit_history(database(request), unit_id)
    plots = {role: [(trend, history_plot(trend)) for trend in trends] for role, trends in found.trends.items()}
    sounds = {role: (over_the_visits(kept), sounds_picture(kept)) for role, kept in found.sounds.items()}
    return render(request, "unit.html", station="log", unit=found, plots=plots, sounds=sounds)


@router.post("/log/follow-ups")
def settle_one(request: Request, form: Form) -> Response:
    """Settle a follow-up."""
    number = form.get("follow_up", "")
    try:
        settle(database(request), act_context(form), whole_number(number) or 0, form.get("settled", ""))
    except InvalidField as error:
        return _log(request, 422, faults=faults_by_field(error), typed=form)
    return redirect("/log", "follow-ups")


@router.get("/log/follow-ups.ics")
def give_calendar(request: Request) -> Response:
    """Every follow-up that is due, as an iCalendar file."""
    data = as_calendar(open_follow_ups(database(request)), datetime.now(UTC))
    headers = {"Content-Disposition": 'attachment; filename="follow-ups.ics"'}
    return Response(data, media_type="text/calendar; charset=utf-8", headers=headers)
