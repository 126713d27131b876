"""The equivalent circuit of a motor, fitted to its plate: least squares on plate amps and shaft power at plate slip.

What the plate leaves open is held by weak priors (`priors.py`). How far it stays open after the fit, its covariance,
makes the members of the band. Measured winding ohms take the place of the priors for R1 and R1a.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..errors import FieldError
from ..tables import table
from .circuit import Floats, Number, Windings, solve
from .rated import (
    CAPACITOR_SHARE,
    HARD_SPREAD,
    LEAST_RATIO,
    MOST_RATIO,
    NEAR,
    OVERBALANCE,
    PLATE_SPREAD,
    QUADRATURE_DEG,
    REFUSED_MISS,
    ROW,
    NoModel,
    Rated,
    usual_efficiency,
)

_TABLE = table(__package__, "even_points")
MOTORS: NDArray[np.float64] = np.array(_TABLE["motors"])
"""[motors, 6]: a share of each parameter that a plate leaves free."""
CONDITIONS: NDArray[np.float64] = np.array(_TABLE["conditions"])
"""[samples, 4]: shares of the fault's size, the volts, the microfarads, the load."""


Factors = tuple[tuple[str, int], ...]
FREE = ("r1", "x1", "r2", "xm", "ratio", "r1a")
STEP = 1e-6
"""Of the forward differences, in logarithms."""
RETURNS, MOST_STEP = 4, 0.7
"""Steps back to the plate for members of the band, and the longest of them, in logarithms."""
MOST_STRAY = 3.0
"""Uncertainties by which a fit may leave measured ohms before they are taken as another motor's."""
DRAWS = len(MOTORS)


@dataclass(frozen=True)
class Ohms:
    """Winding ohms at running temperature, as measured: main and auxiliary, each with its relative uncertainty."""

    main_ohm: float
    main_u: float
    aux_ohm: float
    aux_u: float


@dataclass(frozen=True, eq=False)
class Fit:
    """A fitted motor. `windings` is the middle; `members` has it first, then what is left open moved to either end.

    `factors` names the members: ("", 0) the middle, then what is moved and which way.
    `draws` are motors as likely as any of this plate. `misses` are per cent of plate amps and shaft power.
    """

    rated: Rated
    windings: Windings
    members: Windings
    draws: Windings
    factors: Factors
    misses: dict[str, float]
    efficiency_pct: float
    power_factor: float
    measured_ohms: bool

    @property
    def rated_torque_nm(self) -> float:
        """Shaft torque at the plate, N*m."""
        return self.rated.shaft_w / self.rated_rad_s

    @property
    def rated_rad_s(self) -> float:
        """Plate speed in rad/s."""
        return self.rated.rpm * 2 * np.pi / 60

    def at_hz(self, hz: float) -> Fit:
        """The fitted motor on a supply of other hertz; its plate stays what it is."""
        if hz == self.rated.hz:
            return self
        return replace(
            self, windings=self.windings.at_hz(hz), members=self.members.at_hz(hz), draws=self.draws.at_hz(hz)
        )


@dataclass(frozen=True)
class _Target:
    """What a fit is drawn to: logarithms of the free quantities with their spread, measured auxiliary ohms if any."""

    efficiency: float
    logs: Floats
    spread: Floats
    aux: float | None


def fit_plate(plate: Rated, ohms: Ohms | None = None) -> Fit:
    """Fit the two-winding model to a plate, the middle and the members of its band; kept with the plate.

    Args: plate, the rated point; ohms, measured windings at running temperature, or None.
    Raises `NoModel` when plate amps or shaft power are missed by more than 5 %.
    """
    found = _fit_or_fault(plate, ohms)
    if isinstance(found, FieldError):
        raise NoModel([found])
    return found


@lru_cache(maxsize=4096)
def _fit_or_fault(plate: Rated, ohms: Ohms | None) -> Fit | FieldError:
    """The fit, or why there is none: a refusal is kept like a fit."""
    target = _target(plate, ohms)
    middle = _fitted(plate, target)
    axes = _axes(plate, target, middle)
    logs, core, friction, factors = _around(plate, target, middle, axes)
    found = _windings(plate, logs, core, friction)
    amps, power, efficiency, factor = _rated_point(plate, found)
    missed = np.maximum(np.abs(amps / plate.amps_a - 1), np.abs(power / plate.shaft_w - 1))
    if missed[0] > REFUSED_MISS:
        return _missed(amps[0] / plate.amps_a - 1, power[0] / plate.shaft_w - 1)
    if ohms is not None and _strayed(found, ohms) > MOST_STRAY:
        return FieldError(
            "readings", "winding ohms that do not go with the plate", "ohms of this motor, on isolated leads"
        )
    kept = np.flatnonzero(missed <= REFUSED_MISS)
    members = _each(found, lambda value: np.asarray(value)[kept])
    misses = {
        "amps_pct": 100 * float(amps[0] / plate.amps_a - 1),
        "power_pct": 100 * float(power[0] / plate.shaft_w - 1),
    }
    return Fit(
        rated=plate,
        windings=_each(members, lambda value: float(value[0])),
        members=members,
        draws=_drawn(plate, target, middle, axes),
        factors=tuple(factors[i] for i in kept),
        misses=misses,
        efficiency_pct=100 * float(efficiency[0]),
        power_factor=float(factor[0]),
        measured_ohms=ohms is not None,
    )


