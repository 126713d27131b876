"""The gate before a motor is condemned (contract, Gate).

A definite dead test condemns alone; every other condemnation needs the links ahead of the motor proved.
"""

from __future__ import annotations

from dataclasses import dataclass

from .case import Case
from .compound import GATE_LINKS
from .unit_path import LinkReport

_DEFINITE = {
    "winding_grounded": ("ground.grounded",),
    "insulation_low": ("ground.low_dried",),
    "winding_start_open": ("winding.start_open",),
    "winding_run_open": ("winding.run_open",),
    "winding_open": ("winding.all_open", "winding.lead_open_cool", "winding.phase_open", "winding.two_lead_open_cool"),
    "overload_open": ("winding.common_open_cool", "winding.two_lead_open_cool"),
    "winding_turns_shorted": ("winding.phase_off",),
    "bearings_seized": ("spin.locked_bare",),
}


@dataclass(frozen=True)
class Gate:
    """Whether a condemnation may pass, whether a dead test alone carries it, which links are still unproved."""

    is_open: bool
    definite: bool
    missing: list[str]


def gate(fault: str, case: Case, path: dict[str, LinkReport]) -> Gate:
    """The gate for one condemning fault; a reading in a contradiction never passes it."""
    missing = [link for link in GATE_LINKS if path[link].state not in ("proved", "not_applicable")]
    definite = _is_definite(fault, case, path)
    return Gate(definite or (not missing and not case.contradictions), definite, missing)


def _is_definite(fault: str, case: Case, path: dict[str, LinkReport]) -> bool:
    keys = [key for key in _DEFINITE.get(fault, ()) if key in case.signals]
    if any(_doubted(key, case) for key in keys):
        return False
    if fault == "overload_open":
        return bool(keys) and "conductor.sound" in case.signals
    if fault == "bearings_seized" and not keys:
        clear = "spin.locked_load" in case.signals and "load.sound" in case.signals
        return clear and path["connections"].state == "proved" and not _doubted("spin.locked_load", case)
    return bool(keys)


def _doubted(key: str, case: Case) -> bool:
    readings = set(case.signals[key].readings)
    return any(readings & set(row.readings) for row in case.contradictions)


