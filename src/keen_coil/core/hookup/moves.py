"""Moves of the hand, what they make of the wires, and the fewest that lead from one wiring to another."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import combinations, permutations, product

import networkx as nx

from ..errors import invalid
from .answer import Move
from .leads import FRAME, MotorLeads
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


MOST_TRIED = 1000
"""Hook-ups that are tried at most before the usual one is taken."""
LINES = ("switch.", "line.", "board.")
GROUND = "ground.frame"
Wires = list[Join]


@dataclass(frozen=True)
class Rewiring:
    """A motor that stays on the wires that are there: its leads, the wires noted, those of the unit taken as usual."""

    leads: MotorLeads
    noted: Wires
    assumed: Wires

    @property
    def start(self) -> Wires:
        """Every wire that is there."""
        return [*self.noted, *self.assumed]


def fewest_moves(wiring: Rewiring, usual: list[Wires], passes: Callable[[Wires], bool]) -> Wires | None:
    """The wires that pass and are the fewest moves away from those that are there; None where none of those tried does.

    A lead moved is two moves, a wire of the unit on or off one. Leads that nobody noted are laid as usual. The usual
    hook-ups (`usual`) bound the search, and are the answer where nothing nearer passes.
    """
    near = [_kept_where_alike(wiring, wanted) for wanted in usual]
    near = sorted((wires for wires in near if passes(wires)), key=lambda wires: distance(wiring.start, wires))
    bound = distance(wiring.start, near[0]) if near else None
    completed = {frozenset(base): base for base in (_completed(wiring, wanted) for wanted in usual)}
    bases = [(base, _places(base, usual)) for base in completed.values()]
    tried = 0
    for moves in range(7):
        if bound is not None and bases and distance(wiring.start, bases[0][0]) + moves >= bound:
            break
        for base, places in bases:
            for wires in _changed(wiring, base, places, moves):
                tried += 1
                if passes(wires):
                    return wires
                if tried > MOST_TRIED:
                    return near[0] if near else None
    return near[0] if near else None


def distance(found: Wires, wanted: Wires) -> int:
    """How many moves lie between two wirings."""
    have = Counter(wire.ends for wire in found)
    want = Counter(wire.ends for wire in wanted)
    return (have - want).total() + (want - have).total()


def _completed(wiring: Rewiring, usual: Wires) -> Wires:
    """The wires that are there, and those of the leads that nobody noted as they usually are."""
    noted = {wire.lead for wire in wiring.noted if wire.lead}
    return [*wiring.start, *(wire for wire in usual if wire.lead and wire.lead not in noted)]


def _kept_where_alike(wiring: Rewiring, usual: Wires) -> Wires:
    """The usual wires, but a lead stays where it is if that hangs together with where it belongs."""
    nets: nx.Graph[str] = nx.Graph((wire.a, wire.b) for wire in usual if not wire.lead)
    at: dict[str, Join] = {wire.lead: wire for wire in wiring.noted if wire.lead}

    def kept(wire: Join) -> Join:
        old = at.get(wire.lead or "")
        if old is None or not {old.terminal, wire.terminal} <= set(nets):
            return wire
        return old if nx.has_path(nets, old.terminal, wire.terminal) else wire

    return [kept(wire) for wire in usual]


def _places(base: Wires, usual: list[Wires]) -> list[str]:
    """Terminals a lead may be moved to: those in use first, then those of the usual hook-ups."""
    every = [end for wires in (base, *usual) for wire in wires for end in (wire.a, wire.b)]
    barred = ("motor.", "compressor.", "cap.", GROUND)
    return list(dict.fromkeys(end for end in every if not end.startswith(barred)))


def _changed(wiring: Rewiring, base: Wires, places: list[str], moves: int) -> Iterator[Wires]:
    """Wirings so many moves from a base; exchanges of leads before other changes."""
    leads = [wire for wire in base if wire.lead]
    if moves == 0:
        yield base
    elif moves in (1, 3):
        for changed in [base] if moves == 1 else _one_moved(wiring, base, places):
            yield from (_less(changed, wire) for wire in _unit(wiring))
            yield from ([*changed, wire] for wire in _joins(base, places))
    elif moves == 2:
        yield from _one_moved(wiring, base, places)
        for off, on in product(_unit(wiring), _joins(base, places)):
            yield [*_less(base, off), on]
    elif moves == 4:
        yield from _exchanged(base, leads, 2)
        for one, other in combinations(leads, 2):
            for a, b in product(_targets(wiring, one, places), _targets(wiring, other, places)):
                yield _with(base, {one: a, other: b})
    elif moves == 6:
        yield from _exchanged(base, leads, 3)


def _one_moved(wiring: Rewiring, base: Wires, places: list[str]) -> Iterator[Wires]:
    """One lead somewhere else."""
    for wire in base:
        if wire.lead:
            yield from (_with(base, {wire: to}) for to in _targets(wiring, wire, places))


def _exchanged(base: Wires, leads: Wires, size: int) -> Iterator[Wires]:
    """So many leads each in another one's place."""
    for some in combinations(leads, size):
        for order in permutations(some):
            if all(wire is not other for wire, other in zip(some, order, strict=True)):
                yield _with(base, {wire: other.terminal for wire, other in zip(some, order, strict=True)})


def _unit(wiring: Rewiring) -> Wires:
    """The unit's own wires that were noted: those may be wrong."""
    return [wire for wire in wiring.noted if not wire.lead]


def _joins(base: Wires, places: list[str]) -> Wires:
    """Wires that may be missing: from a capacitor's terminal to a line."""
    there = {wire.ends for wire in base}
    sides = [end for end in places if end.startswith(("capacitor.", "fancap."))]
    lines = [end for end in places if end.startswith(LINES)]
    return [Join(line, side) for side in sides for line in lines if frozenset((line, side)) not in there]


def _targets(wiring: Rewiring, wire: Join, places: list[str]) -> list[str]:
    """Where a lead may be moved to: the ground lead to the frame alone, any other to a terminal or a cap."""
    if wire.lead in wiring.leads.having(FRAME):
        return [] if wire.terminal == GROUND else [GROUND]
    return [f"cap.{wire.lead}", *(end for end in places if end != wire.terminal)]


def _less(wires: Wires, off: Join) -> Wires:
    left = list(wires)
    left.remove(off)
    return left


def _with(wires: Wires, moved: dict[Join, str]) -> Wires:
    """The wires with some leads on other terminals; a cap is the first that nothing is in."""
    used = {end for wire in wires for end in (wire.a, wire.b)}
    found = []
    for wire in wires:
        to = moved.get(wire)
        if to is not None and to.startswith("cap."):
            to = next(name for n in range(1, 100) if (name := f"cap.{n}") not in used)
            used.add(to)
        found.append(wire if to is None else Join(f"motor.{wire.lead}", to, wire.colour))
    return found
