"""How well each fault explains amps, legs, speed and capacitor volts together, by the motor model.

The likelihood of what was read under a fault is the mean over severities, volts, capacitor and load within what is
known: p(readings | fault) = sum over its scenarios of share * mean of the product of normal densities.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..call import Call
from ..judge.capacitor import load_spans
from ..judge.current import METHOD, amps_read
from ..judge.judged import Signal
from ..judge.modelled import plates_tap
from ..machine.conditions import Conditions, Model, model_of
from ..machine.expected import Expected, Range, expected
from ..machine.rated import NoModel
from ..readings import LoadPair
from ..speed import poles_of, synchronous_speed
from ..uncertainty import spans
from ..units import Span, fixed
from .case import Case
from .predicted import SCENARIOS, Predicted, predictions, shows

Floats = NDArray[np.float64]
ROOT_2_PI = math.sqrt(2 * math.pi)
OUTLIER = 0.04
"""Share of readings that are anything at all: misread, another tap, a jaw around two leads."""
SPREAD = {"whole": 0.05, "capacitor": 0.05, "winding": 0.05, "capacitor_v": 0.04}
SLIP_SPREAD, LEAST_RPM = 0.12, 3.0
"""Motors of one plate against each other, as shares: amps, volts, and slip (NEMA MG 1 tolerances, by analogy)."""
NO_CURRENT, NO_SPEED, NO_VOLTS = 0.02, 5.0, 5.0
SHOWN = 6
LIKELIER = 3.0
EXPLAINS_FROM = 0.02
SHOWS_FROM = 0.3
MOST_AMPS, MOST_VOLTS = 3.2, 1.8
FAMILIAR = 0.3
_UNITS = {"whole": "A", "capacitor": "A", "winding": "A", "rpm": "rpm", "capacitor_v": "V"}
_NAMES = {
    "whole": "",
    "capacitor": " in the capacitor lead",
    "winding": " in one winding",
    "rpm": "",
    "capacitor_v": " across the capacitor",
}


@dataclass(frozen=True)
class Read:
    """A running reading that the model speaks of: which quantity, its interval, its index."""

    quantity: str
    read: Span
    index: int


@dataclass(frozen=True)
class Explained:
    """A scenario that the readings fit: how well among all, its severity in words, what it would read."""

    faults: tuple[str, ...]
    share: float
    says: str
    values: dict[str, float]


@dataclass(frozen=True)
class ModelEvidence:
    """What the model says of the running readings: log likelihood by fault, 0 for the best, and what explains them."""

    reads: tuple[Read, ...]
    log_chance: dict[str, float]
    is_normal: bool
    signal: Signal
    explained: tuple[Explained, ...]
    should: Expected

    @property
    def replaces(self) -> frozenset[str]:
        """The questions of the evidence table that it stands in for."""
        read = {row.quantity for row in self.reads}
        return frozenset(({"amps", "amps_wheel"} if "whole" in read else set()) | ({"rpm"} if "rpm" in read else set()))


def model_evidence(case: Case, faults: tuple[str, ...], wheel: bool) -> ModelEvidence | None:
    """The model's evidence of a call's running readings; None without a model or without such a reading."""
    call = case.call
    reads = tuple(running_reads(case))
    if not reads:
        return None
    try:
        model = model_of(call)
    except NoModel:
        return None
    moving = bool({"turns.right", "turns.wrong", "push.starts"} & set(case.signals)) or any(
        r.quantity == "rpm" for r in reads
    )
    predicted = predictions(model.fit, model.conditions, moving)
    broad = _broad(reads, model)
    density = {name: _density(reads, values, model, broad) for name, values in predicted.items()}
    likelihood = {name: float(row.mean()) for name, row in density.items()}
    likelihood["broad"] = broad
    likelihood["dead"] = _dead(reads, model, broad)
    by_fault = {fault: sum(share * likelihood[name] for name, share in shows(fault, wheel)) for fault in faults}
    best = max(by_fault.values())
    should = expected(model)
    return ModelEvidence(
        reads=reads,
        log_chance={fault: float(np.log(value / best)) for fault, value in by_fault.items()},
        is_normal=likelihood["healthy"] >= FAMILIAR * max(likelihood.values()) or _inside(reads, should),
        signal=Signal("model", _says(reads, should), tuple(row.index for row in reads)),
        explained=_explained(faults, wheel, likelihood, density, predicted, model.conditions),
        should=should,
    )


def running_reads(case: Case) -> list[Read]:
    """The latest standing reading of each quantity the model speaks of, on the plate's tap, by a sound method."""
    found: dict[str, Read] = {}
    for kind in ("run_amps_a", "run_rpm", "capacitor_load"):
        for index, reading in case.call.standing(kind):
            judged = case.judged[index].judgement
            if reading.wrong_power or judged.state == "suspect" and judged.source == METHOD:
                continue
            if isinstance(reading.value, list) or not plates_tap(reading, case.call.motor, case.call.speeds_used):
                continue
            if isinstance(reading.value, LoadPair):
                for name, read in zip(
                    ("capacitor", "capacitor_v"), load_spans(reading, reading.value, case.call.meters), strict=True
                ):
                    found[name] = Read(name, read, index)
            elif reading.kind == "run_rpm":
                read = spans(reading, case.call.meters)[0]
                if judged.finding != "out" or read.low <= _synchronous(case.call):
                    found["rpm"] = Read("rpm", read, index)
            else:
                leg = reading.leg if reading.leg in ("capacitor", "winding") else "whole"
                found[leg] = Read(leg, amps_read(reading, case.call)[0], index)
    return list(found.values())


