"""The gate before a motor is condemned (contract, Gate).

A definite dead test condemns alone; every other condemnation needs the links ahead of the motor proved, and a
ECM, module or motor, line power and command as well.
"""

from __future__ import annotations

from dataclasses import dataclass

from .case import Case
from .compound import GATE_LINKS, TRIED_CAPACITOR
from .unit_path import LinkReport

_OPEN_COOL = (
    "winding.lead_open_cool",
    "winding.all_open_cool",
    "winding.phase_open_cool",
    "winding.two_lead_open_cool",
)
DEFINITE: dict[str, tuple[str, ...]] = {
    "winding_grounded": ("ground.grounded", "megger.grounded"),
    "insulation_low": ("ground.low_dried", "megger.low_dried"),
    "winding_start_open": ("winding.start_open_cool", *_OPEN_COOL),
    "winding_run_open": ("winding.run_open_cool", *_OPEN_COOL),
    "winding_open": (*_OPEN_COOL, "winding.start_open_cool", "winding.run_open_cool"),
    "overload_open": ("winding.common_open_cool", "winding.two_lead_open_cool"),
    "winding_turns_shorted": ("winding.phase_off",),
    "bearings_seized": ("shaft.locked",),
    "ecm_motor": ("ecm_windings.failed", "ecm_frame.failed"),
    "ecm_module_or_motor": ("ecm_windings.failed", "ecm_frame.failed"),
}
"""Dead tests that condemn alone: fault, the answers of which one is enough."""

COMMUTATED = ("ecm_module", "ecm_motor", "ecm_module_or_motor")
OHMS_OR_SISTER = ("winding.short", "winding.sum_off", "run.off", "sister.above")
"""What shorted turns by inference want beside the amps: running readings alone condemn nothing."""
SEEN_STILL = "turns.not"
"""Module or motor by inference: somebody must have seen it stand still with power and command there."""

PLUG = {"ecm_power.present": "supply", "ecm_command.present": "control"}


@dataclass(frozen=True)
class CondemnGate:
    """Whether a condemnation may pass, whether a dead test alone carries it, which links are still unproved."""

    is_open: bool
    definite: bool
    missing: list[str]


def gate(fault: str, case: Case, path: dict[str, LinkReport]) -> CondemnGate:
    """The gate for one condemning fault; contradicted readings count for nothing on the way here."""
    missing: list[str] = [link for link in GATE_LINKS if path[link].state not in ("proved", "not_applicable")]
    if TRIED_CAPACITOR in case.signals and "capacitor" in missing:
        missing.remove("capacitor")
    if fault in COMMUTATED:
        missing += [link for key, link in PLUG.items() if key not in case.signals and link not in missing]
    definite = _is_definite(fault, case, path)
    if fault == "bearings_seized" and path["load"].state not in ("proved", "not_applicable"):
        missing.append("load")
    if fault == "bearings_seized" and not {"spin.locked", "shaft.locked"} & set(case.signals):
        missing.append("bearings")
    stands = fault not in COMMUTATED or SEEN_STILL in case.signals
    if fault in COMMUTATED and not definite and not moves_by_hand(case) and "load" not in missing:
        missing.append("load")
    return CondemnGate(definite or (not missing and stands and _agreed(fault, case)), definite, missing)


def moves_by_hand(case: Case) -> bool:
    """Whether somebody turned the shaft: a jammed blade holds a good ECM still as well."""
    return any(r.value != "locked" for _, r in case.call.standing("spin") if not r.wrong_power)


def _agreed(fault: str, case: Case) -> bool:
    """Whether running readings that condemn have an independent kind beside them; a motor that stands needs none."""
    keys = set(case.signals)
    if fault != "winding_turns_shorted" or SEEN_STILL in keys:
        return True
    return bool(keys & set(OHMS_OR_SISTER)) and bool(keys & {"amps.over", "legs.uneven"})


def _is_definite(fault: str, case: Case, path: dict[str, LinkReport]) -> bool:
    keys = [key for key in DEFINITE.get(fault, ()) if key in case.signals]
    if fault == "overload_open":
        return bool(keys) and "conductor.sound" in case.signals
    if fault == "bearings_seized" and not keys:
        clear = "spin.locked" in case.signals and "load.sound" in case.signals
        return clear and path["connections"].state == "proved"
    return bool(keys)
