"""A motor of one equal circuit a phase, made from its plate: three-phase and shaded-pole motors of practice cases.

The usual equivalent circuit [1]: R1 + jX1 in series with jXm beside R2/s + jX2. R1 and X are typical for the kind, R2
and Xm are found so that plate amps and shaft power come out at plate speed. Unbalance and a lost line are solved by
symmetrical components [1]: the backward field runs at slip 2 - s.

[1] Fitzgerald, Kingsley and Umans, Electric Machinery, polyphase induction machines.
"""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..errors import invalid
from ..machine.circuit import Complexes, Floats
from ..plates import Motor
from ..speed import poles_of, synchronous_speed
from ..units import WATTS_PER_HP
from ..voltage import plate_amps, range_for, ranges

OWN_LOSS = 0.04
"""Friction and windage, share of shaft power."""
SLIPS = 121
TURN = cmath.exp(2j * math.pi / 3)
CIRCLING = 0.35
"""Share of the circling current of shorted turns that the line sees, from the leakage between the two parts."""


@dataclass(frozen=True)
class PlateMotor:
    """The circuit in ohms a phase at `hz`, with its rated point: volts a phase, shaft watts, rpm, poles."""

    phases: int
    volts_v: float
    hz: float
    poles: int
    rpm: float
    shaft_w: float
    r1_ohm: float
    x1_ohm: float
    r2_ohm: float
    x2_ohm: float
    xm_ohm: float

    @property
    def synchronous_rad_s(self) -> float:
        """Synchronous speed, rad/s."""
        return 4 * math.pi * self.hz / self.poles

    @property
    def rated_nm(self) -> float:
        """Torque at the plate, N*m."""
        return self.shaft_w / (self.rpm * math.pi / 30)

    def field(self, slip: Floats) -> tuple[Complexes, Complexes]:
        """Impedance a phase at a slip, ohms, and the rotor's share of the current."""
        rotor = self.r2_ohm / np.maximum(slip, 1e-9) + 1j * self.x2_ohm
        gap = 1j * self.xm_ohm * rotor / (1j * self.xm_ohm + rotor)
        share = np.asarray(1j * self.xm_ohm / (1j * self.xm_ohm + rotor), dtype=np.complex128)
        return np.asarray(self.r1_ohm + 1j * self.x1_ohm + gap, dtype=np.complex128), share

    def torque_nm(self, amps: Complexes | Floats, slip: Floats) -> Floats:
        """Torque of a field from the stator's amps a phase at a slip, N*m."""
        rotor_a = np.abs(amps * self.field(slip)[1])
        return np.asarray(self.phases * rotor_a**2 * self.r2_ohm / np.maximum(slip, 1e-9) / self.synchronous_rad_s)


@dataclass(frozen=True)
class PlateRun:
    """How it runs: whether it turns, whether a push would make it, amps by line, rpm."""

    turns: bool
    would_if_pushed: bool
    amps: tuple[float, ...]
    rpm: float


def plate_motor(motor: Motor, supply_v: float | None, hz: float | None) -> PlateMotor:
    """The motor of a plate. Raises `InvalidField` when no circuit of its kind draws those amps for that power."""
    connection = range_for(str(motor.volts), supply_v) or ranges(str(motor.volts))[0]
    amps = plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, connection.high)
    hertz, rpm = float(motor.hz or hz or 60), float(motor.rpm or 0)
    poles = motor.poles or poles_of(rpm, hertz)
    if not poles or rpm >= synchronous_speed(poles, hertz):
        raise invalid("motor.rpm", rpm, "a speed below the synchronous one")
    if motor.traits.r_and_x is None:
        raise invalid("motor.kind", motor.kind, "a kind of motor that practice can make from its plate")
    phases = 3 if motor.traits.is_three_phase else 1
    volts = connection.high / math.sqrt(3) if phases == 3 else connection.high
    found = _found(
        motor.traits.r_and_x, phases, volts, float(amps or 0), float(motor.hp or 0) * WATTS_PER_HP, hertz, poles, rpm
    )
    if found is None:
        raise invalid("motor.hp", motor.hp, f"a power that {amps:g} A at {connection.high:g} V can give at this speed")
    return found


