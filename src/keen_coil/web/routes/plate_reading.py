"""A plate read: from a photograph or from one line; what was found is shown, and taken field by field."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Request
from starlette.responses import Response

from ...core.errors import InvalidField, NotFound, RefusedNow
from ...core.plate.answer import PlateKind, PlateReading
from ...formats.plate_photograph import EngineMissing, crop_of
from ...services.acts import ProgressCallback
from ...services.calls.call_view import CallView, open_call_view
from ...services.calls.photographs import MEDIA_TYPE, photograph, subject_of
from ...services.calls.rail import STATION, next_after
from ...services.stations.plate_fields import FIELDS
from ...services.stations.plate_photograph import PhotographText, plate_of_photograph
from ...services.stations.plate_reading import KINDS, proposals, read_line, take_reading, taken_fields
from ..auth_middleware import concerns
from ..page import (
    RowId,
    act_context,
    call_page,
    checked_form,
    database,
    faults_by_field,
    redirect,
    temperatures_in_celsius,
)
from ..tasks import read_plate_photograph
from .match import plate_page
from .plates import plates_page

REMEMBERED, AT_ONCE = 200, 1
NO_ENGINE = "engine"
Work = Callable[[ProgressCallback], PhotographText]


@dataclass(eq=False)
class PhotographJob:
    """A photograph being read: lines read of how many; then its text, or why there is none. `ahead`: read before it."""

    done: int = 0
    of: int = 0
    ahead: int = 0
    text: PhotographText | None = None
    trouble: str = ""
    over: threading.Event = field(default_factory=threading.Event)

    @property
    def is_over(self) -> bool:
        """Whether text or trouble is there."""
        return self.over.is_set()

    def seen(self, ahead: int = 0) -> PhotographJob:
        """The job as it is now, for a page: what ends while the page is made is told by the next one."""
        return replace(self) if self.is_over else PhotographJob(self.done, self.of, ahead)


class PlatePhotographs:
    """The readings of this server, by photograph; the latest are remembered."""

    def __init__(self) -> None:
        self._jobs: OrderedDict[int, PhotographJob] = OrderedDict()
        self._lock, self._turn = threading.Lock(), threading.Semaphore(AT_ONCE)

    def ahead_of(self, job: PhotographJob) -> int:
        """How many photographs are read before this one."""
        with self._lock:
            waiting = [one for one in self._jobs.values() if not one.is_over]
        return max(0, waiting.index(job) - AT_ONCE + 1) if job in waiting else 0

    def of(self, photo_id: int, work: Work) -> PhotographJob:
        """The text of a photograph, looked for when nobody has asked for it yet, or the last try came to nothing."""
        with self._lock:
            job = self._jobs.get(photo_id)
            if job is not None and not job.trouble:
                return job
            self._jobs.pop(photo_id, None)
            job = self._jobs[photo_id] = PhotographJob()
            while len(self._jobs) > REMEMBERED:
                self._jobs.popitem(last=False)
        threading.Thread(target=self._run, args=(job, work), name=f"plate-{photo_id}", daemon=True).start()
        return job

    def _run(self, job: PhotographJob, work: Work) -> None:
        def progress(done: int, of: int) -> None:
            job.done, job.of = done, of

        try:
            with self._turn:  # one after the other: each takes a core and a half
                job.text = work(progress)
        except EngineMissing:
            job.trouble = NO_ENGINE
        except RefusedNow as refused:
            job.trouble = str(refused)
        except Exception as error:  # the page says it: nobody else is there to
            job.trouble = f"It could not be read ({type(error).__name__})."
        finally:
            job.over.set()


router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]
Side = Annotated[int, Query(ge=0, le=4000)]
For = Literal["old", "new"]
WAIT_S = 0.25
KIND_NAMES: dict[PlateKind, str] = {"motor": "motor plate", "unit": "unit plate", "capacitor": "capacitor label"}


def _job(request: Request, call_id: int, photo_id: int) -> PhotographJob:
    """The reading of a kept photograph, begun where it is not yet; soon over when somebody looked before."""
    content = photograph(database(request), call_id, photo_id)
    readings: PlatePhotographs = request.app.state.plate_photographs
    work = partial(request.app.state.file_workers.run, read_plate_photograph, content)
    job = readings.of(photo_id, lambda progress: work(progress=progress))
    job.over.wait(WAIT_S)
    return job.seen(readings.ahead_of(job))


@router.get("/calls/{call_id}/plates/read/{photo_id}")
@concerns("calls")
def show_reading(
    request: Request, call_id: RowId, photo_id: RowId, kind: PlateKind | None = None, to: For = "old"
) -> Response:
    """What a photograph says: how far it is read, then field by field."""
    return _photograph_page(request, call_id, photo_id, kind, to)


def _photograph_page(
    request: Request,
    call_id: int,
    photo_id: int,
    kind: PlateKind | None,
    to: For,
    status: int = 200,
    **context: object,
) -> Response:
    view = open_call_view(database(request), call_id)
    job = _job(request, call_id, photo_id)
    reading = None
    if job.text is not None:
        subject = KINDS.get(subject_of(database(request), call_id, photo_id), "motor")
        wanted = kind or (None if subject == "motor" else subject)
        reading = plate_of_photograph(job.text, wanted, view.call.motor.role)
    shown = {"photo_id": photo_id, "job": job, "no_engine": job.trouble == NO_ENGINE, "line": ""}
    return _reading_page(request, view, reading, to, status, **(shown | context))


def _reading_page(
    request: Request, view: CallView, reading: PlateReading | None, to: For, status: int, **context: object
) -> Response:
    rows = proposals(database(request), view, reading, to == "new") if reading else []
    shown = {
        "reading": reading,
        "rows": rows,
        "sure": [row for row in rows if row.is_taken],
        "doubtful": [row for row in rows if not row.is_taken],
        "to": to,
        "kind_names": KIND_NAMES,
        "faults": {},
        "form": {},
    }
    return call_page(request, "plate_reading", "match" if to == "new" else "plates", view, status, **(shown | context))


@router.post("/calls/{call_id}/plates/line")
@concerns("calls")
def read_typed(request: Request, call_id: RowId, form: Form) -> Response:
    """What one line says, field by field; nothing is saved."""
    to: For = "new" if form.get("to") == "new" else "old"
    try:
        return _line_page(request, call_id, form.get("line", ""), to)
    except InvalidField as error:
        back = plate_page if to == "new" else plates_page
        return back(request, call_id, 422, line=form.get("line", ""), line_faults=faults_by_field(error))


def _line_page(request: Request, call_id: int, line: str, to: For, status: int = 200, **context: object) -> Response:
    view = open_call_view(database(request), call_id)
    reading = read_line(line, view.call.motor.role)
    shown = {"photo_id": None, "job": None, "no_engine": False, "line": line}
    return _reading_page(request, view, reading, to, status, **(shown | context))


@router.post("/calls/{call_id}/plates/take")
@concerns("calls")
def take(request: Request, call_id: RowId, form: Form) -> Response:
    """Save the readings that were ticked; those of a replacement go to its form, to be judged from there."""
    to: For = "new" if form.get("to") == "new" else "old"
    form = temperatures_in_celsius(form, FIELDS)
    try:
        if to == "new":
            return plate_page(request, call_id, texts=taken_fields(form, is_new=True))
        take_reading(database(request), call_id, act_context(form), form)
    except InvalidField as error:
        return _again(request, call_id, form, to, error)
    view = open_call_view(database(request), call_id)
    left = STATION["plates"].state(view) != "done"
    return redirect(f"/calls/{call_id}/{'plates' if left else next_after(view, 'plates')}")


def _again(request: Request, call_id: int, form: dict[str, str], to: For, error: InvalidField) -> Response:
    """The same reading with what was wrong beside each field; what was typed stays."""
    told: dict[str, object] = {"faults": faults_by_field(error), "form": form}
    photo = form.get("photo", "")
    if photo.isdigit() and len(photo) < 19:
        kind = next((known for known in KIND_NAMES if known == form.get("kind")), None)
        return _photograph_page(request, call_id, int(photo), kind, to, 422, **told)
    return _line_page(request, call_id, form.get("line", ""), to, 422, **told)


@router.get("/calls/{call_id}/photographs/{photo_id}/crop")
@concerns("calls")
def show_crop(request: Request, call_id: RowId, photo_id: RowId, x: Side, y: Side, w: Side, h: Side) -> Response:
    """The part of a photograph that a field was read from."""
    content = photograph(database(request), call_id, photo_id)
    part = crop_of(content, (x, y, w, h))
    if part is None:
        raise NotFound("a part of this photograph")
    return Response(part, media_type=MEDIA_TYPE, headers={"Cache-Control": "private, max-age=86400"})
