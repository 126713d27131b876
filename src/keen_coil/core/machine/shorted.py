"""Turns shorted upon themselves inside the main winding: a section of its own with its ends joined."""

from __future__ import annotations

import numpy as np

from .circuit import Complexes, Number, Solved, Windings, capacitor_ohm, fields, solved
from .sections import leakage

OPEN_OHM = 1e9
"""An open capacitor among meshes that are solved together, ohms."""


def solve_shorted(
    windings: Windings, volts_v: Number, slip: Number, capacitor_uf: Number | None, share: Number
) -> Solved:
    """Currents and torque with a share of the main winding's turns shorted, 0 < share < 1.

    Three meshes: the sound turns of the main winding, the shorted ones, the auxiliary with its capacitor.
    """
    a, n = windings.turns_ratio, (1 - np.asarray(share), np.asarray(share))
    forward, backward = fields(windings, slip)
    both, between = forward + backward, 1j * a * (forward - backward)
    own, mutual = leakage(n, windings.x1_ohm, windings.xm_ohm)
    r, j = windings.r1_ohm, 1j
    capacitor = capacitor_ohm(capacitor_uf, windings.hz)
    capacitor = np.where(np.isfinite(capacitor), capacitor, OPEN_OHM)
    z11 = n[0] * r + n[0] ** 2 * (j * np.asarray(own) + both)
    z12 = n[0] * n[1] * (j * np.asarray(mutual) + both)
    z22 = n[1] * r + n[1] ** 2 * (j * np.asarray(own) + both)
    zaa = windings.r1a_ohm + j * np.asarray(windings.x1a_ohm) + a * a * both + capacitor
    main, circling, aux = _meshes(z11, z12, z22, n[0] * between, n[1] * between, zaa, np.asarray(volts_v))
    mmf = n[0] * main + n[1] * circling
    copper = r * (n[0] * np.abs(main) ** 2 + n[1] * np.abs(circling) ** 2) + windings.r1a_ohm * np.abs(aux) ** 2
    return solved(windings, volts_v, slip, (main, aux), mmf, np.abs(aux * capacitor), np.asarray(copper))


def _meshes(
    z11: Complexes, z12: Complexes, z22: Complexes, b1: Complexes, b2: Complexes, zaa: Complexes, volts: Complexes
) -> tuple[Complexes, Complexes, Complexes]:
    """Currents of the sound turns, the shorted turns and the auxiliary; b is what the auxiliary couples by."""
    shape = np.broadcast_shapes(z11.shape, zaa.shape, volts.shape)
    rows = [[z11, z12, -b1], [z12, z22, -b2], [b1, b2, zaa]]
    whole = np.stack([np.stack([np.broadcast_to(z, shape) for z in row], axis=-1) for row in rows], axis=-2)
    known = np.zeros((*shape, 3, 1), dtype=np.complex128)
    known[..., 0, 0] = known[..., 2, 0] = volts
    found = np.linalg.solve(whole, known)[..., 0]
    return found[..., 0], found[..., 1], found[..., 2]