def _synchronous(call: Call) -> float:
    """Synchronous speed by the plate, rpm; speeds above it are another class of motor, which the table knows."""
    hz = call.motor.hz or call.unit.hz or 60
    poles = call.motor.poles or poles_of(call.motor.rpm, hz)
    return synchronous_speed(poles, call.unit.hz or hz) if poles else 0.0


def _density(reads: tuple[Read, ...], predicted: Predicted, model: Model, broad: float) -> Floats:
    """Density of the readings at each sample of a scenario, with a share of readings that are anything."""
    total = np.ones(len(predicted.values["whole"]))
    for row in reads:
        expected_ = predicted.values[row.quantity]
        spread = np.hypot(row.read.u / 2, _spread(row.quantity, expected_, model))
        total = total * np.exp(-0.5 * ((row.read.mid - expected_) / spread) ** 2) / (spread * ROOT_2_PI)
    return np.asarray((1 - OUTLIER) * total + OUTLIER * broad)


def _spread(quantity: str, value: Floats, model: Model) -> Floats:
    """One spread of motors of this plate about the model, in the quantity's unit."""
    if quantity != "rpm":
        floor = 0.01 * (model.fit.rated.volts_v if quantity == "capacitor_v" else model.fit.rated.amps_a)
        return np.asarray(np.maximum(SPREAD[quantity] * value, floor))
    plate = model.fit.rated
    return np.asarray(SLIP_SPREAD * (synchronous_speed(plate.poles, float(model.fit.windings.hz)) - value) + LEAST_RPM)


def _range(quantity: str, model: Model) -> float:
    """How far apart readings of a quantity can lie on this motor, in its unit."""
    plate = model.fit.rated
    if quantity == "rpm":
        return 1.1 * synchronous_speed(plate.poles, float(model.fit.windings.hz))
    return MOST_VOLTS * plate.capacitor_v if quantity == "capacitor_v" else MOST_AMPS * plate.amps_a


def _broad(reads: tuple[Read, ...], model: Model) -> float:
    return math.prod(1 / _range(row.quantity, model) for row in reads)


def _dead(reads: tuple[Read, ...], model: Model, broad: float) -> float:
    """Density of the readings when no current flows."""
    total = 1.0
    for row in reads:
        least = {"rpm": NO_SPEED, "capacitor_v": NO_VOLTS}.get(row.quantity, NO_CURRENT * model.fit.rated.amps_a)
        spread = float(np.hypot(row.read.u / 2, least))
        total *= float(np.exp(-0.5 * (row.read.mid / spread) ** 2)) / (spread * float(np.sqrt(2 * np.pi)))
    return (1 - OUTLIER) * total + OUTLIER * broad


def _inside(reads: tuple[Read, ...], should: Expected) -> bool:
    """Whether every reading lies in the band of what is expected, or reaches into it."""
    return all(
        row.read.high >= band.low and row.read.low <= band.high for row in reads for band in [band_for(row, should)]
    )


def band_for(row: Read, should: Expected) -> Range:
    """What is expected of the quantity that was read."""
    if row.quantity == "rpm":
        return should.run_rpm
    if row.quantity == "capacitor_v":
        return should.capacitor_v or Range(0.0, 0.0, 0.0)
    return should.legs_a[row.quantity]


def _written(quantity: str, value: float) -> str:
    """A value of a quantity in words: `1.62 A`, `0.41 A in the capacitor lead`."""
    number = f"{value:.0f}" if quantity in ("rpm", "capacitor_v") else fixed(value)
    return f"{number} {_UNITS[quantity]}{_NAMES[quantity]}"


def _says(reads: tuple[Read, ...], should: Expected) -> str:
    return ", ".join(f"{_written(row.quantity, row.read.mid)} ({_expected(row, should)} expected)" for row in reads)


def _expected(row: Read, should: Expected) -> str:
    return band_for(row, should).text("", 4 if row.quantity == "rpm" else 3)


@lru_cache(maxsize=64)
def _possible(faults: tuple[str, ...], wheel: bool) -> dict[str, tuple[str, ...]]:
    """The faults of a call that show as each scenario."""
    parts = {fault: dict(shows(fault, wheel)) for fault in faults}
    return {name: tuple(fault for fault in faults if parts[fault].get(name, 0.0) >= SHOWS_FROM) for name in SCENARIOS}


def _explained(
    faults: tuple[str, ...],
    wheel: bool,
    likelihood: Mapping[str, float],
    density: Mapping[str, Floats],
    predicted: Mapping[str, Predicted],
    at: Conditions,
) -> tuple[Explained, ...]:
    """Scenarios by how well they fit what was read, each at the severity that fits best."""
    possible = _possible(faults, wheel)
    known = {"uf": at.uf_read, "volts": at.volts_read, "supply_volts": at.volts_read}
    shown = {
        name: likelihood[name]
        for name, row in SCENARIOS.items()
        if possible[name]
        and likelihood[name] > LIKELIER * OUTLIER * likelihood["broad"]
        and not (known.get(row.what) and name != "bad_contact")
    }
    whole = sum(shown.values())
    found = []
    for name, value in sorted(shown.items(), key=lambda item: -item[1])[:SHOWN]:
        best = int(density[name].argmax())
        values = {quantity: float(row[best]) for quantity, row in predicted[name].values.items()}
        says = SCENARIOS[name].says.format(**predicted[name].severity(best))
        found.append(Explained(possible[name], value / whole, says, values))
    return tuple(row for row in found if row.share >= EXPLAINS_FROM)
