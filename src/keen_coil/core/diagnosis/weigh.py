"""Weighing the faults: prior odds moved by the bits of the evidence table, fault by fault.

This is the seam for the belief engine: `Weigher` is all that `assess` knows of it.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import combinations

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Signal
from .evidence import EVIDENCE
from .faults import CAPACITOR_FAULTS, FAULTS

SHOWN_FROM = 0.02
TOGETHER_FROM = 0.05


class Ranked(BaseModel):
    """A fault with its probability and the readings that moved it."""

    fault: str
    probability: float
    speaks_for: list[str]
    speaks_against: list[str]


class Together(BaseModel):
    """Two faults that may be true at once."""

    faults: list[str]
    probability: float


Weigher = Callable[[Call, list[Signal]], list[Ranked]]


def weigh(call: Call, signals: list[Signal]) -> list[Ranked]:
    """Every fault possible in this unit with its marginal probability, the likeliest first."""
    ranked = [_rank(fault, signals) for fault in FAULTS if fault != "none" and possible(fault, call)]
    clear = 1.0
    for row in ranked:
        clear *= 1 - row.probability
    none = _rank("none", signals)
    none.probability *= clear
    return sorted([*ranked, none], key=lambda row: -row.probability)


def _rank(fault: str, signals: list[Signal]) -> Ranked:
    moved = [(EVIDENCE.get(signal.key, {}).get(fault, 0.0), signal) for signal in signals]
    bits = FAULTS[fault].prior_bits + sum(bit for bit, _ in moved)
    probability = 1 / (1 + 2.0 ** -max(-60.0, min(60.0, bits)))
    strongest = sorted((item for item in moved if item[0]), key=lambda item: -abs(item[0]))
    return Ranked(
        fault=fault,
        probability=probability,
        speaks_for=[signal.says for bit, signal in strongest if bit > 0],
        speaks_against=[signal.says for bit, signal in strongest if bit < 0],
    )


def together(ranked: list[Ranked]) -> list[Together]:
    """Pairs of faults that may be true at once, independent as far as this table knows."""
    likely = [row for row in ranked if row.fault != "none" and row.probability >= TOGETHER_FROM]
    pairs = [(a, b, a.probability * b.probability) for a, b in combinations(likely, 2)]
    pairs = sorted((pair for pair in pairs if pair[2] >= TOGETHER_FROM), key=lambda pair: -pair[2])
    return [Together(faults=[a.fault, b.fault], probability=round(p, 4)) for a, b, p in pairs[:6]]


_ONLY: dict[str, Callable[[Call], bool]] = {
    "ecm": lambda call: call.motor.kind == "ecm",
    "three_phase": lambda call: 3 in (call.motor.phase, call.unit.phase) or call.motor.kind == "three_phase",
    "psc": lambda call: call.motor.kind in (None, "psc"),
    "capacitor": lambda call: call.motor.kind in (None, "psc"),
    "taps": lambda call: (call.motor.speeds or 1) > 1,
    "belt": lambda call: call.motor.drive == "belt",
    "starter": lambda call: call.unit.switch is not None and call.unit.switch.kind == "starter",
    "inducer": lambda call: call.motor.role in (None, "inducer"),
}
_NEEDS = {
    "ecm_command_absent": "ecm", "ecm_power_absent": "ecm", "ecm_module": "ecm", "ecm_motor": "ecm",
    "ecm_module_or_motor": "ecm", "voltage_unbalance": "three_phase", "phase_lost": "three_phase",
    "winding_start_open": "psc", "winding_tap_open": "taps", "belt_bad": "belt",
    "starter_overload_tripped": "starter", "vent_or_drain_blocked": "inducer",
    "pressure_switch_stuck": "inducer", **{name: "capacitor" for name in CAPACITOR_FAULTS},
}  # fmt: skip


def possible(fault: str, call: Call) -> bool:
    """Whether this unit can have the fault at all."""
    need = _NEEDS.get(fault)
    return need is None or _ONLY[need](call)
