"""What is done in processes of its own: each takes plain values and opens the database anew."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import IO, Any

from ..core.van.plan import VanPlan
from ..services.acts import ActContext, ProgressCallback, no_progress
from ..services.answers.answers import assess_file, capacitor_request, match_request
from ..services.answers.hookup import hookup_request
from ..services.answers.model import model_request
from ..services.calls.call_files import bring_readings, readings_lines
from ..services.catalog.shelf_import import ImportCounts, confirm, look_through, receive
from ..services.catalog.van_plan import Wish, plan_from_log
from ..services.log.archive import export_log, import_log
from ..services.practice.cases import bring_case
from ..services.stations.plate_photograph import PhotographText, text_in_photograph
from ..services.sync.authors import Bearer
from ..services.sync.inbox import merge_from_inbox, package_for
from ..services.sync.merge_package import take_package
from ..services.sync.package import make_package
from ..services.sync.state import known_by
from ..services.sync.sync import SyncReport, shop_server, sync_with_shop
from ..store.database import Database

ANSWERS: dict[str, Callable[[bytes], Any]] = {
    "assess": assess_file,
    "match": match_request,
    "model": model_request,
    "capacitor": capacitor_request,
    "hookup": hookup_request,
}


def answer_json(name: str, data: bytes) -> bytes:
    """The answer of the API to a body, as JSON. Raises `InvalidField`."""
    text: str = ANSWERS[name](data).model_dump_json(by_alias=True)
    return text.encode()


def bring_readings_in(path: Path, call_id: int, context: ActContext, data: bytes) -> int:
    """The readings of a CSV file to a call; how many. Raises as `bring_readings` does."""
    return bring_readings(Database.opened(path), call_id, context, data)


def bring_case_in(path: Path, context: ActContext, data: bytes) -> str:
    """A practice case from its file; its title. Raises `InvalidField`."""
    return bring_case(Database.opened(path), context, data)


def receive_file(path: Path, context: ActContext, name: str, data: bytes, van: str | None) -> str:
    """Keep a file of the shelf to be looked through; the draft's id. Raises `InvalidField`."""
    return receive(Database.opened(path), context, name, data, van)


def look_through_file(path: Path, draft_id: str, progress: ProgressCallback = no_progress) -> None:
    """Look through a file of the shelf."""
    look_through(Database.opened(path), draft_id, progress)


def write_file(
    path: Path, context: ActContext, draft_id: str, only_file: bool, progress: ProgressCallback = no_progress
) -> ImportCounts:
    """Write what was looked through. Raises as `confirm` does."""
    return confirm(Database.opened(path), context, draft_id, only_file, progress)


def van_plan(path: Path, van: str, wish: Wish) -> VanPlan:
    """What a van should carry, for the units in the log."""
    return plan_from_log(Database.opened(path), van, wish, datetime.now(UTC))


def write_log(path: Path, out: IO[bytes], progress: ProgressCallback = no_progress) -> None:
    """The whole log to a file."""
    export_log(Database.opened(path), out, datetime.now(UTC), progress)


def bring_log_in(
    path: Path, context: ActContext, data: bytes, replace: bool, progress: ProgressCallback = no_progress
) -> int:
    """A log in the place of this one; how many calls. Raises as `import_log` does."""
    return import_log(Database.opened(path), context, BytesIO(data), replace, progress)


def write_readings_of_all(path: Path, out: IO[bytes]) -> None:
    """The readings of every call as CSV, to a file."""
    for piece in readings_lines(Database.opened(path)):
        out.write(piece.encode())


def merge_package(path: Path, context: ActContext, digest: str, bearer: Bearer) -> dict[str, Any]:
    """A package of a van that came whole; what came. Raises as `take_package` does."""
    return merge_from_inbox(Database.opened(path), context, digest, bearer)


def make_for_van(path: Path, knows: dict[str, int]) -> dict[str, Any]:
    """A package of what a van lacks: checksum, size, rows."""
    return package_for(Database.opened(path), knows)


def sync_now(path: Path, context: ActContext, progress: ProgressCallback = no_progress) -> SyncReport:
    """Sync with the shop's server that is remembered. Raises as `sync_with_shop` does."""
    db = Database.opened(path)
    with shop_server(db) as server:
        return sync_with_shop(db, context, server, progress)


def take_sync_file(
    path: Path, context: ActContext, data: bytes, bearer: Bearer, progress: ProgressCallback = no_progress
) -> SyncReport:
    """Merge a package that was sent to a page. Raises as `take_package` does."""
    report = take_package(Database.opened(path), context, BytesIO(data), "file", bearer, progress)
    return SyncReport(report.maker, report.both, {}, ahead_ms=report.ahead_ms, refused=report.refused)


def write_sync_file(path: Path, to: str, out: IO[bytes], progress: ProgressCallback = no_progress) -> None:
    """What a laptop lacks by what is known of it, or everything for anybody, with its photographs, to a file."""
    db = Database.opened(path)
    make_package(db, out, known_by(db, to), True, progress)


def read_plate_photograph(picture: bytes, progress: ProgressCallback = no_progress) -> PhotographText:
    """The text of a photographed plate. Raises `EngineMissing`."""
    return text_in_photograph(picture, progress)
