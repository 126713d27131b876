"""What was done to a practice unit, as far as it changes what the unit is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from ...call import Call
from ...changes import CHANGES
from ...diagnosis.faults import FAULTS
from ...errors import InvalidField
from ...hookup.answer import Check
from ...hookup.check import check_call
from ...match.catalogue import CatalogueMotor
from ...record import KeptCapacitor, KeptPlan
from ...swap.steps import CONNECTED, GOES_IN, ROWS
from ...tables import listed, records, table

MOTOR_OUT = frozenset({"condemn_motor", "replace_wrong_motor", "runs_worn", "usable_limited", "cool_and_retest"})
"""Verdicts of the faults that go out with the old motor."""
WITH_THE_MOTOR = frozenset(
    {name for name, row in FAULTS.items() if row.verdict in MOTOR_OUT} | {"insulation_low", "wrong_rotation"}
)
BY_OTHER_ACTS = frozenset(
    name
    for name, row in FAULTS.items()
    if row.verdict in ("not_the_motor", "dry_and_retest") and not any(name in act.cures for act in CHANGES.values())
)
"""Faults that no act of the table cures: they are put right by an act of another name, where they were named."""
_MENDED = {row.key: row.mends[0] for row in ROWS if row.mends}


@dataclass(frozen=True)
class WorkDone:
    """What was done: the parts that are in, the wiring's check, steps in their order, acts, faults that were named.

    motor: None while the old one is in. uf: of the capacitor that went in. wired: None where nobody laid wires, which
    are then those of the motor's own diagram. follow_up: somebody returns for what is temporary.
    """

    motor: CatalogueMotor | None = None
    uf: float | None = None
    capacitor: KeptCapacitor | None = None
    module: bool = False
    wired: Check | None = None
    steps: tuple[str, ...] = ()
    skipped: frozenset[str] = frozenset()
    acts: frozenset[str] = frozenset()
    named: frozenset[str] = frozenset()
    follow_up: bool = False

    def cures(self, fault: str) -> bool:
        """Whether a fault is gone: with the part that went out, by an act, or named and put right by another act."""
        if fault.startswith("capacitor_") and self.uf is not None:
            return True
        if (fault in WITH_THE_MOTOR and self.motor is not None) or (fault == "ecm_module" and self.module):
            return True
        if fault == "miswired" and self.wired is not None:
            return True
        if any(fault in CHANGES[act].cures for act in self.acts):
            return True
        return fault in BY_OTHER_ACTS and "other" in self.acts and fault in self.named


def work_done(
    call: Call,
    plan: KeptPlan,
    chosen: CatalogueMotor | None,
    steps: Sequence[tuple[str, bool]],
    named: frozenset[str] = frozenset(),
    follow_up: bool = False,
) -> WorkDone:
    """What was done on a call.

    Args: call, with its changes and planned wires; plan, what was settled at its stations; chosen, the motor as the
    shelf has it; steps of the swap in the order of their ticks, each with whether it was left out; named, faults.
    """
    done = tuple(key for key, out in steps if not out)
    into = chosen if chosen is not None and any(key in GOES_IN for key in done) else None
    can = plan.capacitor if plan.capacitor and any(key in CONNECTED for key in done) else None
    acts = {change.what for change in call.changes} | {_MENDED[key] for key in done if key in _MENDED}
    return WorkDone(
        motor=into,
        uf=can.uf if can and can.parts else None,
        capacitor=can,
        module="module_in" in done,
        wired=_check(call) if into is not None or call.chosen_motor is None else None,
        steps=done,
        skipped=frozenset(key for key, out in steps if out),
        acts=frozenset(acts),
        named=named,
        follow_up=follow_up,
    )


def _check(call: Call) -> Check | None:
    """What the wires that were laid do; None where none were."""
    if not call.hookup.planned:
        return None
    try:
        return check_call(call)
    except InvalidField:
        return None


class Consequence(NamedTuple):
    """The fault it comes back with, least and most months until then, effects at once, the share of life left."""

    brings: str
    months: tuple[float, float]
    says: str
    instead: str
    now: dict[str, float] = {}
    life: float = 1.0


class OrderRow(NamedTuple):
    """A step that must come before another; minutes it costs where it did not, and what may come of it."""

    before: str
    after: str
    says: str
    instead: str
    minutes: float
    brings: str = ""
    months: tuple[float, float] = (0.0, 0.0)


class Figures(NamedTuple):
    """Figures of the story: months, prices, minutes."""

    plate_life_months: float
    horizon_months: float
    capacitor_price: float
    uf_price: float
    module_price: float
    trip_min: float
    wires_min: float


_TABLE = table(__package__, "consequences")
SKIPPED, LEFT, WIRED, FITTED = (
    records(Consequence, _TABLE[name], "consequences") for name in ("skipped", "left", "wired", "fitted")
)
ORDER: tuple[OrderRow, ...] = listed(OrderRow, _TABLE["order"], "consequences")
FIGURES: Figures = records(Figures, {"figures": _TABLE["figures"]}, "consequences")["figures"]
ACT_MIN: dict[str, float] = records(float, _TABLE["acts"], "consequences")
"""Minutes of each act on the unit outside the swap."""
