"""Signing in and out, one's own password; accounts and the trail for managers."""

from __future__ import annotations

import asyncio
import secrets
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request
from itsdangerous import BadSignature
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from ...core.errors import InvalidField
from ...services.people.accounts import (
    ROLES,
    SignInRefused,
    SignInSlowed,
    accounts,
    add_account,
    begin_attempt,
    change_password,
    drop_account,
    finish_attempt,
    sign_out,
)
from ...services.people.audit_trail import trail
from ..auth_middleware import IN_COOKIE, account_of, concerns
from ..page import (
    COOKIE,
    act_context,
    checked_form,
    database,
    faults_by_field,
    keep_signed_in,
    page_number,
    redirect,
    render,
    safe_redirect_path,
)

router = APIRouter()
DEVICE_COOKIE, DEVICE_S, MOST_KNOWN = "keen_coil_device", 365 * 24 * 3600, 8
"""A device is known for a year by the names that signed in on it: failures elsewhere do not slow them there."""
Form = Annotated[dict[str, str], Depends(checked_form)]


@router.get("/sign-in")
@concerns("sign_in")
def show_sign_in(request: Request) -> Response:
    """Who are you?"""
    return render(request, "sign_in.html", next_page=safe_redirect_path(request.query_params.get("next", "/")))


@router.post("/sign-in")
@concerns("sign_in")
async def sign_in_now(request: Request, form: Form) -> Response:
    """Sign in, and on to the page that was asked for. A stranger's delay holds up nobody else."""
    where = safe_redirect_path(form.get("next", "/"))
    name, known = form.get("name", "").strip(), known_device(request)
    device = known["id"] if name.lower() in known["names"] else ""
    act, db, run = act_context(form), database(request), request.app.state.sign_in_threads.run
    try:
        address = request.client.host if request.client else "unknown"
        attempt = await run(begin_attempt, db, act.now, name, address, device)
        if attempt.delay_s:
            await asyncio.sleep(attempt.delay_s)
        token = await run(finish_attempt, db, act, attempt, form.get("password", ""))
    except (SignInSlowed, SignInRefused) as error:
        again = {"next_page": where, "faults": {"password": str(error)}, "typed": form}
        return await run_in_threadpool(render, request, "sign_in.html", error.status, **again)
    response = redirect(where)
    keep_signed_in(request, response, token)
    names = [name.lower(), *(had for had in known["names"] if had != name.lower())][:MOST_KNOWN]
    remembered = request.app.state.device_signer.dumps({"id": known["id"], "names": names})
    secure = request.url.scheme == "https"
    response.set_cookie(
        DEVICE_COOKIE, remembered, max_age=DEVICE_S, httponly=True, samesite="strict", secure=secure, path="/sign-in"
    )
    response.delete_cookie(COOKIE)
    return response


def known_device(request: Request) -> dict[str, Any]:
    """What a device that signed in before says of itself: its id and the names that signed in on it."""
    try:
        found = request.app.state.device_signer.loads(request.cookies.get(DEVICE_COOKIE, ""))
        return {"id": str(found["id"]), "names": [str(name) for name in found["names"]]}
    except (BadSignature, KeyError, TypeError):
        return {"id": secrets.token_urlsafe(12), "names": []}


@router.get("/account")
@concerns("own_account")
def show_account(request: Request) -> Response:
    """One's own account."""
    return render(request, "account.html", station="settings")


@router.post("/account")
@concerns("own_account")
def change_mine(request: Request, form: Form) -> Response:
    """Change the password, or sign out, here or everywhere."""
    db, act, account = database(request), act_context(form), account_of(request)
    if account is None:
        return redirect("/")
    if form.get("do") in ("out", "everywhere"):
        sign_out(db, act, request.cookies.get(IN_COOKIE, ""), form["do"] == "everywhere")
        response = redirect("/sign-in")
        response.delete_cookie(IN_COOKIE)
        response.delete_cookie(COOKIE)
        return response
    try:
        change_password(db, act, account.name, form.get("old", ""), form.get("password", ""))
    except SignInSlowed as slowed:
        faults = {"old": f"Too many wrong ones. Wait {slowed.seconds} seconds."}
        return render(request, "account.html", 429, station="settings", faults=faults)
    except InvalidField as error:
        return render(request, "account.html", 422, station="settings", faults=faults_by_field(error))
    return redirect("/sign-in")


def _accounts(request: Request, status: int = 200, **context: object) -> Response:
    rows = accounts(database(request))
    return render(request, "accounts.html", status, station="settings", rows=rows, roles=ROLES, **context)


@router.get("/settings/accounts")
@concerns("accounts")
def show_accounts(request: Request) -> Response:
    """Accounts."""
    return _accounts(request)


@router.post("/settings/accounts")
@concerns("accounts")
def change_accounts(request: Request, form: Form) -> Response:
    """Make an account, give it a new password, or take it away."""
    db, act = database(request), act_context(form)
    try:
        if form.get("drop"):
            drop_account(db, act, form["drop"])
        else:
            add_account(db, act, form.get("name", ""), form.get("password", ""), form.get("role", ""))
    except InvalidField as error:
        return _accounts(request, 422, faults=faults_by_field(error), typed=form)
    return redirect("/settings/accounts", saved="yes")


@router.get("/settings/trail")
@concerns("trail")
def show_trail(request: Request) -> Response:
    """Every changing act, newest first."""
    page = page_number(request)
    lines, pages = trail(database(request), page)
    return render(request, "trail.html", station="settings", lines=lines, page=page, pages=pages)
