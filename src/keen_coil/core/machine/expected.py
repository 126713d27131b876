"""What a motor should read under its conditions, as bands.

Each thing the plate or a meter leaves open is moved to either end in turn; what a reading does then is added up as
the root of the squares, upward and downward apart. So a band is wide where little is known and narrow where much is.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import lru_cache
from typing import Any

import numpy as np

from ..vocabulary import CurrentLeg, RunState, words_of
from .circuit import Complexes, Floats, Windings
from .conditions import Conditions, Model
from .fit import Fit
from .load import Load
from .operating_point import STATES, Feed, Points, backwards_points, operating_points, resting_points
from .rated import COVER, NEAR, SATURATION

SOURCE = "two-winding model fitted to the plate; an estimate"
Values = dict[str, Floats]
UNLOADED = 0.5
LEGS: tuple[CurrentLeg, ...] = words_of(CurrentLeg)


@dataclass(frozen=True)
class Range:
    """An estimate: the least, the middle and the most."""

    low: float
    mid: float
    high: float

    @property
    def ends(self) -> tuple[float, float, float]:
        """Least, middle and most, for an answer."""
        return self.low, self.mid, self.high

    def text(self, unit: str = "", digits: int = 3) -> str:
        """Written out: `1.31 to 1.46 A`; amps to hundredths, as a clamp shows them."""
        places = max(0, min(3, digits - 1 - int(np.floor(np.log10(max(abs(self.high), 1e-9))))))
        places = 2 if unit == "A" else places
        return f"{self.low:.{places}f} to {self.high:.{places}f} {unit}".strip()


@dataclass(frozen=True)
class Expected:
    """What to expect of a motor: amps on each leg (whole, capacitor, winding), rpm, volts across the capacitor.

    unloaded_a: the whole amps at half its load, below which hub, wheel or air are to blame. rest_amps_a: amps at rest.
    Starting torque is per cent of the rated one. `sure_of_state` is False when the motor starts with some
    values of what is left open and not with others. backwards_rpm: the speed at which it would run on if turned
    backwards first, None when the field turns it round.
    """

    starts: RunState
    sure_of_state: bool
    run_amps_a: dict[str, Range]
    run_rpm: Range
    capacitor_v: Range | None
    shaft_w: Range
    input_w: Range
    starting_torque_pct: Range
    rest_amps_a: dict[str, Range]
    backwards_rpm: float | None
    unloaded_a: float
    conditions: Conditions

    @property
    def legs_a(self) -> dict[str, Range]:
        """Amps on each leg as it is left alone: at rest where it does not turn by itself."""
        return self.run_amps_a if self.turns else self.rest_amps_a

    @property
    def shaft_nm(self) -> float:
        """Torque at the shaft where it runs, N*m; 0 at rest."""
        return self.shaft_w.mid / (self.run_rpm.mid * np.pi / 30) if self.run_rpm.mid else 0.0

    @property
    def turns(self) -> bool:
        """Whether it turns, left to itself."""
        return self.starts == "starts_and_runs"


def load_of(fit: Fit, share: Any = 1.0, drag: Any = 0.0) -> Load:
    """The fan through the plate's rated point, as a share of it, with drag."""
    return Load(fit.rated.shaft_w, fit.rated_rad_s, share, drag)


def expected(model: Model) -> Expected:
    """What the motor should read under its conditions."""
    return _expected(model.fit, model.conditions)


@lru_cache(maxsize=1024)
def _expected(fit: Fit, at: Conditions) -> Expected:
    windings, feed, load, factors, points = running(fit, at)
    bands = {name: band(values, factors, points) for name, values in readings_at(fit, at.swapped, points).items()}
    standing = readings_at(fit, at.swapped, resting_points(windings, feed, load))
    rest: dict[str, Range] = {leg: band(standing[leg], factors, None) for leg in LEGS}
    middle = feed_of(at)
    light = operating_points(fit.windings, middle, load_of(fit, UNLOADED * at.load, at.drag))
    back = backwards_points(fit.windings, middle, load_of(fit, at.load, at.drag))
    open_ = at.uf == 0 or not np.isfinite(at.uf)
    return Expected(
        starts=STATES[int(points.state[0])],
        sure_of_state=bool((points.state == points.state[0]).all()),
        run_amps_a={leg: bands[leg] for leg in LEGS},
        run_rpm=bands["rpm"],
        capacitor_v=None if open_ else bands["capacitor_v"],
        shaft_w=bands["shaft_w"],
        input_w=bands["input_w"],
        starting_torque_pct=bands["starting"],
        rest_amps_a=rest,
        backwards_rpm=float(-back.rpm[0]) if back.runs[0] else None,
        unloaded_a=float(np.abs(light.solved.line_a[0])),
        conditions=at,
    )


