"""What a motor does on the circuit it is wired into: whether it starts, which way, what flows, by nodal analysis.

The same fitted motor as everywhere; its fan and its own losses as load. Every figure is an estimate from a plate.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from ..call import Call
from ..machine.circuit import Floats, Windings
from ..machine.conditions import Model
from ..machine.expected import load_of
from ..machine.load import Load, own_losses_nm
from ..machine.sections import Branch, Coil, NetworkSolved, Source, solve_network
from ..outputs import outputs_of, speed_asked
from ..plates import Motor
from ..voltage import is_low_connection, range_for, ranges
from .circuit import Circuit, circuit, outputs
from .laying import tap_of_each
from .leads import MotorLeads
from .structure import across, fed_span, halves_in, in_window
from .terminals import Join

GRID, STEPS = 61, 3
CREEPS = 0.10
"""A motor that hangs below this share of synchronous speed has not got away."""


@dataclass(frozen=True)
class Operating:
    """Where it runs, or rests. `way` +1 as the plate says, -1 the other way, 0 not turning. Amps and volts RMS."""

    way: int
    rpm: float
    slip: float
    line_a: float
    main_a: float
    aux_a: float
    capacitor_v: float | None
    coil_a: tuple[float, ...]
    torque_nm: float


def halves(windings: Windings, low_connection: bool) -> Windings:
    """The windings with both halves of the main in series, when the fit was made for them in parallel.

    Twice the turns: four times the ohms of the main winding, half the turns ratio.
    """
    if not low_connection:
        return windings
    four = {name: 4 * getattr(windings, name) for name in ("r1_ohm", "x1_ohm", "r2_ohm", "x2_ohm", "xm_ohm")}
    return replace(windings, turns_ratio=windings.turns_ratio / 2, **four)


Parts = tuple[tuple[Coil, ...], tuple[Branch, ...], tuple[Source, ...]]


def operating(circuit: Circuit, model: Model, low_connection: bool) -> Operating:
    """Where the motor of a model runs on a circuit, from rest. Raises `numpy.linalg.LinAlgError` on no solution."""
    windings = halves(model.fit.windings, low_connection)
    load = load_of(model.fit, model.conditions.load)
    parts = _at_hz(circuit.parts(), windings)
    standing = solve_network(windings, *parts, np.array([1.0]))
    torque = float(standing.torque_nm[0])
    holding = float(own_losses_nm(windings, load, 0.0)[1])
    way = 1 if torque > holding else -1 if torque < -holding else 0
    at = 1.0 if way == 0 else _settles(parts, windings, load, way)
    if way and abs(1 - at) < CREEPS:
        way, at = 0, 1.0
    found = standing if way == 0 else solve_network(windings, *parts, np.array([at]))
    return _figures(circuit, windings, found, at, way)


def _at_hz(parts: Parts, windings: Windings) -> Parts:
    """The parts at the motor's own frequency: capacitors are laid out at 60 Hz."""
    coils, branches, sources = parts
    ratio = 60.0 / float(windings.hz)
    moved = tuple(replace(b, ohm=b.ohm * ratio) if b.ohm.imag < 0 else b for b in branches)
    return coils, moved, sources


def surplus_nm(parts: Parts, windings: Windings, load: Load, slip: Floats) -> Floats:
    """Torque left over at each slip after fan, core and friction, N*m, positive as the plate says."""
    solved = solve_network(windings, *parts, slip)
    speed = (1 - slip) * windings.synchronous_rad_s
    core, friction = own_losses_nm(windings, load, speed)
    return np.asarray(solved.torque_nm - load.fan_nm(speed) - core - friction * np.sign(speed))


def _settles(parts: Parts, windings: Windings, load: Load, way: int) -> float:
    """The slip at which it settles from rest, in the way it starts: the first stable crossing, by false position."""
    forward = np.linspace(1.0, 0.0, GRID)
    slip = forward if way > 0 else 2 - forward
    left = way * surplus_nm(parts, windings, load, slip)
    falls = np.flatnonzero((left[:-1] > 0) & (left[1:] <= 0))
    if not len(falls):
        return float(slip[-1])
    low, high, over, under = slip[falls[0]], slip[falls[0] + 1], left[falls[0]], left[falls[0] + 1]
    for _ in range(STEPS):
        middle = low + (high - low) * over / (over - under)
        here = way * float(surplus_nm(parts, windings, load, np.array([middle]))[0])
        if here > 0:
            low, over = middle, here
        else:
            high, under = middle, here
    return float(low + (high - low) * over / (over - under))


def _figures(circuit: Circuit, windings: Windings, found: NetworkSolved, slip: float, way: int) -> Operating:
    coils = np.abs(found.coil_a[0])
    main = [a for a, coil in zip(coils, circuit.coils, strict=True) if coil.axis == "main"]
    aux = [a for a, coil in zip(coils, circuit.coils, strict=True) if coil.axis == "aux"]
    volts = [
        abs(complex(found.node_v[circuit.net_of(c.a)][0] - found.node_v[circuit.net_of(c.b)][0]))
        for c in circuit.capacitors
    ]
    start = next((circuit.net_of(c.start) for c in circuit.coils if c.axis == "aux"), None)

    def apart(number: int) -> tuple[bool, bool]:
        cap = circuit.capacitors[number]
        return start not in (circuit.net_of(cap.a), circuit.net_of(cap.b)), cap.of_compressor

    serves = sorted(range(len(volts)), key=apart)
    rpm = abs(1 - slip) * float(windings.synchronous_rad_s) * 30 / np.pi
    return Operating(
        way=way,
        rpm=rpm,
        slip=slip,
        line_a=_line_a(circuit, found),
        main_a=float(max(main, default=0.0)),
        aux_a=float(max(aux, default=0.0)),
        capacitor_v=volts[serves[0]] if serves else None,
        coil_a=tuple(float(a) for a in coils),
        torque_nm=float(found.torque_nm[0]),
    )


def _line_a(circuit: Circuit, found: NetworkSolved) -> float:
    """The motor's own line current: the most that its windings and capacitors draw off any line net."""
    coils, branches, _ = circuit.parts()
    flows: dict[str, complex] = {}
    own: list[tuple[Coil | Branch, complex]] = [*zip(coils, found.coil_a[0], strict=True)]
    caps = branches[: len(circuit.capacitors)]
    own += [(b, a) for b, a, c in zip(caps, found.branch_a[0], circuit.capacitors, strict=False) if not c.of_compressor]
    for part, amps in own:
        if part.start != part.end:
            flows[part.start] = flows.get(part.start, 0j) + complex(amps)
            flows[part.end] = flows.get(part.end, 0j) - complex(amps)
    lines = {circuit.net_of(line) for line in circuit.lines}
    return float(max((abs(flows.get(net, 0j)) for net in lines), default=0.0))


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
