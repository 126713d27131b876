"""Vans: syncing with the shop or by file, which laptop synced when, what needs a decision; versions of one call."""

from __future__ import annotations

import io
import os
import secrets
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField, KeenCoilError, NotFound, invalid
from ...core.units import whole_number
from ...formats.csv_rows import LARGEST
from ...services.calls.call_view import open_call_view
from ...services.field_messages import file_message
from ...services.sync.authors import forget_key, make_managers, tell_off
from ...services.sync.lineage import OlderCopy, name_replica
from ...services.sync.replica_joins import settle_twice
from ...services.sync.state import sync_state
from ...services.sync.sync import SyncReport, keep_partner, new_identity
from ...services.sync.tokens import end_token, make_token, tokens
from ...services.sync.two_versions import decide
from ..auth_middleware import account_of, bearer_of, concerns, may_manage
from ..background_jobs import BackgroundJob, BackgroundJobs
from ..page import RowId, act_context, call_page, checked_form, database, faults_by_field, redirect, render, upload
from ..tasks import sync_now, take_sync_file, write_sync_file
from .archive import file_writer, zip_answer

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
AT_ONCE_S = 1.0
PAGE = "/settings/vans"


def _jobs(request: Request) -> BackgroundJobs:
    found: BackgroundJobs = request.app.state.jobs
    return found


def _page(request: Request, status: int = 200, **context: object) -> Response:
    state = sync_state(database(request))
    account, db = account_of(request), database(request)
    own = tokens(db, None if may_manage(request) else account.name) if account else []
    blank: dict[str, object] = {"job": None, "key": "", "token": "", "report": None, "trouble": [], "made": ""}
    blank |= {"tokens": own, "is_older": False}
    return render(request, "vans.html", status, station="settings", state=state, **{**blank, **context})


@router.get(PAGE)
@concerns("syncing")
def show_vans(request: Request) -> Response:
    """Which laptop synced when, what waits, what needs a decision."""
    return _page(request)


@router.post(PAGE)
@concerns("computer")
def name_this(request: Request, form: Form) -> Response:
    """Name this laptop; say whether it is the shop's."""
    try:
        name_replica(database(request), act_context(form), form.get("name", ""), form.get("is_shop") == "yes")
    except InvalidField as error:
        return _page(request, 422, faults=faults_by_field(error), typed=form)
    return redirect(PAGE, saved="name")


@router.post(f"{PAGE}/sync")
@concerns("laptops")
def begin_sync(request: Request, form: Form) -> Response:
    """Sync with the shop's server, beside the page when it takes long."""
    db = database(request)
    try:
        certificate = _certificate(request)
        keep_partner(db, form.get("address", ""), form.get("token", "").strip(), certificate)
    except InvalidField as error:
        return _page(request, 422, faults=faults_by_field(error), typed=form)
    run, act, key = request.app.state.file_workers.run, act_context(form), secrets.token_urlsafe(12)
    _jobs(request).start(key, "Syncing", lambda progress: run(sync_now, db.path, act, progress=progress))
    return redirect(f"{PAGE}/{key}")


def _certificate(request: Request) -> str | None:
    try:
        _, data = upload(request, "certificate", 100_000)
    except InvalidField as error:
        if any(fault.value == "no file" for fault in error.errors):
            return None
        raise
    return data.decode("ascii", "replace")


@router.post(f"{PAGE}/file")
@concerns("laptops")
def begin_file(request: Request, form: Form) -> Response:
    """Merge a file of another laptop, or write one for it."""
    db, run, key = database(request), request.app.state.file_workers.run, secrets.token_urlsafe(12)
    if form.get("do") == "write":
        write = file_writer(request, write_sync_file, form.get("for", ""))
        _jobs(request).start(key, "Writing", write).over.wait(AT_ONCE_S)
        return redirect(f"{PAGE}/{key}")
    try:
        _, data = upload(request, largest=LARGEST)
    except InvalidField as error:
        return _page(request, 422, trouble=[file_message(fault) for fault in error.errors])
    act, bearer = act_context(form), bearer_of(request)
    _jobs(request).start(
        key, "Merging", lambda progress: run(take_sync_file, db.path, act, data, bearer, progress=progress)
    )
    return redirect(f"{PAGE}/{key}")


