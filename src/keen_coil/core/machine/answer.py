"""The model's answers for files and the API (contract, model): a call's motor, and a bare circuit."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Annotated, Any

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError
from pydantic_core import PydanticCustomError

from ..call import Call
from ..errors import InvalidField, field_errors, invalid
from ..thermal.winding import Heat, heat_of
from ..units import Celsius, Number, Span, Volts
from ..vocabulary import CurrentLeg, RunState
from .circuit import Windings, solve
from .conditions import Model, model_of
from .expected import LEGS, SOURCE, Expected, Range, expected
from .load import blade_share

Band = tuple[float, float, float]
Legs = dict[CurrentLeg, Band]
_DIGITS = 6
MOST_UF = 1000.0


def _microfarads(value: object) -> object:
    if value in ("open", None):
        return 0.0
    return math.inf if value == "shorted" else Number(0, MOST_UF).take(value)


class Changes(BaseModel):
    """Conditions set by hand. `capacitor_uf` also takes "open" and "shorted"; the blade is made for `blade_rpm`.

    air_pct: air over the motor at the same speed, of the plate's; ambient_c: air around it.
    """

    model_config = ConfigDict(extra="forbid")

    supply_v: Volts | None = None
    capacitor_uf: Any = None
    load_pct: Annotated[float, Number(0, 1000)] | None = None
    drag_pct: Annotated[float, Number(0, 1000)] | None = None
    blade_rpm: Annotated[float, Number(100, 7200)] | None = None
    leads_swapped: bool | None = None
    air_pct: Annotated[float, Number(0, 1000)] | None = None
    ambient_c: Celsius | None = None


class FitAnswer(BaseModel):
    """The fitted circuit: ohms at `hz`, watts, and by how much plate amps and power were missed, per cent."""

    hz: float
    poles: int
    slip: float
    r1_ohm: float
    x1_ohm: float
    r2_ohm: float
    x2_ohm: float
    xm_ohm: float
    turns_ratio: float
    r1a_ohm: float
    x1a_ohm: float
    core_w: float
    friction_w: float
    misses: dict[str, float]
    efficiency_pct: float
    power_factor: float
    measured_ohms: bool
    assumed: list[str]
    doubts: list[str]


class OverloadAnswer(BaseModel):
    """Where the overload opens, C, and after how many minutes of running so, or standing; null where it stays shut."""

    opens_c: Band
    trips_after_min: Band | None


class Point(BaseModel):
    """Where it runs, each as least, middle, most. `capacitor_v` is null when the capacitor is open or shorted.

    winding_c: both windings on average; life_of_plate: life against the plate's own point, never in years;
    `overload` is null for a motor without one.
    """

    run_amps_a: Legs
    run_rpm: Band
    capacitor_v: Band | None
    shaft_w: Band
    input_w: Band
    starting_torque_pct: float
    starting_torque_band_pct: Band
    winding_c: Band
    shell_c: Band
    life_of_plate: Band
    overload: OverloadAnswer | None


class AtRest(BaseModel):
    """What flows while it stands still under power."""

    run_amps_a: Legs


class ModelAnswer(BaseModel):
    """The motor under its conditions. `point` of a motor that must be pushed is where it runs once pushed."""

    fit: FitAnswer
    point: Point
    starts: RunState
    sure_of_state: bool
    at_rest: AtRest
    runs_on_backwards_rpm: float | None
    conditions: list[str]
    source: str


def model_answer(call: Call, changes: Changes | None = None) -> ModelAnswer:
    """The model of a call's motor as found, with changes. Raises `NoModel` with the reason by field."""
    model = changed(model_of(call), changes or Changes())
    found, plate, at = expected(model), model.fit.rated, model.conditions
    circuit = {name: float(value) for name, value in vars(model.fit.windings).items() if name != "poles"}
    return ModelAnswer(
        fit=FitAnswer(
            **circuit,
            poles=plate.poles,
            slip=plate.slip,
            misses=model.fit.misses,
            efficiency_pct=model.fit.efficiency_pct,
            power_factor=model.fit.power_factor,
            measured_ohms=model.fit.measured_ohms,
            assumed=list(plate.assumed),
            doubts=list(model.doubts),
        ),
        point=_point(found, heat_of(model)),
        starts=found.starts,
        sure_of_state=found.sure_of_state,
        at_rest=AtRest(run_amps_a=_legs(found.rest_amps_a)),
        runs_on_backwards_rpm=found.backwards_rpm,
        conditions=list(at.says),
        source=SOURCE,
    )


