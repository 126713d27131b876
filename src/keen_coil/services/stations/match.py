"""Match: the catalog cut by the core's bounds, judged and ranked for a call; the choice with its work list."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import invalid
from ...core.match.answer import Candidate
from ...core.match.catalogue import CatalogueMotor
from ...core.match.catalogue_filter import bounds, same_supply_and_speed
from ...core.match.expected_run import expected_run
from ...core.match.rank import Evaluation, Ranked, candidate, judge, ranked
from ...core.match.reference import reference_for
from ...core.match.schools import SCHOOLS
from ...core.plates import Motor
from ...core.record import KeptOverride, KeptPlan
from ...core.vocabulary import SizingSchool
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView, call_view_of
from ..catalog.shelf import find_motor, motors_in_all, motors_of_call, stock_of_call

MOST_FOR_SCHOOLS = 1000
MOST_COMPARED = 3
LONGEST_REASON = 500
KEPT_WITH_ANY = ("by_hand", "renewal", "swap", "judgement")
"""What of a call's plan does not hang on the motor that is chosen."""


@dataclass(frozen=True)
class Filters:
    """What the list is narrowed to: on the van, days of delivery at most, price at most."""

    on_van: bool = False
    days: float | None = None
    price: float | None = None

    def takes(self, held: Evaluation) -> bool:
        """Whether a candidate is shown; what is not known of it does not pass."""
        days = 0.0 if held.on_van else held.motor.lead_days
        price = held.motor.price
        return (
            (not self.on_van or held.on_van > 0)
            and (self.days is None or (days is not None and days <= self.days))
            and (self.price is None or (price is not None and price <= self.price))
        )


@dataclass(frozen=True)
class SchoolEffect:
    """What a school makes of the same motors: how many serve, which the school in force loses and gains."""

    school: SizingSchool
    serving: int
    gained: list[str]
    lost: list[str]


@dataclass(frozen=True)
class MatchView:
    """The match of a call: those that can serve, those refused, how many lie outside the bounds, what is looked at."""

    found: Ranked
    serving: list[Evaluation]
    hidden: int
    total: int
    outside: int
    held: Evaluation | None
    one: Candidate | None
    effects: list[SchoolEffect] | None


def match_call(
    db: Database,
    view: CallView,
    school: str,
    part_no: str | None = None,
    everything: bool = False,
    filters: Filters | None = None,
    schools: bool = False,
) -> MatchView:
    """Match a call against the catalog under a school. Raises `InvalidField` on a school that is none.

    Only motors within the core's bounds are judged unless `everything` is asked for; plates typed by hand always are.
    Where none of them serves, those of the same supply and speed are judged too: what rules them out is worth seeing.
    With `schools` it also says what the other schools make of them, as far as they are not too many.
    """
    chosen = _school(school)
    call, narrow = view.call, filters or Filters()
    with db.reading() as session:
        total = motors_in_all(session, view.row)
        van, typed = stock_of_call(session, view.row), view.row.plan.by_hand
        limit = None if everything else bounds(call, chosen)
        motors = motors_of_call(session, view.row, limit)
        found = ranked(call, [*motors, *typed], chosen, van)
        if limit is not None and not found.serving:
            motors = motors_of_call(session, view.row, same_supply_and_speed(limit))
            found = ranked(call, [*motors, *typed], chosen, van)
        serving = [held for held in found.serving if narrow.takes(held)]
        held = _looked_at(session, view, chosen, found, serving, van, part_no)
        effects = _effects(session, view, chosen, found, van, everything) if schools else None
    one = None if held is None else candidate(held)
    if one is not None and held is not None:
        one.expected = expected_run(call, held.motor)
    return MatchView(found, serving, len(found.serving) - len(serving), total, total - len(motors), held, one, effects)


def _school(school: str) -> SizingSchool:
    if school not in SCHOOLS:
        raise invalid("school", school, "one of " + ", ".join(SCHOOLS))
    return school


def held_for(db: Database, view: CallView, part_no: str) -> Evaluation | None:
    """A motor of the catalog, or one typed by hand, held against a call under its school; None if there is none."""
    with db.reading() as session:
        motor = find_motor(session, view.row, part_no)
        return None if motor is None else _held(session, view, _school(view.row.school), motor)


def _held(session: Session, view: CallView, school: SizingSchool, motor: CatalogueMotor) -> Evaluation:
    van = stock_of_call(session, view.row)
    stock = None if van is None else van.get(str(motor.part_no), 0)
    return judge(view.call, motor, school, reference_for(view.call), stock)


def _looked_at(
    session: Session,
    view: CallView,
    school: SizingSchool,
    found: Ranked,
    serving: list[Evaluation],
    van: Mapping[str, int] | None,
    part_no: str | None,
) -> Evaluation | None:
    """The candidate that was asked for, wherever it is; else the first."""
    listed = (*serving, *found.serving, *found.refused)
    if part_no:
        here = next((held for held in listed if held.motor.part_no == part_no), None)
        motor = None if here else find_motor(session, view.row, part_no)
        if here or motor:
            return here or _held(session, view, school, motor)  # type: ignore[arg-type]
    return next(iter(listed), None)


