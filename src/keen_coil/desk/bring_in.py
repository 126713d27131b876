"""Files brought in from the command line, by the same code as the pages."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from pathlib import Path

from ..formats.call_file import load_call
from ..store.database import Database
from .acts import Stamp
from .bringing import import_all
from .calls import import_call


def new_stamp(version: int = 0) -> Stamp:
    """A stamp for an act that no page made."""
    return Stamp(uuid.uuid4().hex, version, datetime.now(UTC))


def bring_in(path: Path, name: str, data: bytes) -> str:
    """Bring in a catalogue or van (`.csv`), a data package (`.zip`) or a call file; what was done, in words.

    Raises `BadInput`.
    """
    if name.endswith((".csv", ".zip")):
        db = Database(path)
        done = import_all(db, new_stamp(), data)
        return f"{done.added} added, {done.changed} changed, {done.same} as before"
    call = load_call(data)
    call_id = import_call(Database(path), new_stamp(), call, name)
    return f"call {call_id} added"