@router.get(f"{PAGE}/{{key}}")
@concerns("laptops")
def show_sync(request: Request, key: str) -> Response:
    """How far a sync is, and how it came out."""
    if key.endswith(".zip"):
        return _file(request, key.removesuffix(".zip"))
    job = _job(request, key)
    job.over.wait(AT_ONCE_S)
    if not job.ended:
        return _page(request, job=job, key=key)
    found = job.result
    if isinstance(found, InvalidField):
        return _page(request, 422, trouble=[file_message(fault) for fault in found.errors])
    if isinstance(found, KeenCoilError):
        is_older = isinstance(found, OlderCopy) and found.mine
        return _page(request, found.status, trouble=found.lines, is_older=is_older)
    if isinstance(found, Exception):
        raise found
    if isinstance(found, io.IOBase):
        return _page(request, made=key, size=os.fstat(found.fileno()).st_size)
    return _page(request, report=found if isinstance(found, SyncReport) else None)


def _job(request: Request, key: str) -> BackgroundJob:
    job = _jobs(request).of(key)
    if job is None:
        raise NotFound("this sync. The program was restarted since")
    return job


def _file(request: Request, key: str) -> Response:
    made = _job(request, key).result
    if not isinstance(made, io.IOBase) or made.closed:
        raise NotFound("this file")
    return zip_answer(made, f"keen-coil-sync-{datetime.now(UTC):%Y-%m-%d-%H%M}.zip")


@router.post(f"{PAGE}/token")
@concerns("own_account")
def give_token(request: Request, form: Form) -> Response:
    """A token for the van of whoever is signed in, shown once; or the end of one."""
    account, db = account_of(request), database(request)
    if account is None:
        raise NotFound("account to make a token for: nobody signs in here")
    if form.get("end"):
        end_token(db, act_context(form), None if may_manage(request) else account.name, form["end"])
        return redirect(PAGE, saved="token")
    try:
        return _page(request, token=make_token(db, act_context(form), account.name, form.get("token_name", "")))
    except InvalidField as error:
        return _page(request, 422, faults=faults_by_field(error), typed=form)


@router.post(f"{PAGE}/laptop")
@concerns("laptops")
def keep_laptop(request: Request, form: Form) -> Response:
    """Tell a laptop off that was lost, take it back, or let it pair anew."""
    db, act, uid, do = database(request), act_context(form), form.get("laptop", ""), form.get("do", "")
    if do not in ("off", "back", "again", "manager"):
        raise invalid("do", do or "nothing", "off, back, again or manager")
    if do == "again":
        forget_key(db, act, uid)
    elif do == "manager":
        make_managers(db, act, uid)
    else:
        tell_off(db, act, uid, back=do == "back")
    return redirect(PAGE, saved="laptop")


@router.post(f"{PAGE}/renew")
@concerns("laptops")
def go_on_as_another(request: Request, form: Form) -> Response:
    """Go on as another laptop: after a restore, or where a copy goes on beside."""
    new_identity(database(request), act_context(form))
    return redirect(PAGE, saved="identity")


@router.post(f"{PAGE}/twice")
@concerns("laptops")
def join_or_not(request: Request, form: Form) -> Response:
    """Join two units, or say that they are two."""
    join = form.get("do") == "join"
    unit = settle_twice(database(request), act_context(form), form.get("first", ""), form.get("second", ""), join)
    return redirect(f"/log/units/{unit}" if join else PAGE)


@router.post(f"{PAGE}/use")
@concerns("syncing")
def use_version(request: Request, form: Form) -> Response:
    """Use a version from now on."""
    stamp = whole_number(form.get("stamp", "")) or 0
    where = (form.get("table", ""), form.get("key", ""), form.get("part", ""), form.get("origin", ""))
    call_id = decide(database(request), act_context(form), *where, stamp, may_manage(request))
    if form.get("back") == "call" and call_id is not None:
        return redirect(f"/calls/{call_id}/versions")
    return redirect(PAGE)


@router.get("/calls/{call_id}/versions")
@concerns("syncing")
def show_versions(request: Request, call_id: RowId) -> Response:
    """What several wrote apart about a call."""
    return call_page(request, "versions", "hand-over", open_call_view(database(request), call_id))
