"""The house itself: schemas current, colors readable, no address of an index, vocabularies once, no hasty reading."""

import ast
import json
import re
from pathlib import Path
from typing import get_args

import pytest
from frictionless import Package
from sqlalchemy import text as sql

from keen_coil.core import vocabulary
from keen_coil.formats.schemas import schema_texts
from keen_coil.services.demo.demo import DATA

ROOT = Path(__file__).parent.parent


def test_schemas_in_docs_are_current():
    for name, text in schema_texts().items():
        assert (ROOT / "docs/schema" / name).read_text(encoding="utf-8") == text, "run `make schema`"


def test_the_demo_catalogue_is_a_valid_data_package():
    report = Package(str(DATA / "datapackage.json")).validate()
    assert report.valid, report.flatten(["type", "note"])


def tokens(theme: str) -> dict[str, str]:
    css = (ROOT / "src/keen_coil/web/static/css/tokens.css").read_text()
    block = css.split(f'[data-theme="{theme}"] {{')[1].split("}")[0]
    return dict(re.findall(r"--([\w-]+): (#[0-9a-f]{6});", block))


def luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(one: str, other: str) -> float:
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("theme", ["daylight", "attic"])
def test_colours_can_be_read(theme):
    found = tokens(theme)
    grounds = ["paper", "surface", "copper-wash", "proved-wash", "suspect-wash", "failed-wash"]
    for ground in grounds:
        assert contrast(found["ink"], found[ground]) >= 7, ground
    for role in ("copper", "proved", "suspect", "failed", "unproved", "ink-soft"):
        for ground in ("paper", "surface"):
            assert contrast(found[role], found[ground]) >= 4.5, (role, ground)
    for front, back in (("on-copper", "copper"), ("on-ink", "ink"), ("on-state", "proved"), ("on-state", "failed")):
        assert contrast(found[front], found[back]) >= 4.5, front
    assert contrast(found["edge"], found["surface"]) >= 3


def test_the_font_has_what_is_written():
    """Overpass has no omega and no thirds; what it lacks must not stand in a page."""
    lacking = "Ωω⅓⅔≥≤→"
    for path in (ROOT / "src/keen_coil").rglob("*"):
        if path.suffix in (".html", ".py", ".toml", ".js") and "vendor" not in path.parts:
            assert not set(lacking) & set(path.read_text(encoding="utf-8")), path


def test_lock_files_name_no_index():
    locks = ["requirements.txt", "requirements-plates.txt", "requirements-dev.txt", "frontend/package-lock.json"]
    for name in locks:
        text = (ROOT / name).read_text()
        assert "--index-url" not in text
        assert "resolved" not in text
    assert "sha256:" in (ROOT / "requirements.txt").read_text()


def test_vendored_files_are_those_of_the_lock():
    lock = json.loads((ROOT / "frontend/package-lock.json").read_text())["packages"]
    vendor = ROOT / "src/keen_coil/web/static/vendor"
    assert f'version:"{lock["node_modules/htmx.org"]["version"]}"' in (vendor / "htmx.min.js").read_text()
    assert (
        f"Bootstrap Reboot v{lock['node_modules/bootstrap']['version']}"
        in (vendor / "bootstrap-reboot.min.css").read_text()
    )
    assert lock["node_modules/@alpinejs/csp"]["version"] in (vendor / "alpine-csp.min.js").read_text()
    assert len(list(vendor.glob("*.LICENSE.txt"))) == 5


READS = {
    *("evaluate", "evaluate_all", "evaluate_handle", "count", "all", "bounding_box", "get_attribute", "input_value"),
    *("inner_text", "inner_html", "text_content", "all_inner_texts", "all_text_contents", "wait_for_timeout"),
    *("is_visible", "is_hidden", "is_enabled", "is_disabled", "is_checked", "is_editable"),
}
"""What Playwright answers at once, whether or not the page has come to rest."""


def test_browser_tests_wait_for_what_they_read():
    """An answer that is read too early is a test that fails on a busy machine: `reading.py` alone may, once it settled."""
    hasty = [
        f"{path.name}:{node.lineno} {node.func.attr}"
        for path in sorted((ROOT / "tests/browser").glob("*.py"))
        if path.name != "reading.py"
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in READS
    ]
    assert hasty == []


def test_no_test_hangs_on_a_demo_call_s_number():
    """Demo calls are named (`demo_calls.py`); numbers that are none of them stay."""
    nowhere = {0, 99, 999, 99999}
    numbered = [
        f"{path.name}: {found[0]}"
        for path in sorted((ROOT / "tests").rglob("*.py"))
        for found in re.finditer(r"(?:/calls/|[?&]call=)([0-9]+)", path.read_text(encoding="utf-8"))
        if int(found[1]) not in nowhere
    ]
    assert numbered == []


def test_a_vocabulary_is_written_once():
    """Types, checks, schemas and forms are made of `core/vocabulary.py`: its words stand in no other list."""
    found = {name: frozenset(get_args(kind)) for name, kind in vars(vocabulary).items() if len(get_args(kind)) > 2}
    again = []
    for path in sorted((ROOT / "src/keen_coil").rglob("*.py")):
        if path.name == "vocabulary.py" or "migrations" in path.parts:
            continue
        text = path.read_text(encoding="utf-8")
        if not any(all(f'"{word}"' in text for word in whole) for whole in found.values()):
            continue
        for node in ast.walk(ast.parse(text)):
            items = node.elts if isinstance(node, ast.Tuple | ast.List | ast.Set) else []
            words = frozenset(item.value for item in items if isinstance(item, ast.Constant))
            if len(words) == len(items):
                again += [f"{path.name}:{node.lineno} {name}" for name, whole in found.items() if words == whole]
    assert again == []


SOME_WORDS_ONLY = {"plain.py JUDGED: not_proved"}
"""Tables in code that have most words of a vocabulary and need no others."""


def test_a_table_keyed_by_a_vocabulary_has_every_word():
    """A word that is added asks for its rows; tables of the core say so when they load, this says it of all."""
    words = {name: set(get_args(kind)) for name, kind in vars(vocabulary).items() if len(get_args(kind)) > 3}
    lacking = {
        f"{path.name} {ast.unparse(getattr(node, 'target', None) or node.targets[0])}: {', '.join(sorted(whole - keys))}"
        for path in sorted((ROOT / "src/keen_coil").rglob("*.py"))
        if "migrations" not in path.parts
        for node in ast.parse(path.read_text(encoding="utf-8")).body
        if isinstance(node, ast.Assign | ast.AnnAssign) and isinstance(node.value, ast.Dict)
        for keys in [{key.value for key in node.value.keys if isinstance(key, ast.Constant)}]
        for whole in words.values()
        if keys < whole and len(keys) > 0.7 * len(whole)
    }
    assert lacking - SOME_WORDS_ONLY == set()


def test_the_checks_of_the_database_are_the_vocabularies(db):
    with db.reading() as session:
        made = session.execute(sql("select sql from sqlite_master where name in ('call', 'follow_up')")).scalars().all()
    for kind in (vocabulary.PowerState, vocabulary.SizingSchool, vocabulary.FollowUpKind):
        assert any(", ".join(f"'{word}'" for word in get_args(kind)) in check for check in made), kind


def test_every_act_on_a_call_is_told_in_words_to_whoever_it_met():
    from keen_coil.services.people.audit_trail import ACTS

    text = " ".join(path.read_text(encoding="utf-8") for path in (ROOT / "src").rglob("*.py"))
    acts = set(re.findall(r'act_on\(db, call_id, context, "([a-z_]+)"', text))
    assert len(acts) > 30
    assert acts <= set(ACTS)
