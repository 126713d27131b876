"""The whole log out and in, and readings as CSV; what takes longer than a second goes on beside the page."""

from __future__ import annotations

import secrets
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import FileResponse, Response, StreamingResponse

from ...core.errors import BadInput
from ...desk.acts import NotThere
from ...desk.archive import NotEmpty, export_log, import_log
from ...desk.call_files import bring_readings, readings_lines
from ...desk.log import search
from ...desk.sheet import open_sheet
from ...desk.telling import Tell
from ...formats.csv_rows import LARGEST
from ..imports import Job, Jobs
from ..page import checked_form, database, faults_by_field, go, render, stamp_of, upload

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
AT_ONCE_S = 1.0
"""What is done within this time is shown at once; the rest gets a bar."""


def _jobs(request: Request) -> Jobs:
    found: Jobs = request.app.state.jobs
    return found


def _page(request: Request, status: int = 200, **context: object) -> Response:
    total = search(database(request)).total
    return render(request, "archive.html", status, station="log", total=total, **{"job": None, "key": "", **context})


@router.get("/log/archive")
def show_archive(request: Request) -> Response:
    """Out and in."""
    return _page(request)


@router.post("/log/archive/export")
def begin_export(request: Request, form: Form) -> Response:
    """Write the log to a file, beside the page when it is large."""
    db, key = database(request), secrets.token_urlsafe(12)

    def work(tell: Tell) -> Path:
        with tempfile.NamedTemporaryFile(prefix="keen-coil-", suffix=".zip", delete=False) as out:
            export_log(db, out, datetime.now(UTC), tell)
            return Path(out.name)

    _jobs(request).start(key, "Writing", work).over.wait(AT_ONCE_S)
    return go(f"/log/archive/{key}")


@router.post("/log/archive/import")
async def begin_import(request: Request, form: Form) -> Response:
    """Bring a log in, beside the page when it is large."""
    try:
        _, data = await upload(request, largest=LARGEST)
    except BadInput as error:
        return _page(request, 422, file_faults=[fault.line() for fault in error.faults])
    db, stamp, replace = database(request), stamp_of(form), form.get("replace") == "yes"
    file: IO[bytes] = tempfile.TemporaryFile()  # noqa: SIM115  # the thread closes it
    file.write(data)
    file.seek(0)

    def work(tell: Tell) -> int:
        with file:
            return import_log(db, stamp, file, replace, tell)

    key = secrets.token_urlsafe(12)
    _jobs(request).start(key, "Reading", work)
    return go(f"/log/archive/{key}")


@router.get("/log/archive/{key}")
def show_job(request: Request, key: str) -> Response:
    """How far an export or an import is, and how it came out."""
    if key.endswith(".zip"):
        return _file(request, key.removesuffix(".zip"))
    job = _job(request, key)
    job.over.wait(AT_ONCE_S)
    if not job.ended:
        return _page(request, job=job, key=key)
    if isinstance(job.result, BadInput):
        return _page(request, 422, file_faults=[fault.line() for fault in job.result.faults])
    if isinstance(job.result, NotEmpty):
        return _page(request, 409, not_empty=job.result.calls)
    if isinstance(job.result, Exception):
        raise job.result
    if isinstance(job.result, Path):
        return _page(request, made=key, size=job.result.stat().st_size if job.result.exists() else 0)
    return _page(request, brought=job.result)


def _job(request: Request, key: str) -> Job:
    job = _jobs(request).of(key)
    if job is None:
        raise NotThere("this file: it was made before the program was started anew")
    return job


def _file(request: Request, key: str) -> Response:
    made = _job(request, key).result
    if not isinstance(made, Path) or not made.exists():
        raise NotThere("this file")
    return FileResponse(made, media_type="application/zip", filename=f"keen-coil-log-{datetime.now(UTC):%Y-%m-%d}.zip")


@router.get("/log/readings.csv")
def give_all_readings(request: Request) -> Response:
    """The readings of every call as CSV."""
    return _csv(readings_lines(database(request)), "readings.csv")


@router.get("/calls/{call_id}/readings.csv")
def give_readings(request: Request, call_id: int) -> Response:
    """The readings of a call as CSV."""
    open_sheet(database(request), call_id)
    return _csv(readings_lines(database(request), call_id), f"call-{call_id}-readings.csv")


def _csv(lines: object, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(lines, media_type="text/csv; charset=utf-8", headers=headers)  # type: ignore[arg-type]


@router.post("/calls/{call_id}/readings/file")
async def take_readings(request: Request, call_id: int, form: Form) -> Response:
    """Add the readings of a CSV file to a call."""
    try:
        _, data = await upload(request)
        many = bring_readings(database(request), call_id, stamp_of(form), data)
    except BadInput as error:
        lines = [fault.line() for fault in error.faults[:20]]
        return render(
            request, "error.html", 422, title="That cannot be taken", lines=["Nothing was added.", *lines],
            back=f"/calls/{call_id}/path", faults=faults_by_field(error),
        )  # fmt: skip
    return go(f"/calls/{call_id}/path", brought=many)
