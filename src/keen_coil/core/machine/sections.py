"""Windings in sections: taps, dual voltage, shorted turns. Coupled coils, joined by nodal analysis.

Sections of one axis share the air gap and are coupled by 0.95 over all; the rest is leakage of their own. The shares
of leakage are chosen so that the sections the plate connects in series make up the fitted winding exactly: with one
section these are the two-winding equations of `circuit.py`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from .circuit import Complexes, Floats, Number, Windings, fields

COUPLING = 0.95
LEAK_S = 1e-12
"""Conductance of every node to the reference, S, so that a part left hanging has a voltage."""


@dataclass(frozen=True)
class Coil:
    """A section between two nodes. `turns` is its share of the winding that the plate connects, of its axis.

    fitted: whether it is part of that winding; sections of slower taps are not.
    """

    axis: Literal["main", "aux"]
    start: str
    end: str
    turns: float = 1.0
    fitted: bool = True


@dataclass(frozen=True)
class Branch:
    """An impedance between two nodes, ohms; a capacitor by `circuit.capacitor_ohm`."""

    start: str
    end: str
    ohm: complex


@dataclass(frozen=True)
class Source:
    """Volts from `end` to `start` (RMS phasor) behind an impedance."""

    start: str
    end: str
    volts_v: complex
    ohm: complex = 0.0


@dataclass(frozen=True)
class NetworkSolved:
    """Node volts, currents from start to end of coils, branches and sources (last axis), and the torque."""

    node_v: dict[str, Complexes]
    coil_a: Complexes
    branch_a: Complexes
    source_a: Complexes
    torque_nm: Floats


def coil_ohm(windings: Windings, coils: tuple[Coil, ...], slip: float | Floats) -> Complexes:
    """The coupled impedance matrix of the sections at a slip, ohms: [..., coils, coils]."""
    forward, backward = fields(windings, slip)
    both, between = forward + backward, forward - backward
    main = np.array([coil.axis == "main" for coil in coils])
    turns = np.array([coil.turns for coil in coils])
    effective = turns * np.where(main, 1.0, windings.turns_ratio)
    same = main[:, None] == main[None, :]
    across = np.where(main[:, None], -1j, 1j)
    gap = np.where(same, both[..., None, None], across * between[..., None, None])
    return np.asarray(np.outer(effective, effective) * gap + _own(windings, coils, turns, main, same))


def _own(windings: Windings, coils: tuple[Coil, ...], turns: Floats, main: Floats, same: Floats) -> Complexes:
    """Resistance and leakage of the sections: [coils, coils]."""
    square = windings.turns_ratio**2
    found = np.zeros((len(coils), len(coils)), dtype=np.complex128)
    for is_main, r, x, xm in (
        (True, windings.r1_ohm, windings.x1_ohm, windings.xm_ohm),
        (False, windings.r1a_ohm, windings.x1a_ohm, square * windings.xm_ohm),
    ):
        mine = main == is_main
        fitted = np.array([coil.fitted for coil in coils]) & mine
        own, mutual = leakage(list(turns[fitted]), x, xm)
        both = np.outer(turns, turns) * same * np.outer(mine, mine)
        found += 1j * both * np.where(np.eye(len(coils)), own, mutual) + np.diag(r * turns * mine)
    return found


def leakage(turns: Sequence[Number], x_ohm: Number, xm_ohm: Number) -> tuple[Number, Number]:
    """Own and mutual leakage of sections per square of their turns, ohms.

    Chosen so that the sections in series have the winding's leakage, and any two are coupled by `COUPLING`.
    """
    squares = sum(part**2 for part in turns) if len(turns) else 1.0
    rest = sum(turns) ** 2 - squares if len(turns) else 0.0
    own = (x_ohm + (1 - COUPLING) * xm_ohm * rest) / (squares + COUPLING * rest)
    return own, COUPLING * own - (1 - COUPLING) * xm_ohm


def solve_network(
    windings: Windings,
    coils: tuple[Coil, ...],
    branches: tuple[Branch, ...],
    sources: tuple[Source, ...],
    slip: float | Floats,
) -> NetworkSolved:
    """Volts and currents of a motor wired in any way, by modified nodal analysis.

    Args: windings, the fitted motor; coils, branches, sources by node names; slip, a number or an array.
    """
    slips = np.asarray(slip, dtype=np.float64)
    parts: tuple[Coil | Branch | Source, ...] = (*coils, *branches, *sources)
    nodes = sorted({node for part in parts for node in (part.start, part.end)})
    number = {node: i for i, node in enumerate(nodes)}
    n, m = len(nodes), len(parts)
    whole = np.zeros((*slips.shape, n + m, n + m), dtype=np.complex128)
    known = np.zeros((*slips.shape, n + m, 1), dtype=np.complex128)
    whole[..., range(n), range(n)] = LEAK_S
    for k, part in enumerate(parts):
        for node, sign in ((part.start, 1.0), (part.end, -1.0)):
            whole[..., number[node], n + k] += sign
            whole[..., n + k, number[node]] += sign
    c, b = len(coils), len(branches)
    whole[..., n : n + c, n : n + c] = -coil_ohm(windings, coils, slips)
    for k, branch in enumerate(branches):
        whole[..., n + c + k, n + c + k] = -branch.ohm
    for k, source in enumerate(sources):
        whole[..., n + c + b + k, n + c + b + k] = -source.ohm
        known[..., n + c + b + k, 0] = source.volts_v
    found: Complexes = np.asarray(np.linalg.solve(whole, known)[..., 0], dtype=np.complex128)
    coil_a = found[..., n : n + c]
    return NetworkSolved(
        node_v={node: found[..., i] for node, i in number.items()},
        coil_a=coil_a,
        branch_a=found[..., n + c : n + c + b],
        source_a=found[..., n + c + b :],
        torque_nm=torque_of(windings, coils, coil_a, slips),
    )


def torque_of(windings: Windings, coils: tuple[Coil, ...], coil_a: Complexes, slip: float | Floats) -> Floats:
    """Air-gap torque from the currents of the sections, N*m: (P_f - P_b) / w_sync."""
    forward, backward = fields(windings, slip)
    effective = np.array([c.turns * (1.0 if c.axis == "main" else windings.turns_ratio) for c in coils])
    main = np.array([c.axis == "main" for c in coils])
    mmf = (coil_a * effective * main).sum(axis=-1), (coil_a * effective * ~main).sum(axis=-1)
    watts = forward.real * np.abs(mmf[0] - 1j * mmf[1]) ** 2 - backward.real * np.abs(mmf[0] + 1j * mmf[1]) ** 2
    return np.asarray(watts / windings.synchronous_rad_s)
