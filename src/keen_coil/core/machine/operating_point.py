"""Where a motor runs: the crossings of its torque with the load's, which are stable, and whether it starts.

States: `starts_and_runs` (torque exceeds load and breakaway drag from rest), `runs_only_if_pushed` (a stable crossing
exists but the torque at rest does not suffice), `stalled`. Slip above 1 is a motor turned backwards.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..vocabulary import RunState, words_of
from .circuit import Complexes, Floats, Number, Solved, Windings, capacitor_ohm, fields, solve, solved
from .load import Load, own_losses_nm
from .sections import leakage

OPEN_OHM = 1e9
"""An open capacitor among meshes that are solved together, ohms."""


def solve_shorted(
    windings: Windings, volts_v: Number, slip: Number, capacitor_uf: Number | None, share: Number
) -> Solved:
    """Currents and torque with a share of the main winding's turns shorted, 0 < share < 1.

    Three meshes: the sound turns of the main winding, the shorted ones, the auxiliary with its capacitor.
    """
    a, n = windings.turns_ratio, (1 - np.asarray(share), np.asarray(share))
    forward, backward = fields(windings, slip)
    both, between = forward + backward, 1j * a * (forward - backward)
    own, mutual = leakage(n, windings.x1_ohm, windings.xm_ohm)
    r, j = windings.r1_ohm, 1j
    capacitor = capacitor_ohm(capacitor_uf, windings.hz)
    capacitor = np.where(np.isfinite(capacitor), capacitor, OPEN_OHM)
    z11 = n[0] * r + n[0] ** 2 * (j * np.asarray(own) + both)
    z12 = n[0] * n[1] * (j * np.asarray(mutual) + both)
    z22 = n[1] * r + n[1] ** 2 * (j * np.asarray(own) + both)
    zaa = windings.r1a_ohm + j * np.asarray(windings.x1a_ohm) + a * a * both + capacitor
    main, circling, aux = _meshes(z11, z12, z22, n[0] * between, n[1] * between, zaa, np.asarray(volts_v))
    mmf = n[0] * main + n[1] * circling
    copper = r * (n[0] * np.abs(main) ** 2 + n[1] * np.abs(circling) ** 2) + windings.r1a_ohm * np.abs(aux) ** 2
    return solved(windings, volts_v, slip, (main, aux), mmf, np.abs(aux * capacitor), np.asarray(copper))


def _meshes(
    z11: Complexes, z12: Complexes, z22: Complexes, b1: Complexes, b2: Complexes, zaa: Complexes, volts: Complexes
) -> tuple[Complexes, Complexes, Complexes]:
    """Currents of the sound turns, the shorted turns and the auxiliary; b is what the auxiliary couples by."""
    shape = np.broadcast_shapes(z11.shape, zaa.shape, volts.shape)
    rows = [[z11, z12, -b1], [z12, z22, -b2], [b1, b2, zaa]]
    whole = np.stack([np.stack([np.broadcast_to(z, shape) for z in row], axis=-1) for row in rows], axis=-2)
    known = np.zeros((*shape, 3, 1), dtype=np.complex128)
    known[..., 0, 0] = known[..., 2, 0] = volts
    found = np.linalg.solve(whole, known)[..., 0]
    return found[..., 0], found[..., 1], found[..., 2]


STATES: tuple[RunState, ...] = words_of(RunState)
GRID, ROUGH_GRID = 97, 41
ROOT_SLIP = 1e-7
_CREEP = 0.002
"""Crossings this close to rest are rest: the motor does not get away."""


@dataclass(frozen=True)
class Feed:
    """What the windings get: volts across the motor, capacitor in µF (0 = open, infinite = shorted).

    swapped: the capacitor sits in series with the main winding, the auxiliary straight across the line.
    main_ohm and aux_ohm: impedance in series with a winding, infinite = open.
    shorted: share of the main winding's turns shorted upon themselves; all of them above 0, or 0 for all.
    """

    volts_v: Number
    capacitor_uf: Number
    swapped: bool = False
    main_ohm: Number = 0.0
    aux_ohm: Number = 0.0
    shorted: Number = 0.0


@dataclass(frozen=True)
class Points:
    """Where motors run, one entry each. Stalled ones are given at rest. `state` indexes `STATES`.

    rpm is negative where a motor runs against its own direction (`backwards`, asked for).
    """

    state: NDArray[np.int64]
    slip: Floats
    rpm: Floats
    solved: Solved
    shaft_w: Floats
    starting_nm: Floats

    @property
    def runs(self) -> NDArray[np.bool_]:
        """Which of them turn, or would once pushed."""
        return np.asarray(self.state < 2)


def flow(windings: Windings, feed: Feed, slip: Number) -> Solved:
    """Currents and torque at a slip as fed; `main_a` and `aux_a` are its windings, whichever has the capacitor.

    With the capacitor's leads swapped the field turns the other way, seen from the leads as they were: torque and
    slip are given in the direction of that field.
    """
    if np.any(feed.shorted):
        return solve_shorted(windings, feed.volts_v, slip, feed.capacitor_uf, feed.shorted)
    if not feed.swapped:
        return solve(windings, feed.volts_v, slip, feed.capacitor_uf, main_ohm=feed.main_ohm, aux_ohm=feed.aux_ohm)
    other = _exchanged(windings)
    found = solve(other, feed.volts_v, slip, feed.capacitor_uf, main_ohm=feed.aux_ohm, aux_ohm=feed.main_ohm)
    return Solved(**{**vars(found), "main_a": found.aux_a, "aux_a": found.main_a})


def _exchanged(windings: Windings) -> Windings:
    """The same motor with its windings' parts exchanged: everything referred to the auxiliary."""
    a = windings.turns_ratio
    square = a * a
    return Windings(
        hz=windings.hz,
        poles=windings.poles,
        r1_ohm=windings.r1a_ohm,
        x1_ohm=windings.x1a_ohm,
        r2_ohm=square * windings.r2_ohm,
        x2_ohm=square * windings.x2_ohm,
        xm_ohm=square * windings.xm_ohm,
        turns_ratio=1 / a,
        r1a_ohm=windings.r1_ohm,
        x1a_ohm=windings.x1_ohm,
        core_w=windings.core_w,
        friction_w=windings.friction_w,
    )


