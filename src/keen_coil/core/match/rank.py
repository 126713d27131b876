"""The match: every candidate judged row by row, refusals first with reasons, then ranked."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from ..call import Call
from ..vocabulary import SizingSchool
from . import body, electrical, fan_load, place, power, turning
from .answer import Candidate, FieldMatch, Group, Match, Needs, Refusal, WorkItem
from .catalogue import CatalogueMotor
from .expected_run import expected_run
from .geometry import section
from .reference import Reference, reference_for
from .row import Mark, MatchRow, Work, kind_of

MOST_REFUSED = MOST_SERVING = 200
"""So many of either are written out; the others are counted."""
MOST_EXPECTED = 20


@dataclass(frozen=True)
class Evaluation:
    """A motor held against the reference: its rows, the stock on the van. Cheap; `candidate` writes it out."""

    motor: CatalogueMotor
    rows: list[MatchRow]
    on_van: int

    @cached_property
    def refusals(self) -> list[MatchRow]:
        """The rows that rule it out."""
        return [row for row in self.rows if row.mark == "refused"]

    @cached_property
    def work(self) -> list[Work]:
        """What there is to do, without the wait for delivery."""
        return [work for row in self.rows for work in row.work]

    @property
    def minutes(self) -> float:
        """Hands-on minutes of the work."""
        return sum(item.minutes for item in self.work)

    @property
    def result(self) -> Mark:
        """Fits as it is, with work, or refused."""
        return "refused" if self.refusals else "work" if self.work else "fits"

    @property
    def may_override(self) -> bool:
        """Refused by estimates alone: the shop may take it all the same, with a written reason."""
        return bool(self.refusals) and all(row.estimate for row in self.refusals)

    @property
    def wait_days(self) -> float | None:
        """Days until it is in hand: none from the van; None where the delivery is not known."""
        return 0.0 if self.on_van else self.motor.lead_days

    @property
    def group(self) -> Group:
        """When the unit runs again with it: today as it is, today with work, or once it is delivered."""
        if self.refusals:
            return "refused"
        if self.wait_days != 0:
            return "later"
        return "work_now" if self.work else "drops_in_now"

    @property
    def doubts(self) -> list[MatchRow]:
        """The rows that take a written answer before it is chosen."""
        return [row for row in self.rows if any(kind_of(item.key).doubt for item in row.work)]

    @cached_property
    def order(self) -> tuple[object, ...]:
        """What it is ranked by: serving, days until the unit runs again, drops in or work, minutes, parts, price."""
        new = self.motor
        wait = float(self.wait_days) if self.wait_days is not None else 1e6
        price = float(new.price) if new.price is not None else 1e9
        parts = sum(item.part is not None for item in self.work)
        fields, minutes = len(self.refusals), 0.0 if self.refusals else self.minutes
        return (fields, wait, bool(self.work), minutes, parts, not self.on_van, price, str(new.part_no))


def judge(call: Call, new: CatalogueMotor, school: SizingSchool, ref: Reference, stock: int | None) -> Evaluation:
    """Judge one candidate; `stock` is how many are on the van, None to trust the catalog's own count."""
    on_van = int(new.on_van or 0) if stock is None else stock
    return Evaluation(new, list(_rows(call, new, school, ref)), on_van)


def first_refusal(call: Call, new: CatalogueMotor, school: SizingSchool, ref: Reference) -> MatchRow | None:
    """The first row that refuses a candidate, None when it can serve; the rows after it are not looked at."""
    return next((row for row in _rows(call, new, school, ref) if row.mark == "refused"), None)


def _rows(call: Call, new: CatalogueMotor, school: SizingSchool, ref: Reference) -> Iterator[MatchRow]:
    """The rows in the order in which they are read, each judged when it is asked for."""
    return (row for row in _judging(call, new, school, ref) if row is not None)


