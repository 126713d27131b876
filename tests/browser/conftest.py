"""Debian's Chromium on a server with the demo world; any console error fails the test."""

from __future__ import annotations

import re
import shutil

import pytest
from playwright.sync_api import expect

from tests.replicas import serving

from .reading import PATIENCE_S

PATIENCE = PATIENCE_S * 1000
"""Milliseconds a click and an assertion wait: a busy machine is slow, and waiting longer costs nothing when all is well."""
expect.set_options(timeout=PATIENCE)
NOBODY_ELSE = "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"
"""Whatever is asked of anybody but the server is an error on the console."""
CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    NOBODY_ELSE,
]


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    """Debian's Chromium, not a downloaded one."""
    return {**browser_type_launch_args, "executable_path": shutil.which("chromium-headless-shell"), "args": CHROMIUM}


@pytest.fixture
def server(demo_master, tmp_path):
    """A server on loopback with its own copy of the demo world; its address."""
    shutil.copy(demo_master, tmp_path / "demo.db")
    with serving(tmp_path / "demo.db") as address:
        yield address


@pytest.fixture
def watched():
    """Takes a context and gives it back watched: its console stays silent."""
    problems: list[str] = []

    def watch(context):
        context.set_default_timeout(PATIENCE)
        context.on(
            "console", lambda message: problems.append(said(message)) if message.type in ("error", "warning") else None
        )
        context.on("weberror", lambda error: problems.append(str(error.error)))
        return context

    yield watch
    assert [text for text in problems if not re.search(EXPECTED, text)] == []


def said(message):
    return f"{message.text} {message.location['url']}"


EXPECTED = r"(status of|Error Code) (422|409)\b|/calls/99/"
"""What is refused, what was changed meanwhile, and the call that is not there are asked for by the tests."""


@pytest.fixture
def page(page, watched):
    """A watched page."""
    watched(page.context)
    return page
