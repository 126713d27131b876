"""Volts on the turns of the run winding as they are wired, and as they should be: straps, taps, the wrong line."""

from __future__ import annotations

from typing import NamedTuple

from ..call import Call
from ..outputs import outputs_of, speed_asked
from ..plates import Motor
from ..voltage import is_low_connection, range_for, ranges
from .circuit import Circuit, circuit, outputs
from .laying import tap_of_each
from .leads import MotorLeads
from .structure import across, fed_span, halves_in, in_window
from .terminals import Join


class VoltsPerTurn(NamedTuple):
    """Volts per turn as wired and as they should be, as shares of the plate's own at its highest speed."""

    wired: float
    should: float = 1.0

    @property
    def is_right(self) -> bool:
        """Whether they are the same within the spread of a plate's volts."""
        return abs(self.wired / self.should - 1) < 0.05


def volts_per_turn(
    call: Call, motor: Motor, leads: MotorLeads, wires: list[Join], planned: bool
) -> VoltsPerTurn | None:
    """The first mode whose turns get other volts than they should; None where all do, or it cannot be told.

    Halves that fight each other, and windings that lie on no two lines, have none: they are no matter of volts.
    """
    outs: list[str | None] = [*outputs(call, wires)]
    found = (_in_mode(call, motor, circuit(call, motor, leads, wires, out, planned), out) for out in outs or [None])
    return next((volts for volts in found if volts is not None and not volts.is_right), None)


def _in_mode(call: Call, motor: Motor, laid: Circuit, active: str | None) -> VoltsPerTurn | None:
    coils = [coil for coil in laid.coils if coil.axis == "main"]
    if len(coils) == 2 and all(coil.turns == 0.5 for coil in coils):
        low = None if motor.volts is None else is_low_connection(motor.volts, laid.supply_v)
        how = halves_in(laid, coils)
        if low is None or how not in ("series", "parallel") or (how == "parallel") == low:
            return None
        return VoltsPerTurn(0.5 if low else 2.0)
    span = fed_span(laid, coils)
    volts = None if span is None else across(laid, *span)
    if not volts or motor.volts is None:
        return None
    connection = range_for(motor.volts, laid.supply_v) or ranges(motor.volts)[0]
    share = 1.0 if in_window(motor.volts, volts) else volts / connection.high
    return _of_taps(call, laid, active, share) if laid.leads.taps else VoltsPerTurn(share)


def _of_taps(call: Call, laid: Circuit, active: str | None, share: float) -> VoltsPerTurn | None:
    """The tap that is fed against the one that the output asks for; more turns share the same volts."""
    taps = laid.leads.taps
    turns, total = {}, 0.0
    for tap, coil in zip(taps, (coil for coil in laid.coils if coil.axis == "main"), strict=False):
        total += coil.turns
        turns[tap] = total
    fed = [tap for tap in taps if laid.volts_of(laid.net_of(f"end.{tap}")) is not None]
    if len(fed) != 1 or fed[0] not in turns:
        return None
    wanted = [out for out in outputs_of(call) if not out.assumed]
    mine = next((out for out in wanted if out.terminal == active), None)
    if mine is None:
        return VoltsPerTurn(share / turns[fed[0]], 1 / turns[fed[0]])
    given = tap_of_each([speed_asked(out, len(taps)) for out in wanted], len(taps))
    asked = taps[given[speed_asked(mine, len(taps))] - 1]
    return VoltsPerTurn(share / turns[fed[0]], 1 / turns.get(asked, turns[fed[0]]))
