"""Shelf: catalog and van, searched; files brought in after a look at them; given out again."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response, StreamingResponse

from ...core.errors import InvalidField, NotFound
from ...core.vocabulary import MotorKind, Role, VanPartKind, words_of
from ...formats.catalogue_csv import write_catalogue
from ...formats.csv_rows import LARGEST
from ...formats.van_csv import write_van
from ...services.acts import DuplicateSubmission
from ...services.catalog.shelf import PAGE, all_motors, all_parts, find_motors, find_parts, package
from ...services.catalog.shelf_import import LARGE, STATES, Draft, ImportCounts, ShelfChanged, discard, draft
from ...services.catalog.stock import MOVES, last_movements, move_stock
from ...services.field_messages import file_message
from ...services.people.people import vans
from ..auth_middleware import concerns
from ..background_jobs import BackgroundJob, BackgroundJobs
from ..page import act_context, checked_form, database, faults_by_field, my_van, page_number, redirect, render, upload
from ..tasks import look_through_file, receive_file, write_file
from ..workers import Workers

router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
KINDS, ROLES, PART_KINDS = words_of(MotorKind), words_of(Role), words_of(VanPartKind)


def _jobs(request: Request) -> BackgroundJobs:
    found: BackgroundJobs = request.app.state.jobs
    return found


def _files(request: Request) -> Workers:
    found: Workers = request.app.state.file_workers
    return found


def _one_of(request: Request, name: str, allowed: tuple[str, ...]) -> str:
    value = request.query_params.get(name, "")
    return value if value in allowed else ""


def _shelf(request: Request, status: int = 200, **context: object) -> Response:
    words = request.query_params.get("find", "")[:100].strip()
    there = vans(database(request))
    shows_van = str(context.pop("shows_van", ""))
    van = request.query_params.get("on") == "van" or bool(shows_van)
    chosen = shows_van if shows_van in there else _van(request)
    kind = _one_of(request, "kind", PART_KINDS if van else KINDS)
    role = "" if van else _one_of(request, "role", ROLES)
    number = page_number(request)
    db = database(request)
    found = find_parts(db, chosen, words, kind, number) if van else find_motors(db, words, kind, role, number)
    return render(
        request,
        "shelf.html",
        status,
        station="shelf",
        found=found,
        find=words,
        kind=kind,
        role=role,
        van=van,
        kinds=PART_KINDS if van else KINDS,
        roles=ROLES,
        stock={} if van else {part.part_no: part.quantity for part in all_parts(db, chosen) if part.kind == "motor"},
        van_total=found.total if van else find_parts(db, chosen).total,
        vans=there,
        chosen_van=chosen,
        motor_total=find_motors(db).total if van else found.total,
        moves=MOVES,
        movements=last_movements(db, chosen) if van else [],
        on_van=[part.part_no for part in all_parts(db, chosen)] if van else [],
        **context,
    )


@router.get("/shelf")
@concerns("stock")
def show_shelf(request: Request) -> Response:
    """The motors of the catalog, or what is on the van."""
    return _shelf(request)


@router.post("/shelf/stock")
@concerns("stock")
def note_stock(request: Request, form: Form) -> Response:
    """Note that a part was restocked, counted, or moved to another van."""
    van = form.get("van", "")
    try:
        move_stock(database(request), act_context(form), form)
    except InvalidField as error:
        faults = faults_by_field(error)
        return _shelf(request, 422, shows_van=van, faults=faults, typed=form)
    return redirect("/shelf", on="van", van=van, stocked=form.get("part_no", ""))


@router.get("/shelf/motors.csv")
@concerns("stock")
def give_motors(request: Request) -> Response:
    """The catalog as CSV."""
    return _csv(write_catalogue(all_motors(database(request))), "motors.csv")


@router.get("/shelf/van.csv")
@concerns("stock")
def give_van(request: Request) -> Response:
    """The van as CSV."""
    return _csv(write_van(all_parts(database(request), _van(request))), "van.csv")


@router.get("/shelf/package.zip")
@concerns("stock")
def give_package(request: Request) -> Response:
    """Catalog and van as a zipped data package."""
    return Response(
        package(database(request), _van(request)), media_type="application/zip", headers=_named("keen-coil-shelf.zip")
    )


def _van(request: Request) -> str:
    asked = request.query_params.get("van", "")
    return asked if asked in vans(database(request)) else my_van(request)


def _csv(lines: object, name: str) -> Response:
    kind = "text/csv; charset=utf-8"
    return StreamingResponse(lines, media_type=kind, headers=_named(name))  # type: ignore[arg-type]


def _named(name: str) -> dict[str, str]:
    return {"Content-Disposition": f'attachment; filename="{name}"'}


@router.post("/shelf/import")
@concerns("catalog")
def take_file(request: Request, form: Form) -> Response:
    """Keep a file and look through it; a large one beside the page."""
    try:
        name, data = upload(request, largest=LARGEST)
        van = form.get("van", "").strip()[:60] or None
        draft_id = _files(request).run(receive_file, database(request).path, act_context(form), name, data, van)
    except InvalidField as error:
        return _shelf(request, 422, file_faults=[file_message(fault) for fault in error.errors])
    except DuplicateSubmission:
        return redirect(f"/shelf/import/{form.get('act_id', '')}")
    work = partial(_files(request).run, look_through_file, database(request).path, draft_id)
    if len(data) > LARGE:
        _jobs(request).start(draft_id, "Reading", lambda progress: work(progress=progress))
        return redirect(f"/shelf/import/{draft_id}")
    work()
    report = draft(database(request), draft_id).report or {}
    if report.get("faults"):
        return _shelf(request, 422, file_faults=report["faults"])
    return redirect(f"/shelf/import/{draft_id}")


@router.get("/shelf/import/{draft_id}")
@concerns("catalog")
def show_draft(request: Request, draft_id: str) -> Response:
    """A file that was sent: how far it is read, then row by row what it would do."""
    job = _jobs(request).of(draft_id)
    try:
        found = draft(database(request), draft_id)
    except NotFound:
        if job is None:
            raise
        job.wait()
        if not isinstance(job.result, ImportCounts):
            raise
        return _brought(job.result)
    return _draft_page(request, found, job)


def _draft_page(
    request: Request, found: Draft, job: BackgroundJob | None, status: int = 200, **context: object
) -> Response:
    if job is not None and job.ended:
        _jobs(request).forget(found.id)
        if isinstance(job.result, ShelfChanged):
            context["changed"] = True
        elif job.ended == "failed":
            raise job.result if isinstance(job.result, Exception) else RuntimeError("the import failed")
        job = None
    if job is None and found.report is None:
        work = partial(_files(request).run, look_through_file, database(request).path, found.id)
        job = _jobs(request).start(found.id, "Reading", lambda progress: work(progress=progress))
    state = _one_of(request, "state", STATES)
    report = found.report or {}
    rows = [row for row in report.get("rows", []) if not state or row[3] == state]
    number = page_number(request)
    return render(
        request,
        "draft.html",
        status,
        station="shelf",
        draft=found,
        job=job,
        report=report,
        state=state,
        states=STATES,
        rows=rows[PAGE * (number - 1) : PAGE * number],
        page=number,
        pages=max(1, -(-len(rows) // PAGE)),
        changed=context.pop("changed", False),
        **context,
    )


@router.post("/shelf/import/{draft_id}")
@concerns("catalog")
def settle_draft(request: Request, draft_id: str, form: Form) -> Response:
    """Write what was looked at, or leave it."""
    if form.get("do") != "bring":
        discard(database(request), act_context(form), draft_id)
        return redirect("/shelf", left="yes")
    found = draft(database(request), draft_id)
    only_file = form.get("only_file") == "yes"
    work = partial(_files(request).run, write_file, database(request).path, act_context(form), draft_id, only_file)
    if found.size > LARGE:
        _jobs(request).start(draft_id, "Writing", lambda progress: work(progress=progress))
        return redirect(f"/shelf/import/{draft_id}")
    try:
        return _brought(work())
    except ShelfChanged:
        return _draft_page(request, draft(database(request), draft_id), None, 409, changed=True)


def _brought(done: ImportCounts) -> Response:
    return redirect(
        "/shelf", added=done.added, changed=done.changed, same=done.same, refused=done.refused, off=done.taken_off
    )
