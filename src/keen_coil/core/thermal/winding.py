"""Winding temperature, shell, life and overload of a motor under its conditions, each as a band.

Losses P = P_in - P_shaft. Rise over ambient by those of the plate's point, by the air over the motor:

    dT = dT_plate (P / P_plate) (air_plate / air)^n,   copper losses by R = R_plate (k + T) / (k + T_plate)

which is linear in T and solved as such: the fixed point of the iteration. Where it has none the winding burns.
Life = 2^((T_plate - T) / 10), never in years. Valid for single-phase motors with a run capacitor that the model fits.

References:
[1] NEMA MG 1, temperature rise by resistance. [2] IEEE 101, thermal life. [3] Churchill and Bernstein, J. Heat
Transfer 99 (1977), forced convection over a cylinder. [4] IEEE 112, resistance and temperature.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..judge.cooling import COPPER_C
from ..machine.circuit import Floats, Windings, solve
from ..machine.conditions import Conditions, HeatPlate, MeasuredWarmth, Model
from ..machine.curves import swept_points
from ..machine.expected import Factors, Range, band, running
from ..machine.fit import Fit
from ..machine.load import Load
from ..machine.operating_point import STATES, Feed, Points, operating_points
from ..machine.rated import Rated
from ..machine.warmth import Warmth
from ..vocabulary import SweptQuantity
from .table import constants

MOST_C = 400.0
"""Above this the winding has burnt, whatever the figure."""
NarrowedBy = Literal["", "ohms", "shell"]
LEAST_AIR = 0.05
"""Cooling by the room alone, as a share of the plate's air."""
STALLED = STATES.index("stalled")


class Overload(NamedTuple):
    """Where the overload opens, C, and after how many minutes it would; None where it would not."""

    opens_c: Range
    trips_after_min: Range | None


@dataclass(frozen=True)
class Heat:
    """Winding and shell in C, life as a multiple of the plate's, the overload (None: there is none to open).

    `plate_c`: the winding at the plate's own point. `ambient_c` and whether it was assumed. `burns`: no balance below
    400 C. `rise_share`: how much of its class's rise the motor uses, `narrowed_by` what was measured, if anything.
    """

    winding_c: Range
    shell_c: Range
    life_of_plate: Range
    plate_c: Range
    overload: Overload | None
    ambient_c: float
    ambient_assumed: bool
    burns: bool
    rise_share: Range
    narrowed_by: NarrowedBy


def plate_ambient_c(plate: HeatPlate) -> float:
    """The ambient of the plate's point, C: 40, or what the plate allows above it."""
    return max(constants().plate.ambient_c, plate.ambient_c or 0.0)


def class_rise_k(plate: HeatPlate) -> float:
    """Most rise at the plate's load, K: the class's, less what the plate's ambient takes above 40 C [1]."""
    over = plate_ambient_c(plate) - constants().plate.ambient_c
    return max(constants().of_class(plate.insulation_class).rise_k - over, 10.0)


def temperature_c(
    ambient_c: Floats | float, rise_k: Floats | float, copper: Floats, other: Floats, at_c: Floats | float
) -> Floats:
    """The balance of losses and cooling, C.

    Args: rise_k, at the plate's losses and this air; copper and other, losses as shares of the plate's total, copper
    at the resistance it has at `at_c`, the winding's temperature at the plate's point. Above 400 C: 400.
    """
    slope = 1 - np.asarray(rise_k * copper / (COPPER_C + at_c))
    top = ambient_c + rise_k * (copper * COPPER_C / (COPPER_C + at_c) + other)
    found = top / np.where(slope > 1e-3, slope, 1e-3)
    return np.asarray(np.minimum(np.where(slope > 1e-3, found, MOST_C), MOST_C))


def life_of_plate(hotter_k: Range) -> Range:
    """Life against the plate's, for so many K hotter: 2^(-K / 10), the band from 8 and 12 [2]."""
    halves = constants().life.halves_k
    every = [2 ** (-k / step) for k in hotter_k.ends for step in halves]
    return Range(min(every), 2 ** (-hotter_k.mid / halves[1]), max(every))


