"""The Lab: a motor from a call, the catalog or its plate, under two conditions laid over each other."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from pydantic import ValidationError
from pydantic_core import PydanticCustomError
from sqlalchemy import select

from ...core.errors import FieldError, InvalidField, NotFound, field_errors, invalid, shown
from ...core.machine.circuit import Floats
from ...core.machine.conditions import Conditions, Model, as_plate, heat_plate, model_of
from ...core.machine.curves import Sweep, TorqueCurve, sweep, torque_curve
from ...core.machine.effects import Effect, Question, answer, compared, questions_for
from ...core.machine.expected import Expected, expected
from ...core.machine.fit import Fit, fit_plate
from ...core.machine.rated import NoModel, rated
from ...core.plates import Motor
from ...core.temperature import Degrees, as_shown, in_celsius
from ...core.thermal.winding import Heat, heat_of, plate_ambient_c, winding_curve
from ...core.units import Number, Span, horsepower_text, whole_number
from ...core.vocabulary import SweptQuantity, words_of
from ...formats.dotted import nested
from ...store import tables
from ...store.database import Database
from ..calls.call_view import CallView, open_call_view
from ..people.settings import shop_units
from ..stations.match import motor_fields

PLATE = {
    "hp": ("horsepower", ""),
    "volts": ("volts", ""),
    "amps_a": ("amps", "A"),
    "rpm": ("RPM", "rpm"),
    "poles": ("poles", ""),
    "hz": ("hertz", ""),
    "capacitor_uf": ("capacitor", "µF"),
    "capacitor_v": ("its volts", "V"),
    "fan": ("turns", ""),
}
"""Fields of a plate that the Lab takes: label and unit."""
CONDITIONS = {
    "uf": ("capacitor", "µF"),
    "v": ("volts", "V"),
    "load": ("fan needs", "%"),
    "drag": ("drag", "%"),
    "air": ("air over it", "%"),
    "around": ("ambient", "°"),
}
LABELS = {
    **{name: label for name, (label, _) in PLATE.items()},
    "capacitor_v": "capacitor volts",
    "motor": "plate",
    **{f"f_{name}": label for name, (label, _) in CONDITIONS.items()},
    **{f"s_{name}": f"{label} to compare" for name, (label, _) in CONDITIONS.items()},
    "ask": "question",
}
"""What a refused field is called."""
SHOWS = ("torque", "amps", "rpm", "shaft_w", "capacitor_v", "starting", "winding")
OVERS: tuple[SweptQuantity, ...] = words_of(SweptQuantity)
HEAT_ALONE: tuple[SweptQuantity, ...] = ("air_pct", "ambient_c")
"""What only the winding's temperature is drawn against."""
LEAST_AIR_PCT, MOST_AIR_PCT, MOST_AMBIENT_C = 10.0, 130.0, 60.0
STEPS = 61
MOST_CALLS, MOST_PARTS, FIRST_OF = 200, 300, 40
MOST = 1000.0
Side = Literal["f", "s"]


@dataclass(frozen=True)
class Slider:
    """A condition to move: its field, label, unit, ends, step and value."""

    name: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    value: float


@dataclass(frozen=True)
class Lab:
    """A motor in the Lab. `fields` holds every field of the form as text, to be sent back as it is."""

    name: str
    motor: Motor
    fields: dict[str, str]
    origin: dict[str, str]
    fit: Fit
    found: Model
    should: Model
    found_expected: Expected
    should_expected: Expected
    sliders: list[Slider]
    says: str
    asked: Effect | None
    questions: list[Question]
    doubts: tuple[str, ...]
    show: str
    over: SweptQuantity
    degrees: Degrees

    def curve(self, side: Side) -> TorqueCurve:
        """Torque against speed of one of the two conditions."""
        return torque_curve(self.fit, (self.found if side == "f" else self.should).conditions)

    def sweep(self, side: Side) -> Sweep:
        """Readings of one of the two conditions over what is varied."""
        slider = next(row for row in self.sliders if row.name == FIELD[self.over])
        x = np.linspace(slider.low, slider.high, STEPS)
        return sweep(self.fit, (self.found if side == "f" else self.should).conditions, self.over, x)

    def winding(self, side: Side) -> tuple[Sweep, Floats]:
        """The sweep of one of the two conditions with the winding's temperature in C at each of its values."""
        swept = self.sweep(side)
        in_fahrenheit = self.over == "ambient_c" and self.degrees == "F"
        x = (swept.x - 32) / 1.8 if in_fahrenheit else swept.x
        return swept, winding_curve(self.found if side == "f" else self.should, self.over, x)

    @property
    def overs(self) -> tuple[SweptQuantity, ...]:
        """What the chart that is shown may be drawn against."""
        return tuple(over for over in OVERS if self.show == "winding" or over not in HEAT_ALONE)

    @property
    def found_heat(self) -> Heat:
        """Heat and life as found."""
        return heat_of(self.found)

    @property
    def should_heat(self) -> Heat:
        """Heat and life as it should be."""
        return heat_of(self.should)


