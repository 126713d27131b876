"""Terminals of a unit by name, how many wires each takes, and wires as the call file lists them."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import NamedTuple

import networkx as nx

from ..errors import FieldError, InvalidField, shown
from ..installation import Wire
from ..plates import Output

_NAMED = (
    (r"line\.(l[123]|n)", 6),
    (r"switch\.[lt][123]", 4),
    (r"board\.(com|common|neutral|n)", 4),
    (r"board\.park\d*", 1),
    (r"board\.[a-z0-9_]{1,20}", 1),
    (r"transformer\.(l[12]|n)", 3),
    (r"plug\.[a-z0-9_]{1,20}", 2),
    (r"junction\.\d{1,3}", 6),
    (r"capacitor\.(common)", 4),
    (r"capacitor\.herm", 3),
    (r"capacitor\.fan", 2),
    (r"capacitor\.[12]", 3),
    (r"fancap\.[12]", 2),
    (r"compressor\.[crs]", 3),
    (r"motor\..{1,60}", 40),
    (r"splice\.\d{1,3}", 4),
    (r"cap\.\d{1,3}", 1),
    (r"ground\.frame", 12),
)
KNOWN = [(re.compile(pattern), places) for pattern, places in _NAMED]
_EXPECTED = (
    "a terminal such as line.l1, switch.t1, board.cool, capacitor.fan, fancap.1, compressor.s, motor.black, splice.1, "
    "junction.1, plug.line, transformer.l1, cap.1, ground.frame"
)
OTHER_SIDE = {
    "capacitor.fan": "capacitor.common",
    "capacitor.1": "capacitor.2",
    "capacitor.2": "capacitor.1",
    "fancap.1": "fancap.2",
    "fancap.2": "fancap.1",
}
"""A capacitor's terminal and the one that its section ends on: it hangs on the line of the run winding."""
BOARD_RETURN = ("com", "common", "neutral", "n")
BOARD_LINE = ("l1", "line", "hot", "l2", "l")
BOARD_CONTROL = ("r", "c", "g", "y", "y1", "y2", "w", "w1", "w2", "o", "b")


class Join(NamedTuple):
    """A wire between two terminals; `colour` only where it was noted."""

    a: str
    b: str
    colour: str | None = None

    @property
    def ends(self) -> frozenset[str]:
        """Both ends, whichever way it was noted."""
        return frozenset((self.a, self.b))

    @property
    def lead(self) -> str | None:
        """The motor lead, where one end is one."""
        return next((end.removeprefix("motor.") for end in (self.a, self.b) if end.startswith("motor.")), None)

    @property
    def terminal(self) -> str:
        """The end that is no motor lead; the second one where neither or both are."""
        return self.a if self.b.startswith("motor.") else self.b


def hang_together(wires: Iterable[Join], a: str, b: str) -> bool:
    """Whether two terminals are one point by these wires."""
    nets: nx.Graph[str] = nx.Graph((wire.a, wire.b) for wire in wires)
    nets.add_nodes_from([a, b])
    return bool(nx.has_path(nets, a, b))


def joins(wires: list[Wire], path: str) -> list[Join]:
    """The wires of a call file. Raises `InvalidField` naming each end that is no terminal, or a wire to itself."""
    found, faults = [], []
    for index, wire in enumerate(wires):
        for name, end in (("from", wire.from_), ("to", wire.to)):
            if places_of(end) is None:
                faults.append(FieldError(f"{path}.{index}.{name}", shown(end), _EXPECTED))
        if wire.from_ == wire.to:
            faults.append(FieldError(f"{path}.{index}.to", shown(wire.to), "another terminal than it comes from"))
        found.append(Join(wire.from_, wire.to, wire.colour))
    if faults:
        raise InvalidField(faults)
    return found


def is_contact(terminal: str) -> bool:
    """Whether a terminal is one that a unit may switch a motor on by."""
    return places_of(terminal) is not None and terminal.startswith(("board.", "switch.t"))


def outputs_must_be_terminals(outputs: Iterable[Output]) -> None:
    """Raises `InvalidField` naming each output of a unit whose terminal is none that a motor can hang on."""
    faults = [
        FieldError(
            f"unit.outputs.{index}.terminal", shown(row.terminal), "an output: board.cool, board.heat, switch.t1"
        )
        for index, row in enumerate(outputs)
        if row.terminal is not None and not is_contact(row.terminal)
    ]
    if faults:
        raise InvalidField(faults)


def places_of(terminal: str) -> int | None:
    """How many wires a terminal takes (trade: most tabs at common, fewest at fan); None when it is no terminal."""
    return next((places for pattern, places in KNOWN if pattern.fullmatch(terminal)), None)


def is_output(terminal: str) -> bool:
    """Whether a board terminal is an output that is switched on, one at a time."""
    device, _, name = terminal.partition(".")
    return (
        device == "board"
        and not name.startswith("park")
        and name
        not in (
            *BOARD_RETURN,
            *BOARD_LINE,
            *BOARD_CONTROL,
        )
    )


_WORDS = {"common": "common", "fan": "fan", "herm": "herm", "1": "side 1", "2": "side 2"}
_DEVICES = {
    "fancap": "own capacitor",
    "cap": "wire cap",
    "junction": "junction box",
    "plug": "motor plug",
}


def terminal_words(terminal: str) -> str:
    """A terminal as a technician says it; a motor lead by its name."""
    device, _, name = terminal.partition(".")
    if device == "motor":
        return name
    if device == "line":
        return "neutral" if name == "n" else name.upper()
    if device == "ground":
        return "ground on the frame"
    if device in ("capacitor", "fancap"):
        return f"{_DEVICES.get(device, device)} {_WORDS.get(name, name)}"
    return f"{_DEVICES.get(device, device)} {name.replace('_', ' ').upper()}"
