"""The van: kits of larger areas, needs with alone and joined ways, as an integer programme; the plan from a log."""

from __future__ import annotations

import random
import time
from datetime import UTC, datetime

import pytest

from keen_coil.core.van.kit import best_kit, curve
from keen_coil.services.catalog.van_plan import Wish, plan_from_log
from keen_coil.services.demo.demo import build_demo
from keen_coil.store.database import Database


def made_up(needs: int, parts: int, seed: int):
    """Weights, ways and costs as a large area would give: few frequent needs, many rare ones, some joined ways."""
    chance = random.Random(seed)
    names = [f"p{number}" for number in range(parts)]
    weights = {f"n{number}": 1 / (1 + number) for number in range(needs)}
    ways = {
        need: [
            frozenset(chance.sample(names, chance.choices([1, 2, 3], [6, 3, 1])[0]))
            for _ in range(chance.randint(1, 8))
        ]
        for need in weights
    }
    return weights, ways, {name: float(chance.randint(5, 200)) for name in names}


@pytest.mark.parametrize(("needs", "parts"), [(40, 70), (120, 200), (300, 400)])
def test_a_kit_of_twenty(say, needs, parts):
    area = made_up(needs, parts, 3)
    begun = time.perf_counter()
    found = best_kit(*area, most=20)
    say(
        f"kit of 20 of {parts} parts for {needs} needs: covers {100 * found.share:.0f} %, {time.perf_counter() - begun:.2f} s (aim 2)"
    )


def test_a_curve(say):
    begun = time.perf_counter()
    found = curve(*made_up(40, 70, 3), most=40)
    say(f"curve of {len(found)} kits, 40 needs, 70 parts: {time.perf_counter() - begun:.2f} s")


def test_the_plan_of_the_demo_world(say, tmp_path):
    build_demo(tmp_path / "demo.db")
    db = Database(tmp_path / "demo.db")
    begun = time.perf_counter()
    found = plan_from_log(db, "Van 1", Wish(), datetime.now(UTC))
    say(f"plan of the demo world, {len(found.needs)} needs: {time.perf_counter() - begun:.2f} s")
    db.close()
