"""Files brought in and given out from the command line, by the same code as the pages."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from pathlib import Path

from ..core.errors import bad
from ..formats.call_file import load_call
from ..formats.catalogue_csv import write_catalogue
from ..formats.van_csv import write_van
from ..store.database import Database
from .acts import Stamp
from .bringing import import_all
from .calls import import_call
from .shelf import all_motors, all_parts, package


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


def give_out(path: Path, file: Path) -> str:
    """Write catalogue, van or both to a file, by its name; what was written, in words. Raises `BadInput`."""
    db = Database(path)
    if file.suffix == ".zip":
        data = package(db)
    elif file.name in ("motors.csv", "van.csv"):
        lines = write_catalogue(all_motors(db)) if file.name == "motors.csv" else write_van(all_parts(db))
        data = "".join(lines).encode()
    else:
        raise bad("", file.name, "motors.csv, van.csv or a name that ends in .zip")
    try:
        file.write_bytes(data)
    except OSError as error:
        raise bad("", error.strerror or "no such folder", "a file that can be written") from None
    return f"{file}: {len(data) / 1000:.1f} kB"