def changed(model: Model, changes: Changes) -> Model:
    """A model with conditions set by hand; what is set is exact."""
    at, says = model.conditions, list(model.conditions.says)
    if changes.supply_v is not None:
        at, says[0] = replace(at, volts_v=Span(changes.supply_v, changes.supply_v)), f"{changes.supply_v:g} V, set"
    if "capacitor_uf" in changes.model_fields_set:
        uf = float(changes.capacitor_uf)
        name = "open" if uf == 0 else "shorted" if math.isinf(uf) else f"{uf:g} µF"
        at, says[1] = replace(at, capacitor_uf=Span(uf, uf)), f"capacitor {name}, set"
    if changes.air_pct is not None:
        at = replace(at, air=changes.air_pct / 100)
        says.append(f"air {changes.air_pct:g} % of the plate's, set")
    if changes.ambient_c is not None:
        at = replace(at, ambient_c=float(changes.ambient_c))
        says.append(f"ambient {changes.ambient_c:g} °C, set")
    load, load_low, drag, swapped = at.load, at.load_low, at.drag, at.swapped
    if changes.load_pct is not None:
        load, load_low = changes.load_pct / 100, 1.0
        says.append(f"fan torque {changes.load_pct:g} % of the plate's, set")
    if changes.blade_rpm is not None:
        load, load_low = load * blade_share(model.fit.rated.rpm, changes.blade_rpm), 1.0
        says.append(f"blade for {changes.blade_rpm:g} rpm, set")
    if changes.drag_pct is not None:
        drag = changes.drag_pct / 100
        says.append(f"drag {changes.drag_pct:g} % of torque, set")
    if changes.leads_swapped:
        swapped = True
        says.append("capacitor leads swapped, set")
    at = replace(at, load=load, load_low=load_low, drag=drag, swapped=swapped, says=tuple(says))
    return replace(model, conditions=at)


def read_changes(data: Any) -> Changes:
    """Changes from data. Raises `InvalidField`, paths under `set`."""
    if not isinstance(data, dict):
        raise invalid("set", data, "an object of changes")
    try:
        taken = {k: _microfarads(v) if k == "capacitor_uf" else v for k, v in data.items()}
    except PydanticCustomError:
        raise invalid(
            "set.capacitor_uf", data["capacitor_uf"], f'a number from 0 to {MOST_UF:g}, "open" or "shorted"'
        ) from None
    try:
        return Changes.model_validate(taken)
    except ValidationError as error:
        raise InvalidField(field_errors(error, "set")) from None


def _band(range_: Range) -> Band:
    low, mid, high = range_.ends
    return round(low, _DIGITS), round(mid, _DIGITS), round(high, _DIGITS)


def _legs(ranges: dict[str, Range]) -> Legs:
    return {leg: _band(ranges[leg]) for leg in LEGS}


def _point(found: Expected, heat: Heat) -> Point:
    opens = heat.overload
    return Point(
        run_amps_a=_legs(found.run_amps_a),
        run_rpm=_band(found.run_rpm),
        shaft_w=_band(found.shaft_w),
        capacitor_v=None if found.capacitor_v is None else _band(found.capacitor_v),
        input_w=_band(found.input_w),
        starting_torque_pct=round(found.starting_torque_pct.mid, _DIGITS),
        starting_torque_band_pct=_band(found.starting_torque_pct),
        winding_c=_band(heat.winding_c),
        shell_c=_band(heat.shell_c),
        life_of_plate=_band(heat.life_of_plate),
        overload=None
        if opens is None
        else OverloadAnswer(
            opens_c=_band(opens.opens_c),
            trips_after_min=None if opens.trips_after_min is None else _band(opens.trips_after_min),
        ),
    )


