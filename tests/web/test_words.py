"""Words that must not stand on a page or in a table, and what forms say of a field that cannot be taken."""

from __future__ import annotations

import ast
import random
import re
from collections import Counter
from functools import cache
from html import unescape
from pathlib import Path

import pytest

from keen_coil.services.calls.rail import STATIONS
from tests.demo_calls import BREWHOUSE, FERRY_ROOM, GANNET_COTTAGE, ROPE_WORKS, SCHOOL_FURNACE, VICARAGE
from tests.forms import filled, read_page, send

ROOT = Path(__file__).parents[2]
CALLS = (ROPE_WORKS, FERRY_ROOM, BREWHOUSE, SCHOOL_FURNACE, VICARAGE, GANNET_COTTAGE)
SHOP = "/ /log /log/archive /log/units/1 /shelf /shelf?on=van /shelf/plan /lab /practice /settings /help".split()
PAGES = [
    *SHOP,
    "/settings/accounts",
    "/settings/trail",
    "/settings/weighing",
    *(f"/calls/{call}/{station.key}" for call in CALLS for station in STATIONS),
    *(f"/calls/{call}/{rest}" for call in CALLS[:3] for rest in ("record?for=shop", "record", "match/plate", "body")),
]
IN_QUOTES = re.compile(r'"([^"]+)"(?! as a | of a )')
SAID = (
    "says",
    "do",
    "why",
    "mistake",
    "caution",
    "expect",
    "name",
    "title",
    "teaches",
    "runs",
    "runs_weak",
    "no_change",
)


def unwanted() -> list[str]:
    """The phrases of the left column of the glossary."""
    rows = [line.split("|")[1] for line in (ROOT / "docs/voice.md").read_text().splitlines() if line.startswith("| ")]
    return [phrase for row in rows[1:] for phrase in IN_QUOTES.findall(row)]


@cache
def pattern() -> re.Pattern[str]:
    return re.compile(rf"(?<![\w-])(?:{'|'.join(map(re.escape, unwanted()))})(?![\w-])", re.IGNORECASE)


def found_in(text: str) -> list[str]:
    return sorted({word.lower() for word in pattern().findall(text)})


def shown(html: str) -> str:
    """What a page shows, without what was typed by the people of the demo."""
    bare = re.sub(
        r"<(script|style)[^>]*>.*?</\1>|<textarea.*?</textarea>|<datalist.*?</datalist>", " ", html, flags=re.S
    )
    labels = " ".join(re.findall(r'(?:placeholder|title|aria-label|alt)="([^"]*)"', bare))
    return unescape(re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", bare)) + " " + labels)


@pytest.mark.parametrize("path", PAGES)
def test_no_unwanted_word_stands_on_a_page(reader, path):
    page = shown(reader.get(path).text)
    assert not found_in(page)
    assert not re.search(r"\b(?:nan|Undefined)\b", page)


@pytest.mark.parametrize("file", sorted(ROOT.glob("src/**/*.toml")), ids=lambda file: file.name)
def test_no_unwanted_word_stands_in_a_table(file):
    rows = re.findall(rf'(?:^|[{{,] ?)(?:{"|".join(SAID)}) = ("""[\s\S]*?"""|"[^"]*")', file.read_text(), re.MULTILINE)
    assert not found_in(" ".join(rows))


def sentences_of(file: Path) -> str:
    """The strings of a module that hold more than one word, its docstrings left out."""
    tree = ast.parse(file.read_text())
    told = [n for n in ast.walk(tree) if isinstance(n, ast.Constant) and isinstance(n.value, str) and " " in n.value]
    docs = {id(n.value) for n in ast.walk(tree) if isinstance(n, ast.Expr)}
    return " | ".join(n.value for n in told if id(n) not in docs and not n.value.startswith("<"))


def test_no_unwanted_word_stands_in_a_sentence_of_the_code():
    files = [file for file in ROOT.glob("src/**/*.py") if "migrations" not in file.parts]
    found = {str(file.relative_to(ROOT)): found_in(sentences_of(file)) for file in files}
    assert not {file: words for file, words in found.items() if words and words != ["meanwhile"]}


CODE = re.compile(
    r"\b[a-z]+_[a-z_]+\b|\b(?:motor|unit|call|hookup|plan|readings)\.\w|[a-z]\.\d+\.|\bGot \b|; expected\b"
)
FAULT = re.compile(r'<(?:p|li) class="(?:fault|contradiction)"[^>]*>(.*?)</(?:p|li)>', re.S)


def test_every_error_of_every_form_says_the_label_and_what_would_be_right(client):
    """Each text field of each form of the shop and of four calls once with nonsense and once blank."""
    seen: Counter[str] = Counter()
    said: dict[str, str] = {}
    others = tuple(f"/calls/{call}/" for call in CALLS[4:])
    for path in (page for page in PAGES if not page.startswith(others)):
        for form in read_page(client.get(path).text)[0]:
            if form.action in ("/view", "/sign-in"):
                continue
            texts = [one for one in form.fields if one.kind in ("text", "textarea", "date", "datetime-local", "select")]
            for one in texts:
                which = f"{re.sub(r'[0-9]+', 'N', form.action)} {re.sub(r'[.].*', '', one.name)}"
                seen[which] += 1
                for bad in ("?!", "") if seen[which] == 1 else ():
                    sent, files = filled(form, random.Random(1), 0)
                    sent = [(name, bad if name == one.name else value) for name, value in sent]
                    answer = send(client, form, sent, files)
                    assert answer.status_code < 500, (form.action, one.name)
                    for text in FAULT.findall(answer.text):
                        said[shown(text)] = f"{form.action} {one.name}"
    wrong = {text: where for text, where in said.items() if CODE.search(re.sub(r"\(column \w+\)", "", text))}
    assert len(said) > 60
    assert not wrong
