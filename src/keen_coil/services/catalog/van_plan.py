"""Planning a van: the area from the log or a file, levels that are kept, what is below them, the order list."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.call import Call, read_call
from ...core.capacitors.parts import CapacitorPart, van_sections
from ...core.errors import InvalidField, invalid
from ...core.installation import Installation
from ...core.match.catalogue import CatalogueMotor
from ...core.match.catalogue_filter import bounds
from ...core.match.schools import SCHOOLS
from ...core.van.needs import AreaUnit, area_needs
from ...core.van.plan import VanPlan, plan_van
from ...core.vocabulary import PlannedPartKind, SizingSchool, words_of
from ...formats.area_csv import read_area
from ...formats.catalogue_csv import read_catalogue
from ...formats.van_csv import VanPart, read_van
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, record_act
from ..answers.answers import capacitors_of
from ..people.people import vans
from ..people.settings import schools_in
from .shelf import IS_THERE, motors_within, van_in

LEVELS = "van_levels"
DAYS, SERVICE = 14.0, 0.95
DAYS_A_YEAR = 365.25
FAILED: dict[str, PlannedPartKind] = {
    "replace_capacitor": "capacitor",
    "condemn_motor": "motor",
    "replace_wrong_motor": "motor",
}
"""Verdicts of closed calls that count as a part having failed."""
CAPACITOR_COST, MOTOR_COST = 12.0, 150.0
"""What a part is taken to cost that has no price: so that a capacitor goes before a motor."""


@dataclass(frozen=True)
class Below:
    """A part of which fewer are on a van than its level."""

    van: str
    part_no: str
    there: int
    level: int


@dataclass(frozen=True)
class Wish:
    """What a plan is made for."""

    days: float = DAYS
    service: float = SERVICE
    most: int | None = None
    temporary: bool = True


def wish_of(fields: Mapping[str, str]) -> Wish:
    """What a plan is made for, as typed. Raises `InvalidField` naming the field."""
    numbers: dict[str, float] = {}
    for name, usual in (("days", DAYS), ("level", 100 * SERVICE), ("parts", 0.0)):
        text = fields.get(name, "").strip()
        try:
            numbers[name] = float(text) if text else usual
        except ValueError:
            raise invalid(name, text[:40], "a number") from None
    if not 50 <= numbers["level"] < 100:
        raise invalid("level", f"{numbers['level']:g}", "a level of service from 50 to under 100 percent")
    if not 0 < numbers["days"] <= 366:
        raise invalid("days", f"{numbers['days']:g}", "days between restocks, over 0 to 366")
    if not (0 <= numbers["parts"] <= 500 and numbers["parts"] == int(numbers["parts"])):
        raise invalid(
            "parts", f"{numbers['parts']:g}", "how many kinds of part at most, 0 to 500; blank for all that help"
        )
    most = int(numbers["parts"]) or None
    return Wish(numbers["days"], numbers["level"] / 100, most, fields.get("permanent") != "yes")


def plan_from_log(db: Database, van: str, wish: Wish, now: datetime) -> VanPlan:
    """Plan a van for the units in the log. Raises `InvalidField`."""
    with db.reading() as session:
        school = schools_in(session).sizing
        parts = van_in(session, van)

        def motors(call: Call) -> Sequence[CatalogueMotor]:
            return motors_within(session, bounds(call, school))

        return _plan(_area_of(session, now), parts, motors, school, wish)


def plan_state(db: Database, today: date) -> tuple[int, tuple[object, ...]]:
    """How many calls are closed, and the state of what a plan is made from: it changes with every act and day."""
    with db.reading() as session:
        closed = session.scalar(select(func.count()).where(tables.Call.closed_at.is_not(None))) or 0
        acts = session.execute(select(func.count(), func.max(tables.Act.done_at)).select_from(tables.Act)).one()
    return closed, (closed, *acts, today)


def plan_from_files(area: bytes, catalogue: bytes, van: bytes, wish: Wish, school: str = "amps") -> VanPlan:
    """Plan a van for an area file against a catalog and a van file. Raises `InvalidField`."""
    if school not in SCHOOLS:
        raise invalid("school", school, "one of " + ", ".join(SCHOOLS))
    motors = read_catalogue(catalogue)
    return _plan(read_area(area), read_van(van), lambda call: motors, school, wish)


def plan_of_log(path: Path, van: str | None, wish: Wish) -> VanPlan:
    """Plan a van of a database file, as the command line does. Raises `InvalidField` on a van that is none."""
    db = Database(path)
    names = vans(db)
    if van is not None and van not in names:
        raise invalid("name", van, "one of " + ", ".join(names))
    return plan_from_log(db, van or names[0], wish, datetime.now(UTC))


def plan_of_files(area: Path, catalogue: Path | None, van: Path | None, wish: Wish, school: str) -> VanPlan:
    """Plan a van for an area's files, as the command line does. Raises `InvalidField` naming the file."""
    given = {"area": area, "catalogue": catalogue, "van": van}
    contents = {}
    for name, file in given.items():
        if file is None:
            raise invalid(name, "nothing", f"--{name} with a file, beside --area")
        try:
            contents[name] = file.read_bytes()
        except OSError as error:
            raise invalid(name, str(file), error.strerror or "a file that can be read") from None
    return plan_from_files(contents["area"], contents["catalogue"], contents["van"], wish, school)


