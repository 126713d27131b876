"""A stand-in meter: a simulated multimeter on a real socket, with noise, settling, ranges, a low battery."""

from __future__ import annotations

import asyncio
import json
import math
import random
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ..core.errors import InvalidField, invalid
from ..core.meter import NAMES, Function
from .protocol import Frame, write_frame

RANGES: dict[Function, tuple[tuple[float, str, int], ...]] = {
    "volts_ac": ((6, "V", 3), (60, "V", 2), (600, "V", 1)),
    "volts_dc": ((6, "V", 3), (60, "V", 2), (600, "V", 1)),
    "amps_ac": ((6, "A", 3), (60, "A", 2), (600, "A", 1)),
    "ohms": ((600, "ohm", 1), (6, "kohm", 3), (60, "kohm", 2), (600, "kohm", 1), (6, "Mohm", 3), (60, "Mohm", 2)),
    "capacitance": ((6, "µF", 3), (60, "µF", 2), (600, "µF", 1)),
    "temperature": ((400, "C", 1),),
    "insulation": ((20, "Mohm", 2), (200, "Mohm", 1), (2000, "Mohm", 0)),
    "air_speed": ((6000, "fpm", 0),),
    "rpm": ((6000, "rpm", 0),),
}
"""Ranges of each function: the most it shows, the display's unit, digits behind the point."""
_UNIT = {"kohm": 1e3, "Mohm": 1e6}
SETTLES_S, EACH_S, BEEPS_OHM = 0.35, 0.25, 30.0


def _share(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and 0 <= value <= 1


def _whole(value: Any) -> bool:
    return isinstance(value, int) and not isinstance(value, bool) and 1 <= value <= 100


def _amps(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and 0 <= value <= 1000


_CHECKS: tuple[tuple[str, Callable[[Any], bool], str], ...] = (
    ("battery", lambda value: value in ("ok", "low"), "ok or low"),
    ("hold", lambda value: isinstance(value, bool), "true or false"),
    ("noise", _share, "a share of the value, 0 to 1"),
    ("turns", _whole, "turns through the clamp, 1 to 100"),
    ("background", _amps, "amps, 0 to 1000"),
)


@dataclass
class StandIn:
    """The meter's state: what its leads are on, and how it shows it. `value` in base units, None for open leads."""

    function: Function = "volts_ac"
    value: float | None = 238.0
    noise: float = 0.0005
    turns: int = 1
    background: float = 0.0
    hold: bool = False
    battery: str = "ok"
    seed: int = 1
    name: str = "stand-in"
    _shown: float = field(default=0.0, repr=False)
    _range: int = field(default=0, repr=False)
    _seq: int = field(default=0, repr=False)
    _held: Frame | None = field(default=None, repr=False)

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)  # noqa: S311  # noise of a simulated meter

    def set(self, changes: dict[str, Any]) -> None:
        """Change function, value, turns, background, hold, battery. Raises `InvalidField`."""
        allowed = ("function", "value", "noise", "turns", "background", "hold", "battery")
        for name, value in changes.items():
            if name not in allowed:
                raise invalid(name, value, "one of " + ", ".join(allowed))
        if changes.get("function", self.function) not in NAMES:
            raise invalid("function", changes["function"], "one of " + ", ".join(NAMES))
        number = changes.get("value", self.value)
        if number is not None and not (isinstance(number, int | float) and math.isfinite(number)):
            raise invalid("value", number, "a number, or null for open leads")
        for name, right, expected in _CHECKS:
            if name in changes and not right(changes[name]):
                raise invalid(name, changes[name], expected)
        if changes.get("function", self.function) != self.function:
            self._shown, self._range = 0.0, 0
        for name, value in changes.items():
            setattr(self, name, value)

    def step(self, seconds: float) -> Frame:
        """The frame after so many seconds more."""
        if self.hold and self._held is not None:
            self._seq += 1
            return self._held.model_copy(update={"seq": self._seq, "hold": True})
        frame = self._frame(seconds)
        self._held = frame
        return frame

    def _frame(self, seconds: float) -> Frame:
        self._seq += 1
        steps = RANGES[self.function]
        top, unit, digits = steps[-1]
        scale = _UNIT.get(unit, 1.0) if self.function == "ohms" else 1.0
        common: dict[str, Any] = {
            "seq": self._seq,
            "meter": self.name,
            "function": self.function,
            "battery": self.battery,
            "hold": self.hold,
        }
        target = self._target()
        if target is None or abs(target) > top * scale:
            self._range = len(steps) - 1
            return Frame(value=None, unit=unit, range=top, resolution=10**-digits, overload=True, **common)
        self._shown += (target - self._shown) * (1 - math.exp(-seconds / SETTLES_S))
        if abs(target - self._shown) < 1e-4 * max(1.0, abs(target)):
            self._shown = target
        wanted = next(
            n
            for n, (most, of, _) in enumerate(steps)
            if abs(target) <= most * (_UNIT.get(of, 1.0) if self.function == "ohms" else 1.0)
        )
        if wanted != self._range:
            self._range += 1 if wanted > self._range else -1
            most, unit, digits = steps[self._range]
            return Frame(value=None, unit=unit, range=most, resolution=10**-digits, **common)
        most, unit, digits = steps[self._range]
        scale = _UNIT.get(unit, 1.0) if self.function == "ohms" else 1.0
        shown = self._shown / scale + self._chance.gauss(0, self.noise) * abs(self._shown / scale)
        beeps = self.function == "ohms" and abs(self._shown) < BEEPS_OHM
        return Frame(value=f"{shown:.{digits}f}", unit=unit, range=most, resolution=10**-digits, beeper=beeps, **common)

    def _target(self) -> float | None:
        if self.value is None or self.function != "amps_ac":
            return self.value
        return self.value * self.turns + self.background


async def serve_stand_in(meter: StandIn, port: int, ready: asyncio.Event | None = None, each: float = EACH_S) -> None:
    """Serve the stand-in on loopback until it is canceled. A client may send `{"set": {...}}` to move its leads."""
    from websockets.asyncio.server import ServerConnection, serve

    async def listen(socket: ServerConnection) -> None:
        async for message in socket:
            try:
                found = json.loads(message)
                meter.set(found["set"])
            except (ValueError, KeyError, TypeError, InvalidField) as error:
                await socket.send(json.dumps({"error": str(error)[:200]}))

    async def client(socket: ServerConnection) -> None:
        listening = asyncio.create_task(listen(socket))
        try:
            while True:
                await socket.send(write_frame(meter.step(each)))
                await asyncio.sleep(each)
        finally:
            listening.cancel()

    async with serve(client, "127.0.0.1", port):
        if ready is not None:
            ready.set()
        await asyncio.get_running_loop().create_future()