def surplus_nm(windings: Windings, feed: Feed, load: Load, slip: Number) -> Floats:
    """Torque left to speed the rotor up in its own direction, N*m; negative where it slows down."""
    speed = (1 - np.asarray(slip)) * windings.synchronous_rad_s
    core, friction = own_losses_nm(windings, load, speed)
    holding = (friction + load.drag_nm()) * np.where(speed >= 0, 1.0, -1.0)
    return np.asarray(flow(windings, feed, slip).torque_nm - load.fan_nm(speed) - core - holding)


def operating_points(windings: Windings, feed: Feed, load: Load, roughly: bool = False) -> Points:
    """Where each motor runs, from rest if it starts, else where a push would take it.

    Every field of the three may be an array of one length. The stable crossing nearest to rest is taken where the
    motor starts; where it must be pushed, the fastest. roughly: fewer slips and a straight line between them, within
    1 % of the amps, for many at once.
    """
    windings, feed, load, many = _columns(windings, feed, load)
    steps = ROUGH_GRID if roughly else GRID
    slip = np.linspace(1.0, 0.0, steps)[None, :]
    surplus = np.broadcast_to(surplus_nm(windings, feed, load, slip), (many, steps))
    starts = surplus[:, 0] > 0
    stable = (surplus[:, :-1] > 0) & (surplus[:, 1:] <= 0)
    first, last = stable.argmax(axis=1), steps - 2 - stable[:, ::-1].argmax(axis=1)
    at = np.where(starts, first, last)
    crosses = stable.any(axis=1)
    state = np.where(~crosses, 2, np.where(starts, 0, 1))
    low, high = slip[0, at], slip[0, at + 1]
    if roughly:
        before, after = surplus[np.arange(many), at], surplus[np.arange(many), at + 1]
        crossing = low + (high - low) * before / np.where(crosses, before - after, 1.0)
    else:
        crossing = _crossing(windings, feed, load, low, high)
    found = np.where(crosses, crossing, 1.0)
    state = np.where(crosses & (found > 1 - _CREEP), 2, state)
    return _points(windings, feed, load, np.where(state == 2, 1.0, found), state)


