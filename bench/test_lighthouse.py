"""Lighthouse on board, path, match, wiring and record, where the program is at hand: it is no dependency of ours."""

from __future__ import annotations

import json
import os
import shutil
import subprocess

import httpx
import pytest
from tests.demo_calls import FERRY_ROOM, SCHOOL_GYM

from bench.server import serving
from keen_coil.services.demo.demo import build_demo

PROGRAM = os.environ.get("LIGHTHOUSE") or shutil.which("lighthouse")
"""`npm install lighthouse` somewhere, and its `node_modules/.bin/lighthouse`."""
PAGES = (
    "/",
    f"/calls/{FERRY_ROOM}/path",
    f"/calls/{FERRY_ROOM}/match",
    f"/calls/{FERRY_ROOM}/hook-up",
    f"/calls/{SCHOOL_GYM}/record",
)
FLAGS = "--no-sandbox --disable-gpu --disable-background-networking"


@pytest.mark.skipif(not PROGRAM, reason="no lighthouse on this machine: set LIGHTHOUSE to it")
def test_lighthouse(say, tmp_path):
    build_demo(tmp_path / "demo.db")
    with serving(tmp_path / "demo.db") as (address, _):
        for page in PAGES:
            httpx.get(address + page, follow_redirects=True)  # the first time a page is made its templates are read
            say(f"lighthouse {page}: {_scores(address + page)} (aim 99 each)")


def _scores(address):
    given = [PROGRAM, address, "--quiet", f"--chrome-flags={FLAGS}", "--output=json", "--output-path=stdout"]
    path = {**os.environ, "CHROME_PATH": shutil.which("chromium-headless-shell") or ""}
    found = json.loads(subprocess.run(given, env=path, capture_output=True, check=True, timeout=180).stdout)
    rows = found["categories"].items()
    return ", ".join(
        f"{name} {100 * row['score']:.0f}" if row["score"] is not None else f"{name} none" for name, row in rows
    )
