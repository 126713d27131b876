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
    "import_call": "brought a call in",
    "begin_practice": "began a practice case",
    "make_test": "made a test in practice",
    "wait": "waited in practice",
    "say": "ended a practice case",
    "bring_case": "brought a case file in",
    "drop_case": "took a case file away",
    "bring_in": "brought a file in",
    "import_file": "brought a file in",
    "import_log": "brought a whole log in",
    "receive_file": "sent a file to look at",
    "leave_file": "left a file",
    "keep_levels": "kept the levels of a van",
    "found_good": "noted a motor found good",
    "settle_follow_up": "settled a follow-up",
    "save_limits": "changed limits",
    "save_schools": "changed the schools",
    "save_shop_name": "named the shop",
    "save_ferries": "changed the delivery times",
    "save_meter": "linked a meter",
    "save_backup_plan": "changed the nightly backup",
    "save_person": "noted a technician",
    "save_account": "made or changed an account",
    "drop_account": "took an account away",
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
                row.who or "nobody named",
                (ACTS | OTHERS).get(row.name, row.name),
                row.says or "",
                row.call_id,
            )
            for row in session.scalars(query)
        ]
        return rows, max(1, -(-total // EACH))
