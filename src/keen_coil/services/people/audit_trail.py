"""The audit trail: every changing act, who did it and when; what others did since a version."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select

from ...store import tables
from ...store.database import Database
from ..acts import call_row

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


EACH = 60
OTHERS = {
    "open_call": "opened a call",
    "import_call": "imported a call",
    "begin_practice": "began a practice case",
    "make_test": "made a test in practice",
    "wait": "waited in practice",
    "say": "ended a practice case",
    "bring_case": "imported a case file",
    "drop_case": "deleted a case file",
    "bring_in": "imported a file",
    "import_file": "imported a file",
    "import_log": "imported a whole log",
    "receive_file": "previewed a file",
    "leave_file": "canceled an import",
    "keep_levels": "saved a van's stock levels",
    "found_good": "marked a motor as good",
    "settle_follow_up": "closed a follow-up",
    "move_stock": "noted van stock",
    "name_replica": "named this computer",
    "new_identity": "gave this computer a new identity",
    "decide_version": "decided between versions",
    "join_units": "joined units entered twice",
    "keep_two_units": "said that two units are two",
    "make_token": "made a sync token",
    "end_token": "ended a sync token",
    "tell_laptop_off": "told a laptop off",
    "make_laptop_managers": "made a laptop a manager's",
    "take_laptop_back": "took a laptop back",
    "forget_laptop_key": "let a laptop pair again",
    "heal_sync": "put the syncing straight",
    "sign_in_phone": "signed a phone in",
    "save_units": "changed degrees or currency",
    "save_limits": "changed limits",
    "save_schools": "changed how motors are sized",
    "save_shop_name": "named the shop",
    "start_own_shop": "emptied the demo and started the shop",
    "save_ferries": "changed the delivery times",
    "save_meter": "linked a meter",
    "save_backup_plan": "changed the nightly backup",
    "save_person": "added or changed a technician",
    "save_account": "added or changed an account",
    "drop_account": "deleted an account",
    "sign_in": "signed in",
    "sign_in_failed": "failed to sign in",
    "sign_out": "signed out",
    "sign_out_everywhere": "signed out everywhere",
}
"""Acts that are of no call, in words."""


@dataclass(frozen=True)
class Line:
    """An act as the trail shows it."""

    at: datetime
    who: str
    did: str
    says: str
    call_id: int | None


def trail(db: Database, page: int) -> tuple[list[Line], int]:
    """A page of the trail, newest first, and how many pages there are."""
    with db.reading() as session:
        total = session.scalar(select(func.count()).select_from(tables.Act)) or 0
        query = (
            select(tables.Act).order_by(tables.Act.done_at.desc(), tables.Act.id).limit(EACH).offset((page - 1) * EACH)
        )
        rows = [
            Line(
                row.done_at,
                row.who or "no name",
                (ACTS | OTHERS).get(row.name, row.name),
                row.says or "",
                row.call_id,
            )
            for row in session.scalars(query)
        ]
        return rows, max(1, -(-total // EACH))
