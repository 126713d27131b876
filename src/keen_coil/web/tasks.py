"""What is done in processes of its own: each takes plain values and opens the database anew."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import IO, Any

from ..core.van.plan import VanPlan
from ..desk.acts import Stamp
from ..desk.archive import export_log, import_log
from ..desk.bringing import Brought, confirm, look_through, receive
from ..desk.call_files import bring_readings
from ..desk.capacitors import capacitor_request
from ..desk.hookup import hookup_request
from ..desk.model import model_request
from ..desk.practice_cases import bring_case
from ..desk.telling import Tell, no_tell
from ..desk.van_plan import Wish, plan_from_log
from ..desk.without_store import assess_file, match_request
from ..store.database import Database

ANSWERS: dict[str, Callable[[bytes], Any]] = {
    "assess": assess_file,
    "match": match_request,
    "model": model_request,
    "capacitor": capacitor_request,
    "hookup": hookup_request,
}


def answer_json(name: str, data: bytes) -> bytes:
    """The answer of the API to a body, as JSON. Raises `BadInput`."""
    text: str = ANSWERS[name](data).model_dump_json(by_alias=True)
    return text.encode()


def bring_readings_in(path: Path, call_id: int, stamp: Stamp, data: bytes) -> int:
    """The readings of a CSV file to a call; how many. Raises as `bring_readings` does."""
    return bring_readings(Database.opened(path), call_id, stamp, data)


def bring_case_in(path: Path, stamp: Stamp, data: bytes) -> str:
    """A practice case from its file; its title. Raises `BadInput`."""
    return bring_case(Database.opened(path), stamp, data)


def receive_file(path: Path, stamp: Stamp, name: str, data: bytes, van: str | None) -> str:
    """Keep a file of the shelf to be looked through; the draft's id. Raises `BadInput`."""
    return receive(Database.opened(path), stamp, name, data, van)


def look_through_file(path: Path, draft_id: str, tell: Tell = no_tell) -> None:
    """Look through a file of the shelf."""
    look_through(Database.opened(path), draft_id, tell)


def write_file(path: Path, stamp: Stamp, draft_id: str, only_file: bool, tell: Tell = no_tell) -> Brought:
    """Write what was looked through. Raises as `confirm` does."""
    return confirm(Database.opened(path), stamp, draft_id, only_file, tell)


def van_plan(path: Path, van: str, wish: Wish) -> VanPlan:
    """What a van should carry, for the units in the log."""
    return plan_from_log(Database.opened(path), van, wish, datetime.now(UTC))


def write_log(path: Path, out: IO[bytes], tell: Tell = no_tell) -> None:
    """The whole log to a file."""
    export_log(Database.opened(path), out, datetime.now(UTC), tell)


def bring_log_in(path: Path, stamp: Stamp, data: bytes, replace: bool, tell: Tell = no_tell) -> int:
    """A log in the place of this one; how many calls. Raises as `import_log` does."""
    return import_log(Database.opened(path), stamp, BytesIO(data), replace, tell)
