"""`make jobs`: play every job through the pages in Chromium, write its reading copy, and hold it to what it expects."""

from __future__ import annotations

import argparse
import sys
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

from .play import Result, jobs_in, play_job, table_of, write_table

HERE = Path(__file__).parent
MOST_LINES = 12
"""Failures of a job that are printed; all of them stand in `table.json`."""


def main() -> int:
    """Play, print the table and what failed; 0 when nothing did."""
    asked = argparse.ArgumentParser(prog="jobs")
    asked.add_argument("--job", default="")
    asked.add_argument("--dir", type=Path, default=HERE)
    asked.add_argument("--out", type=Path, default=Path("var/jobs"))
    asked.add_argument("--at-once", type=int, default=2)
    given = asked.parse_args()
    files = jobs_in(given.dir, given.job)
    if not files:
        print(f"{given.dir}: no job {given.job or 'files (*.toml)'}", file=sys.stderr)
        return 1
    given.out.mkdir(parents=True, exist_ok=True)
    results: dict[str, Result] = {}
    with ProcessPoolExecutor(given.at_once, mp_context=get_context("spawn")) as workers:
        under_way = {name: workers.submit(play_job, name, path, given.out) for name, path in files.items()}
        for name, one in under_way.items():
            results[name] = one.result()
            print(f"{name}  {'failed' if results[name].failed else 'played'}", file=sys.stderr)
    write_table(given.out / "table.json", results)
    print(table_of(results))
    for name, result in results.items():
        for line in result.failed[:MOST_LINES]:
            print(line, file=sys.stderr)
        if len(result.failed) > MOST_LINES:
            print(f"{name}: {len(result.failed) - MOST_LINES} more in table.json", file=sys.stderr)
    return 1 if any(result.failed for result in results.values()) else 0


if __name__ == "__main__":
    sys.exit(main())