@lru_cache(maxsize=512)
def _found(
    r_and_x: tuple[float, float],
    phases: int,
    volts: float,
    amps: float,
    watts: float,
    hz: float,
    poles: int,
    rpm: float,
) -> PlateMotor | None:
    from scipy.optimize import root

    r1, x1 = r_and_x
    slip, base = 1 - rpm / synchronous_speed(poles, hz), volts / amps
    wanted = watts * (1 + OWN_LOSS)

    def made(logs: Floats) -> PlateMotor:
        r2, xm = (float(base * value) for value in np.exp(logs))
        return PlateMotor(phases, volts, hz, poles, rpm, watts, r1 * base, x1 * base, r2, x1 * base, xm)

    def misses(logs: Floats) -> Floats:
        motor, at = made(logs), np.array([slip])
        drawn = volts / motor.field(at)[0]
        shaft = motor.torque_nm(drawn, at) * (1 - slip) * motor.synchronous_rad_s
        return np.array([float(np.abs(drawn[0])) / amps - 1, float(shaft[0]) / wanted - 1])

    for start in ((slip, 1.2), (slip, 2.5), (3 * slip, 0.8)):
        solved = root(misses, np.log(np.array(start)))
        if solved.success and np.abs(misses(solved.x)).max() < 0.01:
            return made(solved.x)
    return None


def run(
    motor: PlateMotor,
    line_v: tuple[float, ...],
    load: float,
    drag: float,
    held: bool = False,
    short: float = 0.0,
    series_ohm: float = 0.0,
) -> PlateRun:
    """How the motor runs.

    Args: line_v, volts of the pairs AB, BC, CA (one value for a single-phase motor), a lost line given by two zeros;
    load, the fan's torque as a share of the rated one; drag, constant torque as a share of it; held, the shaft cannot
    turn; short, share of one phase's turns shorted; series_ohm, in every line.
    """
    slip = np.linspace(1.0, 1e-4, SLIPS)
    legs, torque = _flows(motor, line_v, slip, series_ohm)
    speed = (1 - slip) * motor.synchronous_rad_s / (motor.rpm * math.pi / 30)
    left = torque - motor.rated_nm * (load * speed**2 + drag + OWN_LOSS)
    stable = np.flatnonzero((left[:-1] > 0) & (left[1:] <= 0))
    starts = bool(left[0] > 0)
    goes = len(stable) > 0 and not held
    at = int(stable[0] if starts else stable[-1]) if goes else 0
    turns = goes and starts
    where = at if turns else 0
    amps = _shorted(motor, tuple(float(np.abs(leg[where])) for leg in legs), line_v, short)
    rpm = float((1 - slip[where]) * motor.synchronous_rad_s * 30 / math.pi)
    return PlateRun(turns, goes and not starts, amps, rpm if turns else 0.0)


def _flows(motor: PlateMotor, line_v: tuple[float, ...], slip: Floats, ohm: float) -> tuple[list[Complexes], Floats]:
    """Amps of each line and torque at every slip."""
    forward, backward = motor.field(slip)[0] + ohm, motor.field(2 - slip)[0] + ohm
    if motor.phases == 1:
        amps = line_v[0] / forward
        return [amps], motor.torque_nm(amps, slip)
    live = [v for v in line_v if v > 1]
    if len(live) < 3:
        amps = (live[0] if live else 0.0) / (forward + backward)
        each = np.abs(amps) / math.sqrt(3)
        dead = line_v.index(max(line_v))
        legs = [amps, amps, amps * 0]
        return legs[-dead:] + legs[:-dead] if dead else legs, motor.torque_nm(each, slip) - motor.torque_nm(
            each, 2 - slip
        )
    first, second = _sequences(line_v)
    plus, minus = first / forward, second / backward
    legs = [plus + minus, plus * TURN**2 + minus * TURN, plus * TURN + minus * TURN**2]
    return legs, motor.torque_nm(plus, slip) - motor.torque_nm(minus, 2 - slip)


def _sequences(line_v: tuple[float, ...]) -> tuple[complex, complex]:
    """Forward and backward volts a phase of three line volts, whose phasors close a triangle."""
    ab, bc, ca = (complex(v) for v in line_v)
    corner = (abs(ab) ** 2 + abs(bc) ** 2 - abs(ca) ** 2) / (2 * abs(ab) * abs(bc))
    angle = math.acos(min(max(corner, -1.0), 1.0))
    bc = abs(bc) * cmath.exp(1j * (math.pi + angle))
    ca = -(ab + bc)
    lag = cmath.exp(-1j * math.pi / 6) / math.sqrt(3)
    return (ab + TURN * bc + TURN**2 * ca) / 3 * lag, (ab + TURN**2 * bc + TURN * ca) / 3 * lag.conjugate()


def _shorted(motor: PlateMotor, amps: tuple[float, ...], line_v: tuple[float, ...], short: float) -> tuple[float, ...]:
    """Amps with turns of one phase shorted: what circles in them is seen by that phase's line, turns by turns."""
    if not short or not any(line_v):
        return amps
    volts = max(line_v) / (math.sqrt(3) if motor.phases == 3 else 1)
    more = CIRCLING * short * volts / abs(motor.r1_ohm + 2j * motor.x1_ohm)
    return (amps[0], amps[1] + more, amps[2]) if motor.phases == 3 else (amps[0] + more,)