def _strayed(found: Windings, ohms: Ohms) -> float:
    """By how many of their uncertainties the fit left the measured ohms."""
    main, aux = np.asarray(found.r1_ohm)[0], np.asarray(found.r1a_ohm)[0]
    return float(max(abs(np.log(main / ohms.main_ohm)) / ohms.main_u, abs(np.log(aux / ohms.aux_ohm)) / ohms.aux_u))


def _missed(amps: float, power: float) -> FieldError:
    got = f"a plate the model misses by {100 * amps:+.1f} % in amps and {100 * power:+.1f} % in power"
    return FieldError("motor", got, "a plate it meets within 5 %; plate rules only")


def _target(plate: Rated, ohms: Ohms | None) -> _Target:
    """The priors in their middle; measured ohms in place of those for R1 and R1a."""
    values = {name: ROW[name].mid for name in FREE}
    share = ROW["capacitor"].mid * plate.capacitor_v / plate.volts_v
    values["ratio"] = min(max(values["ratio"] * share, LEAST_RATIO), MOST_RATIO)
    spread = {name: ROW[name].doubt for name in FREE}
    aux = None
    if ohms is not None:
        values["r1"] = ohms.main_ohm / plate.base_ohm
        aux = float(np.log(ohms.aux_ohm / plate.base_ohm))
        spread |= {"r1": ohms.main_u, "r1a": ohms.aux_u}
    return _Target(
        efficiency=usual_efficiency(plate.shaft_w),
        logs=np.log([values[name] for name in FREE]),
        spread=np.array([spread[name] for name in FREE]),
        aux=aux,
    )


def _axes(plate: Rated, target: _Target, middle: Floats) -> Floats:
    """The axes of the fit's covariance, one spread long: [axes, free]."""
    _, slopes = _with_slopes(plate, target, middle)
    lengths, axes = np.linalg.eigh(np.linalg.inv(slopes.T @ slopes))
    return np.asarray(np.sqrt(np.maximum(lengths, 0))[:, None] * axes.T)


def _around(plate: Rated, target: _Target, middle: Floats, axes: Floats) -> tuple[Floats, Floats, Floats, Factors]:
    """The middle and, either way from it, what the fit leaves open: the axes, `NEAR` spreads long.

    Each is brought back to plate amps and power. Core and friction follow, moved to either end of their row.
    Returns the logarithms [members, free], core and friction shares, and the members' factors.
    """
    factors = [("", 0), *((f"open {i + 1}", end) for i in range(len(FREE)) for end in (-1, 1))]
    logs = [middle, *(middle + end * NEAR * axis for axis in axes for end in (-1, 1))]
    shares = [(ROW["core"].mid, ROW["friction"].mid)] * len(logs)
    for name in ("core", "friction"):
        for end, value in ((-1, ROW[name].low), (1, ROW[name].high)):
            factors.append((name, end))
            logs.append(middle)
            shares.append((value, ROW["friction"].mid) if name == "core" else (ROW["core"].mid, value))
    core, friction = np.array(shares).T
    return _on_plate(plate, target, np.array(logs), core, friction), core, friction, tuple(factors)


def _drawn(plate: Rated, target: _Target, middle: Floats, axes: Floats) -> Windings:
    """Motors as likely as any of this plate: points of the covariance that fill it evenly, always the same ones."""
    from scipy.special import ndtri

    logs = middle + np.asarray(ndtri(0.02 + 0.96 * MOTORS)) @ axes
    core, friction = (np.full(DRAWS, ROW[name].mid) for name in ("core", "friction"))
    found = _windings(plate, _on_plate(plate, target, logs, core, friction), core, friction)
    amps, power, *_ = _rated_point(plate, found)
    missed = np.maximum(np.abs(amps / plate.amps_a - 1), np.abs(power / plate.shaft_w - 1))
    kept = np.flatnonzero(missed <= REFUSED_MISS)
    return _each(found, lambda value: np.asarray(value)[np.resize(kept, DRAWS) if len(kept) else [0] * DRAWS])


def _on_plate(plate: Rated, target: _Target, logs: Floats, core: Floats, friction: Floats) -> Floats:
    """Members moved, as little as their spreads allow, to where they meet plate amps and power."""
    for _ in range(RETURNS):
        tries = np.concatenate([np.zeros((1, len(FREE))), STEP * np.eye(len(FREE))])
        found = _windings(plate, logs[:, None, :] + tries, core[:, None], friction[:, None])
        amps, power, *_ = _rated_point(plate, found)
        off = np.stack([amps / plate.amps_a - 1, power / plate.shaft_w - 1], axis=-1)
        slopes = np.moveaxis(off[:, 1:] - off[:, :1], 1, 2) / STEP
        loose = slopes * target.spread**2
        by = np.linalg.solve(loose @ np.moveaxis(slopes, 1, 2) + 1e-12 * np.eye(2), off[:, 0, :, None])
        step = -(np.moveaxis(loose, 1, 2) @ by)[:, :, 0]
        logs = logs + np.clip(step, -MOST_STEP, MOST_STEP) * (np.arange(len(logs)) > 0)[:, None]
    return logs