def heat_of(model: Model) -> Heat:
    """Heat and life of a model's motor under its conditions."""
    return _heat(model.fit, model.conditions, model.heat, model.warmth)


class _Losses(NamedTuple):
    """Per member: copper and other losses as shares of the plate's total, speed as a share of the plate's, factors."""

    copper: Floats
    other: Floats
    speed: Floats
    factors: Factors


@lru_cache(maxsize=1024)
def _heat(fit: Fit, at: Conditions, plate: HeatPlate, warmth: MeasuredWarmth | None) -> Heat:
    table = constants()
    losses, points = _losses(fit, at)
    ambient = plate_ambient_c(plate) if at.ambient_c is None else at.ambient_c
    share, by = _rise_share(fit, plate, warmth)
    exponent = table.air.exponent if plate.air_over else (0.0, 0.0, 0.0)
    rise = class_rise_k(plate) * _service(fit, plate)
    standing = bool(points.state[0] == STALLED)

    def balance(of_rise: float, n: float) -> tuple[Floats, Floats]:
        plate_c = plate_ambient_c(plate) + of_rise * rise
        cooled = _cooling(losses.speed, at.air, n, points.state[0])
        return temperature_c(ambient, of_rise * rise * cooled, losses.copper, losses.other, plate_c), np.full(
            len(losses.speed), plate_c
        )

    middle, plate_mid = balance(share[1], exponent[1])
    ends: list[tuple[str, int, float, float]] = []
    for name, end, found in (
        ("rise", -1, balance(share[0], exponent[1])),
        ("rise", 1, balance(share[2], exponent[1])),
        ("air", -1, balance(share[1], exponent[0])),
        ("air", 1, balance(share[1], exponent[2])),
    ):
        ends.append((name, end, float(found[0][0]), float(found[0][0] - found[1][0])))
    factors = (*losses.factors, *((name, end) for name, end, *_ in ends))
    alike = points.runs == points.runs[0]
    winding = _band(np.concatenate([middle, [c for *_, c, _ in ends]]), factors, alike)
    hotter = _band(np.concatenate([middle - plate_mid, [k for *_, k in ends]]), factors, alike)
    burns = float(middle[0]) >= MOST_C
    shell = [ambient + part * max(c - ambient, 0.0) for part, c in zip(table.shell.share, winding.ends, strict=True)]
    plate_c = [plate_ambient_c(plate) + part * rise for part in share]
    heat = Heat(
        winding_c=winding,
        shell_c=Range(*shell),
        life_of_plate=life_of_plate(hotter),
        plate_c=Range(*plate_c),
        overload=None,
        ambient_c=ambient,
        ambient_assumed=at.ambient_c is None,
        burns=burns,
        rise_share=Range(*share),
        narrowed_by=by,
    )
    return replace(heat, overload=_overload(heat, plate, float(losses.copper[0]), _copper_share(fit), standing))


def _losses(fit: Fit, at: Conditions) -> tuple[_Losses, Points]:
    windings, _, _, factors, points = running(fit, at)
    plate = fit.rated
    total = _rated_losses(windings, plate)[1]
    lost = np.maximum(points.solved.input_w - points.shaft_w, 0.0)
    copper = points.solved.copper_w
    many = len(factors)
    flat = [np.broadcast_to(value, (many,)) for value in (copper / total, (lost - copper) / total)]
    speed = np.abs(np.broadcast_to(points.rpm, (many,))) / plate.rpm
    return _Losses(flat[0], np.maximum(flat[1], 0.0), speed, factors), points


