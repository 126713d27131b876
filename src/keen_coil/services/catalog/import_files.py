"""Files brought in and given out from the command line, by the same code as the pages."""

from __future__ import annotations

import io
import uuid
from datetime import UTC, datetime
from pathlib import Path

from ...core.errors import invalid
from ...formats.archive import is_log
from ...formats.call_file import load_call
from ...formats.catalogue_csv import write_catalogue
from ...formats.sync_package import is_sync_package
from ...formats.van_csv import write_van
from ...store.database import Database
from ...store.tables import FIRST_VAN
from ..acts import ActContext
from ..calls.call_files import import_call, readings_lines
from ..log.archive import LogNotEmpty, export_log, import_log
from .shelf import all_motors, all_parts, package
from .shelf_import import import_all


def new_act_context(version: int = 0) -> ActContext:
    """The context of an act that no page made."""
    return ActContext(uuid.uuid4().hex, version, datetime.now(UTC))


def import_file(path: Path, name: str, data: bytes, replace: bool = False, van: str | None = None) -> str:
    """Import a catalog or van (`.csv`), a data package or log (`.zip`) or a call file; what was done, in words.

    A log replaces everything here when `replace` is set or nothing is there. Raises `InvalidField`.
    """
    if name.endswith(".zip") and is_log(data):
        try:
            return f"{import_log(Database(path), new_act_context(), io.BytesIO(data), replace)} calls imported"
        except LogNotEmpty as error:
            raise invalid("", str(error), "an empty log, or --replace") from None
    if name.endswith(".zip") and is_sync_package(data):
        raise invalid(
            "", "a file of another laptop", f"a log or a data package; this one comes in by keen-coil sync {name}"
        )
    if name.endswith((".csv", ".zip")):
        db = Database(path)
        done = import_all(db, new_act_context(), data, van or FIRST_VAN)
        return f"{done.added} added, {done.changed} changed, {done.same} as before"
    call = load_call(data)
    call_id = import_call(Database(path), new_act_context(), call, name)
    return f"call {call_id} added"


def export_file(path: Path, file: Path, log: bool = False, van: str | None = None) -> str:
    """Write catalog, van, both, the readings or the whole log to a file, by its name; what was written, in words.

    Raises `InvalidField`.
    """
    db, now = Database(path), datetime.now(UTC)
    if file.suffix == ".zip" and log:
        out = io.BytesIO()
        export_log(db, out, now)
        data = out.getvalue()
    elif file.suffix == ".zip":
        data = package(db, van or FIRST_VAN)
    elif file.name == "readings.csv":
        data = "".join(readings_lines(db)).encode()
    elif file.name in ("motors.csv", "van.csv"):
        van_lines = write_van(all_parts(db, van or FIRST_VAN))
        lines = write_catalogue(all_motors(db)) if file.name == "motors.csv" else van_lines
        data = "".join(lines).encode()
    else:
        expected = "motors.csv, van.csv, readings.csv or a name that ends in .zip"
        raise invalid("", file.name, expected)
    try:
        file.write_bytes(data)
    except OSError as error:
        raise invalid("", error.strerror or "no such folder", "a file that can be written") from None
    return f"{file}: {len(data) / 1000:.1f} kB"
