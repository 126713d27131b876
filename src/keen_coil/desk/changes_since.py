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
    "tick_steps": "ticked steps of Make safe",
    "save_plates": "changed the plates",
    "save_complaint": "changed the complaint",
    "pick_motor": "chose a motor",
    "pick_motor_at_fault": "changed which motor it is",
    "add_sister": "noted a sister motor",
    "set_school": "changed the school",
    "set_renewal": "changed when capacitors are renewed",
    "add_plate": "typed a plate",
    "drop_plate": "took back a plate",
    "add_photograph": "added a photograph",
    "keep_body": "kept lengths",
    "keep_leads": "noted leads",
    "keep_diagram": "noted the plate's diagram",
    "keep_outputs": "noted speeds by mode",
    "keep_found": "noted the wires",
    "keep_plan": "kept a hook-up",
    "tick_moves": "ticked moves of the hook-up",
    "choose_capacitor": "chose a capacitor",
    "close_call": "handed it over",
    "do_step": "did a step of the swap",
    "skip_step": "left out a step of the swap",
    "take_step_back": "took a step back",
    "plan_swap": "changed the plan of the swap",
    "carry": "ticked what is carried up",
    "add_follow_up": "noted a follow-up",
    "drop_follow_up": "took back a follow-up",
    "bring_readings": "brought readings in",
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
