"""The audit trail: every changing act, who did it and when."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select

from ..store import tables
from ..store.database import Database
from .changes_since import ACTS

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
