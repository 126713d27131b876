"""Settings: the shop's limits, and how findings are weighed."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response

from ...core.capacitors.needed import RENEWALS
from ...core.diagnosis.evidence import QUESTIONS
from ...core.diagnosis.faults import FAULTS, LEADS_TO, MUTUALLY_EXCLUSIVE, SECOND_FAULT
from ...core.diagnosis.predicted import AIR, SCENARIOS, SHOWS
from ...core.errors import InvalidField
from ...core.machine.rated import TABLE as PRIORS
from ...core.match.schools import NAMES, SCHOOLS
from ...services.log.nightly import backup_state, save_backup_plan
from ...services.people.people import people, save_person, vans
from ...services.people.settings import (
    delivery_name,
    limit_rows,
    meter_of_shop,
    save_ferries,
    save_limits,
    save_schools,
    save_shop_name,
    save_units,
    shop_ferries,
    shop_limits,
    shop_name,
    shop_schools,
)
from ..auth_middleware import concerns
from ..page import WHO_COOKIE, act_context, checked_form, database, faults_by_field, redirect, render, who_is

router = APIRouter()


def settings_form(request: Request, status: int = 200, **context: object) -> Response:
    """The settings page."""
    rows = limit_rows(shop_limits(database(request)))
    return render(
        request,
        "settings.html",
        status,
        station="settings",
        rows=rows,
        schools=shop_schools(database(request)),
        sizings=[(school, NAMES[school]) for school in SCHOOLS],
        renewals=RENEWALS,
        people=people(database(request)),
        vans=vans(database(request)),
        me=who_is(request),
        ferries=" ".join(shop_ferries(database(request))),
        delivery=delivery_name(database(request)),
        meter=meter_of_shop(database(request)),
        shop_name=shop_name(database(request)),
        share_address=request.app.state.settings.share_address,
        backup=backup_state(database(request), datetime.now(UTC), request.app.state.backup_trouble),
        **{"phone_of": "", "phone_code": "", "phone_link": "", **context},
    )


@router.get("/settings")
@concerns("reference")
def show_settings(request: Request) -> Response:
    """The limits, each with its source."""
    return settings_form(request)


@router.post("/settings")
@concerns("limits")
def keep_settings(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Tighten limits."""
    try:
        save_limits(database(request), act_context(form), form)
    except InvalidField as error:
        return settings_form(request, 422, faults=faults_by_field(error), typed=form)
    return redirect("/settings", saved="limits")


@router.post("/settings/units")
@concerns("units")
def keep_units(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Choose degrees and currency."""
    try:
        save_units(database(request), act_context(form), form)
    except InvalidField as error:
        return settings_form(request, 422, faults=faults_by_field(error), typed=form)
    return redirect("/settings", saved="units")


@router.post("/settings/schools")
@concerns("schools")
def keep_schools(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Choose the shop's schools."""
    try:
        save_schools(database(request), act_context(form), form)
    except InvalidField as error:
        return settings_form(request, 422, faults=faults_by_field(error))
    return redirect("/settings", saved="schools")


def _back(form: dict[str, str]) -> str:
    """Where a form is sent back to: the board for the first steps of a shop, else Settings."""
    return "/" if form.get("back") == "/" else "/settings"


@router.post("/settings/people")
@concerns("people")
def keep_person(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Say who uses this device; add a technician, or the van one drives."""
    db, me = database(request), form.get("me", "")
    if form.get("do") == "add":
        try:
            me = str(save_person(db, act_context(form), form))
        except InvalidField as error:
            return settings_form(request, 422, faults=faults_by_field(error), typed=form)
    response = redirect(_back(form), saved="people")
    if any(str(person.id) == me for person in people(db)):
        response.set_cookie(WHO_COOKIE, me, httponly=True, samesite="strict", max_age=365 * 24 * 3600)
    else:
        response.delete_cookie(WHO_COOKIE)
    return response


@router.post("/settings/shop")
@concerns("shop_name")
def keep_shop(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Give the shop its name."""
    try:
        save_shop_name(database(request), act_context(form), form.get("shop", ""))
    except InvalidField as error:
        return settings_form(request, 422, faults=faults_by_field(error), typed=form)
    return redirect(_back(form), saved="shop")


@router.post("/settings/backup")
@concerns("backup")
def keep_backup_plan(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Set the nightly backup."""
    try:
        save_backup_plan(database(request), act_context(form), form)
    except InvalidField as error:
        return settings_form(request, 422, faults=faults_by_field(error), typed=form)
    return redirect("/settings", saved="backup")


@router.post("/settings/ferries")
@concerns("delivery")
def keep_ferries(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Note when parts come over."""
    try:
        save_ferries(database(request), act_context(form), form.get("ferries", ""), form.get("delivery_name", ""))
    except InvalidField as error:
        return settings_form(request, 422, faults=faults_by_field(error), typed=form)
    return redirect("/settings", saved="ferries")


@router.get("/settings/weighing")
@concerns("reference")
def show_weighing(request: Request) -> Response:
    """The evidence table as a table."""
    return render(
        request,
        "weighing.html",
        station="settings",
        questions=QUESTIONS,
        faults_table=FAULTS,
        leads_to=LEADS_TO,
        one_of=MUTUALLY_EXCLUSIVE,
        second=SECOND_FAULT,
        scenarios=SCENARIOS,
        shows=SHOWS,
        air=AIR,
        priors=PRIORS,
    )
