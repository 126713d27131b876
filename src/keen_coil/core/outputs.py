"""The outputs of a unit: what switches each one on, its terminal, the speed it asks for.

As noted in `unit.outputs`; where only the speeds of the modes are noted, on the terminals that such a unit has.
"""

from __future__ import annotations

from typing import NamedTuple

from .call import Call
from .tables import complete
from .vocabulary import OutputMode, words_of

BOARD: dict[OutputMode, str] = {
    "cool": "board.cool",
    "heat": "board.heat",
    "fan": "board.fan",
    "low": "board.low",
    "medium": "board.medium",
    "high": "board.high",
}
"""An output of a board is marked with its mode (trade)."""
complete(BOARD, words_of(OutputMode), "BOARD")
OF_MODES: tuple[tuple[str, OutputMode], ...] = (("cooling", "cool"), ("heating", "heat"), ("fan", "fan"))
NAMES: dict[OutputMode, str] = {
    "cool": "cooling",
    "heat": "heating",
    "fan": "fan",
    "low": "low",
    "medium": "medium",
    "high": "high",
}
complete(NAMES, words_of(OutputMode), "NAMES")


class UnitOutput(NamedTuple):
    """An output with its terminal; `mode` None where only its speed is known, `assumed` where nobody noted it."""

    mode: OutputMode | None
    terminal: str
    speed: int | None
    assumed: bool = False

    @property
    def name(self) -> str:
        """The mode in words, else the speed."""
        return NAMES[self.mode] if self.mode else f"speed {self.speed}"


def speed_asked(out: UnitOutput, taps: int) -> int:
    """The speed an output asks for of a motor with so many: its number, else by its place, high, medium or low."""
    if out.speed is not None:
        return out.speed
    return {"low": taps, "medium": (taps + 1) // 2}.get(out.mode or "", 1)


def modes_noted(call: Call) -> list[tuple[OutputMode, int | None, str | None]]:
    """Mode, speed and terminal as they stand in the call: `unit.outputs`, and the modes that are not among them."""
    found = [(row.mode, row.speed, row.terminal) for row in call.unit.outputs]
    named = {mode for mode, _, _ in found}
    modes = call.unit.modes if call.has_speeds else None
    for key, mode in OF_MODES if modes is not None else ():
        speed = getattr(modes, key)
        if speed is not None and mode not in named:
            found.append((mode, speed, None))
    return found


def outputs_of(call: Call) -> list[UnitOutput]:
    """Every output of the unit that the motor hangs on, in the order noted; empty where one contact feeds the motor.

    Two modes on one contact are one output each with the same terminal. A relay has one contact until more are noted.
    """
    noted = modes_noted(call)
    kind = call.unit.switch.kind if call.unit.switch else None
    if not noted:
        return _by_speeds(call, kind)
    several = len({speed for _, speed, _ in noted}) > 1
    if kind == "board" or (kind is None and several):
        return [UnitOutput(mode, at or BOARD[mode], speed, at is None) for mode, speed, at in noted]
    contacts = iter(_contacts(call, kind))
    taken: dict[int | None, str] = {}
    found = []
    for mode, speed, at in noted:
        terminal = at or taken.get(speed) or next(contacts, None) or BOARD[mode]
        taken.setdefault(speed, terminal)
        found.append(UnitOutput(mode, terminal, speed, at is None))
    return found


def _contacts(call: Call, kind: str | None) -> list[str]:
    """Contacts of a relay or a remote switch that carry the motor one at a time and are not noted for a mode yet.

    The second pole of a relay on two hot legs is the return.
    """
    low = call.has_neutral_return
    noted = {row.terminal for row in call.unit.outputs}
    every = ("switch.t1", "switch.t2", "switch.t3") if low or kind == "remote_switch" else ("switch.t1", "switch.t3")
    return [terminal for terminal in every if terminal not in noted]


def _by_speeds(call: Call, kind: str | None) -> list[UnitOutput]:
    """By the list of speeds in use alone; empty where none is noted."""
    used = [int(speed) for speed in sorted(set(call.speeds_used))]
    if kind == "remote_switch":
        contacts = _contacts(call, kind)
        return [UnitOutput(None, contact, speed, True) for contact, speed in zip(contacts, used or [1], strict=False)]
    if kind == "board" and used:
        names: tuple[OutputMode, ...] = ("cool", "heat", "fan", "low", "high")
        return [UnitOutput(None, BOARD[name], speed, True) for name, speed in zip(names, used, strict=False)]
    if kind in ("relay", "sequencer") or len(used) == 1:
        return [UnitOutput(None, at, speed, True) for at, speed in zip(_contacts(call, kind), used, strict=False)]
    return []


def switched_one_at_a_time(call: Call) -> set[str]:
    """Contacts of the switch that are outputs of their own, not the poles of one contactor."""
    if call.unit.switch is not None and call.unit.switch.kind == "remote_switch":
        return {"switch.t1", "switch.t2", "switch.t3"}
    contacts = {row.terminal for row in outputs_of(call) if row.terminal.startswith("switch.t")}
    return contacts if len(contacts) > 1 else set()
