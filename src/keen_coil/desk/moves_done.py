"""One tick is one tick: a move done at Hook-up is done at Swap, and a step done at Swap is its moves done."""

from __future__ import annotations

from ..core.hookup.answer import Move
from ..core.record import KeptHookup
from ..store import tables

STATION = "swap"
STEPS = ("wires_off", "ground", "connect", "cap")
"""The steps of a swap that are moves of the hook-up."""


def step_of(move: Move) -> str:
    """The step of the swap that a move belongs to."""
    if move.do == "take_off":
        return "wires_off"
    if "ground.frame" in (move.what, move.where):
        return "ground"
    return "cap" if move.do == "cap" else "connect"


def moves_done(row: tables.Call) -> set[int]:
    """The moves of the kept plan that are done, by their numbers: ticked, or of a step that is done."""
    kept = row.plan.hookup or KeptHookup()
    steps = {step.step for step in row.steps if step.station == STATION and not step.skipped}
    return set(kept.done) | {number for number, move in enumerate(kept.moves) if step_of(move) in steps}


def steps_of(kept: KeptHookup, done: set[int]) -> tuple[set[str], set[str]]:
    """The steps whose moves are all done, and those of which one is not."""
    open_yet = {step_of(move) for number, move in enumerate(kept.moves) if number not in done}
    every = {step_of(move) for move in kept.moves}
    return every - open_yet, open_yet
