"""The whole log out and in, and readings as CSV; what takes longer than a second goes on beside the page."""

from __future__ import annotations

import io
import os
import secrets
import tempfile
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from typing import IO, Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response, StreamingResponse

from ...core.errors import InvalidField, NotFound
from ...formats.csv_rows import LARGEST
from ...services.acts import ProgressCallback
from ...services.calls.call_files import readings_lines
from ...services.calls.call_view import open_call_view
from ...services.field_messages import file_message
from ...services.log.archive import LogNotEmpty
from ...services.log.log import search
from ..auth_middleware import concerns
from ..background_jobs import BackgroundJob, BackgroundJobs
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, render, upload
from ..tasks import bring_log_in, bring_readings_in, write_log, write_readings_of_all

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
AT_ONCE_S, PIECE = 1.0, 1 << 18
"""What is done within this time is shown at once; the rest gets a bar."""


def _jobs(request: Request) -> BackgroundJobs:
    found: BackgroundJobs = request.app.state.jobs
    return found


def _page(request: Request, status: int = 200, **context: object) -> Response:
    total = search(database(request)).total
    return render(request, "archive.html", status, station="log", total=total, **{"job": None, "key": "", **context})


@router.get("/log/archive")
@concerns("calls")
def show_archive(request: Request) -> Response:
    """Out and in."""
    return _page(request)


@router.post("/log/archive/export")
@concerns("log")
def begin_export(request: Request, form: Form) -> Response:
    """Write the log to a file, beside the page when it is large."""
    key, write = secrets.token_urlsafe(12), file_writer(request, write_log)
    _jobs(request).start(key, "Writing", write).over.wait(AT_ONCE_S)
    return redirect(f"/log/archive/{key}")


def file_writer(request: Request, task: Callable[..., None], *args: object) -> Callable[[ProgressCallback], IO[bytes]]:
    """Work that writes a file of this database by a task of `web/tasks.py`, in a process of its own."""
    path, run = database(request).path, request.app.state.file_workers.run

    def work(progress: ProgressCallback) -> IO[bytes]:
        out: IO[bytes] = tempfile.TemporaryFile()  # noqa: SIM115  # nameless: gone with the job that holds it
        run(task, path, *args, out=out, progress=progress)
        out.flush()
        return out

    return work


@router.post("/log/archive/import")
@concerns("log")
def begin_import(request: Request, form: Form) -> Response:
    """Bring a log in, beside the page when it is large."""
    try:
        _, data = upload(request, largest=LARGEST)
    except InvalidField as error:
        return _page(request, 422, file_faults=[file_message(fault) for fault in error.errors])
    path, act, replace = database(request).path, act_context(form), form.get("replace") == "yes"
    run, key = request.app.state.file_workers.run, secrets.token_urlsafe(12)
    _jobs(request).start(
        key, "Reading", lambda progress: run(bring_log_in, path, act, data, replace, progress=progress)
    )
    return redirect(f"/log/archive/{key}")


@router.get("/log/archive/{key}")
@concerns("log")
def show_job(request: Request, key: str) -> Response:
    """How far an export or an import is, and how it came out."""
    if key.endswith(".zip"):
        return _file(request, key.removesuffix(".zip"))
    job = _job(request, key)
    job.over.wait(AT_ONCE_S)
    if not job.ended:
        return _page(request, job=job, key=key)
    if isinstance(job.result, InvalidField):
        return _page(request, 422, file_faults=[file_message(fault) for fault in job.result.errors])
    if isinstance(job.result, LogNotEmpty):
        return _page(request, 409, not_empty=job.result.calls)
    if isinstance(job.result, Exception):
        raise job.result
    if isinstance(job.result, io.IOBase):
        return _page(request, made=key, size=_size(job.result))
    return _page(request, brought=job.result)


def _size(file: io.IOBase) -> int:
    return os.fstat(file.fileno()).st_size


def _job(request: Request, key: str) -> BackgroundJob:
    job = _jobs(request).of(key)
    if job is None:
        raise NotFound("this file. The program was restarted since it was made")
    return job


def _file(request: Request, key: str) -> Response:
    made = _job(request, key).result
    if not isinstance(made, io.IOBase) or made.closed:
        raise NotFound("this file")
    return zip_answer(made, f"keen-coil-log-{datetime.now(UTC):%Y-%m-%d}.zip")


def zip_answer(made: io.IOBase, name: str) -> Response:
    """A zip that a job made, to be kept under a name."""
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Content-Length": str(_size(made))}
    return StreamingResponse(_pieces(made), media_type="application/zip", headers=headers)


def _pieces(file: io.IOBase) -> Iterator[bytes]:
    """A file from its start, whoever else reads it."""
    at, number = 0, os.dup(file.fileno())  # ours stays open when the job is forgotten meanwhile
    try:
        while piece := os.pread(number, PIECE, at):
            yield piece
            at += len(piece)
    finally:
        os.close(number)


@router.get("/log/readings.csv")
@concerns("calls")
def give_all_readings(request: Request) -> Response:
    """The readings of every call as CSV."""
    pieces = request.app.state.file_workers.stream(write_readings_of_all, database(request).path)
    return _csv(pieces, "readings.csv")


@router.get("/calls/{call_id}/readings.csv")
@concerns("calls")
def give_readings(request: Request, call_id: RowId) -> Response:
    """The readings of a call as CSV."""
    open_call_view(database(request), call_id)
    return _csv(readings_lines(database(request), call_id), f"call-{call_id}-readings.csv")


def _csv(lines: object, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(lines, media_type="text/csv; charset=utf-8", headers=headers)  # type: ignore[arg-type]


@router.post("/calls/{call_id}/readings/file")
@concerns("calls")
def take_readings(request: Request, call_id: RowId, form: Form) -> Response:
    """Add the readings of a CSV file to a call."""
    try:
        _, data = upload(request)
        path, run = database(request).path, request.app.state.workers.run
        many = run(bring_readings_in, path, call_id, act_context(form), data)
    except InvalidField as error:
        lines = [file_message(fault) for fault in error.errors[:20]]
        return render(
            request,
            "error.html",
            422,
            title="That can't be saved",
            lines=["Nothing was added.", *lines],
            back=f"/calls/{call_id}/path",
            faults=faults_by_field(error),
        )
    return redirect(f"/calls/{call_id}/path", brought=many)