FIELD: dict[SweptQuantity, str] = dict(zip(OVERS, CONDITIONS, strict=True))


def motors_to_choose(db: Database) -> tuple[list[tuple[int, str]], list[str]]:
    """Open calls with a run-capacitor motor, and part numbers of such motors in the catalog."""
    with db.reading() as session:
        rows = session.execute(
            select(tables.Call.id, tables.Site.name, tables.Motor.plate)
            .join(tables.Call.motor)
            .join(tables.Motor.unit)
            .join(tables.Unit.site)
            .where(tables.Call.closed_at.is_(None))
            .order_by(tables.Call.id.desc())
            .limit(MOST_CALLS)
        )
        calls = [(number, site) for number, site, plate in rows if plate.get("kind") == "psc"][::-1]
        parts = session.scalars(
            select(tables.CatalogueMotor.part_no)
            .where(tables.CatalogueMotor.kind == "psc")
            .order_by(tables.CatalogueMotor.part_no)
            .limit(MOST_PARTS)
        )
        return calls, list(parts)


def open_lab(db: Database, form: dict[str, str]) -> Lab:
    """The Lab for what a form asks: `call` or `part` or a typed plate, then the conditions.

    Raises `InvalidField` by field of the form, `NoModel` when the plate has no model, `NotFound` for an unknown call.
    """
    name, motor, origin, view = _origin(db, form)
    degrees = shop_units(db).degrees
    typed = {key: form[key].strip() for key in PLATE if key in form}
    if any(value != _plate_fields(motor)[key] for key, value in typed.items()):
        motor = _typed(motor, typed)
    plate = rated(motor, view.call.supply_now() if view else None, view.call.unit.hz if view else None)
    as_call = view is not None and motor == view.call.motor
    model = (
        model_of(view.call)
        if view is not None and as_call
        else Model(fit_plate(plate), as_plate(plate), plate.doubts, heat_plate(motor))
    )
    noted = model.conditions.ambient_c
    around = plate_ambient_c(model.heat) if noted is None else noted
    model = replace(model, conditions=replace(model.conditions, ambient_c=around))
    should = replace(as_plate(plate), volts_v=model.conditions.volts_v, ambient_c=around)
    asked = None
    if form.get("ask"):
        asked = _asked(Model(model.fit, _set(should, "s", form, degrees), model.doubts, model.heat), form["ask"], motor)
    found_at = asked.after.conditions if asked else _set(model.conditions, "f", form, degrees)
    should_at = asked.before.conditions if asked else _set(should, "s", form, degrees)
    found, should_model = replace(model, conditions=found_at), replace(model, conditions=should_at)
    found_expected, should_expected = expected(found), expected(should_model)
    return Lab(
        name=name,
        motor=motor,
        fields=_plate_fields(motor)
        | _condition_fields(found_at, "f", degrees)
        | _condition_fields(should_at, "s", degrees),
        origin=origin,
        fit=model.fit,
        found=found,
        should=should_model,
        found_expected=found_expected,
        should_expected=should_expected,
        sliders=_sliders(model.fit, found_at, degrees),
        says=asked.says if asked else _difference(should_expected, found_expected),
        asked=asked,
        questions=questions_for(motor),
        doubts=(*plate.assumed, *model.doubts),
        show=form["show"] if form.get("show") in SHOWS else "torque",
        over=_over(form),
        degrees=degrees,
    )


def _over(form: dict[str, str]) -> SweptQuantity:
    """What is varied; what moves heat alone only where the winding is shown."""
    asked = next((over for over in OVERS if over == form.get("over")), OVERS[0])
    return OVERS[0] if asked in HEAT_ALONE and form.get("show") != "winding" else asked


def _difference(should: Expected, found: Expected) -> str:
    same = found.conditions == should.conditions
    return "As it should be. Move a slider, or pick a what-if." if same else compared(should, found)


def _asked(model: Model, name: str, motor: Motor) -> Effect:
    if name not in {row.name for row in questions_for(motor)}:
        raise invalid("ask", name, "one of " + ", ".join(row.name for row in questions_for(motor)))
    return answer(model, name)


def _origin(db: Database, form: dict[str, str]) -> tuple[str, Motor, dict[str, str], CallView | None]:
    """The motor asked for, how it is called, and where it comes from."""
    if form.get("call"):
        number = whole_number(form["call"])
        if number is None:
            raise NotFound("such call")
        view = open_call_view(db, number)
        return (
            f"Call {view.row.id}, {view.row.motor.unit.site.name}",
            view.call.motor,
            {"call": form["call"]},
            view,
        )
    if any(form.get(key) for key in PLATE):
        return form.get("part") or "A plate typed in", Motor(kind="psc"), _kept(form, "part"), None
    with db.reading() as session:
        if form.get("part"):
            row = session.get(tables.CatalogueMotor, form["part"])
            if row is None:
                raise invalid("part", form["part"], "a part number of the catalog")
            return row.part_no, _plain(row.plate), {"part": row.part_no}, None
        rows = session.scalars(select(tables.CatalogueMotor).where(tables.CatalogueMotor.kind == "psc").limit(FIRST_OF))
        first = next((row for row in rows if _has_model(_plain(row.plate))), None)
    if first is None:
        return "A plate typed in", Motor(kind="psc"), {}, None
    return first.part_no, _plain(first.plate), {"part": first.part_no}, None


