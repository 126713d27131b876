"""The card of a hook-up for the roof: each lead and where it goes, joints, caps, what is set, large on one page."""

from __future__ import annotations

from dataclasses import dataclass, field

from ...core.call import Call
from ...core.hookup.drawing import OTHER, strokes_of
from ...core.hookup.terminals import terminal_words
from ...core.proof.plan import modes_of
from .hook_up import HookupView


@dataclass(frozen=True)
class CardWire:
    """A lead on the card: its name, the colors its name says, where it goes."""

    lead: str
    strokes: tuple[str, ...]
    to: str


@dataclass
class Card:
    """What the card says: wires, joints of several leads, leads capped one by one, added wires, what is set besides."""

    wires: list[CardWire] = field(default_factory=list)
    joints: list[tuple[str, list[str]]] = field(default_factory=list)
    capped: list[str] = field(default_factory=list)
    added: list[str] = field(default_factory=list)
    off: list[str] = field(default_factory=list)
    set_up: list[tuple[str, str]] = field(default_factory=list)


def card_of(call: Call, shown: HookupView) -> Card:
    """The card of a plan that is shown."""
    card = Card()
    on = [move for move in shown.moves if move.do in ("put_on", "cap", "join")]
    joints: dict[str, list[str]] = {}
    for move in on:
        if move.do == "cap":
            card.capped.append(terminal_words(move.what))
            continue
        for here, other in ((move.what, move.where), (move.where, move.what)):
            if here.startswith("splice."):
                joints.setdefault(here, []).append(terminal_words(other))
        if move.do == "put_on" and not move.where.startswith("splice."):
            name = terminal_words(move.what)
            strokes = tuple(stroke for stroke in strokes_of(name) if stroke != OTHER)
            card.wires.append(CardWire(name, strokes, terminal_words(move.where)))
        elif move.do == "join" and not {move.what.split(".")[0], move.where.split(".")[0]} & {"splice"}:
            card.added.append(f"{terminal_words(move.what)} to {terminal_words(move.where)}")
    card.joints = [(terminal_words(name), there) for name, there in joints.items()]
    card.off = [f"{terminal_words(m.what)} off {terminal_words(m.where)}" for m in shown.moves if m.do == "take_off"]
    card.set_up = [(m.what, m.where) for m in shown.moves if m.do == "set" and m.where != "ground.frame"]
    capacitor = shown.motor.capacitor_uf
    if capacitor:
        volts = f", {shown.motor.capacitor_v} V or higher" if shown.motor.capacitor_v else ""
        card.set_up.append(("run capacitor", f"{capacitor:g} µF{volts}"))
    card.set_up += [(name, f"speed {speed}") for name, speed in modes_of(call) if not name.startswith("speed")]
    return card
