"""A log of many closed calls, made up from a seed, for benchmarks of search and figures."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

from keen_coil.services.calls.calls import search_text_of
from keen_coil.store import tables
from keen_coil.store.database import Database

NOW = datetime(2026, 7, 1, 10, 0, tzinfo=UTC)
SITES = (
    "Creamery",
    "Rope works",
    "Net loft",
    "School",
    "Seed library",
    "Ferry waiting room",
    "Boat yard",
    "Chapel",
    "Inn",
    "Quarry",
)
FAULTS = (
    ("capacitor_weak", "replace_capacitor"),
    ("bearings_seized", "condemn_motor"),
    ("winding_run_open", "condemn_motor"),
    ("air_restricted", "not_the_motor"),
    ("fuse_open", "not_the_motor"),
    (None, "no_fault_found"),
)
SAYS = (
    "Hums and stands still.",
    "Squeals in the morning.",
    "Trips after rain.",
    "Dead since the storm.",
    "Yearly look.",
    "Little air.",
)


def fill(db: Database, many: int, readings: int = 3) -> None:
    """Add so many closed calls on a fifth as many units."""
    chance = random.Random(5)
    with db.writing() as session:
        people = [tables.Technician(name=f"Technician {n}") for n in range(8)]
        sites = [tables.Site(name=f"{name} {n}") for n in range(many // 100) for name in SITES[:3]]
        motors = []
        for number in range(many // 5):
            unit = tables.Unit(name=f"unit {number}", plate={"kind": "split_condenser"}, site=chance.choice(sites))
            motors.append(
                tables.Motor(
                    unit=unit,
                    plate={"role": "condenser_fan", "kind": "psc", "part_no": f"BW-{number % 700}"},
                    installation={},
                )
            )
        session.add_all([*people, *motors])
        session.flush()
        for number in range(many):
            fault, verdict = chance.choice(FAULTS)
            opened = NOW - timedelta(minutes=chance.randrange(60 * 24 * 730))
            call = tables.Call(
                motor=chance.choice(motors),
                technician=chance.choice(people),
                opened_at=opened,
                closed_at=opened + timedelta(hours=1),
                complaint={"says": chance.choice(SAYS)},
                meters={},
                power="energised",
                outcome={"verdict": verdict, "fault": fault, "passed": True},
                readings=[
                    tables.Reading(position=n, kind="run_amps_a", body={"kind": "run_amps_a", "value": "1.4"})
                    for n in range(readings)
                ],
            )
            call.search_text = search_text_of(call)
            session.add(call)
            if number % 500 == 0:
                session.flush()
