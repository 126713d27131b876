"""Run proof: the final readings of the motor that is in now."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.errors import InvalidField
from ...core.proof.plan import needed_for
from ...core.units import whole_number
from ...services.calls.call_view import CallView, open_call_view
from ...services.calls.ledger import ledger, title_of
from ...services.calls.readings import take_reading
from ...services.practice.view import practice_view, values_taken
from ...services.stations.finding import run_heat_says
from ...services.stations.listening import sound_panel
from ...services.stations.pad import proof_pad, should_read
from ..auth_middleware import concerns
from ..chart import band_picture
from ..page import RowId, act_context, checked_form, database, faults_by_field, redirect, station_page
from ..sound_picture import sound_picture

router = APIRouter()


def run_proof_page(
    request: Request, view: CallView, form: dict[str, str], status: int = 200, **context: object
) -> Response:
    """The checks of the run with the pad of the one that is asked for."""
    checks = {check.name: check for check in view.proof.checks}
    plan = needed_for(view.call)
    still = next((row for row in plan if row.must and checks[row.name].state != "passed"), plan[0])
    row = next((row for row in plan if row.name == form.get("check")), still)
    when = form.get("when") if form.get("when") in ("standing", "running") else row.when
    pad = proof_pad(view, row, (when or "") if row.kind == "supply_v" else "")
    practising = practice_view(view.row, row.kind, pad.how.at or "")
    if practising and practising.fields:
        context = {"typed": practising.fields, **context}
    panel = sound_panel(database(request), view, row.kind, "proof")
    saved = whole_number(form.get("saved", ""), len(view.call.readings))
    since = {check.reading for check in view.proof.checks}
    rows = [*ledger(view, proof=True), *(row for row in ledger(view) if row.index in since)]
    return station_page(
        request,
        "run-proof",
        view,
        status,
        proof=view.proof,
        pad=pad,
        check=row.name,
        check_state=checks[row.name].state,
        saved=saved,
        saved_title=None if saved is None else title_of(view, saved),
        rows=rows,
        picture=band_picture(pad.band, None),
        should=should_read(view, proof=True),
        heat_says=run_heat_says(view),
        sound=panel,
        sound_typed=form if "blades" in form else {},
        sound_picture=sound_picture(panel) if panel else None,
        **{"sound_faults": {}, **context},
    )


@router.get("/calls/{call_id}/run-proof")
@concerns("calls")
def show_run_proof(request: Request, call_id: RowId) -> Response:
    """The checks of the run."""
    return run_proof_page(request, open_call_view(database(request), call_id), dict(request.query_params))


@router.post("/calls/{call_id}/run-proof")
@concerns("calls")
def keep_proof_reading(
    request: Request, call_id: RowId, form: Annotated[dict[str, str], Depends(checked_form)]
) -> Response:
    """Save a reading of the run."""
    db = database(request)
    if form.get("bench") == "take":
        form = values_taken(open_call_view(db, call_id).row, form)
    try:
        index = take_reading(db, call_id, act_context(form), {**form, "stage": "proof"})
    except InvalidField as error:
        return run_proof_page(
            request, open_call_view(db, call_id), form, 422, faults=faults_by_field(error), typed=form
        )
    return redirect(f"/calls/{call_id}/run-proof", "pad", saved=index)