Ohm = Annotated[float, Number(0, 1e9)]
AboveZeroOhm = Annotated[float, Number(0, 1e9, above=True)]
Watts = Annotated[float, Number(0, 1e9)]


def _even(poles: int) -> int:
    if poles % 2:
        raise PydanticCustomError("number", "{expected}", {"expected": "an even number of poles"})
    return poles


class Circuit(BaseModel):
    """A two-winding motor at a slip, everything given. `capacitor_uf` null is an open auxiliary."""

    model_config = ConfigDict(extra="forbid")

    v: Annotated[float, Number(0, 1e5, above=True)]
    hz: Annotated[float, Number(0, 1000, above=True)]
    poles: Annotated[int, Number(2, 100, whole=True), AfterValidator(_even)]
    slip: Annotated[float, Number(0, 2)]
    r1_ohm: AboveZeroOhm
    x1_ohm: Ohm
    r2_ohm: AboveZeroOhm
    x2_ohm: Ohm
    xm_ohm: AboveZeroOhm
    turns_ratio: Annotated[float, Number(0, 100, above=True)]
    r1a_ohm: AboveZeroOhm
    x1a_ohm: Ohm
    capacitor_uf: Annotated[float, Number(0, 1e6)] | None = Field(...)
    core_w: Watts
    friction_w: Watts


class CircuitAnswer(BaseModel):
    """What flows in a circuit: phasors as magnitude in A and degrees after the line volts. Null where not defined."""

    main_a: tuple[float, float]
    aux_a: tuple[float, float]
    line_a: tuple[float, float]
    capacitor_v: float | None
    power_factor: float | None
    input_w: float
    shaft_w: float
    shaft_torque_nm: float
    rpm: float
    efficiency: float | None


def read_circuit(data: Any) -> Circuit:
    """A circuit from data. Raises `InvalidField`."""
    if not isinstance(data, dict):
        raise invalid("", data, "an object with the circuit's values")
    try:
        return Circuit.model_validate(data)
    except ValidationError as error:
        raise InvalidField(field_errors(error)) from None


def circuit_answer(given: Circuit) -> CircuitAnswer:
    """Solve a circuit: P_shaft = (1 - s)(P_f - P_b) - core - friction; at rest the torque is the air gap's."""
    names = ("hz", "poles", "r1_ohm", "x1_ohm", "r2_ohm", "x2_ohm", "xm_ohm", "turns_ratio", "r1a_ohm", "x1a_ohm")
    windings = Windings(**{name: float(getattr(given, name)) for name in names})
    uf = None if given.capacitor_uf is None else float(given.capacitor_uf)
    found = solve(windings, float(given.v), float(given.slip), uf)
    speed = (1 - float(given.slip)) * float(windings.synchronous_rad_s)
    shaft = (1 - given.slip) * float(found.air_gap_w()) - given.core_w - given.friction_w
    shaft = 0.0 if speed == 0 else shaft
    apparent, watts = given.v * abs(found.line_a), float(found.input_w)
    return CircuitAnswer(
        main_a=_phasor(found.main_a),
        aux_a=_phasor(found.aux_a),
        line_a=_phasor(found.line_a),
        capacitor_v=float(found.capacitor_v) if uf else None,
        power_factor=watts / apparent if apparent else None,
        input_w=watts,
        shaft_w=shaft,
        shaft_torque_nm=shaft / speed if speed else float(found.torque_nm),
        rpm=speed * 30 / math.pi,
        efficiency=shaft / watts if watts else None,
    )


def _phasor(value: Any) -> tuple[float, float]:
    return float(np.abs(value)), float(np.degrees(np.angle(value)))