def backwards_points(windings: Windings, feed: Feed, load: Load) -> Points:
    """Where each motor runs on when something turned it backwards first; stalled where the field turns it round."""
    windings, feed, load, many = _columns(windings, feed, load)
    slip = np.linspace(1.0 + _CREEP, 2.0, GRID)[None, :]
    surplus = np.broadcast_to(surplus_nm(windings, feed, load, slip), (many, GRID))
    stable = (surplus[:, :-1] < 0) & (surplus[:, 1:] >= 0)
    at = GRID - 2 - stable[:, ::-1].argmax(axis=1)
    found = _crossing(windings, feed, load, slip[0, at], slip[0, at + 1])
    runs = stable.any(axis=1)
    return _points(windings, feed, load, np.where(runs, found, 1.0), np.where(runs, 1, 2))


def resting_points(windings: Windings, feed: Feed, load: Load) -> Points:
    """Each motor held at rest under power."""
    windings, feed, load, many = _columns(windings, feed, load)
    return _points(windings, feed, load, np.ones(many), np.full(many, STATES.index("stalled")))


def _columns(windings: Windings, feed: Feed, load: Load) -> tuple[Windings, Feed, Load, int]:
    """Everything as columns, so that a row of slips broadcasts against it, and how many there are."""
    parts = [vars(windings), vars(feed), vars(load)]
    shape = np.broadcast_shapes((1,), *(np.shape(v) for part in parts for v in part.values()))

    def columns(part: dict[str, Number]) -> dict[str, Number]:
        return {
            name: np.reshape(np.broadcast_to(v, shape), (-1, 1)) if isinstance(v, np.ndarray) and v.ndim else v
            for name, v in part.items()
        }

    each, fed, asked = (columns(part) for part in parts)
    return Windings(**each), Feed(**fed), Load(**asked), shape[0]  # type: ignore[arg-type]


def _rows(windings: Windings, feed: Feed, load: Load, rows: NDArray[np.int64]) -> tuple[Windings, Feed, Load]:
    """Some rows of the columns."""

    def taken(part: object) -> dict[str, Number]:
        return {name: v[rows] if isinstance(v, np.ndarray) and v.ndim else v for name, v in vars(part).items()}

    return Windings(**taken(windings)), Feed(**taken(feed)), Load(**taken(load))  # type: ignore[arg-type]


def _crossing(windings: Windings, feed: Feed, load: Load, low: Floats, high: Floats) -> Floats:
    """The slip in each bracket where nothing is left over (Chandrupatla); its start if there is none."""
    from scipy.optimize.elementwise import find_root

    def left(slip: Floats, row: Floats) -> Floats:
        some = _rows(windings, feed, load, row.astype(np.int64))
        return surplus_nm(*some, slip[:, None])[:, 0]

    rows = np.arange(len(low), dtype=np.float64)
    found = find_root(left, (low, high), args=(rows,), tolerances={"xatol": ROOT_SLIP}, maxiter=20)
    return np.where(np.isfinite(found.x), found.x, low)


def _points(windings: Windings, feed: Feed, load: Load, slip: Floats, state: NDArray[np.int64]) -> Points:
    """Everything at the slips found, as flat arrays."""
    many = len(slip)
    at = flow(windings, feed, slip[:, None])
    speed = (1 - slip) * np.ravel(np.broadcast_to(windings.synchronous_rad_s, (many, 1)))
    shaft = np.abs(speed) * np.ravel(load.drag_nm() + np.abs(load.fan_nm(speed[:, None])))
    standing = flow(windings, feed, np.ones((many, 1))).torque_nm
    return Points(
        state=state,
        slip=slip,
        rpm=speed * 30 / np.pi,
        solved=_flat(at, many),
        shaft_w=np.asarray(shaft),
        starting_nm=np.ravel(np.broadcast_to(standing, (many, 1))),
    )


def _flat(solved: Solved, many: int) -> Solved:
    values: dict[str, Floats | Complexes] = {
        name: np.ravel(np.broadcast_to(value, (many, 1))) for name, value in vars(solved).items()
    }
    return Solved(**values)  # type: ignore[arg-type]