def _windings(plate: Rated, logs: Floats, core: Number, friction: Number) -> Windings:
    """Circuits from the logarithms of what is fitted (last axis), core and friction as shares of shaft power."""
    r1, x1, r2, xm, ratio, r1a = np.moveaxis(np.exp(logs), -1, 0)
    ohm = plate.base_ohm
    return Windings(
        hz=plate.hz,
        poles=plate.poles,
        r1_ohm=r1 * ohm,
        x1_ohm=x1 * ohm,
        r2_ohm=r2 * ohm,
        x2_ohm=x1 * ohm,
        xm_ohm=xm * ohm,
        turns_ratio=ratio,
        r1a_ohm=r1a * ratio**2 * r1 * ohm,
        x1a_ohm=ratio**2 * x1 * ohm,
        core_w=core * plate.shaft_w,
        friction_w=friction * plate.shaft_w,
    )


def _residuals(plate: Rated, target: _Target, logs: Floats) -> Floats:
    """What the fit makes small, in units of its spread: [..., residuals]."""
    windings = _windings(plate, logs, ROW["core"].mid, ROW["friction"].mid)
    solved = solve(windings, plate.volts_v, plate.slip, plate.capacitor_uf)
    power = (1 - plate.slip) * solved.air_gap_w() - windings.core_w - windings.friction_w
    amps = np.abs(solved.line_a)
    share = solved.capacitor_v / plate.capacitor_v
    efficiency = np.maximum(power, 1e-3 * plate.shaft_w) / solved.input_w
    apart = np.degrees(np.angle(solved.aux_a / solved.main_a))
    priors = (logs - target.logs) / target.spread
    if target.aux is not None:
        priors[..., 5] = (logs[..., 5] + 2 * logs[..., 4] + logs[..., 0] - target.aux) / target.spread[5]
    rows = [
        (amps / plate.amps_a - 1) / PLATE_SPREAD,
        (power / plate.shaft_w - 1) / PLATE_SPREAD,
        np.log(efficiency / target.efficiency) / ROW["efficiency"].doubt,
        (share - np.clip(share, *CAPACITOR_SHARE)) / HARD_SPREAD,
        (share - ROW["capacitor"].mid) / ROW["capacitor"].doubt,
        (apart - 90) / QUADRATURE_DEG,
        np.maximum(logs[..., 4] - np.log(MOST_RATIO), 0) / HARD_SPREAD,
        np.maximum(np.log(windings.turns_ratio * np.abs(solved.aux_a / solved.main_a)), 0) / OVERBALANCE,
    ]
    return np.concatenate([np.stack(rows, axis=-1), priors], axis=-1)


def _with_slopes(plate: Rated, target: _Target, logs: Floats) -> tuple[Floats, Floats]:
    """Residuals and their slopes by forward differences: [residuals], [residuals, free]."""
    found = _residuals(plate, target, logs + np.concatenate([np.zeros((1, len(FREE))), STEP * np.eye(len(FREE))]))
    return found[0], (found[1:] - found[0]).T / STEP


def _fitted(plate: Rated, target: _Target) -> Floats:
    """The middle fit, from two starts, the better of them."""
    from scipy.optimize import least_squares

    balanced = target.logs.copy()
    share = max(plate.capacitor_v * ROW["capacitor"].mid / plate.volts_v, 1.05)
    balanced[4] = np.log(np.sqrt(share * share - 1))

    def off(logs: Floats) -> Floats:
        return _residuals(plate, target, logs)

    def slopes(logs: Floats) -> Floats:
        return _with_slopes(plate, target, logs)[1]

    found = [least_squares(off, start, jac=slopes, method="lm") for start in (target.logs, balanced)]
    return np.asarray(min(found, key=lambda result: result.cost).x)


def _rated_point(plate: Rated, windings: Windings) -> tuple[Floats, Floats, Floats, Floats]:
    """Amps, shaft watts, efficiency and power factor of each member at plate volts and slip."""
    solved = solve(windings, plate.volts_v, plate.slip, plate.capacitor_uf)
    power = (1 - plate.slip) * solved.air_gap_w() - windings.core_w - windings.friction_w
    amps = np.abs(solved.line_a)
    return amps, power, power / solved.input_w, solved.input_w / (plate.volts_v * amps)


def _each(windings: Windings, take: Callable[[Floats], Number]) -> Windings:
    """Every array of a circuit with the same rows taken from it."""
    values = {field.name: getattr(windings, field.name) for field in fields(Windings)}
    return replace(windings, **{name: take(value) for name, value in values.items() if isinstance(value, np.ndarray)})
