"""How often the engine's own jobs come back: its finding, its motor, its wiring and its steps, on practice units."""

from __future__ import annotations

import os
import time
from collections import Counter

from keen_coil.core.practice.job.callbacks import Outcome, outcome
from keen_coil.core.practice.job.engine import engine_works
from keen_coil.core.practice.ladder import JOBS
from keen_coil.core.practice.make import case_of
from keen_coil.core.vocabulary import SizingSchool, words_of
from keen_coil.services.catalog.shelf import practice_shelf

CASES = int(os.environ.get("KEEN_COIL_JOBS", "600"))
FIRST_SEED = 3_000_000


def _said(found: list[Outcome]) -> str:
    many = len(found)
    runs = sum(each.runs for each in found)
    trips = sum(each.trips_after_min is not None for each in found)
    back = sum(bool(each.callbacks) for each in found)
    return (
        f"{many} jobs: {100 * runs / many:.1f} % run when left, {100 * trips / many:.1f} % of them stop hot, "
        f"{100 * back / many:.1f} % come back within two years"
    )


def test_the_engines_own_jobs(say):
    begun = time.perf_counter()
    shelf = practice_shelf()
    ladder = [(rung, seed) for rung in JOBS for seed in range(FIRST_SEED, FIRST_SEED + max(CASES // len(JOBS), 2))]
    found = [outcome(case := case_of(seed, rung.key), engine_works(case, shelf).work) for rung, seed in ladder]
    say("whole jobs of the ladder, by the engine: " + _said(found))
    worst = Counter(rung.key for (rung, _), each in zip(ladder, found, strict=True) if not each.is_good)
    say("of them not good, by rung: " + (", ".join(f"{key} {many}" for key, many in worst.most_common(6)) or "none"))
    seeds = range(FIRST_SEED, FIRST_SEED + CASES)
    jobs = [(case := case_of(seed), engine_works(case, shelf)) for seed in seeds]
    drawn = [outcome(case, job.work) for case, job in jobs if not job.lacks_motor]
    say(f"left out, as no motor of the shelf serves: {sum(job.lacks_motor for _, job in jobs)} of {len(jobs)}")
    say("any unit, any fault, by the engine: " + _said(drawn))
    causes = Counter(back.cause for each in drawn for back in each.callbacks)
    say("what brings them back: " + ", ".join(f"{cause} {many}" for cause, many in causes.most_common(8)))
    say(f"{1000 * (time.perf_counter() - begun) / (len(found) + len(drawn)):.0f} ms a job")


def test_the_schools_on_the_same_burnt_motors(say):
    shelf = practice_shelf()
    cases = [case_of(seed, "burnt winding") for seed in range(FIRST_SEED, FIRST_SEED + max(CASES // 10, 5))]
    for school in words_of(SizingSchool):
        works = [engine_works(case, shelf, school).work for case in cases]
        found = [outcome(case, work) for case, work in zip(cases, works, strict=True)]
        lives = sorted(each.life for each in found if each.life is not None)
        cost = sum(float(work.motor.price or 0) for work in works if work.motor is not None) / len(works)
        middle = f"life {lives[len(lives) // 2]:.1f} of the plate's" if lives else "no motor serves"
        say(f"school {school}: {_said(found)}, {middle}, motor {cost:.0f} on average")
