"""The demo world in a file that all processes of a run of the tests copy."""

from __future__ import annotations

import fcntl
import os
import tempfile
from functools import cache
from pathlib import Path

from keen_coil.services.demo.demo import build_demo

SHARED = Path(os.environ.get("KEEN_COIL_TEST_RUN") or tempfile.mkdtemp(prefix="keen-coil-tests-"))
"""Where the processes of a run of the tests keep what one of them makes for all."""


@cache
def demo_world() -> Path:
    """The demo world, built once for a run of the tests by the first of its processes that wants it."""
    made, half = SHARED / "demo.db", SHARED / "half.db"
    with (SHARED / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not made.exists():
            build_demo(half)
            half.rename(made)
    return made