def _plan(
    area: list[AreaUnit],
    parts: list[VanPart],
    motors: Callable[[Call], Sequence[CatalogueMotor]],
    school: SizingSchool,
    wish: Wish,
) -> VanPlan:
    """The plan: what is on the van costs nothing more, what is not its price; what may be bought is in the files."""
    known = [CapacitorPart.model_validate({**part.model_dump(), "quantity": 1}) for part in capacitors_of(parts)]
    stock = {part.part_no: part.quantity for part in parts if part.kind in words_of(PlannedPartKind)}
    costs = {part.part_no: CAPACITOR_COST for part in parts if part.kind == "capacitor"}

    def priced(call: Call) -> Sequence[CatalogueMotor]:
        found = motors(call)
        costs.update({str(motor.part_no): float(motor.price or MOTOR_COST) for motor in found})
        return found

    needs = area_needs(area, priced, van_sections(known), school, wish.temporary)
    now = {part: 0.0 if stock.get(part) else cost for part, cost in costs.items()}
    return plan_van(needs, stock, now, wish.days, wish.service, wish.most)


def _area_of(session: Session, now: datetime) -> list[AreaUnit]:
    """The motors that are in units now, alike ones together, with what closed calls have seen of them."""
    rows = session.execute(
        select(tables.Motor.id, tables.Motor.unit_id, tables.Motor.plate, tables.Motor.installation, tables.Unit.plate)
        .join(tables.Motor.unit)
        .where(tables.Motor.removed_at.is_(None))
    ).all()
    seen = _seen(session)
    first = session.scalar(select(tables.Call.opened_at).order_by(tables.Call.opened_at).limit(1))
    years = max(0.0, (now - first).days / DAYS_A_YEAR) if first else 0.0
    alike: dict[str, tuple[Call, int, Counter[PlannedPartKind]]] = {}
    for _, unit_id, plate, installation, unit in rows:
        call = _call_of(plate, installation, unit)
        if call is None:
            continue
        key = call.model_copy(update={"hookup": type(call.hookup)()}).model_dump_json(
            exclude={"motor": {"part_no", "belongs"}}
        )
        had = alike.get(key, (call, 0, Counter()))
        alike[key] = (call, had[1] + 1, had[2] + seen.get((unit_id, plate.get("role")), Counter()))
    return [AreaUnit(call, units, failures, units * years) for call, units, failures in alike.values()]


def _call_of(plate: dict[str, Any], installation: Installation, unit: dict[str, Any]) -> Call | None:
    """A motor as a call would have it; None where its rows are no call."""
    data: dict[str, Any] = {"format": "keen-coil/call", "version": 1, "motor": plate}
    data["unit"] = {name: value for name, value in unit.items() if name != "age_years"}
    data |= installation.model_dump(mode="json", exclude={"hookup"}, exclude_defaults=True)
    try:
        return read_call(data)
    except InvalidField:
        return None


def _seen(session: Session) -> dict[tuple[int, Any], Counter[PlannedPartKind]]:
    """Parts that failed by unit and role, over the closed calls."""
    found: dict[tuple[int, Any], Counter[PlannedPartKind]] = {}
    rows = session.execute(
        select(tables.Motor.unit_id, tables.Motor.plate, tables.Call.outcome)
        .join(tables.Call, tables.Call.motor_id == tables.Motor.id)
        .where(tables.Call.closed_at.is_not(None))
    )
    for unit_id, plate, outcome in rows:
        part = FAILED.get(outcome.verdict if outcome else "")
        if part is not None:
            found.setdefault((unit_id, plate.get("role")), Counter())[part] += 1
    return found


def keep_levels(db: Database, context: ActContext, van: str, plan: VanPlan) -> None:
    """Keep the levels of a plan as those of a van: what falls below them is said on the board."""
    with db.writing() as session:
        record_act(session, context, "keep_levels", None)
        kept = dict(_levels(session))
        kept[van] = {line.part_no: line.carry for line in plan.parts}
        session.merge(tables.Setting(name=LEVELS, value=kept, changed_at=context.now))


def _levels(session: Session) -> dict[str, dict[str, int]]:
    found: dict[str, dict[str, int]] = (
        session.scalar(select(tables.Setting.value).where(tables.Setting.name == LEVELS)) or {}
    )
    return found


def below_level(db: Database) -> list[Below]:
    """Parts of which fewer are on a van than its kept level, those that are gone first."""
    with db.reading() as session:
        levels = _levels(session)
        row = tables.VanPart
        found = session.execute(select(row.van, row.part_no, IS_THERE)).all() if levels else []
    stock = {(van, part): there for van, part, there in found}
    below = [
        Below(van, part, stock.get((van, part), 0), level)
        for van, parts in levels.items()
        for part, level in parts.items()
        if stock.get((van, part), 0) < level
    ]
    return sorted(below, key=lambda one: (one.van, one.there > 0, one.part_no))


def order_lines(plan: VanPlan) -> Iterator[str]:
    """What to buy as lines of CSV: part, quantity, level, what is there, for what."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["part_no", "quantity", "carry", "there", "for"])
    for line in plan.parts:
        if line.buy:
            writer.writerow([line.part_no, line.buy, line.carry, line.stock, "; ".join(line.serves)])
    yield out.getvalue()
