"""Lab: the motor model to try out, as a page, as what follows a slider, as a figure and as data."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.machine.curves import Sweep
from ...core.machine.expected import Expected, Range
from ...core.machine.rated import NoModel
from ...core.thermal.cost import degrees_words
from ...core.thermal.winding import Heat
from ...core.units import fixed
from ...core.vocabulary import RunState
from ...services.answers.lab import FIELD, LABELS, PLATE, SHOWS, Lab, Side, motors_to_choose, open_lab
from ..auth_middleware import concerns
from ..chart import NARROW, WIDE, Chart, Mark, Series, Zone, chart
from ..page import HERE, database, faults_by_field, render

SHOULD, FOUND = "should be", "as found"
TITLES = {
    "torque": "torque, N m",
    "amps": "amps, A",
    "rpm": "speed, rpm",
    "shaft_w": "shaft power, W",
    "capacitor_v": "volts across the capacitor, V",
    "starting": "starting torque, % of rated",
    "winding": "winding temperature, °",
}
NAMES = {
    "torque": "Torque",
    "amps": "Amps",
    "rpm": "Speed",
    "shaft_w": "Power",
    "capacitor_v": "Capacitor V",
    "starting": "Start",
    "winding": "Heat",
}
OVER = {
    "capacitor_uf": "capacitor, µF",
    "volts_v": "volts, V",
    "load_pct": "fan's torque, % of the plate's",
    "drag_pct": "drag, % of rated torque",
    "air_pct": "air over the motor, % of the plate's",
    "ambient_c": "temperature of the air around it",
}
OVER_NAMES = {
    "capacitor_uf": "capacitor",
    "volts_v": "volts",
    "load_pct": "fan",
    "drag_pct": "drag",
    "air_pct": "air",
    "ambient_c": "ambient",
}
STATE_SAYS: dict[RunState, str] = {
    "starts_and_runs": "starts and runs",
    "runs_only_if_pushed": "runs only if pushed",
    "stalled": "stalled",
}


def lab_chart(lab: Lab, width: float = WIDE) -> Chart:
    """The chart that is asked for, the two conditions over each other."""
    if lab.show == "winding":
        return _winding(lab, width)
    return _torque(lab, width) if lab.show == "torque" else _swept(lab, width)


def _winding(lab: Lab, width: float) -> Chart:
    """Winding temperature, in the middle, over what is varied; in the degrees of the shop."""
    series, marks = [], []
    sides: tuple[tuple[Side, str, str, Heat], ...] = (
        ("s", "should", SHOULD, lab.should_heat),
        ("f", "found", FOUND, lab.found_heat),
    )
    for side, kind, name, heat in sides:
        swept, winding = lab.winding(side)
        series.append(Series(name, list(swept.x), [_degrees(lab, float(c)) for c in winding], kind))
        x, value = float(lab.fields[f"{side}_{FIELD[lab.over]}"]), _degrees(lab, heat.winding_c.mid)
        if swept.x[0] <= x <= swept.x[-1] and not (side == "s" and lab.found == lab.should):
            marks.append(Mark(x, value, kind, f"{value:.0f}"))
    title = f"{TITLES['winding']}{lab.degrees}"
    against = OVER[lab.over] + (f", °{lab.degrees}" if lab.over == "ambient_c" else "")
    says = f"{title} against {against}, {SHOULD} and {FOUND}."
    return chart(series, against, title, marks, _zones(lab.sweep("f")), says, width)


def _degrees(lab: Lab, celsius: float) -> float:
    return celsius * 1.8 + 32 if lab.degrees == "F" else celsius


def _torque(lab: Lab, width: float) -> Chart:
    found, should = lab.curve("f"), lab.curve("s")
    series = [
        Series(f"motor, {SHOULD}", list(should.rpm), list(should.motor_nm), "should"),
        Series(f"fan, {SHOULD}", list(should.rpm), list(should.load_nm), "should-fan"),
        Series(f"motor, {FOUND}", list(found.rpm), list(found.motor_nm), "found"),
        Series(f"fan, {FOUND}", list(found.rpm), list(found.load_nm), "fan"),
    ]
    most = 1.6 * max(max(should.motor_nm), max(found.motor_nm), 1e-6)
    series = [_inside(row, most) for row in series]
    should_run = None if lab.found == lab.should else _running(lab.should_expected, "should")
    marks = [should_run, _running(lab.found_expected, "found")]
    says = f"Torque against speed. {SHOULD}: {_state(lab.should_expected)}. {FOUND}: {_state(lab.found_expected)}."
    return chart(series, "speed, rpm", TITLES["torque"], [mark for mark in marks if mark], says=says, width=width)


def _inside(row: Series, most: float) -> Series:
    """A torque curve cut where it leaves the picture: above it, or below nothing near synchronous speed."""
    kept = [(x, y) for x, y in zip(row.x, row.y, strict=True) if 0 <= y <= most] or [(0.0, 0.0)]
    return Series(row.name, [x for x, _ in kept], [y for _, y in kept], row.kind)


def _running(expected: Expected, kind: str) -> Mark | None:
    """The operating point; none for a motor that does not run."""
    if expected.starts == "stalled":
        return None
    rpm = expected.run_rpm.mid
    return Mark(rpm, expected.shaft_nm, kind, f"{rpm:.0f} rpm, {expected.run_amps_a['whole'].mid:.2f} A")


def _state(expected: Expected) -> str:
    return STATE_SAYS[expected.starts]


def _swept(lab: Lab, width: float) -> Chart:
    found, should = lab.sweep("f"), lab.sweep("s")
    names = [("whole", "whole", ""), ("capacitor", "capacitor lead", "second-"), ("winding", "one winding", "third-")]
    shown = names if lab.show == "amps" else [(lab.show, "", "")]
    series = []
    for key, name, kind in shown:
        for side, sweep, label in (("should", should, SHOULD), ("found", found, FOUND)):
            text = f"{name}, {label}" if name and len(shown) > 1 else label
            if not (kind and side == "should"):
                series.append(Series(text, list(sweep.x), list(sweep.values[key]), kind + side))
    marks = [
        Mark(x, value, kind, fixed(value))
        for kind, side, expected in (("should", "s", lab.should_expected), ("found", "f", lab.found_expected))
        for x, value in [(float(lab.fields[f"{side}_{FIELD[lab.over]}"]), _value(expected, lab.show))]
        if found.x[0] <= x <= found.x[-1] and not (kind == "should" and lab.found == lab.should)
    ]
    says = f"{TITLES[lab.show]} against {OVER[lab.over]}, {SHOULD} and {FOUND}."
    return chart(series, OVER[lab.over], TITLES[lab.show], marks, _zones(found), says, width)


def _value(expected: Expected, show: str) -> float:
    """The value of what is charted where the motor stands now."""
    if show == "amps":
        return (expected.rest_amps_a if expected.starts == "stalled" else expected.run_amps_a)["whole"].mid
    if show == "capacitor_v":
        return expected.capacitor_v.mid if expected.capacitor_v else 0.0
    ranges = {"rpm": expected.run_rpm, "shaft_w": expected.shaft_w, "starting": expected.starting_torque_pct}
    return ranges[show].mid


def _zones(sweep: Sweep) -> list[Zone]:
    """Stretches in which the motor does not start by itself."""
    found: list[Zone] = []
    half = float(sweep.x[1] - sweep.x[0]) / 2
    start = 0
    for i in range(1, len(sweep.states) + 1):
        state = sweep.states[start]
        if i == len(sweep.states) or sweep.states[i] != state:
            low, high = float(sweep.x[start]) - half, float(sweep.x[i - 1]) + half
            if state != "starts_and_runs":
                within = max(low, float(sweep.x[0])), min(high, float(sweep.x[-1]))
                found.append(Zone(*within, STATE_SAYS[state], state))
            start = i
    return found


@dataclass(frozen=True)
class ChartRow:
    """A quantity under both conditions, in words, and the change."""

    name: str
    should: str
    found: str
    change: str


def value_rows(lab: Lab) -> list[ChartRow]:
    """What meters would read, as it should be and as found."""
    should, found = lab.should_expected, lab.found_expected
    return [
        _row("amps, whole current", should.run_amps_a["whole"], found.run_amps_a["whole"], "A", 3),
        _row("amps, capacitor lead", should.run_amps_a["capacitor"], found.run_amps_a["capacitor"], "A", 3),
        _row("amps, one winding", should.run_amps_a["winding"], found.run_amps_a["winding"], "A", 3),
        _row("speed", should.run_rpm, found.run_rpm, "rpm", 4),
        _row("shaft power", should.shaft_w, found.shaft_w, "W", 3),
        _row("volts across the capacitor", should.capacitor_v, found.capacitor_v, "V", 3),
        _row("starting torque, of rated", should.starting_torque_pct, found.starting_torque_pct, "%", 2),
        _row("amps at rest", should.rest_amps_a["whole"], found.rest_amps_a["whole"], "A", 3),
        *_heat_rows(lab),
    ]


def _heat_rows(lab: Lab) -> list[ChartRow]:
    """Winding, shell, life and overload under both conditions."""
    should, found = lab.should_heat, lab.found_heat
    hotter = found.winding_c.mid - should.winding_c.mid
    change = "" if abs(hotter) < 1 else f"{hotter:+.0f} degrees C"
    return [
        ChartRow("winding, on average", degrees_words(should.winding_c), degrees_words(found.winding_c), change),
        ChartRow("motor shell", degrees_words(should.shell_c), degrees_words(found.shell_c), ""),
        ChartRow("winding life, of the plate's", _life(should), _life(found), ""),
        ChartRow("overload opens", _opens(should), _opens(found), ""),
    ]


def _life(heat: Heat) -> str:
    low, _, high = heat.life_of_plate.ends
    if high < 0.05:
        return "under 0.05"
    return f"{low:.2f} to {high:.2f}" if high < 10 else f"{low:.1f} or more"


def _opens(heat: Heat) -> str:
    if heat.overload is None:
        return "no overload"
    trips = heat.overload.trips_after_min
    return "stays shut" if trips is None else f"after {trips.low:.0f} to {trips.high:.0f} min"


def _row(name: str, should: Range | None, found: Range | None, unit: str, digits: int) -> ChartRow:
    change = ""
    if should and found and should.mid and abs(found.mid / should.mid - 1) >= 0.005:
        change = f"{100 * (found.mid / should.mid - 1):+.0f} %"
    return ChartRow(name, _text(should, unit, digits), _text(found, unit, digits), change)


def _text(range_: Range | None, unit: str, digits: int) -> str:
    if range_ is None:
        return "none: open"
    return f"0 {unit}" if range_.high == 0 else range_.text(unit, digits)


def data_csv(lab: Lab) -> str:
    """The chart's data: torque against speed, or every reading against what is varied, under both conditions."""
    out = io.StringIO()
    write = csv.writer(out)
    if lab.show == "winding":
        (swept, found_c), (_, should_c) = lab.winding("f"), lab.winding("s")
        write.writerow([lab.over, "winding_should_c", "winding_found_c"])
        write.writerows([f"{value:.6g}" for value in row] for row in zip(swept.x, should_c, found_c, strict=True))
        return out.getvalue()
    if lab.show == "torque":
        found, should = lab.curve("f"), lab.curve("s")
        write.writerow(["rpm", "motor_should_nm", "fan_should_nm", "motor_found_nm", "fan_found_nm"])
        columns = (found.rpm, should.motor_nm, should.load_nm, found.motor_nm, found.load_nm)
        write.writerows([f"{value:.6g}" for value in row] for row in zip(*columns, strict=True))
        return out.getvalue()
    sweeps = {"should": lab.sweep("s"), "found": lab.sweep("f")}
    units = {
        "whole": "whole_a",
        "capacitor": "capacitor_a",
        "winding": "winding_a",
        "rpm": "rpm",
        "capacitor_v": "capacitor_v",
        "shaft_w": "shaft_w",
        "input_w": "input_w",
        "starting": "starting_torque_pct",
    }
    write.writerow([lab.over, *(f"{name}_{side}" for side in sweeps for name in [*units.values(), "state"])])
    for i, x in enumerate(sweeps["found"].x):
        row = [f"{x:.6g}"]
        for sweep in sweeps.values():
            row += [f"{sweep.values[name][i]:.6g}" for name in units] + [sweep.states[i]]
        write.writerow(row)
    return out.getvalue()


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
"""Which color of the theme each stroke of the figure has, as in the stylesheet."""


@lru_cache
def _paint() -> dict[str, str]:
    """Colors of the figure as a file: those of the daylight theme, read from the tokens."""
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
@concerns("reference")
def show_lab(request: Request) -> Response:
    """The Lab for a call, a part of the catalog or a plate."""
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
@concerns("reference")
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
@concerns("reference")
def figure(request: Request) -> Response:
    """The chart as a file."""
    lab = open_lab(database(request), _fields(dict(request.query_params)))
    text = request.app.state.templates.get_template("lab_figure.svg").render(
        chart=lab_chart(lab), paint=_paint(), name=lab.name
    )
    return _file(text, "image/svg+xml", f"motor-{lab.show}.svg")


@router.get("/lab/data.csv")
@concerns("reference")
def data(request: Request) -> Response:
    """The chart's data as a file."""
    lab = open_lab(database(request), _fields(dict(request.query_params)))
    return _file(data_csv(lab), "text/csv", f"motor-{lab.show}.csv")


def _file(text: str, kind: str, name: str) -> Response:
    return Response(text, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