def winding_curve(model: Model, over: SweptQuantity, x: Floats) -> Floats:
    """Winding temperature in C, in the middle of what is known, with one thing of the conditions changed."""
    fit, at, plate = model.fit, model.conditions, model.heat
    points = swept_points(fit, at, over, x)
    lost = np.broadcast_to(np.maximum(points.solved.input_w - points.shaft_w, 0.0), x.shape)
    copper = np.broadcast_to(points.solved.copper_w, x.shape)
    total, row = _rated_losses(fit.windings, fit.rated)[1], constants()
    rise = _rise_share(fit, plate, model.warmth)[0][1] * class_rise_k(plate) * _service(fit, plate)
    exponent = row.air.exponent[1] if plate.air_over else 0.0
    speed = np.broadcast_to(np.abs(points.rpm), x.shape) / fit.rated.rpm
    cooled = _cooling(speed, x / 100 if over == "air_pct" else at.air, exponent, points.state)
    noted = plate_ambient_c(plate) if at.ambient_c is None else at.ambient_c
    ambient = x if over == "ambient_c" else noted
    other = np.maximum(lost - copper, 0.0) / total
    return temperature_c(ambient, rise * cooled, copper / total, other, plate_ambient_c(plate) + rise)


@lru_cache(maxsize=256)
def _rise_share(
    fit: Fit, plate: HeatPlate, warmth: MeasuredWarmth | None
) -> tuple[tuple[float, float, float], NarrowedBy]:
    """Share of the class's rise that the motor uses: the usual 0.6 to 1, narrowed by what was measured of it.

    The balance is solved for the share that gives the measured winding. What lies wholly outside the usual share
    narrows nothing: something else heats the motor, or it had not run long enough.
    """
    usual = constants().plate.rise_share
    if warmth is None or warmth.at.ambient_c is None:
        return usual, ""
    losses, points = _losses(fit, warmth.at)
    shares = np.linspace(0.2, 1.4, 241)
    rise = class_rise_k(plate) * _service(fit, plate) * shares
    exponent = constants().air.exponent[1] if plate.air_over else 0.0
    cooled = float(_cooling(losses.speed[:1], warmth.at.air, exponent, points.state[:1])[0])
    copper, other = losses.copper[:1], losses.other[:1]
    of_share = temperature_c(warmth.at.ambient_c, rise * cooled, copper, other, plate_ambient_c(plate) + rise)
    low, middle, high = np.interp(_running_c(warmth.found, warmth.at.ambient_c), of_share, shares)
    least, most = max(usual[0], low), min(usual[2], high)
    if least >= most or (least, most) == (usual[0], usual[2]):
        return usual, ""
    wanted = float(middle) if warmth.found.by == "ohms" else usual[1]
    return (float(least), min(max(wanted, float(least)), float(most)), float(most)), warmth.found.by


def _running_c(found: Warmth, ambient_c: float) -> list[float]:
    """The winding as it ran, C: hot ohms brought back to the moment power went off, a shell by its share."""
    over = [max(c - ambient_c, 0.0) for c in (found.low_c, found.mid_c, found.high_c)]
    if found.by == "shell":
        return [ambient_c + k / part for k, part in zip(over, reversed(constants().shell.share), strict=True)]
    row = constants().heating
    lasts = [row.standing_slower * minutes for minutes in reversed(row.running_minutes)]
    back = [float(np.exp(found.minutes_off / minutes)) for minutes in lasts]
    return [ambient_c + k * factor for k, factor in zip(over, back, strict=True)]


def _cooling(speed: Floats, air: Floats | float, exponent: float, state: NDArray[np.int64]) -> Floats:
    """Rise by less air over the motor, as a factor; a motor that stands has no air of its own to lose."""
    return np.where(state == STALLED, 1.0, np.maximum(speed * air, LEAST_AIR) ** -exponent)


def _band(values: Floats, factors: Factors, alike: NDArray[np.bool_]) -> Range:
    """The band of what each factor does; members in another state than the middle say nothing."""
    values = values.copy()
    values[: len(alike)][~alike] = values[0]
    found = band(values, factors, None, least=-MOST_C)
    return Range(found.low, found.mid, min(found.high, MOST_C))


