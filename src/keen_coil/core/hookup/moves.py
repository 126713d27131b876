"""Moves of the hand, and what they make of the wires: what was noted stays unless a move takes it off."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from ..errors import invalid
from .answer import Move
from .terminals import Join, terminal_words


def applied(wires: Iterable[Join], moves: Iterable[Move]) -> list[Join]:
    """The wires after these moves, done one after the other as they read.

    Raises `InvalidField` where a move takes off a wire that is not there.
    """
    now = list(wires)
    for number, move in enumerate(moves):
        if move.do == "take_off":
            there = next((wire for wire in now if {wire.a, wire.b} == {move.what, move.where}), None)
            if there is None:
                raise invalid(f"moves.{number}", f"{move.what} off {move.where}", "a wire that is there")
            now.remove(there)
        elif move.do != "set":
            now.append(Join(move.what, move.where))
    return now


def take_off(wire: Join, why: str) -> Move:
    """The move that takes a wire off: a lead from its terminal, a wire of the unit whole."""
    what = f"motor.{wire.lead}" if wire.lead else wire.a
    return Move(do="take_off", what=what, where=wire.terminal, why=why)


def put_on(wire: Join, why: str) -> Move:
    """The move that puts a wire where it belongs: a lead on a terminal or in a cap, a wire between two terminals."""
    if not wire.lead:
        return Move(do="join", what=wire.a, where=wire.b, why=why)
    do = "cap" if wire.terminal.startswith("cap.") else "put_on"
    return Move(do=do, what=f"motor.{wire.lead}", where=wire.terminal, why=why)


def between(found: list[Join], wanted: list[Join], off: str, on: Callable[[Join], str]) -> list[Move]:
    """The moves from the wires that are there to those that are wanted; what is in both is not touched.

    Parameters: `off` why a wire comes off, `on` why one goes on.
    """
    have = [wire.ends for wire in found]
    want = [wire.ends for wire in wanted]
    moves = [take_off(wire, off) for wire, ends in zip(found, have, strict=True) if ends not in want]
    return moves + [put_on(wire, on(wire)) for wire, ends in zip(wanted, want, strict=True) if ends not in have]


VERBS = {
    "take_off": ("Take off", "from"),
    "cap": ("Cap", "in"),
    "join": ("Join", "to"),
    "put_on": ("Put", "on"),
    "set": ("Set", "to"),
}


def move_words(move: Move) -> str:
    """A move as it is said."""
    verb, to = VERBS[move.do]
    if move.do == "set":
        where = "bonded to ground" if move.where == "ground.frame" else move.where
        return f"Set {move.what}: {where}"
    return f"{verb} {terminal_words(move.what)} {to} {terminal_words(move.where)}"


def in_working_order(moves: list[Move]) -> list[Move]:
    """Wires come off first, the ground last of them; then the ground goes on first; what is set comes at the end."""

    def rank(move: Move) -> tuple[int, int]:
        grounds = "ground.frame" in (move.what, move.where)
        if move.do == "take_off":
            return 0, int(grounds)
        return (2 if move.do == "set" and not grounds else 1), int(not grounds)

    return sorted(moves, key=rank)