def feed_of(at: Conditions) -> Feed:
    """What the windings get, in the middle of what is known."""
    return Feed(at.volts_v.mid, at.uf, at.swapped)


Factors = tuple[tuple[str, int], ...]


@lru_cache(maxsize=256)
def running(fit: Fit, at: Conditions) -> tuple[Windings, Feed, Load, Factors, Points]:
    """The varied motors under their conditions and where each of them runs; kept for who asks next for the same."""
    windings, feed, load, factors = _varied(fit, at)
    return windings, feed, load, factors, operating_points(windings, feed, load)


def _varied(fit: Fit, at: Conditions) -> tuple[Windings, Feed, Load, Factors]:
    """The members of the fit, then the middle one with volts, capacitor, load and iron moved to either end."""
    more: list[tuple[str, int, dict[str, float]]] = [
        ("volts", -1, {"volts": at.volts_v.low}),
        ("volts", 1, {"volts": at.volts_v.high}),
    ]
    if np.isfinite(at.uf) and at.capacitor_uf.high > 0:
        more += [("uf", -1, {"uf": at.capacitor_uf.low}), ("uf", 1, {"uf": at.capacitor_uf.high})]
    if at.load_low < 1:
        more.append(("load", -1, {"load": at.load * at.load_low}))
    over = max(0.0, at.volts_v.mid / fit.rated.volts_v - 1)
    if over:
        more.append(("iron", -1, {"xm": 1 / (1 + SATURATION * over)}))
    many = len(fit.factors)

    def column(name: str, middle: float) -> Floats:
        return np.array([middle] * many + [change.get(name, middle) for *_, change in more])

    windings = _joined(fit.members, fit.windings, column("xm", 1.0)[many:])
    feed = Feed(column("volts", at.volts_v.mid), column("uf", at.uf), at.swapped)
    return windings, feed, load_of(fit, column("load", at.load), at.drag), (*fit.factors, *((n, e) for n, e, _ in more))


def _joined(members: Windings, middle: Windings, xm: Floats) -> Windings:
    """The members followed by the middle as often as there is an `xm` factor."""
    found = {}
    for field in fields(Windings):
        value, own = getattr(members, field.name), getattr(middle, field.name)
        rest = np.full(len(xm), own) * (xm if field.name == "xm_ohm" else 1.0)
        found[field.name] = np.concatenate([value, rest]) if isinstance(value, np.ndarray) else own
    return Windings(**found)


def _legs(main: Complexes, aux: Complexes, line: Complexes, swapped: bool) -> Values:
    """Amps by the leg a technician clamps: the capacitor's lead carries the winding it is in series with."""
    capacitor, winding = (main, aux) if swapped else (aux, main)
    return {"whole": np.abs(line), "capacitor": np.abs(capacitor), "winding": np.abs(winding)}


def readings_at(fit: Fit, swapped: bool, points: Points) -> Values:
    """What meters would read at the points: amps by leg, rpm, volts, watts, starting torque in per cent."""
    solved = points.solved
    return _legs(solved.main_a, solved.aux_a, solved.line_a, swapped) | {
        "rpm": points.rpm,
        "capacitor_v": solved.capacitor_v,
        "shaft_w": points.shaft_w,
        "input_w": solved.input_w,
        "starting": 100 * points.starting_nm / fit.rated_torque_nm,
    }


def band(values: Floats, factors: tuple[tuple[str, int], ...], points: Points | None, least: float = 0.0) -> Range:
    """Root of the squares of what each factor does, upward and downward apart.

    Members in another state than the middle (stalled where it runs) say nothing about its reading.
    """
    values = np.broadcast_to(values, (len(factors),))
    middle = float(values[0])
    alike = np.ones(len(factors), dtype=bool) if points is None else points.runs == points.runs[0]
    up: dict[str, float] = {}
    down: dict[str, float] = {}
    for (name, _), value, same in zip(factors, values, alike, strict=True):
        if same:
            step = (float(value) - middle) * (COVER / NEAR if name.startswith("open") else 1.0)
            up[name] = max(up.get(name, 0.0), step)
            down[name] = max(down.get(name, 0.0), -step)
    low = middle - float(np.sqrt(sum(step**2 for step in down.values())))
    high = middle + float(np.sqrt(sum(step**2 for step in up.values())))
    return Range(min(max(low, least), middle), middle, high)