def _effects(
    session: Session, view: CallView, now: SizingSchool, found: Ranked, van: Mapping[str, int] | None, everything: bool
) -> list[SchoolEffect] | None:
    """What each school makes of the catalog beside the one in force; None when there are too many."""
    mine = [str(held.motor.part_no) for held in found.serving]
    effects = []
    for school in SCHOOLS:
        if school == now:
            effects.append(SchoolEffect(school, len(mine), [], []))
            continue
        motors = motors_of_call(session, view.row, None if everything else bounds(view.call, school))
        if len(motors) > MOST_FOR_SCHOOLS:
            return None
        other = ranked(view.call, [*motors, *view.row.plan.by_hand], school, van).serving
        theirs = [str(held.motor.part_no) for held in other]
        gained, lost = [part for part in theirs if part not in mine], [part for part in mine if part not in theirs]
        effects.append(SchoolEffect(school, len(theirs), gained, lost))
    return effects


def compare(db: Database, view: CallView, parts: list[str]) -> list[Candidate]:
    """Up to three motors written out side by side. Raises `InvalidField` on a part number that is none."""
    found = []
    for part_no in list(dict.fromkeys(parts))[:MOST_COMPARED]:
        held = held_for(db, view, part_no)
        if held is None:
            raise invalid("part", part_no, "a part number of the catalog")
        one = candidate(held)
        if one.result != "refused":
            one.expected = expected_run(view.call, held.motor)
        found.append(one)
    return found


def pick_motor(db: Database, call_id: int, context: ActContext, part_no: str, reason: str = "") -> None:
    """Choose a motor for a call, its work list with it; empty takes the choice back.

    A refusal by an estimate can be overridden with a written reason, which is kept. Leads and wiring noted for another
    motor are forgotten. Raises `InvalidField` when there is no such motor, or the call's school refuses it for certain.
    """
    with act_on(db, call_id, context, "pick_motor") as (session, row):
        kept = kept_with_any(row.plan, part_no)
        if part_no != (row.chosen or {}).get("part_no"):
            _forget_wiring(row, part_no)
        if not part_no:
            row.chosen, row.plan = None, kept
            return
        motor = find_motor(session, row, part_no)
        if motor is None:
            raise invalid("part_no", part_no, "a part number of the catalog")
        held = _held(session, call_view_of(row), _school(row.school), motor)
        override = None if row.practice and _goes_in(held) else _override(held, reason.strip())
        one = candidate(held)
        row.chosen = motor.plate()
        work = [item.model_dump(mode="json") for item in one.work]
        row.plan = kept.changed(work=work, on_van=one.on_van, lead_days=one.lead_days, override=override)


def kept_with_any(plan: KeptPlan, part_no: str) -> KeptPlan:
    """What of a plan stays with whatever motor is chosen; the hub's place only with the motor it was kept for."""
    hub = plan.hub if plan.hub and plan.hub.part_no == part_no else None
    return KeptPlan(hub=hub, **{name: getattr(plan, name) for name in KEPT_WITH_ANY})


def _forget_wiring(row: tables.Call, part_no: str) -> None:
    """Another motor: the leads and the plan of the one chosen before are not its own."""
    hookup = row.motor.installation.hookup
    same = part_no and part_no == row.motor.plate.get("part_no")
    if hookup.planned or hookup.new_leads or hookup.diagram:
        gone: dict[str, Any] = {"planned": [], "new_leads": []} | ({} if same else {"diagram": None})
        kept = hookup.model_copy(update=gone)
        row.motor.installation = row.motor.installation.model_copy(update={"hookup": kept})


GOES_IN_ANYWAY = frozenset(
    (
        "RPM",
        "plate amps",
        "horsepower",
        "part number",
        "torque",
        "blade",
        "fan load",
        "position",
        "enclosure",
        "ambient limit",
        "protection",
    )
)
"""Rows of the match that keep a motor from serving, not from being bolted in: in practice it may be, and shows why."""


def _goes_in(held: Evaluation) -> bool:
    """Whether a motor can be put in at all, right or wrong."""
    return all(row.field in GOES_IN_ANYWAY for row in held.refusals)


def _override(held: Evaluation, reason: str) -> KeptOverride | None:
    against = held.refusals or held.doubts
    if not against:
        return None
    because = against[0].because
    if held.refusals and not held.may_override:
        raise invalid("part_no", held.motor.part_no, "a motor that fits: " + because)
    if not 10 <= len(reason) <= LONGEST_REASON:
        raise invalid("reason", reason, f"a reason to use it anyway, 10 to {LONGEST_REASON} characters. {because}")
    return KeptOverride(reason=reason, against=[row.because for row in against])


def motor_fields(plate: Mapping[str, Any]) -> dict[str, Any]:
    """The motor's plate in a catalog row, without maker, price and stock."""
    return {key: value for key, value in plate.items() if key in Motor.model_fields}


def set_school(db: Database, call_id: int, context: ActContext, school: str) -> None:
    """Choose how a call sizes power. Raises `InvalidField`."""
    chosen = _school(school)
    with act_on(db, call_id, context, "set_school") as (_, row):
        row.school = chosen


def filters_of(fields: Mapping[str, str]) -> Filters:
    """The filters as the page's fields say. Raises `InvalidField` naming the field."""
    numbers = {}
    for name in ("days", "price"):
        text = fields.get(name, "").strip()
        try:
            numbers[name] = float(text) if text else None
        except ValueError:
            raise invalid(name, text, "a number") from None
        if numbers[name] is not None and not 0 <= numbers[name] <= 1e6:  # type: ignore[operator]
            raise invalid(name, text, "a number from 0 to 1000000")
    return Filters(fields.get("van") == "yes", numbers["days"], numbers["price"])
