"""How often the engine is right when its own next tests are followed, on units that do not know it."""

from __future__ import annotations

import ast
import math
import os
from pathlib import Path

from .play import by_family, clamp_all, misses, play_all, play_practice, report, share

CALLS = int(os.environ.get("KEEN_COIL_PLAYED", "10000"))
FIRST_SEED = 1_000_000


def test_the_generator_does_not_know_the_engine():
    for name in ("faulted_units.py", "instruments.py"):
        tree = ast.parse((Path(__file__).parent / name).read_text(encoding="utf-8"))
        modules = {node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)}
        assert not {name for name in modules if name.startswith("keen_coil")}


def test_played_calls_of_both_generators(say):
    seeds = range(FIRST_SEED, FIRST_SEED + CALLS)
    rows = play_all(seeds)
    say(
        f"{len(rows)} calls played, {100 * sum(bool(r.unforeseen) for r in rows) / len(rows):.0f} % with something unforeseen"
    )
    for line in (*report(rows), *misses(rows)):
        say(line)
    practice = play_all(seeds, one=play_practice)
    say(f"{len(practice)} calls of the practice bench played")
    for line in (*report(practice), *misses(practice)):
        say("practice bench, " + line)
    other, mine = by_family(rows), by_family(practice)
    for name in mine:
        say(f"family {name}: practice bench {mine[name]}")
        say(f"family {name}: the other generator {other.get(name, 'has none')}")


def test_running_readings_by_the_table_and_by_the_model(say):
    rows = clamp_all(range(FIRST_SEED, FIRST_SEED + max(CALLS // 2, 200)))
    for name, p, lead in (("table", 0, 2), ("motor model", 1, 3)):
        given = sum(math.log2(max(row[p], 0.001)) for row in rows) / len(rows)
        right, low, high = share(sum(row[lead] for row in rows), len(rows))
        say(
            f"{len(rows)} PSC motors clamped while they turn, by the {name}: true fault leads {right:.1f} % ({low:.1f} to {high:.1f}), given {2**given:.2f} on average (geometric)"
        )


def test_played_calls_without_the_model(say):
    rows = play_all(range(FIRST_SEED, FIRST_SEED + max(CALLS // 4, 100)), model=False)
    whole = next(line for line in report(rows) if line.startswith("all: "))
    say("by the table only, no motor model: " + whole.removeprefix("all: "))
