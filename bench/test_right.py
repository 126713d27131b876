"""How often the engine is right when its own next tests are followed, on units that do not know it."""

from __future__ import annotations

import ast
import os
from pathlib import Path

from .play import play_all, report

CALLS = int(os.environ.get("KEEN_COIL_PLAYED", "10000"))
FIRST_SEED = 1_000_000


def test_the_generator_does_not_know_the_engine():
    for name in ("faulted_units.py", "instruments.py"):
        tree = ast.parse((Path(__file__).parent / name).read_text(encoding="utf-8"))
        modules = {node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)}
        assert not {name for name in modules if name.startswith("keen_coil")}


def test_played_calls(say):
    rows = play_all(range(FIRST_SEED, FIRST_SEED + CALLS))
    say(f"{len(rows)} calls played, {100 * sum(bool(r.unforeseen) for r in rows) / len(rows):.0f} % with something unforeseen")
    for line in report(rows):
        say(line)
