"""Forms as they stand on a page, filled in at random or with hostile values, and sent as a browser would send them."""

from __future__ import annotations

import io
import random
from dataclasses import dataclass, field
from html.parser import HTMLParser

from PIL import Image

TEXTS = [
    "",
    "",
    "5",
    "2.10",
    "1/4",
    "0",
    "230",
    "208-230",
    "1075",
    "OL",
    "7.5",
    "12.4",
    "black",
    "hub stiff",
    "Left it running, back on Friday.",
    "2026-12-24",
    "2026-12-24T09:30",
    "A",
    "B",
]
NEEDED = {
    "leads": "black: main.1 aux.1\nwhite: main.2\nbrown: aux.2\ngreen: frame",
    "why": "Done on the visit before.",
    "says": "Look at the tape again.",
    "due_on": "2026-12-24",
    "return_on": "2026-12-24",
    "unfinished": "The motor comes on Friday.",
    "exception": "Run test tomorrow.",
    "place": "the left one",
    "motor.part_no": "XX-77",
    "motor.kind": "psc",
    "motor.hp": "1/4",
    "motor.volts": "208-230",
    "motor.amps_a": "1.5",
    "motor.rpm": "1090",
    "motor.phase": "1",
    "motor.hz": "60",
}
"""What a field that must be filled is filled with."""


@dataclass
class Field:
    """A field of a form: what it holds, and what may be chosen where it is a choice."""

    name: str
    kind: str
    value: str = ""
    checked: bool = False
    options: list[str] = field(default_factory=list)
    fixed: bool = False


@dataclass
class Form:
    """A form of a page."""

    action: str
    method: str
    multipart: bool
    fields: list[Field] = field(default_factory=list)

    @property
    def names(self) -> set[str]:
        return {one.name for one in self.fields}


class _Page(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.forms: dict[str, Form] = {}
        self.links: list[str] = []
        self.here: Form | None = None
        self.select: Field | None = None
        self.text: Field | None = None
        self.found: list[Form] = []

    def handle_starttag(self, tag, attrs):
        given = {name: value or "" for name, value in attrs}
        if tag == "form":
            self.here = Form(
                given.get("action", ""), given.get("method", "get").lower(), "multipart" in given.get("enctype", "")
            )
            self.found.append(self.here)
            if given.get("id"):
                self.forms[given["id"]] = self.here
        if tag == "a" and given.get("href"):
            self.links.append(given["href"])
        if tag == "option" and self.select is not None:
            self.select.options.append(given.get("value", ""))
            if "selected" in given:
                self.select.value = given.get("value", "")
        owner = self.forms.get(given.get("form", ""), self.here)
        if (
            tag not in ("input", "select", "textarea", "button")
            or not given.get("name")
            or owner is None
            or "disabled" in given
        ):
            return
        kind = given.get("type", "text") if tag == "input" else "button" if tag == "button" else tag
        one = Field(
            given["name"],
            kind,
            given.get("value", "on" if kind in ("checkbox", "radio") else ""),
            "checked" in given,
            fixed=given["name"] in ("csrf", "act_id", "version"),
        )
        owner.fields.append(one)
        if tag == "select":
            self.select = one
        if tag == "textarea":
            self.text = one

    def handle_data(self, data):
        if self.text is not None:
            self.text.value += data

    def handle_endtag(self, tag):
        if tag == "form":
            self.here = None
        if tag == "select":
            self.select = None
        if tag == "textarea":
            self.text = None


def read_page(html: str) -> tuple[list[Form], list[str]]:
    """The forms of a page that post something, and its links."""
    page = _Page()
    page.feed(html)
    return [form for form in page.found if form.method == "post"], page.links


def picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "teal").save(out, "PNG")
    return out.getvalue()


READINGS = b"kind,value,at,power\nsupply_v,238.0,unit,live\n"


def filled(
    form: Form, chance: random.Random, most: int = 3
) -> tuple[list[tuple[str, str]], dict[str, tuple[str, bytes]]]:
    """Fields and files of a form as somebody might send it: as it stands but for at most so many fields."""
    sent: list[tuple[str, str]] = []
    free = [one for one in form.fields if one.kind not in ("button", "hidden", "file")]
    touched = {id(one) for one in chance.sample(free, min(len(free), chance.randint(0, most)))}
    for one in form.fields:
        if one.kind == "hidden":
            sent.append((one.name, one.value))
        elif one.kind == "checkbox":
            sent += [(one.name, one.value)] * (one.checked != (id(one) in touched))
        elif one.kind in ("text", "number", "textarea", "select", "date", "datetime-local", "time", "search"):
            sent.append((one.name, _typed(one, id(one) in touched, chance)))
    for name in dict.fromkeys(one.name for one in form.fields if one.kind == "radio"):
        group = [one for one in form.fields if one.name == name and one.kind == "radio"]
        as_it_is = [one for one in group if one.checked and id(one) not in touched]
        sent.append((name, (as_it_is or [chance.choice(group)])[0].value))
    buttons = [one for one in form.fields if one.kind == "button"]
    sent += [(one.name, one.value) for one in ([chance.choice(buttons)] if buttons else [])]
    return sent, {
        one.name: ("x.png", picture()) if one.name == "photo" else ("readings.csv", READINGS)
        for one in form.fields
        if one.kind == "file"
    }


def _typed(one: Field, touched: bool, chance: random.Random) -> str:
    if touched:
        return chance.choice(one.options or [NEEDED.get(one.name) or chance.choice(TEXTS)])
    return one.value or NEEDED.get(one.name, "")


def send(browser, form: Form, sent: list[tuple[str, str]], files: dict[str, tuple[str, bytes]]):
    """Post a form."""
    data: dict[str, list[str]] = {}
    for name, value in sent:
        data.setdefault(name, []).append(value)
    if form.multipart:
        return browser.post(
            form.action, data=data, files={name: file for name, file in files.items()} or {"": ("", b"")}
        )
    return browser.post(form.action, data=data)
