"""Lighthouse on board, path, match, wiring and record, where the program is at hand: it is no dependency of ours."""

from __future__ import annotations

import json
import os
import shutil
import socket
import subprocess
import sys
import time

import httpx
import pytest
from tests.demo_calls import FERRY_ROOM, SCHOOL_GYM

from keen_coil.desk.demo import build_demo

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
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    serve = [sys.executable, "-m", "keen_coil", "serve", "--port", str(port), "--db", str(tmp_path / "demo.db")]
    server = subprocess.Popen(serve, stdout=subprocess.DEVNULL)
    try:
        for page in PAGES:
            address = f"http://127.0.0.1:{port}{page}"
            _wait_for(address)
            say(f"lighthouse {page}: {_scores(address)} (aim 99 each)")
    finally:
        server.terminate()
        server.wait()


def _scores(address):
    given = [PROGRAM, address, "--quiet", f"--chrome-flags={FLAGS}", "--output=json", "--output-path=stdout"]
    path = {**os.environ, "CHROME_PATH": shutil.which("chromium-headless-shell") or ""}
    found = json.loads(subprocess.run(given, env=path, capture_output=True, check=True, timeout=180).stdout)
    rows = found["categories"].items()
    return ", ".join(
        f"{name} {100 * row['score']:.0f}" if row["score"] is not None else f"{name} none" for name, row in rows
    )


def _wait_for(address):
    for _ in range(400):
        try:
            httpx.get(address)
            return
        except httpx.TransportError:
            time.sleep(0.05)
    raise TimeoutError(address)
