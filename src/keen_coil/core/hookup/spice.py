"""A hook-up as a SPICE netlist: one frequency, the two fields as networks of their own, the rotor's coupling between
the windings as controlled sources.

`.ac` at the line's frequency; volts and amps are RMS. `i(vcN)` is the current of coil N from start to end.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..machine.circuit import Windings
from ..machine.sections import Branch, Coil, leakage
from .circuit import NEUTRAL, SOURCE_OHM, Circuit

LEAK_OHM = 1e12


def netlist(circuit: Circuit, windings: Windings, slip: float, title: str) -> str:
    """The netlist of a hook-up at a slip between 0 and 2 (neither end), for ngspice and its like."""
    coils, branches, sources = circuit.parts()
    ends = [(part.start, part.end) for group in (coils, branches, sources) for part in group]
    nodes = sorted({node for pair in ends for node in pair} - {NEUTRAL})
    named = {node: f"n{number}" for number, node in enumerate(nodes, start=1)} | {NEUTRAL: "0"}
    lines = [f"* {title}", *(f"* {named[node]} = {node}" for node in nodes)]
    for number, (line, volts) in enumerate(sorted(circuit.lines.items()), start=1):
        node, turned = named[circuit.net_of(line)], math.degrees(math.atan2(volts.imag, volts.real))
        lines.append(f"vs{number} s{number} 0 ac {abs(volts):.9g} {turned:.9g}")
        lines.append(f"rs{number} s{number} {node} {SOURCE_OHM}")
    for axis in ("main", "aux"):
        lines += _axis(axis, coils, windings)
    lines += [line for n, coil in enumerate(coils) for line in _coil(n, coil, coils, windings, named)]
    lines += [line for n, branch in enumerate(branches) for line in _branch(n, branch, windings, named)]
    lines += _fields(coils, windings, slip)
    lines += [f"rleak{number} {named[node]} 0 {LEAK_OHM:g}" for number, node in enumerate(nodes)]
    shown = " ".join(f"real(i(vc{n})) imag(i(vc{n}))" for n in range(len(coils)))
    hz = f"{windings.hz:g}"
    control = [".control", "set numdgt=12", f"ac lin 1 {hz} {hz}", f"print {shown}", "quit 0", ".endc"]
    return "\n".join([*lines, *control, ".end", ""])


def _henry(ohm: float, windings: Windings) -> str:
    return f"{ohm / (2 * math.pi * float(windings.hz)):.12g}"


def _leak(axis: str, coils: tuple[Coil, ...], windings: Windings) -> tuple[float, float]:
    """Own and mutual leakage of an axis' sections, ohms per square of their turns."""
    x, xm = windings.x1_ohm, windings.xm_ohm
    if axis == "aux":
        x, xm = windings.x1a_ohm, windings.xm_ohm * windings.turns_ratio**2
    own, mutual = leakage([coil.turns for coil in coils if coil.axis == axis and coil.fitted], x, xm)
    return float(own), float(mutual)


def _axis(axis: str, coils: tuple[Coil, ...], windings: Windings) -> Iterator[str]:
    """Node x_main or x_aux: volts per turn that the sections of an axis induce in each other by mutual leakage."""
    mine = [number for number, coil in enumerate(coils) if coil.axis == axis]
    _, mutual = _leak(axis, coils, windings)
    for number in mine:
        yield f"fx{number} 0 x_{axis} vc{number} {coils[number].turns:.12g}"
    yield f"lx_{axis} x_{axis} 0 {_henry(mutual if mutual else 1e-9, windings)}"


def _coil(number: int, coil: Coil, coils: tuple[Coil, ...], windings: Windings, named: dict[str, str]) -> Iterator[str]:
    """A section: an amps meter, its resistance, its leakage, then what axis and fields induce, all in line."""
    own, mutual = _leak(coil.axis, coils, windings)
    ohm = coil.turns * float(windings.r1_ohm if coil.axis == "main" else windings.r1a_ohm)
    n = f"c{number}"
    yield f"vc{number} {named[coil.start]} {n}a ac 0"
    yield f"r{n} {n}a {n}b {ohm:.12g}"
    yield f"l{n} {n}b {n}c {_henry(coil.turns**2 * (own - mutual), windings)}"
    yield f"ex{n} {n}c {n}d x_{coil.axis} 0 {coil.turns:.12g}"
    if coil.axis == "main":
        yield f"ef{n} {n}d {n}e f 0 {coil.turns:.12g}"
        yield f"eb{n} {n}e {named[coil.end]} b 0 {coil.turns:.12g}"
    else:
        yield f"eq{n} {n}d {named[coil.end]} q 0 {coil.turns * float(windings.turns_ratio):.12g}"


def _branch(number: int, branch: Branch, windings: Windings, named: dict[str, str]) -> Iterator[str]:
    """A capacitor (laid out at 60 Hz), or a resistance with its inductance."""
    start, end = named[branch.start], named[branch.end]
    if start == end:
        return
    if branch.ohm.imag < 0:
        yield f"cp{number} {start} {end} {-1 / (2 * math.pi * 60.0 * branch.ohm.imag):.12g}"
        return
    yield f"rp{number} {start} p{number} {branch.ohm.real:.12g}"
    yield f"lp{number} p{number} {end} {_henry(branch.ohm.imag, windings)}"


def _fields(coils: tuple[Coil, ...], windings: Windings, slip: float) -> Iterator[str]:
    """Forward and backward field, driven by the main axis' turns less or plus j times the auxiliary's.

    A current through an inductor of 1 ohm is multiplied by j: node ja carries j Ia, node q j (Vf - Vb).
    """
    ratio, one = float(windings.turns_ratio), _henry(1.0, windings)
    half_m, half_2 = _henry(float(windings.xm_ohm) / 2, windings), _henry(float(windings.x2_ohm) / 2, windings)
    for number, coil in enumerate(coils):
        if coil.axis == "main":
            yield f"ff{number} 0 f vc{number} {coil.turns:.12g}"
            yield f"fb{number} 0 b vc{number} {coil.turns:.12g}"
        else:
            yield f"fj{number} 0 ja vc{number} {coil.turns * ratio:.12g}"
    yield from (f"lj ja 0 {one}", "rj ja 0 1g", "gq 0 q f b 1", f"lq q 0 {one}", "rq q 0 1g")
    yield from ("gf f 0 ja 0 1", "gb 0 b ja 0 1")
    for name, s in (("f", slip), ("b", 2 - slip)):
        yield f"lm{name} {name} 0 {half_m}"
        yield f"rr{name} {name} {name}2 {float(windings.r2_ohm) / (2 * s):.12g}"
        yield f"lr{name} {name}2 0 {half_2}"
