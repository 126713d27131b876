"""What each scenario would read, over its severities and what is left open about volts, capacitor and load."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..machine.circuit import Windings
from ..machine.conditions import Conditions
from ..machine.even_points import CONDITIONS
from ..machine.expected import load_of, readings_at
from ..machine.fit import Fit
from ..machine.load import Load
from ..machine.operating_point import Feed, operating_points, resting_points
from ..machine.priors import LOAD_HIGH, LOAD_LOW
from .scenarios import SCENARIOS, Scenario

Floats = NDArray[np.float64]
SAMPLES = len(CONDITIONS)
LEAST_VOLTS_U = 0.004
QUANTITIES = ("whole", "capacitor", "winding", "rpm", "capacitor_v")


@dataclass(frozen=True)
class Predicted:
    """A scenario's readings by quantity, one entry for each sample, with the sample's volts, µF and severity."""

    values: dict[str, Floats]
    volts_v: Floats
    uf: Floats
    factor: Floats

    def severity(self, sample: int) -> dict[str, float]:
        """The sample in words' figures: volts, µF, per cent."""
        return {"volts": self.volts_v[sample], "uf": self.uf[sample], "pct": 100 * self.factor[sample]}


@dataclass(frozen=True)
class _Asked:
    """The samples of a scenario: what the windings get and the fan asks."""

    volts: Floats
    uf: Floats
    load: Floats
    drag: Floats
    factor: Floats


@lru_cache(maxsize=128)
def predictions(fit: Fit, at: Conditions, moving: bool) -> dict[str, Predicted]:
    """What every scenario would read on this motor under these conditions: A, rpm and V for each sample.

    A scenario changes one thing of the feed or the fan (`scenarios.py`). Each of its samples is one motor drawn from
    those as likely as any of the plate, with volts, microfarads, load and size of the fault drawn from what is known
    of them, by the same Sobol points everywhere (`even_points`). The readings are those of the operating point where
    motor torque and fan torque meet, T_m(s) = T_f(n) + drag (`operating_point`). How likely a reading x is under a
    scenario is the mean of its density over the samples i, a share e of readings being anything at all:
        p(x) = (1 - e) / N * sum over i of N(x; x_i, u^2 + spread_i^2) + e / range
    (`model_evidence`). Args: moving, that the motor was seen to turn; one that only runs when pushed is then taken as
    running, else as standing.
    """
    box = CONDITIONS
    names = [name for name, row in SCENARIOS.items() if row.what not in ("swapped", "shorted")]
    asked = {name: _asked(row, at, box) for name, row in SCENARIOS.items()}

    def many(name: str) -> Floats:
        return np.concatenate([getattr(asked[one], name) for one in names])

    def where(what: str) -> Floats:
        return np.concatenate([np.full(SAMPLES, np.inf if SCENARIOS[one].what == what else 0.0) for one in names])

    feed = Feed(many("volts"), many("uf"), main_ohm=where("main_open"), aux_ohm=where("aux_open"))
    windings = _each_sample(fit, len(names))
    load = load_of(fit, many("load"), many("drag"))
    held = np.concatenate([np.full(SAMPLES, SCENARIOS[one].what == "locked") for one in names])
    whole = _read(fit, windings, feed, load, moving, held)
    found = {
        name: _one(asked[name], {q: v[i * SAMPLES : (i + 1) * SAMPLES] for q, v in whole.items()})
        for i, name in enumerate(names)
    }
    for name in SCENARIOS:
        if name not in found:
            found[name] = _apart(fit, name, asked[name], moving)
    return found


def _one(asked: _Asked, values: dict[str, Floats]) -> Predicted:
    return Predicted(values, asked.volts, asked.uf, asked.factor)


def _apart(fit: Fit, name: str, asked: _Asked, moving: bool) -> Predicted:
    """Scenarios that change the circuit itself: leads swapped, turns shorted."""
    row = SCENARIOS[name]
    feed = Feed(
        asked.volts, asked.uf, swapped=row.what == "swapped", shorted=asked.factor if row.what == "shorted" else 0.0
    )
    load = load_of(fit, asked.load, asked.drag)
    return _one(asked, _read(fit, _each_sample(fit, 1), feed, load, moving, np.zeros(SAMPLES, dtype=bool)))


def _each_sample(fit: Fit, times: int) -> Windings:
    """A drawn motor for each sample of so many scenarios."""
    return Windings(
        **{
            name: np.resize(value, SAMPLES * times) if isinstance(value, np.ndarray) else value
            for name, value in vars(fit.draws).items()
        }
    )


def _asked(row: Scenario, at: Conditions, box: Floats) -> _Asked:
    """The samples of a scenario. A capacitor that was measured, or volts that were read, are not guessed at again."""
    volts = at.volts_v.mid + (2 * box[:, 1] - 1) * max(at.volts_v.u, LEAST_VOLTS_U * at.volts_v.mid)
    endless = np.isinf(at.uf)
    uf = np.full(SAMPLES, np.inf) if endless else at.uf + (2 * box[:, 2] - 1) * at.capacitor_uf.u
    load = at.load * (LOAD_LOW + (LOAD_HIGH - LOAD_LOW) * box[:, 3])
    factor = np.full(SAMPLES, row.low) if row.low == row.high else row.low + (row.high - row.low) * box[:, 0]
    drag = np.full(SAMPLES, at.drag)
    if row.what == "uf" and not at.uf_read:
        uf = factor if endless else np.full(SAMPLES, np.inf) if np.isinf(row.low) else uf * factor
    if row.what == "volts" and not (at.volts_read and row.says.endswith(" V")):
        volts = volts * factor
    if row.what == "load":
        load = at.load * factor
    if row.what == "drag":
        drag = drag + factor
    return _Asked(volts, np.maximum(uf, 0.0), load, drag, factor)


def _read(
    fit: Fit, windings: Windings, feed: Feed, load: Load, moving: bool, held: NDArray[np.bool_]
) -> dict[str, Floats]:
    """Readings where it runs, at rest where it does not."""
    points = operating_points(windings, feed, load, roughly=True)
    running = readings_at(fit, feed.swapped, points)
    rest = readings_at(fit, feed.swapped, resting_points(windings, feed, load))
    stands = held | (points.state == 2) | ((points.state == 1) & (not moving))
    return {name: np.where(stands, rest[name], running[name]) for name in QUANTITIES}
