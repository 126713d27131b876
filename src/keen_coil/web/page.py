"""What every page needs: the form with its token checked, the context of an act, rendering."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Mapping
from datetime import UTC, date, datetime
from functools import cache, lru_cache
from pathlib import Path
from types import MappingProxyType
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import HTTPException, Request
from fastapi import Path as PathParameter
from itsdangerous import BadSignature, URLSafeSerializer
from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from markupsafe import Markup
from starlette.datastructures import FormData, UploadFile
from starlette.responses import HTMLResponse, RedirectResponse, Response

from ..core.call import SYMPTOMS
from ..core.changes import CHANGES
from ..core.diagnosis.sentence import headline
from ..core.errors import FieldError, InvalidField, shown
from ..core.field_tests import HELP
from ..core.hookup.moves import move_words
from ..core.hookup.terminals import terminal_words
from ..core.meter import ASKED, NAMES
from ..core.temperature import as_shown, in_celsius, sentences
from ..core.units import CONTROL, horsepower_text, whole_number
from ..core.vocabulary import choice_words
from ..services.acts import ActContext
from ..services.calls.call_view import CallView
from ..services.calls.changes import before_power, mending
from ..services.calls.rail import STATION, STATIONS
from ..services.field_messages import message
from ..services.people.accounts import LONGEST_SIGNED_IN
from ..services.people.first_run import world_of
from ..services.people.people import Person, person_named, vans
from ..services.people.settings import shop_units
from ..services.practice.view import practice_view
from ..services.stations.plate_fields import Field
from ..services.sync.two_versions import questions_of_call
from ..store.database import Database
from .auth_middleware import IN_COOKIE, account_of, is_open, may_manage
from .help_texts import STATION_HELP, with_terms
from .path_drawing import Node, link_name

HERE = Path(__file__).parent
RowId = Annotated[int, PathParameter(ge=0, lt=2**63)]
"""An id in an address; one that no row can have is not there."""
COOKIE, THEME_COOKIE = "keen_coil", "keen_coil_theme"
THEMES = ("daylight", "attic")
KEYS_COOKIE, WHO_COOKIE = "keen_coil_keys", "keen_coil_who"
WHO = "act who"
"""Where a form's fields carry who sends them; no field of a page is named so."""


def database(request: Request) -> Database:
    """The database of this server."""
    found: Database = request.app.state.db
    return found


@cache
def environment() -> Environment:
    """The templates, strict about names, everything escaped; compiled once a process."""
    env = Environment(
        loader=FileSystemLoader(HERE / "templates"),
        autoescape=select_autoescape(default=True),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        auto_reload=False,
    )
    env.globals |= {
        "symptom_names": SYMPTOMS,
        "station_help": STATION_HELP,
        "field_help": HELP,
        "state_names": STATE_NAMES,
        "headline": headline,
        "link_name": link_name,
        "node_link": node_link,
    }
    env.filters |= {
        "clock": clock,
        "sentence_case": lambda text: text[:1].upper() + text[1:],
        "moment": moment,
        "day": day,
        "words": words,
        "hp": horsepower_text,
        "percent": percent,
        "choice": choice_words,
        "with_terms": with_terms,
        "row_name": lambda field: {"kind": "motor type"}.get(field, field),
        "in_degrees": as_shown,
        "link_name": link_name,
        "chance": chance,
        "figure": figure,
        "inner": inner,
        "terminal": terminal_words,
        "move": move_words,
    }
    return env


@lru_cache(maxsize=4096)
def node_link(node: Node, call_id: int, version_tag: str) -> Markup:
    """A part of the drawn path as its link; few of them change with a reading, so each is written out once."""
    written: Markup = environment().get_template("parts/node.html").module.link(node, call_id, version_tag)  # type: ignore[attr-defined]
    return written


def clock(moment: datetime | None) -> str:
    """A moment as a technician says it: the hour today, else the day too."""
    if moment is None:
        return ""
    local = moment.astimezone()
    return f"{local:%H:%M}" if local.date() == date.today() else f"{local:%b} {local.day}, {local:%H:%M}"


def moment(at: datetime | None) -> str:
    """A moment with its day and year, as a record carries it."""
    return "" if at is None else f"{day(at.astimezone())}, {at.astimezone():%H:%M}"


def day(on: date) -> str:
    """A day as people write it."""
    return f"{on:%b} {on.day}, {on.year}"


STATE_NAMES = {"done": "done", "part": "begun", "todo": "to do", "not_needed": "not needed"}
"""States of a station as they are read aloud."""


def percent(share: float) -> str:
    """A probability as people say it, never a false 100."""
    return "over 99 %" if share >= 0.995 else "under 1 %" if 0 < share < 0.005 else f"{100 * share:.0f} %"


