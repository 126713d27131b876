"""Lab: the motor model to try out, as a page, as what follows a slider, as a figure and as data."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.machine.rated import NoModel
from ...services.answers.lab import LABELS, PLATE, SHOWS, Lab, motors_to_choose, open_lab
from ..chart import NARROW
from ..lab_charts import NAMES, OVER, OVER_NAMES, STATE_SAYS, data_csv, lab_chart, value_rows
from ..page import HERE, database, faults_by_field, render

router = APIRouter()
ROLES = {
    "should": "proved",
    "found": "copper",
    "should-fan": "edge",
    "fan": "ink",
    "second-found": "unproved",
    "third-found": "suspect",
    "ink": "ink",
    "soft": "ink-soft",
    "rule": "rule",
    "paper": "surface",
}
"""Which colour of the theme each stroke of the figure has, as in the stylesheet."""


@lru_cache
def _paint() -> dict[str, str]:
    """Colours of the figure as a file: those of the daylight theme, read from the tokens."""
    text = (HERE / "static/css/tokens.css").read_text(encoding="utf-8").split('[data-theme="attic"]')[0]
    tokens = dict(re.findall(r"--([a-z-]+): (#[0-9a-f]{6});", text))
    return {kind: tokens[role] for kind, role in ROLES.items()}


def _fields(form: dict[str, str]) -> dict[str, str]:
    """A form's fields, of a length that a field can have."""
    return {key: value for key, value in form.items() if len(value) <= 200}


def _context(lab: Lab) -> dict[str, Any]:
    kept = lab.origin | lab.fields | {"show": lab.show, "over": lab.over}
    compare = kept | {f"s_{name[2:]}": value for name, value in lab.fields.items() if name.startswith("f_")}
    return {
        "lab": lab,
        "chart": lab_chart(lab),
        "narrow_chart": lab_chart(lab, NARROW),
        "rows": value_rows(lab),
        "names": NAMES,
        "shows": SHOWS,
        "overs": lab.overs,
        "over_titles": OVER,
        "over_names": OVER_NAMES,
        "state_says": STATE_SAYS,
        "query": urlencode(kept),
        "with_": lambda **changes: urlencode({k: v for k, v in (kept | changes).items() if v is not None}),
        "compare": urlencode(compare),
        "plate_only": urlencode({k: v for k, v in kept.items() if k[:2] not in ("f_", "s_")}),
    }


@router.get("/lab")
def show_lab(request: Request) -> Response:
    """The Lab for a call, a part of the catalogue or a plate."""
    form = _fields(dict(request.query_params))
    calls, parts = motors_to_choose(database(request))
    more: dict[str, Any] = {"calls": calls, "parts": parts, "station": "lab", "plate_fields": PLATE}
    try:
        lab = open_lab(database(request), form)
    except InvalidField as error:
        return render(request, "lab.html", 422, lab=None, typed=form, **_refused(error), **more)
    return render(request, "lab.html", typed=lab.fields, apart=False, **_context(lab), **more)


def _refused(error: InvalidField) -> dict[str, Any]:
    faults = {name.removeprefix("motor."): text for name, text in faults_by_field(error, LABELS).items()}
    return {"faults": faults, "no_model": isinstance(error, NoModel)}


@router.get("/lab/answer")
def follow_slider(request: Request) -> Response:
    """The answer alone, for the page that is open; the address follows, so that a reload loses nothing."""
    form = _fields(dict(request.query_params))
    try:
        lab = open_lab(database(request), form)
    except InvalidField as error:
        return render(request, "lab_refused.html", **_refused(error))
    context = _context(lab)
    response = render(request, "lab_answer.html", apart=True, **context)
    response.headers["HX-Replace-Url"] = f"/lab?{context['query']}"
    return response


@router.get("/lab/figure.svg")
def figure(request: Request) -> Response:
    """The chart as a file."""
    lab = open_lab(database(request), _fields(dict(request.query_params)))
    text = request.app.state.templates.get_template("lab_figure.svg").render(
        chart=lab_chart(lab), paint=_paint(), name=lab.name
    )
    return _file(text, "image/svg+xml", f"motor-{lab.show}.svg")


@router.get("/lab/data.csv")
def data(request: Request) -> Response:
    """The chart's data as a file."""
    lab = open_lab(database(request), _fields(dict(request.query_params)))
    return _file(data_csv(lab), "text/csv", f"motor-{lab.show}.csv")


def _file(text: str, kind: str, name: str) -> Response:
    return Response(text, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
