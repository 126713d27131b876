"""What others did to a call since a page was made: said before anything is done again."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from ..store import tables
from ..store.database import Database
from .acts import call_row

ACTS = {
    "take_reading": "took a reading",
    "set_power": "set the power strip",
    "tick_steps": "checked off Make safe steps",
    "save_plates": "changed the nameplate",
    "save_complaint": "changed the complaint",
    "pick_motor": "chose a motor",
    "pick_motor_at_fault": "changed which motor it is",
    "add_sister": "noted a sister motor",
    "set_school": "changed how the motor is sized",
    "set_renewal": "changed when capacitors are replaced",
    "add_plate": "typed a plate",
    "drop_plate": "deleted a typed plate",
    "add_photograph": "added a photograph",
    "keep_body": "saved lengths",
    "keep_leads": "noted the leads",
    "keep_diagram": "noted the plate's diagram",
    "keep_outputs": "noted speeds by mode",
    "keep_found": "noted the wires",
    "keep_plan": "saved a wiring plan",
    "tick_moves": "checked off wiring moves",
    "choose_capacitor": "chose a capacitor",
    "close_call": "handed it over",
    "do_step": "did a swap step",
    "skip_step": "skipped a swap step",
    "take_step_back": "undid a swap step",
    "plan_swap": "changed the swap plan",
    "carry": "packed the list",
    "add_follow_up": "noted a follow-up",
    "drop_follow_up": "removed a follow-up",
    "bring_readings": "imported readings",
    "keep_judgement": "entered a finding",
    "listen": "listened to it",
    "note_change": "noted what was done to the unit",
    "take_back_change": "took back what was done to the unit",
    "pick_same_motor": "chose the same motor again",
    "take_over": "took over an earlier visit",
    "make_test": "made a practice test",
    "look_at_wires": "looked at the wires",
    "lay_wires": "wired it",
    "wait": "waited",
    "say": "named the fault",
    "hand_on": "handed it on",
}
"""Acts on a call in words."""


@dataclass(frozen=True)
class Change:
    """An act of somebody on a call."""

    at: datetime
    who: str
    did: str


@dataclass(frozen=True)
class Changes:
    """What was done to a call since a version, oldest first, and the version it has now."""

    call_id: int
    version: int
    closed: bool
    rows: list[Change]


def changes_since(db: Database, call_id: int, version: int) -> Changes:
    """The acts on a call after a version. Raises `NotFound`."""
    act = tables.Act
    with db.reading() as session:
        row = call_row(session, call_id)
        found = session.scalars(
            select(act).where(act.call_id == call_id, act.version > version).order_by(act.version).limit(50)
        )
        rows = [
            Change(one.done_at, one.who or "Somebody", one.says or ACTS.get(one.name, one.name.replace("_", " ")))
            for one in found
        ]
        return Changes(call_id, row.version, row.closed_at is not None, rows)
