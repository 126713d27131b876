"""Curves of a motor: torque against speed with the fan's load, and what its readings do when one thing is changed."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..vocabulary import RunState, SweptQuantity
from .circuit import Floats
from .conditions import Conditions
from .expected import feed_of, load_of, readings_at
from .fit import Fit
from .load import own_losses_nm
from .operating_point import STATES, Points, flow, operating_points


@dataclass(frozen=True)
class TorqueCurve:
    """Motor torque at the shaft and the torque the fan with its drag asks for, N*m, by speed in rpm."""

    rpm: Floats
    motor_nm: Floats
    load_nm: Floats


@dataclass(frozen=True)
class Sweep:
    """Readings at each value of what is changed. `values` by name: amps whole, capacitor, winding, rpm, and so on."""

    over: SweptQuantity
    x: Floats
    values: dict[str, Floats]
    states: list[RunState]


def torque_curve(fit: Fit, at: Conditions, speeds: int = 200) -> TorqueCurve:
    """Torque from rest to synchronous speed at so many speeds."""
    slip = np.linspace(1.0, 0.0, speeds)
    load, windings = load_of(fit, at.load, at.drag), fit.windings
    speed = (1 - slip) * windings.synchronous_rad_s
    core, friction = own_losses_nm(windings, load, speed)
    motor = flow(windings, feed_of(at), slip).torque_nm - core - friction
    return TorqueCurve(speed * 30 / np.pi, np.asarray(motor), np.asarray(load.fan_nm(speed) + load.drag_nm()))


def swept_points(fit: Fit, at: Conditions, over: SweptQuantity, x: Floats) -> Points:
    """Where the motor runs at each value of what is changed; the air around it changes nothing about that."""
    feed, share, drag = feed_of(at), at.load, at.drag
    load = load_of(fit, x / 100 if over == "load_pct" else share, x / 100 if over == "drag_pct" else drag)
    if over == "capacitor_uf":
        feed = replace(feed, capacitor_uf=x)
    if over == "volts_v":
        feed = replace(feed, volts_v=x)
    return operating_points(fit.windings, feed, load)


def sweep(fit: Fit, at: Conditions, over: SweptQuantity, x: Floats) -> Sweep:
    """Readings where the motor runs (at rest where it does not), with one thing of the conditions changed.

    Args: over, what is changed; x, its values in the unit of its name.
    """
    points = swept_points(fit, at, over, x)
    values = readings_at(fit, at.swapped, points)
    return Sweep(
        over,
        x,
        {name: np.broadcast_to(v, x.shape) for name, v in values.items()},
        [STATES[int(state)] for state in np.broadcast_to(points.state, x.shape)],
    )