def chance(share: float) -> str:
    """A chance in 100 as the evidence table shows it; a dash where physics excludes it."""
    return "\u2013" if share == 0 else f"{100 * share:.3g}"


def inner(sentence: str) -> str:
    """A sentence as part of another: a small letter first, no full stop."""
    return sentence[:1].lower() + sentence[1:].rstrip(".")


def figure(value: float, quantity: str) -> str:
    """A value as its meter shows it: volts and rpm whole, amps to hundredths."""
    return f"{value:.0f}" if quantity in ("rpm", "capacitor_v") else f"{value:.2f}"


def words(text: object) -> str:
    """A contract word as people read it."""
    return str(text).replace("_", " ")


def session_of(request: Request) -> str | None:
    """The browser's session id; None when it has none, or one that another key signed."""
    signer: URLSafeSerializer = request.app.state.signer
    try:
        return str(signer.loads(request.cookies.get(COOKIE, "")))
    except BadSignature:
        return None


_SEVERAL = {"steps", "items"}


async def checked_form(request: Request) -> dict[str, str]:
    """The text fields of a form post whose token belongs to this browser; ticked steps joined by a bar.

    Of other fields sent twice the last counts: a button's answer wins over the field beside it.
    """
    form = await request.form(max_files=2, max_fields=400)
    request.state.form = form
    token, session = str(form.get("csrf", "")), session_of(request)
    if session is None or not secrets.compare_digest(token.encode(), csrf_token(request, session).encode()):
        raise HTTPException(403, "This page is too old. Nothing was saved. Reload it and save again.")
    _no_control(form)
    fields: dict[str, str] = {}
    who = request.cookies.get(WHO_COOKIE, "")
    for key, value in form.multi_items():
        if isinstance(value, str):
            fields[key] = f"{fields[key]}|{value}" if key in fields and key in _SEVERAL else value
    fields[WHO] = who if whole_number(who) is not None else ""
    account = account_of(request)
    if not is_open(request) or account:
        fields[WHO] = str(account.technician) if account and account.technician else ""
    return fields


def _no_control(form: FormData) -> None:
    """Raise `InvalidField` on control characters, which no keyboard types: line ends and tabs are none here."""
    texts = [(name, text) for name, text in form.multi_items() if isinstance(text, str)]
    odd = [(name, text) for name, text in texts if CONTROL.search(name) or CONTROL.search(text)]
    if odd:
        raise InvalidField(
            [FieldError(shown(name), shown(text), "text without control characters") for name, text in odd]
        )


def safe_redirect_path(path: str) -> str:
    """A path of this server to go back to; the calls where it is none."""
    plain = path.startswith("/") and not path.startswith(("//", "/\\")) and path.isprintable()
    return path if plain else "/"


def csrf_token(request: Request, session: str) -> str:
    """The token that forms of this browser carry, as long as the same person is signed in on it."""
    signer: URLSafeSerializer = request.app.state.csrf_signer
    token = request.cookies.get(IN_COOKIE, "") if account_of(request) else ""
    return str(signer.dumps([session, hashlib.sha256(token.encode()).hexdigest()[:24] if token else ""]))


def upload(request: Request, name: str = "file", largest: int | None = None) -> tuple[str, bytes]:
    """Name and bytes of an uploaded file. Raises `InvalidField` on the field when none came or it is too large."""
    found = request.state.form.get(name)
    largest = largest or request.app.state.settings.largest_upload
    if not isinstance(found, UploadFile) or not found.filename:
        raise InvalidField([FieldError(name, "no file", "a file")])
    if (found.size or 0) > largest:
        raise InvalidField([FieldError(name, f"{(found.size or 0) / 1e6:.1f} MB", f"at most {largest / 1e6:.1f} MB")])
    found.file.seek(0)
    return found.filename, found.file.read()


def act_context(fields: dict[str, str]) -> ActContext:
    """The act's id and the call's version as the page sent them, and the time now."""
    version, who = fields.get("version", "0"), fields.get(WHO, "")
    number = whole_number(version)
    return ActContext(fields.get("act_id", ""), -1 if number is None else number, datetime.now(UTC), whole_number(who))


def keep_signed_in(request: Request, response: Response, token: str) -> None:
    """Give this browser the cookie of a sign-in."""
    lasts = int(LONGEST_SIGNED_IN.total_seconds())
    secure = request.url.scheme == "https"
    response.set_cookie(IN_COOKIE, token, max_age=lasts, httponly=True, samesite="strict", secure=secure)


def page_number(request: Request) -> int:
    """The page of a list that is asked for, the first where that is none."""
    text = request.query_params.get("page", "1")
    return min(max(whole_number(text) or 1, 1), 1_000_000)


