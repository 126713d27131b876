"""The log: calls found by anything typed, figures with their calls, a unit's history and its drawing, follow-ups."""

from __future__ import annotations

import math
from datetime import UTC, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.units import fixed, whole_number
from ...services.log.log import figures, of_figure, search, title_of_figure
from ...services.log.unit_history import Point, Trend, unit_history
from ...services.stations.follow_ups import as_calendar, open_follow_ups, settle
from ...services.stations.listening import over_the_visits
from ..auth_middleware import concerns
from ..chart import Stop
from ..page import RowId, act_context, checked_form, database, day, faults_by_field, page_number, redirect, render
from ..pictures import Line, Plot, Text
from ..sound_picture import sounds_picture

WIDTH, HEIGHT, LEFT, RIGHT, TOP, FOOT = 372.0, 190.0, 84.0, 12.0, 20.0, 30.0
LOG_LOW, LOG_HIGH = 0.1, 1000.0
FROM_ZERO = 0.4
"""Below this share of the highest value the axis begins at nought."""


def history_plot(trend: Trend) -> Plot:
    """The picture of a trend: points in the order of the visits, new motors begin a line of their own."""
    points = sorted(trend.points, key=lambda point: point.at)
    first, last = points[0].at, points[-1].at
    span = max((last - first).total_seconds(), 1.0)

    def x(point: Point) -> float:
        return LEFT + (WIDTH - LEFT - RIGHT) * (point.at - first).total_seconds() / span

    y = _scale(trend)
    lines = [Line(f"M{LEFT:g} {TOP:g}V{HEIGHT - FOOT:g}H{WIDTH - RIGHT:g}", "thin")]
    texts = []
    for value, says in trend.limits:
        lines.append(Line(f"M{LEFT:g} {y(value):.1f}H{WIDTH - RIGHT:g}", "floor"))
        texts.append(Text(LEFT - 6, y(value) + 4, f"{says} {fixed(value)}", "end"))
    for motor in dict.fromkeys(abs(point.motor) for point in points):
        for left in (False, True):
            mine = [point for point in points if abs(point.motor) == motor and point.left == left]
            if len(mine) > 1:
                lines.append(Line("M" + "L".join(f"{x(p):.1f} {y(p.value):.1f}" for p in mine), "wire"))
    for point in points:
        a, b = x(point), y(point.value)
        mark = f"M{a - 4:.1f} {b - 4:.1f}h8v8h-8Z" if point.left else f"M{a:.1f} {b - 5:.1f}l5 5-5 5-5-5Z"
        lines.append(Line(mark, "point-left" if point.left else "point"))
    texts += [_said(points[0], x, y), _said(points[-1], x, y)]
    texts += [Text(LEFT, HEIGHT - 8, day(first), "start"), Text(WIDTH - RIGHT, HEIGHT - 8, day(last), "end")]
    read = ", ".join(f"{day(p.at)} {_figure(p.value)}" for p in points[:40])
    stops = [
        Stop(
            x(p),
            f"{day(p.at)}, {'as left' if p.left else 'as found'}: {_figure(p.value)}"
            + ("" if math.isinf(p.value) else f" {trend.unit}"),
            ((y(p.value), "found"),),
        )
        for p in points
    ]
    return Plot(WIDTH, HEIGHT, lines, texts, f"{trend.title} over the visits, {trend.unit}: {read}", stops)


def _scale(trend: Trend):  # type: ignore[no-untyped-def]
    low, high = TOP + 6, HEIGHT - FOOT
    if trend.quantity == "insulation_mohm":

        def log(value: float) -> float:
            at = math.log10(min(max(value, LOG_LOW), LOG_HIGH) / LOG_LOW) / math.log10(LOG_HIGH / LOG_LOW)
            return high - (high - low) * at

        return log
    every = [point.value for point in trend.points] + [value for value, _ in trend.limits]
    least, most = min(every), max(every)
    begins = 0.0 if least < FROM_ZERO * most else least - 0.25 * (most - least or most)
    span = (most - begins) * 1.06 or 1.0

    def plain(value: float) -> float:
        return high - (high - low) * (value - begins) / span

    return plain


def _said(point: Point, x, y) -> Text:  # type: ignore[no-untyped-def]
    at = x(point)
    anchor = "start" if at < WIDTH / 2 else "end"
    return Text(at + (8 if anchor == "start" else -2), y(point.value) - 9, _figure(point.value), anchor, True)


def _figure(value: float) -> str:
    return "over range" if math.isinf(value) else fixed(value)


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
@concerns("calls")
def show_log(request: Request) -> Response:
    """The calls, newest first."""
    return _log(request)


@router.get("/log/units/{unit_id}")
@concerns("calls")
def show_unit(request: Request, unit_id: RowId) -> Response:
    """A unit over its visits."""
    found = unit_history(database(request), unit_id)
    plots = {role: [(trend, history_plot(trend)) for trend in trends] for role, trends in found.trends.items()}
    sounds = {role: (over_the_visits(kept), sounds_picture(kept)) for role, kept in found.sounds.items()}
    return render(request, "unit.html", station="log", unit=found, plots=plots, sounds=sounds)


@router.post("/log/follow-ups")
@concerns("calls")
def settle_one(request: Request, form: Form) -> Response:
    """Settle a follow-up."""
    number = form.get("follow_up", "")
    try:
        settle(database(request), act_context(form), whole_number(number) or 0, form.get("settled", ""))
    except InvalidField as error:
        return _log(request, 422, faults=faults_by_field(error), typed=form)
    return redirect("/log", "follow-ups")


@router.get("/log/follow-ups.ics")
@concerns("calls")
def give_calendar(request: Request) -> Response:
    """Every follow-up that is due, as an iCalendar file."""
    data = as_calendar(open_follow_ups(database(request)), datetime.now(UTC))
    headers = {"Content-Disposition": 'attachment; filename="follow-ups.ics"'}
    return Response(data, media_type="text/calendar; charset=utf-8", headers=headers)