@lru_cache(maxsize=256)
def _service(fit: Fit, plate: HeatPlate) -> float:
    """Rise at the plate's load as a share of the class's: a service factor allows 10 K more at its load [1]."""
    row = constants().plate
    if plate.service_factor < row.service_factor:
        return 1.0
    own, rated = fit.windings.at_hz(fit.rated.hz), fit.rated
    load = Load(rated.shaft_w, fit.rated_rad_s, np.array([1.0, plate.service_factor]))
    points = operating_points(own, Feed(rated.volts_v, rated.capacitor_uf), load)
    lost = points.solved.input_w - points.shaft_w
    allowed = (class_rise_k(plate) + row.service_factor_k) / class_rise_k(plate)
    return float(min(allowed * lost[0] / lost[1], 1.0))


def _copper_share(fit: Fit) -> float:
    """Copper losses at the plate's point as a share of all, in the middle."""
    copper, total = _rated_losses(fit.windings, fit.rated)
    return float(copper / total)


def _rated_losses(windings: Windings, plate: Rated) -> tuple[Floats, Floats]:
    """Copper losses and all losses of each motor at the plate's point, W."""
    own = windings.at_hz(plate.hz)
    found = solve(own, plate.volts_v, plate.slip, plate.capacitor_uf)
    shaft = (1 - plate.slip) * found.air_gap_w() - own.core_w - own.friction_w
    return found.copper_w, np.maximum(found.input_w - shaft, 1e-6)


def _overload(heat: Heat, plate: HeatPlate, copper: float, rated_copper: float, standing: bool) -> Overload | None:
    """Where the overload opens, and after how long from a motor at the air's temperature; None without one."""
    if not plate.has_overload:
        return None
    row = constants().overload
    hot_spot = constants().of_class(plate.insulation_class).hot_spot_c
    opens = Range(*(hot_spot + over for over in row.over_hot_spot_k))
    average = Range(*(c - row.hot_spot_over_average_k for c in opens.ends))
    if heat.winding_c.high <= average.low:
        return Overload(opens, None)
    if standing or heat.burns:
        return Overload(opens, _stalled_minutes(heat.ambient_c, average.mid, copper / max(rated_copper, 1e-6)))
    if heat.winding_c.mid <= average.low:
        return Overload(opens, None)
    return Overload(opens, running_minutes(heat.ambient_c, heat.winding_c.mid, average.mid))


def _stalled_minutes(from_c: float, to_c: float, copper: float) -> Range:
    """Minutes to heat a winding that cannot give its heat away: copper times its rated heating, by its resistance."""
    row = constants().heating
    rate = row.copper_k_per_s * max(copper, 1e-3)
    mean = (COPPER_C + 0.5 * (from_c + to_c)) / (COPPER_C + to_c)
    minutes = (to_c - from_c) / (rate * mean) / 60
    return Range(minutes / row.band, minutes, minutes * row.band)


def running_minutes(from_c: float, ends_c: float, to_c: float) -> Range | None:
    """Minutes until a running motor that would end at one temperature passes another; None where it would not."""
    if ends_c <= to_c + 1 or from_c >= to_c:
        to_c = min(to_c, ends_c - 1.0)
    if from_c >= to_c:
        return None
    share = float(np.log((ends_c - from_c) / (ends_c - to_c)))
    low, mid, high = constants().heating.running_minutes
    return Range(low * share, mid * share, high * share)


def cooling_minutes(from_c: float, ambient_c: float, to_c: float | None = None) -> Range | None:
    """Minutes for a standing motor to cool to a temperature, C, by default that of a hand's touch; rough.

    0 to 0 where it is as cool already; None where the air is too warm for it.
    """
    row = constants().heating
    wanted = row.touch_c if to_c is None else to_c
    if from_c <= wanted:
        return Range(0.0, 0.0, 0.0)
    if ambient_c >= wanted - 1:
        return None
    share = row.standing_slower * float(np.log((from_c - ambient_c) / (wanted - ambient_c)))
    low, mid, high = row.running_minutes
    return Range(low * share, mid * share, high * share)
