"""Every page is valid HTML, by the Nu checker that ships with the front end's packages."""

import json
import re
import shutil
import subprocess
from pathlib import Path

import pytest

from tests.browser.test_look import PAGES

ROOT = Path(__file__).parent.parent.parent
CHECKER = ROOT / "frontend/node_modules/vnu-jar/build/dist/vnu.jar"


def test_every_page_is_valid_html(reader, tmp_path):
    java = shutil.which("java")
    if not java or not CHECKER.exists():
        pytest.fail("make test installs java and the checker: run it once")
    names, folder = {}, tmp_path / "pages"
    folder.mkdir()
    for number, path in enumerate(PAGES):
        file = folder / f"{number}.html"
        file.write_text(reader.get(path).text, encoding="utf-8")
        names[file.name] = path
    done = subprocess.run(
        [
            java,
            "-Xss4m",
            "-XX:+UseSerialGC",
            "-XX:TieredStopAtLevel=1",
            "-jar",
            str(CHECKER),
            "--format",
            "json",
            "--exit-zero-always",
            str(folder),
        ],
        capture_output=True,
        text=True,
        check=True,
    )
    messages = json.loads(done.stderr or done.stdout)["messages"]
    found = {
        (names[Path(m["url"].removeprefix("file:")).name], m["type"], m["message"], m.get("extract", "")[:120])
        for m in messages
        if m["type"] != "info"
    }
    assert not found, "\n".join(map(str, sorted(found)))[:4000]


def test_every_picture_has_a_name_or_is_decoration(reader):
    """A picture that says something has a name; what is drawn of figures stands in a table beside it."""
    named = re.compile(r'aria-hidden="true"|aria-label="[^"]|aria-labelledby="[^"]')
    found = {(path, tag) for path in PAGES for tag in re.findall(r"<svg[^>]*>", reader.get(path).text)}
    assert len(found) > len(PAGES)
    assert {(path, tag) for path, tag in found if not named.search(tag)} == set()
