"""The two-winding single-phase motor with its run capacitor, steady state, by the double revolving field.

All quantities are referred to the main winding. Every field of `Windings` and every argument may be a numpy array;
they broadcast, so one call answers a whole curve or many motors. Slip runs from 0 (synchronous) over 1 (standing) to
2 (synchronous, backwards).

References:
[1] Fitzgerald, Kingsley and Umans, Electric Machinery, single-phase machines.
[2] Veinott, Theory and Design of Small Induction Motors.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]
Number = float | Floats


@dataclass(frozen=True)
class Windings:
    """A motor's equivalent circuit: ohms at `hz`, `turns_ratio` = effective turns of the auxiliary over the main."""

    hz: Number
    poles: Number
    r1_ohm: Number
    x1_ohm: Number
    r2_ohm: Number
    x2_ohm: Number
    xm_ohm: Number
    turns_ratio: Number
    r1a_ohm: Number
    x1a_ohm: Number
    core_w: Number = 0.0
    friction_w: Number = 0.0

    @property
    def synchronous_rad_s(self) -> Number:
        """Synchronous speed in rad/s: 4 * pi * f / poles."""
        return 4 * np.pi * self.hz / self.poles

    def at_hz(self, hz: float) -> Windings:
        """The same motor on a supply of other hertz: its reactances grow with the frequency, its ohms do not."""
        share = hz / self.hz
        return replace(
            self,
            hz=hz,
            x1_ohm=self.x1_ohm * share,
            x2_ohm=self.x2_ohm * share,
            xm_ohm=self.xm_ohm * share,
            x1a_ohm=self.x1a_ohm * share,
        )


@dataclass(frozen=True)
class Solved:
    """What flows: phasors in A against the line's phase, volts, and watts; the same shape throughout."""

    main_a: Complexes
    aux_a: Complexes
    line_a: Complexes
    capacitor_v: Floats
    forward_w: Floats
    backward_w: Floats
    copper_w: Floats
    rotor_w: Floats
    input_w: Floats
    torque_nm: Floats

    def air_gap_w(self) -> Floats:
        """Net power over the air gap, W: forward less backward."""
        return self.forward_w - self.backward_w


def fields(windings: Windings, slip: Number) -> tuple[Complexes, Complexes]:
    """Impedances of the forward and the backward field, ohms; the limits at slip 0 and 2 included."""
    return _field(windings, np.asarray(slip)), _field(windings, 2.0 - np.asarray(slip))


def _field(windings: Windings, slip: Floats) -> Complexes:
    """(j Xm / 2) parallel to (R2 / (2 s) + j X2 / 2), multiplied through by s so that s = 0 has a value."""
    magnetising = 0.5j * windings.xm_ohm
    rotor = 0.5 * windings.r2_ohm + 0.5j * slip * windings.x2_ohm
    return np.asarray(magnetising * rotor / (rotor + slip * magnetising))


def capacitor_ohm(capacitor_uf: Number | None, hz: Number) -> Complexes:
    """Impedance of a capacitor, ohms; None or 0 (open) is infinite, infinite µF (shorted) is zero."""
    uf = np.asarray(0.0 if capacitor_uf is None else capacitor_uf, dtype=np.float64)
    with np.errstate(divide="ignore"):
        ohm = np.where(uf > 0, 1e6 / (2 * np.pi * hz * np.where(uf > 0, uf, 1.0)), np.inf)
    return np.asarray(_imaginary(-ohm))


def _imaginary(ohm: Floats) -> Complexes:
    found = np.zeros(np.shape(ohm), dtype=np.complex128)
    found.imag = ohm
    return found


def solve(
    windings: Windings,
    volts_v: Number,
    slip: Number,
    capacitor_uf: Number | None,
    *,
    main_ohm: Number | Complexes = 0.0,
    aux_ohm: Number | Complexes = 0.0,
) -> Solved:
    """Currents, capacitor volts, powers and air-gap torque at a slip.

    Args: volts_v, RMS, across both windings; slip; capacitor_uf in series with the auxiliary, None or 0 = open,
    infinite = shorted; main_ohm and aux_ohm, further impedance in series with each winding, infinite = open.
    Equations of [1] with the auxiliary's turns ratio a:
        V = (R1 + jX1 + Zf + Zb) Im - j a (Zf - Zb) Ia
        V = j a (Zf - Zb) Im + (R1a + jX1a + Zc + a^2 (Zf + Zb)) Ia
    Torque is T = (P_f - P_b) / w_sync.
    """
    a, zc = windings.turns_ratio, capacitor_ohm(capacitor_uf, windings.hz)
    forward, backward = fields(windings, slip)
    both, between = forward + backward, 1j * a * (forward - backward)
    outside = np.asarray(aux_ohm) + zc
    main, main_open = _closed(np.asarray(main_ohm))
    aux, aux_open = _closed(outside)
    z1 = windings.r1_ohm + 1j * np.asarray(windings.x1_ohm) + both + main
    z2 = windings.r1a_ohm + 1j * np.asarray(windings.x1a_ohm) + a * a * both + aux
    volts = np.asarray(volts_v)
    whole = z1 * z2 + between * between
    main_a = np.where(aux_open, volts / z1, volts * (z2 + between) / whole)
    aux_a = np.where(main_open, volts / z2, volts * (z1 - between) / whole)
    main_a, aux_a = np.where(main_open, 0.0, main_a), np.where(aux_open, 0.0, aux_a)
    copper = windings.r1_ohm * np.abs(main_a) ** 2 + windings.r1a_ohm * np.abs(aux_a) ** 2
    finite_zc, _ = _closed(zc)
    return solved(windings, volts, slip, (main_a, aux_a), main_a, np.abs(aux_a * finite_zc), np.asarray(copper))


def solved(
    windings: Windings,
    volts_v: Number,
    slip: Number,
    legs_a: tuple[Complexes, Complexes],
    main_turns_a: Complexes,
    capacitor_v: Floats,
    copper_w: Floats,
) -> Solved:
    """Powers and torque from what flows.

    Args: legs_a, main and auxiliary current; main_turns_a, the ampere-turns of the main axis per turn of the whole
    winding; capacitor_v and copper_w, as known to the caller.
    """
    (main_a, aux_a), (forward, backward) = legs_a, fields(windings, slip)
    turned = 1j * windings.turns_ratio * aux_a
    forward_w = forward.real * np.abs(main_turns_a - turned) ** 2
    backward_w = backward.real * np.abs(main_turns_a + turned) ** 2
    line_a = main_a + aux_a
    return Solved(
        main_a=main_a,
        aux_a=aux_a,
        line_a=line_a,
        capacitor_v=capacitor_v,
        forward_w=forward_w,
        backward_w=backward_w,
        copper_w=copper_w,
        rotor_w=np.asarray(slip * forward_w + (2.0 - np.asarray(slip)) * backward_w),
        input_w=np.asarray((volts_v * np.conj(line_a)).real),
        torque_nm=np.asarray((forward_w - backward_w) / windings.synchronous_rad_s),
    )


def _closed(ohm: Complexes | Floats) -> tuple[Complexes, NDArray[np.bool_]]:
    """An impedance with infinities taken out, and where they were."""
    endless = ~np.isfinite(ohm)
    return np.where(endless, 0.0, ohm).astype(np.complex128), endless