def who_is(request: Request) -> Person | None:
    """The technician who is signed in, else who was chosen in Settings on this device."""
    account = account_of(request)
    if account:
        return person_named(database(request), account.technician or 0)
    text = request.cookies.get(WHO_COOKIE, "")
    return (
        person_named(database(request), int(text)) if text.isascii() and text.isdecimal() and len(text) < 10 else None
    )


def my_van(request: Request) -> str:
    """The van of whoever uses this device, else the first of the shop."""
    person = who_is(request)
    return person.van if person else vans(database(request))[0]


def faults_by_field(error: InvalidField, labels: Mapping[str, str] = MappingProxyType({})) -> dict[str, str]:
    """Each field that cannot be taken with what its page says of it."""
    return {fault.path: message(fault, labels) for fault in reversed(error.errors)}


def render(request: Request, template: str, status: int = 200, **context: Any) -> Response:
    """A page with its token, a fresh act id and the theme."""
    had = session_of(request)
    session = had or secrets.token_urlsafe(24)
    theme = request.cookies.get(THEME_COOKIE, "")
    call_view = context.get("call_view")
    units = (call_view.units if call_view else None) or shop_units(database(request))
    page = request.app.state.templates.get_template(template).render(
        request=request,
        units=units,
        csrf=csrf_token(request, session),
        act_id=secrets.token_urlsafe(18),
        theme=theme if theme in THEMES else "daylight",
        keys=request.cookies.get(KEYS_COOKIE) != "off",
        version_tag=request.app.state.version_tag,
        account=account_of(request),
        may_manage=may_manage(request),
        linked=request.app.state.meter is not None,
        world=lambda: world_of(database(request)),
        **{"faults": {}, "typed": {}, "station": "", "back": "", **context},
    )
    response = HTMLResponse(sentences(page, units.degrees), status)
    if had is None:
        signed = str(request.app.state.signer.dumps(session))
        secure = request.url.scheme == "https"
        response.set_cookie(COOKIE, signed, httponly=True, samesite="strict", secure=secure)
    return response


def in_shop_units(request: Request, page: str) -> str:
    """A page that goes to paper, with its temperatures in the degrees of the shop."""
    return sentences(page, shop_units(database(request)).degrees)


def error_page(request: Request, status: int, title: str, *lines: str, **context: Any) -> Response:
    """What was not done and why. A page whose form htmx sent stays as it is, with all that was typed, and is told."""
    if request.method == "GET" or request.headers.get("HX-Request") != "true":
        return render(request, "error.html", status, title=title, lines=lines, **context)
    response = render(request, "parts/told.html", status, title=title, lines=lines, **context)
    response.headers.update(TOLD_IN_PLACE)
    return response


TOLD_IN_PLACE = {"HX-Retarget": "#told", "HX-Reswap": "innerHTML show:#told:top", "HX-Push-Url": "false"}


def station_page(request: Request, station: str, call_view: CallView, status: int = 200, **context: Any) -> Response:
    """A station of a call."""
    return call_page(request, station.replace("-", "_"), station, call_view, status, **context)


def call_page(
    request: Request, page: str, station: str, call_view: CallView, status: int = 200, **context: Any
) -> Response:
    """A page of a call that belongs to a station."""
    pad: Any = context.get("pad")
    practising = practice_view(call_view.row, pad.kind.name, pad.how.at or "") if pad else practice_view(call_view.row)
    meter: dict[str, Any] = {"meter_names": NAMES, "asked_of_meter": ASKED}
    warns = before_power(call_view) if call_view.is_open else []
    meter |= {"power_warnings": warns, "mending": mending(call_view), "change_rows": CHANGES}
    shown = {
        "call_view": call_view,
        "station": station,
        "station_title": STATION[station].title,
        "rail": [(row, row.state(call_view)) for row in STATIONS],
        "next_action": STATION[station].next_action(call_view),
        "practising": practising,
        "apart": questions_of_call(database(request), call_view.row.id) if call_view.is_written_apart else [],
        **meter,
        **context,
    }
    return render(request, f"call/{page}.html", status, **shown)


def temperatures_in_celsius(form: dict[str, str], fields: Mapping[str, Field]) -> dict[str, str]:
    """A sent form with its temperatures in degrees C, whatever degrees its page showed."""
    degrees = form.get("degrees", "")
    typed = {
        path: in_celsius(form[path], degrees) for path, field in fields.items() if field.unit == "C" and path in form
    }
    return form | typed


def redirect(path: str, fragment: str = "", **query: object) -> Response:
    """On to another page after an act, to a place on it when named."""
    kept = {key: str(value) for key, value in query.items() if value not in (None, "")}
    return RedirectResponse(path + ("?" + urlencode(kept) if kept else "") + (f"#{fragment}" if fragment else ""), 303)
