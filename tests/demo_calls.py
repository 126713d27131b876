"""The calls of the demo world by the names of their units: what a test says of a call does not hang on its number."""

from __future__ import annotations

import sqlite3
from functools import cache

from tests.demo_world import demo_world


@cache
def _numbers() -> dict[tuple[str, str], int]:
    query = (
        "select call.id, site.name, unit.name from call join motor on motor.id = call.motor_id"
        " join unit on unit.id = motor.unit_id join site on site.id = unit.site_id"
        " order by call.closed_at is null, call.id"
    )
    with sqlite3.connect(demo_world()) as found:
        return {(site, unit): number for number, site, unit in found.execute(query)}


def number(site: str, unit: str) -> int:
    """The open call on a unit, else its latest one; a unit is named by its beginning."""
    return next(call for (where, what), call in _numbers().items() if where == site and what.startswith(unit))


ROPE_WORKS = number("Rope works", "north wall")
ROPE_WORKS_ROOF = number("Rope works", "hall unit, roof")
FERRY_ROOM = number("Ferry waiting room", "roof, seaward")
COLD_STORE = number("Seed library", "cold store condenser")
SCHOOL_GYM = number("School", "behind the gym")
SCHOOL_FURNACE = number("School", "boiler room furnace")
GANNET_COTTAGE = number("North shore", "Gannet Cottage")
HARBOUR_OFFICE = number("Harbour office", "lean-to")
TIDE_MILL = number("Tide mill", "wheel house condenser")
READING_ROOM = number("Seed library", "reading room furnace")
FISH_CELLAR = number("Fish cellar", "twin-fan condenser")
VICARAGE = number("Vicarage", "heat pump, garden side")
BREWHOUSE = number("Brewhouse", "cellar condenser")
PRACTICE_CALL = number("Practice bench", "More than one thing wrong")
