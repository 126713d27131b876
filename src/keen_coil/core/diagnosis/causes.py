"""The cause behind the failure, and the cautions, read from `causes.toml`."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from pydantic import BaseModel

from ..call import Call
from ..judge.capacitor import bleed_s
from ..tables import listed, table
from ..vocabulary import Verdict
from .applies import has
from .case import Case
from .evidence import known_signals
from .unit_path import is_welded


class Cause(BaseModel):
    """Something that kills the next part too, and what to do about it."""

    cause: str
    says: str
    do: str


class CauseRow(NamedTuple):
    """A cause, the signals that show it, the verdicts it matters for."""

    cause: str
    signals: tuple[str, ...]
    says: str
    do: str


_TABLE = table(__package__, "causes")
CAUSES: tuple[CauseRow, ...] = listed(
    CauseRow, [{"cause": key, **row} for key, row in _TABLE["causes"].items()], "causes"
)
_NOT_LOOKED: dict[str, dict[str, dict[str, str]]] = _TABLE["not_looked"]
_DRAINS = Cause(cause="drains", **_TABLE["drains"])


def causes(case: Case, verdict: Verdict, signals: set[str], states: Mapping[str, str]) -> list[Cause]:
    """Causes shown by readings; for a condemned motor also what nobody has looked at."""
    found = [Cause(cause=row.cause, says=row.says, do=row.do) for row in CAUSES if signals & set(row.signals)]
    if verdict != "condemn_motor":
        return found
    looked = any(case.call.standing(kind) for kind in ("air_path", "vent_drain"))
    rows = _NOT_LOOKED["condenser_fan"] | _NOT_LOOKED.get(case.call.motor.role or "", {})
    found += [
        Cause(cause=link, **row)
        for link, row in rows.items()
        if states[link] == "unproved" and not (link == "air" and looked)
    ]
    return [*found, _DRAINS] if case.call.motor.role in (None, "condenser_fan") else found


class CautionRow(NamedTuple):
    """A caution and what it hangs on: a condition by name, or any of some signals."""

    says: str
    when: str = ""
    signals: tuple[str, ...] = ()

    def holds(self, case: Case) -> bool:
        """Whether it holds for this case."""
        return CONDITIONS[self.when](case) if self.when else bool(set(self.signals) & set(case.signals))


def _motor_and_wire_clear(case: Case) -> bool:
    """After a trip: the motor tested to ground and its wire as well, and neither is what tripped it."""
    keys = set(case.signals)
    tripped = bool({"breaker.tripped", "fuse.open", "starter.tripped"} & keys) or case.call.complaint.symptom == "trips"
    return (
        tripped
        and bool({"ground.clear", "megger.good", "ecm_frame.clear"} & keys)
        and bool({"line_ground.clear", "conductor.sound"} & keys)
    )


def _single_pole(case: Case) -> bool:
    switch = case.call.unit.switch
    return switch is not None and switch.poles == 1


def _condenser_fan(case: Case) -> bool:
    return case.call.motor.role == "condenser_fan"


CONDITIONS: dict[str, Callable[[Case], bool]] = {
    "always": lambda case: True,
    "single_pole": _single_pole,
    "ecm": lambda case: case.call.motor.traits.is_electronic,
    "motor_and_wire_clear": _motor_and_wire_clear,
    "welded": is_welded,
    "gas_furnace": lambda case: case.call.unit.kind == "furnace" and case.call.motor.role != "inducer",
    "inducer": lambda case: case.call.motor.role == "inducer",
    "blower_with_heater": lambda case: case.call.motor.role == "indoor_blower" and case.call.unit.kind != "fan_coil",
    "three_phase": lambda case: case.call.line_phase == 3,
    "mildly_flammable": lambda case: bool(case.call.unit.refrigerant_mildly_flammable),
    "heat_pump": lambda case: case.call.unit.kind == "heat_pump_outdoor",
    "other_condenser_fan": lambda case: _condenser_fan(case) and case.call.unit.kind != "heat_pump_outdoor",
}
"""What a caution may hang on, by name."""
CAUTIONS: tuple[CautionRow, ...] = listed(CautionRow, _TABLE["cautions"], "causes, cautions")
MEANWHILE: tuple[CautionRow, ...] = listed(CautionRow, _TABLE["meanwhile"], "causes, meanwhile")
known_signals({key for row in CAUSES for key in row.signals}, "causes.toml")
known_signals({key for row in (*CAUTIONS, *MEANWHILE) for key in row.signals}, "causes.toml, cautions")
_RUNS_ON: frozenset[Verdict] = frozenset({"no_fault_found"})


def runs_now(call: Call) -> bool:
    """Whether the last look at the motor saw it run the right way: the one that is in, after the last change."""
    looks = [*call.standing("turns_way", proof=True)] or [*call.standing("turns_way"), *call.standing("run_amps_a")]
    if not looks:
        return False
    last = looks[-1][1]
    return last.value == "right" or (last.kind == "run_amps_a" and max(last.numbers) > 0.1)


def meanwhile(case: Case, verdict: Verdict) -> list[str]:
    """What to do with the unit until the part is in; nothing while it is seen to run."""
    return [] if verdict in _RUNS_ON or runs_now(case.call) else [row.says for row in MEANWHILE if row.holds(case)]


def cautions(case: Case) -> list[str]:
    """The cautions for this unit, the capacitor's bleed time computed."""
    found = [row.says for row in CAUTIONS if row.holds(case)]
    if has(case.call, "capacitor"):
        found.insert(1, bleed_caution(case))
    return found


def bleed_caution(case: Case) -> str:
    """How long to hold the resistor on the capacitor, for every pair of its terminals."""
    hold = bleed_s(case.call)
    time = "a second for every 10 µF on its label," if hold is None else f"{hold} second{'s' if hold > 1 else ''}"
    pairs = "for each pair of its terminals" if len(case.call.capacitor.label) > 1 else "across its terminals"
    return (
        f"Bleed the capacitor through a 20 kohm 5 W resistor, {time} {pairs}, then read it with the meter. "
        "A resistor makes no arc and spares the part. A screwdriver does neither."
    )