def _kept(form: dict[str, str], name: str) -> dict[str, str]:
    return {name: form[name]} if form.get(name) else {}


def _plain(plate: dict[str, Any]) -> Motor:
    return Motor.model_validate(motor_fields(plate))


def _has_model(motor: Motor) -> bool:
    try:
        fit_plate(rated(motor))
    except NoModel:
        return False
    return True


def _typed(motor: Motor, typed: dict[str, str]) -> Motor:
    """A plate with what was typed in the Lab. Raises `InvalidField` by field of the form."""
    plain = motor.model_dump(mode="json", exclude_none=True, exclude_defaults=True)
    kept = {key: value for key, value in plain.items() if key not in typed}
    try:
        return Motor.model_validate(kept | nested(typed, Motor) | {"kind": "psc"})
    except ValidationError as error:
        raise InvalidField(field_errors(error)) from None


_SETS: dict[str, Callable[[Conditions, float], Conditions]] = {
    "v": lambda at, value: replace(at, volts_v=Span(value, value)),
    "uf": lambda at, value: replace(at, capacitor_uf=Span(value, value)),
    "load": lambda at, value: replace(at, load=value / 100, load_low=1.0),
    "drag": lambda at, value: replace(at, drag=value / 100),
    "air": lambda at, value: replace(at, air=value / 100),
    "around": lambda at, value: replace(at, ambient_c=value),
}


def _set(at: Conditions, side: Side, form: dict[str, str], degrees: Degrees) -> Conditions:
    """Conditions with what the form sets for one side; what is left alone keeps its uncertainty."""
    wished: dict[str, float] = {}
    faults, now = [], _condition_fields(at, side, degrees)
    for name in CONDITIONS:
        text = form.get(f"{side}_{name}", "").strip()
        if not text or text == now[f"{side}_{name}"]:
            continue
        try:
            wished[name] = float(Number(0, MOST).take(text if name != "around" else in_celsius(text, degrees)))
        except PydanticCustomError as error:
            faults.append(FieldError(f"{side}_{name}", shown(text), str(error)))
    if faults:
        raise InvalidField(faults)
    for name, value in wished.items():
        at = _SETS[name](at, value)
    return replace(at, swapped=form.get(f"{side}_swapped") == "yes") if f"{side}_swapped" in form else at


def _condition_fields(at: Conditions, side: Side, degrees: Degrees) -> dict[str, str]:
    return {
        f"{side}_air": f"{100 * at.air:.4g}",
        f"{side}_around": as_shown(f"{at.ambient_c or 0.0:.4g}", degrees),
        f"{side}_uf": f"{at.uf if math.isfinite(at.uf) else 0:.4g}",
        f"{side}_v": f"{at.volts_v.mid:.4g}",
        f"{side}_load": f"{100 * at.load:.4g}",
        f"{side}_drag": f"{100 * at.drag:.4g}",
    } | ({f"{side}_swapped": "yes"} if at.swapped else {})


def _plate_fields(motor: Motor) -> dict[str, str]:
    found = {key: str(getattr(motor, key) or "") for key in PLATE}
    return found | ({"hp": horsepower_text(motor.hp)} if motor.hp else {})


def _sliders(fit: Fit, at: Conditions, degrees: Degrees) -> list[Slider]:
    """The conditions of what was found, each from nothing to well beyond what a motor stands."""
    plate, now = fit.rated, _condition_fields(at, "f", degrees)
    warmest = (0.0, MOST_AMBIENT_C) if degrees == "C" else (32.0, MOST_AMBIENT_C * 1.8 + 32)
    ends = {
        "uf": (0.0, 3 * plate.capacitor_uf, 0.05 if plate.capacitor_uf < 8 else 0.1),
        "v": (0.0, 1.3 * plate.volts_v, 1.0),
        "load": (0.0, 250.0, 1.0),
        "drag": (0.0, 100.0, 1.0),
        "air": (LEAST_AIR_PCT, MOST_AIR_PCT, 1.0),
        "around": (*warmest, 1.0),
    }
    units = {name: unit if name != "around" else f"°{degrees}" for name, (_, unit) in CONDITIONS.items()}
    return [
        Slider(name, CONDITIONS[name][0], units[name], low, most, step, float(now[f"f_{name}"]))
        for name, (low, most, step) in ends.items()
    ]
