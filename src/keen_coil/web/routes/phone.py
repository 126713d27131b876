"""The phone that measures: a code on the laptop, a link that signs it in once, the certificate that it may trust."""

from __future__ import annotations

import io
import secrets
import threading
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated

import segno
from fastapi import APIRouter, Depends, Request
from markupsafe import Markup
from starlette.responses import Response

from ...core.errors import KeenCoilError, NotFound, invalid
from ...services.people.accounts import sign_in_phone
from ...services.people.people import people
from ..auth_middleware import concerns
from ..page import act_context, checked_form, database, error_page, keep_signed_in, redirect, render
from .settings import settings_form

GOOD_FOR = timedelta(minutes=10)
MOST = 200


@dataclass
class PhoneLink:
    """Who a link signs in, until when, and whether it was used."""

    technician: str
    ends_at: datetime
    used: bool = False


class LinkOver(KeenCoilError):
    """A link that signs nobody in: used, too old, or of a server that is gone."""

    status, title = 410, "This link is over"

    def __init__(self, why: str) -> None:
        super().__init__(why)
        self.why = why

    def __str__(self) -> str:
        return f"{self.why} On the laptop, open Settings, Phones, and scan a new code."


class PhoneLinks:
    """The links of this server."""

    def __init__(self) -> None:
        self._links: dict[str, PhoneLink] = {}
        self._lock = threading.Lock()

    def make(self, technician: str, now: datetime) -> str:
        """A new link for a technician: its token. An older one for the same is over."""
        token = secrets.token_urlsafe(18)
        with self._lock:
            kept = {
                key: link
                for key, link in self._links.items()
                if now - link.ends_at < GOOD_FOR and (link.used or link.technician != technician)
            }
            self._links = dict(list(kept.items())[-MOST:]) | {token: PhoneLink(technician, now + GOOD_FOR)}
        return token

    def look(self, token: str, now: datetime) -> str:
        """The technician that a link would sign in. Raises `LinkOver`."""
        with self._lock:
            return self._good(token, now).technician

    def take(self, token: str, now: datetime) -> str:
        """Use a link up: the technician it signs in. Raises `LinkOver`."""
        with self._lock:
            link = self._good(token, now)
            link.used = True
            return link.technician

    def _good(self, token: str, now: datetime) -> PhoneLink:
        link = self._links.get(token)
        if link is None:
            raise LinkOver("This laptop does not know that link any more.")
        if link.used:
            raise LinkOver("That link signed a phone in already, and works once.")
        if now > link.ends_at:
            raise LinkOver("That link was good for ten minutes, and they are over.")
        return link


router = APIRouter()
Form = Annotated[dict[str, str], Depends(checked_form)]


def code_of(text: str) -> Markup:
    """A QR code as SVG, black on white in every theme: a camera wants the contrast."""
    found = io.BytesIO()
    segno.make(text, error="m", micro=False).save(
        found, kind="svg", scale=6, border=3, dark="#000", light="#fff", xmldecl=False, svgns=False, nl=False
    )
    return Markup(found.getvalue().decode("utf-8"))  # noqa: S704  # made by segno from our own address


@router.post("/settings/phone")
@concerns("phones")
def make_link(request: Request, form: Form) -> Response:
    """A one-time link for a phone, as a code to scan."""
    address = request.app.state.settings.share_address
    if not address:
        raise invalid("technician", "not shared", "a server that was started with --share")
    name = form.get("technician", "").strip()
    if name not in {person.name for person in people(database(request))}:
        return settings_form(request, 422, faults={"technician": "Pick who uses the phone."}, typed=form)
    link = f"{address}phone/{request.app.state.phone_links.make(name, datetime.now(UTC))}"
    return settings_form(request, phone_link=link, phone_code=code_of(link), phone_of=name)


@router.get("/phone")
@concerns("sign_in")
def show_phone(request: Request) -> Response:
    """How a phone comes to trust this laptop, and how it is signed in."""
    return render(request, "phone.html", technician="", has_authority=request.app.state.settings.authority is not None)


@router.get("/phone/certificate.crt")
@concerns("sign_in")
def give_certificate(request: Request) -> Response:
    """The authority of this laptop, for a phone to trust. Raises `NotFound` where it made none."""
    path = request.app.state.settings.authority
    if path is None:
        raise NotFound("certificate of this laptop")
    named = {"Content-Disposition": 'attachment; filename="keen-coil-laptop.crt"'}
    return Response(path.read_bytes(), media_type="application/x-x509-ca-cert", headers=named)


@router.get("/phone/{token}")
@concerns("sign_in")
def show_link(request: Request, token: str) -> Response:
    """Who this phone would be signed in as; looking uses nothing up, which previews of a link do."""
    try:
        technician = request.app.state.phone_links.look(token, datetime.now(UTC))
    except LinkOver as over:
        return error_page(request, over.status, over.title, str(over))
    authority = request.app.state.settings.authority is not None
    return render(request, "phone.html", technician=technician, token=token, has_authority=authority)


@router.post("/phone/{token}")
@concerns("sign_in")
def sign_phone_in(request: Request, token: str, form: Form) -> Response:
    """Sign this phone in, which uses the link up."""
    act = act_context(form)
    try:
        technician = request.app.state.phone_links.take(token, act.now)
    except LinkOver as over:
        return error_page(request, over.status, over.title, str(over))
    device = request.client.host if request.client else "unknown"
    signed = sign_in_phone(database(request), act, technician, device)
    response = redirect("/")
    keep_signed_in(request, response, signed)
    return response
