"""A run-capacitor motor as it really is: stator and rotor in two axes, saturating iron, a fan of its own exponent.

Written apart from `core/machine` and in another form: four (with shorted turns five) coupled circuits with speed
voltages, solved as they stand. Its parameters are drawn, its plate is what a maker would print after testing it.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

SIZES = (2, 2.5, 3, 4, 5, 6, 7.5, 10, 12.5, 15, 20)
GRID = np.linspace(0.0, 0.999, 64)
COUPLED = 0.95
MOST_DRAWS = 4000


@dataclass(frozen=True)
class TrueMotor:
    """Ohms at `hz` referred to the main winding; the fan takes `fan_w` at plate speed, by speed to `exponent`."""

    volts: float
    hz: float
    poles: int
    r1: float
    x1: float
    r2: float
    x2: float
    xm: float
    a: float
    ra: float
    xa: float
    uf: float
    loss_w: float
    hp: float
    amps: float
    rpm: float
    fan_w: float
    exponent: float

    @property
    def sync(self) -> float:
        return 4 * math.pi * self.hz / self.poles

    def flows(self, volts: float, uf: float, speed: np.ndarray, cut: str = "", short: float = 0.0):
        """Main, auxiliary and torque at speeds given as shares of synchronous; `cut` names an open winding."""
        xm = self.xm / (1 + 1.2 * max(0.0, volts / self.volts - 1) ** 1.5 + 0.5 * max(0.0, volts / self.volts - 1))
        n = len(speed)
        with_short = short > 0
        size = 5 if with_short else 4
        z = np.zeros((n, size, size), dtype=complex)
        f1 = 1 - short
        zc = -1j * 1e6 / (2 * math.pi * self.hz * uf) if uf > 0.01 else -1j * 1e9
        huge = 1e9
        # leakage of two sections of the main winding coupled by COUPLED
        rest = 2 * short * f1
        own = (self.x1 + (1 - COUPLED) * xm * rest) / (1 - rest + COUPLED * rest)
        mutual = COUPLED * own - (1 - COUPLED) * xm
        z[:, 0, 0] = (
            self.r1 * f1
            + 1j * f1 * f1 * (own if with_short else self.x1)
            + 1j * f1 * f1 * xm
            + (huge if cut == "main" else 0)
        )
        z[:, 1, 1] = self.ra + 1j * self.xa + 1j * self.a**2 * xm + zc + (huge if cut == "aux" else 0)
        turns = [f1, self.a]
        coil = [0, 1]
        if with_short:
            z[:, 4, 4] = self.r1 * short + 1j * short * short * (own + xm)
            z[:, 0, 4] = z[:, 4, 0] = 1j * f1 * short * (mutual + xm)
        x22 = self.x2 + xm
        for k, (index, n_k) in enumerate(zip(coil, turns, strict=True)):
            z[:, index, 2 + k] = z[:, 2 + k, index] = 1j * n_k * xm
        z[:, 2, 2] = z[:, 3, 3] = self.r2 + 1j * x22
        z[:, 2, 3], z[:, 3, 2] = -speed * x22, speed * x22
        z[:, 2, 1], z[:, 3, 0] = -speed * self.a * xm, speed * f1 * xm
        if with_short:
            z[:, 2, 4] = z[:, 4, 2] = 1j * short * xm
            z[:, 3, 4] = speed * short * xm
        v = np.zeros((n, size, 1), dtype=complex)
        v[:, 0, 0] = v[:, 1, 0] = volts
        i = np.linalg.solve(z, v)[:, :, 0]
        d = i[:, 0] * f1 + (i[:, 4] * short if with_short else 0)
        torque = (
            self.poles / (4 * math.pi * self.hz) * xm * (d * i[:, 3].conj() - self.a * i[:, 1] * i[:, 2].conj()).real
        )
        return i[:, 0], i[:, 1], torque

    def load_nm(self, speed: np.ndarray, air: float, drag: float) -> np.ndarray:
        w0 = self.rpm * math.pi / 30
        w = np.asarray(speed) * self.sync
        own = self.loss_w / w0 * (0.4 + 0.6 * w / w0)
        return self.fan_w * air / w0 * (w / w0) ** self.exponent + own + drag * self.hp * 746 / w0


@lru_cache(maxsize=20000)
def runs(
    motor: TrueMotor, volts: float, uf: float, air: float, drag: float, cut: str, short: float
) -> tuple[str, float, float, float, float]:
    """State (`starts`, `pushed`, `stands`), whole amps and rpm where it runs, whole amps at rest, capacitor amps."""
    main, aux, torque = motor.flows(volts, uf, GRID, cut, short)
    left = torque - motor.load_nm(GRID, air, drag)
    line = np.abs(main + aux)
    crossing = [k for k in range(len(GRID) - 1) if left[k] > 0 >= left[k + 1]]
    if not crossing:
        return "stands", float(line[0]), 0.0, float(line[0]), float(abs(aux[0]))
    k = crossing[0] if left[0] > 0 else crossing[-1]
    share = left[k] / (left[k] - left[k + 1])
    at = GRID[k] + share * (GRID[k + 1] - GRID[k])
    state = "starts" if left[0] > 0 else "pushed"
    amps = float(line[k] + share * (line[k + 1] - line[k]))
    through = float(abs(aux[k]) + share * (abs(aux[k + 1]) - abs(aux[k])))
    return state, amps, float(at * motor.sync * 30 / math.pi), float(line[0]), through


def draw(rng: random.Random, volts: float, hp: float, poles: int, hz: float = 60.0) -> TrueMotor:
    """A motor of this size, drawn until it is one a maker would sell."""
    for _ in range(MOST_DRAWS):
        found = _tried(rng, volts, hp, poles, hz)
        if found is not None:
            return found
    raise ValueError(f"no motor of {hp} hp, {volts} V, {poles} poles in {MOST_DRAWS} draws")


def _tried(rng: random.Random, volts: float, hp: float, poles: int, hz: float) -> TrueMotor | None:
    u = rng.uniform
    watts, low = 746 * hp, volts < 150
    per = {"r1": u(0.13, 0.26), "x1": u(0.1, 0.2), "r2": u(0.16, 0.34), "xm": u(1.2, 2.3)}
    a = u(1.6, 2.9) if low else u(1.0, 1.45)
    slip = u(0.06, 0.11)
    xc = u(2.2, 3.6) * a * a / 1.45
    shape = dict(
        volts=1.0,
        hz=hz,
        poles=poles,
        r1=per["r1"],
        x1=per["x1"],
        r2=per["r2"],
        x2=per["x1"] * u(0.8, 1.2),
        xm=per["xm"],
        a=a,
        ra=per["r1"] * a * a * u(0.8, 1.3),
        xa=per["x1"] * a * a,
        uf=1e6 / (2 * math.pi * hz * xc),
        loss_w=0.0,
        hp=0.0,
        amps=1.0,
        rpm=1.0,
        fan_w=0.0,
        exponent=2.0,
    )
    one = TrueMotor(**shape)
    _, _, torque = one.flows(1.0, one.uf, np.array([1 - slip]))
    loss = u(0.03, 0.09)
    out = float(torque[0]) * (1 - slip) * one.sync / (1 + loss)
    if out <= 0.05:
        return None
    ohm = volts * volts * out / watts
    scaled = {name: shape[name] * ohm for name in ("r1", "x1", "r2", "x2", "xm", "ra", "xa")}
    uf = min(SIZES, key=lambda size: abs(math.log(size / (one.uf / ohm))))
    rpm = round((1 - slip) * one.sync * 30 / math.pi / 5) * 5
    made = {**shape, **scaled, "volts": volts, "uf": uf, "loss_w": loss * watts, "hp": hp, "rpm": rpm}
    tested = TrueMotor(**{**made, "fan_w": watts})
    state, amps, runs_at, *_ = runs(tested, volts, uf, 1.0, 0.0, "", 0.0)
    main, aux, torque = tested.flows(volts, uf, np.array([0.0, 1 - slip]))
    cap_v = abs(aux[1]) * 1e6 / (2 * math.pi * hz * uf)
    start = float(torque[0]) * rpm * math.pi / 30 / watts
    efficiency = watts / max(1.0, volts * float((main[1] + aux[1]).real))
    if (
        state != "starts"
        or not 0.62 * 370 <= cap_v <= 0.97 * 370
        or start < 0.15
        or abs(runs_at / rpm - 1) > 0.02
        or efficiency < 0.3
    ):
        return None
    return TrueMotor(
        **{**made, "amps": round(amps * u(0.97, 1.05), 2), "fan_w": watts * u(0.8, 1.03), "exponent": u(1.9, 2.1)}
    )