def _judging(call: Call, new: CatalogueMotor, school: SizingSchool, ref: Reference) -> Iterator[MatchRow | None]:
    yield electrical.kind_row(ref, new)
    yield electrical.volts_row(ref, new)
    yield electrical.phase_row(ref, new)
    yield electrical.hertz_row(ref, new)
    yield electrical.speed_row(ref, new)
    yield power.amps_row(ref, new, school)
    yield power.part_row(ref, new) if school == "like" else power.hp_row(ref, new, school)
    yield power.torque_row(ref, new)
    yield power.blade_row(ref, new)
    yield fan_load.load_row(call, ref, new, school)
    yield electrical.command_row(ref, new)
    yield turning.rotation_row(ref, new)
    yield body.shaft_diameter_row(ref, new, call)
    laid = section(call, ref.motor, new)
    yield body.shaft_length_row(ref, new, laid)
    yield body.set_screw_row(ref, new, laid)
    yield body.shaft_ends_row(ref, new)
    yield body.key_row(ref, new)
    yield body.mount_row(ref, new)
    yield body.studs_row(new, laid)
    yield body.body_row(ref, new, laid)
    yield body.wheel_row(laid)
    yield place.position_row(ref, new, call)
    yield place.enclosure_row(ref, new, call)
    yield place.ambient_row(ref, new, call)
    yield place.protection_row(ref, new)
    yield turning.speeds_row(ref, new, call)
    yield turning.capacitor_row(ref, new)
    yield place.listing_row(new, call)


def candidate(held: Evaluation) -> Candidate:
    """A held motor written out, the wait for delivery listed with its work."""
    new, wait = held.motor, place.delivery(held.motor.lead_days, held.on_van, held.motor.part_no)
    work = [*held.work, wait] if wait else held.work
    needs = None if new.capacitor_uf is None else Needs(uf=new.capacitor_uf, volts_v=new.capacitor_v)
    return Candidate(
        part_no=str(new.part_no),
        result=held.result,
        rows=[
            FieldMatch(
                field=row.field,
                old=row.old,
                new=row.new,
                mark=row.mark,
                because=row.because,
                source=row.source,
                estimate=row.estimate,
            )
            for row in held.rows
        ],
        refusals=[Refusal(field=row.field, because=row.because) for row in held.refusals],
        work=[WorkItem(**item._asdict()) for item in work],
        needs_capacitor=needs,
        minutes=held.minutes,
        on_van=held.on_van,
        maker=new.maker,
        price=new.price,
        lead_days=new.lead_days,
        may_override=held.may_override,
        group=held.group,
        not_compared=[row.field for row in held.rows if row.mark == "not_compared"],
        doubts=[row.because for row in held.doubts],
    )


@dataclass(frozen=True)
class Ranked:
    """A catalog held against a call's reference: those that can serve, those refused in full or only counted."""

    ref: Reference
    serving: list[Evaluation]
    refused: list[Evaluation]
    refused_by: dict[str, int]


def ranked(
    call: Call, catalogue: Iterable[CatalogueMotor], school: SizingSchool = "amps", van: Mapping[str, int] | None = None
) -> Ranked:
    """A catalog held against a call's reference and ranked.

    Order: by the days until the unit can run again (none from the van, whatever the work), then what drops in, work by
    minutes and parts, the cheaper, the part number; refused last, by how many fields. `van` maps part numbers to
    stock; without it the catalog's own `on_van` counts. Of two motors of one part number the last counts. Over 200
    refused ones are counted by their first refusal instead.
    """
    ref = reference_for(call)
    motors = {str(new.part_no): new for new in catalogue}
    refusals = {part: first_refusal(call, new, school, ref) for part, new in motors.items()}

    def held(part: str) -> Evaluation:
        return judge(call, motors[part], school, ref, None if van is None else van.get(part, 0))

    serving = sorted((held(part) for part, row in refusals.items() if row is None), key=_order)
    out = {part: row for part, row in refusals.items() if row is not None}
    if len(out) > MOST_REFUSED:
        return Ranked(ref, serving, [], dict(Counter(row.field for row in out.values())))
    return Ranked(ref, serving, sorted((held(part) for part in out), key=_order), {})


def _order(held: Evaluation) -> tuple[object, ...]:
    return held.order


def match(
    call: Call,
    catalogue: Iterable[CatalogueMotor],
    school: SizingSchool = "amps",
    van: Mapping[str, int] | None = None,
    expect: int = MOST_EXPECTED,
) -> Match:
    """Judge and rank a catalog for a call, written out.

    Waiting for a part is listed with the work and leaves the result alone. Over 200 that can serve, the others are
    counted. The first `expect` of those that can serve
    carry what the motor model expects of them here.
    """
    found = ranked(call, catalogue, school, van)
    listed = [candidate(item) for item in (*found.serving[:MOST_SERVING], *found.refused)]
    for item, held in zip(listed[:expect], found.serving, strict=False):
        item.expected = expected_run(call, held.motor)
    return Match(
        school=school,
        reference=found.ref.whose,
        because=found.ref.because,
        candidates=listed,
        refused_by=found.refused_by,
        more=len(found.serving) - len(found.serving[:MOST_SERVING]),
    )
