"""Scenarios of the motor model, and what each would read over what is open about volts, capacitor and load."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..machine.circuit import Windings
from ..machine.conditions import Conditions
from ..machine.expected import load_of, readings_at
from ..machine.fit import CONDITIONS, Fit
from ..machine.load import Load
from ..machine.operating_point import Feed, operating_points, resting_points
from ..machine.rated import LOAD_HIGH, LOAD_LOW

What = Literal[
    "nothing", "uf", "volts", "supply_volts", "load", "drag", "aux_open", "main_open", "swapped", "shorted", "locked"
]


class Scenario(NamedTuple):
    """A change of the model from one end to the other, as a factor of what is right, and how it is put in words."""

    what: What
    low: float
    high: float
    says: str


SCENARIOS: dict[str, Scenario] = {
    "healthy": Scenario("nothing", 1, 1, "as it should be"),
    "weak_capacitor": Scenario("uf", 0.15, 0.92, "with {uf:.1f} µF"),
    "small_capacitor": Scenario("uf", 0.45, 0.8, "with {uf:.1f} µF"),
    "large_capacitor": Scenario("uf", 1.2, 2.1, "with {uf:.1f} µF"),
    "open_auxiliary": Scenario("aux_open", 1, 1, "on the main winding alone"),
    "shorted_capacitor": Scenario("uf", float("inf"), float("inf"), "with the capacitor shorted"),
    "open_main": Scenario("main_open", 1, 1, "on the start winding alone"),
    "shorted_turns": Scenario("shorted", 0.015, 0.2, "with {pct:.0f} % of the main turns shorted"),
    "low_volts": Scenario("supply_volts", 0.75, 0.93, "on {volts:.0f} V"),
    "bad_contact": Scenario("volts", 0.35, 0.95, "on {volts:.0f} V behind the contact"),
    "high_volts": Scenario("supply_volts", 1.08, 1.2, "on {volts:.0f} V"),
    "dragging": Scenario("drag", 0.04, 0.6, "with a drag of {pct:.0f} % of its torque"),
    "held_fast": Scenario("locked", 1, 1, "held fast"),
    "starved_propeller": Scenario("load", 1.08, 1.6, "with the fan asking {pct:.0f} % of its torque"),
    "starved_wheel": Scenario("load", 0.35, 0.85, "with the wheel asking {pct:.0f} % of its torque"),
    "odd_fan": Scenario("load", 0.5, 1.5, "with the fan asking {pct:.0f} % of its torque"),
    "slipping": Scenario("load", 0.02, 0.65, "with the fan asking {pct:.0f} % of its torque"),
    "other_fan": Scenario("load", 0.3, 2.6, "with the fan asking {pct:.0f} % of its torque"),
    "swapped_leads": Scenario("swapped", 1, 1, "with the capacitor in the main winding"),
}

_CUT = (("dead", 0.96), ("healthy", 0.02), ("broad", 0.02))
_SAME = (("healthy", 0.95), ("broad", 0.05))
SHOWS: dict[str, tuple[tuple[str, float], ...]] = {
    "none": (("healthy", 1.0),),
    "capacitor_weak": (("weak_capacitor", 1.0),),
    "capacitor_damaged": (("healthy", 0.5), ("weak_capacitor", 0.5)),
    "capacitor_open": (("open_auxiliary", 1.0),),
    "winding_start_open": (("open_auxiliary", 1.0),),
    "capacitor_shorted": (("shorted_capacitor", 0.8), ("broad", 0.2)),
    "capacitor_high": (("large_capacitor", 1.0),),
    "capacitor_wrong_value": (("small_capacitor", 0.5), ("large_capacitor", 0.5)),
    "winding_run_open": (("open_main", 1.0),),
    "winding_turns_shorted": (("shorted_turns", 0.85), ("broad", 0.15)),
    "supply_low": (("low_volts", 1.0),),
    "supply_high": (("high_volts", 1.0),),
    "switch_contacts_bad": (("bad_contact", 0.4), ("dead", 0.4), ("healthy", 0.2)),
    "connection_bad": (("bad_contact", 0.4), ("dead", 0.4), ("healthy", 0.2)),
    "bearings_worn": (("dragging", 0.7), ("healthy", 0.3)),
    "load_rubbing": (("dragging", 0.8), ("healthy", 0.2)),
    "bearings_seized": (("held_fast", 1.0),),
    "load_jammed": (("held_fast", 1.0),),
    "load_damaged": (("odd_fan", 0.7), ("healthy", 0.3)),
    "hub_loose": (("slipping", 0.8), ("healthy", 0.2)),
    "belt_bad": (("slipping", 0.8), ("healthy", 0.2)),
    "wrong_rotation": (("odd_fan", 0.8), ("healthy", 0.2)),
    "wrong_motor_fitted": (("other_fan", 0.8), ("healthy", 0.2)),
    "miswired": (("swapped_leads", 0.4), ("broad", 0.4), ("open_auxiliary", 0.1), ("dead", 0.1)),
    "winding_grounded": (("healthy", 0.3), ("broad", 0.5), ("dead", 0.2)),
    "conductor_open": (("dead", 0.7), ("open_auxiliary", 0.2), ("open_main", 0.1)),
    "fuse_open": (("dead", 0.9), ("broad", 0.1)),
    "winding_open": _CUT,
    "overload_open": _CUT,
    "overload_tripped": _CUT,
}
AIR = {"propeller": "starved_propeller", "wheel": "starved_wheel"}
"""What restricted air is to the two kinds of fan; its share of the fault's showing at all is 0.75."""
_HELD = (
    "defrost_hold delay_hold fan_control_hold leak_lockout_hold board_lockout door_switch_open safety_open "
    "pressure_switch_stuck supply_missing breaker_tripped disconnect_open switch_not_pulled_in control_call_absent"
).split()


def shows(fault: str, wheel: bool) -> tuple[tuple[str, float], ...]:
    """How a fault shows in amps, speed and capacitor volts: scenarios with their shares."""
    if fault == "air_restricted":
        return ((AIR["wheel" if wheel else "propeller"], 0.75), ("healthy", 0.25))
    if fault in _HELD:
        return _CUT
    return SHOWS.get(fault, _SAME)


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
    if row.what == "volts" or (row.what == "supply_volts" and not at.volts_read):
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
