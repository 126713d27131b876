"""Two years of log for the demo world: closed calls on units of their own, from `demo/log.csv`, dated back from now.

What was read as found stands in `demo/proofs.toml`, by fault.
"""

from __future__ import annotations

import csv
import tomllib
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.match.catalogue import CatalogueMotor
from ...core.record import KeptGood, KeptPlan
from ...core.technician_judgement import TechnicianJudgement
from ...store import tables
from ..calls.search_text import search_text_of
from ..stations.hand_over import install
from ..stations.match import motor_fields

SUPPLY_V = {"115": 115, "208-230": 230}
WHY = {
    "none": "Yearly checkup, everything read and ran right",
    "wrong_motor_fitted": "The unit plate calls for another speed and horsepower",
}
"""Why a technician judged a call of the log that its readings alone do not prove."""


def add_log(
    session: Session,
    path: Path,
    now: datetime,
    motors: dict[str, CatalogueMotor],
    sites: dict[str, tables.Site],
    people: dict[str, tables.Technician],
) -> int:
    """Add the closed calls of the file, oldest first; how many."""
    with path.open(encoding="utf-8", newline="") as file:
        rows = sorted(csv.DictReader(file), key=lambda row: -int(row["days_ago"]))
    proofs = tomllib.loads(path.with_name("proofs.toml").read_text(encoding="utf-8"))
    here: dict[tuple[str, str], tables.Unit] = {}
    for row in rows:
        site = sites.setdefault(row["site"], tables.Site(name=row["site"]))
        old = _plate(motors[row["motor"]], row["role"])
        unit = here.get((row["site"], row["unit"]))
        if unit is None:
            unit = tables.Unit(name=row["unit"], plate=_unit_plate(row, old), site=site)
            unit.motors.append(tables.Motor(plate=old, installation=_around(old)))
            here[row["site"], row["unit"]] = unit
        session.add(unit)
        session.flush()
        motor = [one for one in unit.motors if one.removed_at is None][-1]
        _add_call(session, row, now, motor, people[row["technician"]], motors, proofs)
        session.flush()
        session.refresh(unit)
    return len(rows)


def _plate(motor: CatalogueMotor, role: str) -> dict[str, Any]:
    data: dict[str, Any] = motor.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return motor_fields(data) | {"role": role}


def _unit_plate(row: dict[str, str], plate: dict[str, Any]) -> dict[str, Any]:
    volts = SUPPLY_V.get(str(plate.get("volts")), 230)
    mounted = "shaft_down" if row["role"] == "condenser_fan" else "horizontal"
    own = "own" if plate.get("capacitor_uf") else "none"
    return {
        "kind": row["unit_kind"],
        "supply_v": volts,
        "phase": 1,
        "hz": 60,
        "mounted": mounted,
        "ambient_c": 26,
        "run_capacitor": own,
    }


def _around(plate: dict[str, Any]) -> dict[str, Any]:
    if not plate.get("capacitor_uf"):
        return {}
    label = [{"section": "single", "uf": plate["capacitor_uf"]}]
    return {"capacitor": {"label": label, "volts_v": plate.get("capacitor_v", 370)}}


def _add_call(
    session: Session,
    row: dict[str, str],
    now: datetime,
    motor: tables.Motor,
    technician: tables.Technician,
    motors: dict[str, CatalogueMotor],
    proofs: dict[str, Any],
) -> None:
    opened = now - timedelta(days=int(row["days_ago"]), minutes=37 * int(row["days_ago"]) % 360)
    closed = opened + timedelta(minutes=int(row["minutes"]))
    chosen = _plate(motors[row["chosen"]], row["role"]) if row["chosen"] else None
    bodies = list(_readings(row, opened, closed, motor.unit.plate["supply_v"], proofs))
    texts = {name: row[name] for name in ("fitted", "watch", "exception", "unfinished") if row[name]}
    call = tables.Call(
        motor=motor,
        technician=technician,
        opened_at=opened,
        closed_at=closed,
        meters={},
        power="energised",
        complaint={"symptom": row["symptom"], "says": row["says"]},
        power_at=closed,
        version=len(bodies) + 2,
        chosen=chosen,
        van=technician.van,
        outcome={
            "verdict": row["verdict"],
            "fault": None if row["fault"] == "none" else row["fault"],
            "passed": bool(row["amps_left_a"]),
            **texts,
        },
        readings=[tables.Reading(position=n, kind=body["kind"], body=body) for n, body in enumerate(bodies)],
    )
    why = WHY.get(row["fault"])
    if why:
        judgement = TechnicianJudgement(verdict=row["verdict"], why=why, by=technician.name, at=closed)
        call.plan = KeptPlan(judgement=judgement)
    for part_no in (row["part"], row["chosen"]):
        if part_no:
            van = technician.van or tables.FIRST_VAN
            call.parts.append(tables.PartUsed(part_no=part_no, quantity=1, van=van, booked_at=closed))
    if row["follow_up"]:
        due = (now + timedelta(days=int(row["due_in_days"]))).date()
        call.follow_ups.append(tables.FollowUp(kind=row["follow_up"], says=row["follow_up_says"], due_on=due))
    session.add(call)
    session.flush()
    if row["found_good"]:
        good_on = f"{closed + timedelta(days=9):%Y-%m-%d}"
        motor.found_good = KeptGood(on=good_on, says=row["found_good"], call=call.id)
    if chosen:
        install(session, call, closed)
    call.search_text = search_text_of(call)


def _readings(
    row: dict[str, str], opened: datetime, closed: datetime, volts: float, proofs: dict[str, Any]
) -> Iterator[dict[str, Any]]:
    """What was read as found and, where something was fitted, as left."""

    def at(moment: datetime) -> str:
        return moment.isoformat(timespec="seconds")

    early, late = opened + timedelta(minutes=12), closed - timedelta(minutes=6)
    yield {"kind": "supply_v", "value": f"{volts * 1.03:.1f}", "at": "unit", "power": "live", "taken_at": at(early)}
    if row["amps_a"]:
        yield {"kind": "run_amps_a", "value": row["amps_a"], "power": "live", "taken_at": at(early)}
    if row["capacitance_uf"]:
        yield {
            "kind": "capacitance_uf",
            "value": row["capacitance_uf"],
            "section": "single",
            "power": "dead",
            "taken_at": at(early),
        }
    found = [*proofs[row["fault"]], *(proofs["of_inducer"].get(row["fault"], []) if row["role"] == "inducer" else [])]
    yield from ({**reading, "taken_at": at(early)} for reading in found)
    yield {
        "kind": "insulation_mohm",
        "value": row["insulation_mohm"],
        "lead": "common",
        "test_v": 500,
        "temperature_c": 40,
        "power": "dead",
        "taken_at": at(early),
    }
    if not row["amps_left_a"]:
        return
    proof = {"power": "live", "stage": "proof", "taken_at": at(late)}
    yield {"kind": "turns_way", "value": "right", **proof}
    yield {"kind": "supply_v", "value": f"{volts * 1.02:.1f}", "at": "switch_load", "when": "running", **proof}
    yield {"kind": "run_amps_a", "value": row["amps_left_a"], **proof}
    yield {"kind": "noise", "value": "quiet", "stage": "proof", "taken_at": at(late)}
