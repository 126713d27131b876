"""A server of its own process on a free port, for what is measured from outside."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
from contextlib import contextmanager

import httpx


@contextmanager
def serving(db):
    """The address of a server on a database, once it answers, and its process id."""
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    given = [sys.executable, "-m", "keen_coil", "serve", "--port", str(port), "--db", str(db)]
    server = subprocess.Popen(given, stdout=subprocess.DEVNULL)
    address = f"http://127.0.0.1:{port}"
    try:
        _wait_for(address)
        yield address, server.pid
    finally:
        server.terminate()
        server.wait()


def _wait_for(address):
    for _ in range(400):
        try:
            httpx.get(address)
            return
        except httpx.TransportError:
            time.sleep(0.05)
    raise TimeoutError(address)
