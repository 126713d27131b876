"""The match: every candidate judged row by row, refusals first with reasons, then ranked."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from pydantic import BaseModel

from ..call import Call
from . import body, electrical
from .catalogue import CatalogueMotor
from .expected_run import ExpectedRun, expected_run
from .reference import SPEED_CLASS_PCT, Reference, reference_for
from .row import Judged, Mark, Row, Work
from .schools import School

MOST_REFUSED = 200
MOST_EXPECTED = 20


class Refusal(BaseModel):
    """A field that rules a candidate out, and why."""

    field: str
    because: str


class Needs(BaseModel):
    """The run capacitor a motor asks for."""

    uf: float
    volts_v: float | None


class Candidate(BaseModel):
    """A motor held against the reference. `minutes` is hands-on time of its work."""

    part_no: str
    result: Mark
    rows: list[Row]
    refusals: list[Refusal]
    work: list[Work]
    needs_capacitor: Needs | None
    expected: ExpectedRun | None = None
    minutes: float
    on_van: int
    maker: str | None = None
    price: float | None = None
    lead_days: float | None = None


class Match(BaseModel):
    """The answer of a match. Over 200 refusals are counted by their first field instead of listed."""

    school: School
    reference: str
    because: str
    candidates: list[Candidate]
    refused_by: dict[str, int] = {}


@dataclass(frozen=True)
class Bounds:
    """Numeric bounds within which a candidate can pass, for a store to cut a large catalogue by."""

    phase: int | None
    hz: int | None
    rpm: tuple[float, float] | None
    supply_v: float | None


def bounds(call: Call, school: School) -> Bounds:
    """The bounds of a call under a school; None where a plate is silent. Rows outside are refused for certain."""
    ref = reference_for(call)
    near = SPEED_CLASS_PCT / 100
    rpm = None if ref.rpm is None else (ref.rpm * (1 - near), ref.rpm * (1 + near))
    return Bounds(ref.phase, ref.hz, rpm, ref.supply_v)


def judge(call: Call, new: CatalogueMotor, school: School, ref: Reference, stock: int | None) -> Candidate:
    """Judge one candidate; `stock` is how many are on the van, None to trust the catalogue's own count."""
    on_van = int(new.on_van or 0) if stock is None else stock
    judged = _rows(call, new, school, ref)
    rows = [item.row for item in judged]
    refusals = [Refusal(field=row.field, because=row.because) for row in rows if row.mark == "refused"]
    work = [work for item in judged for work in item.work]
    wait = body.delivery(new, on_van)
    result: Mark = "refused" if refusals else "work" if work else "fits"
    needs = None if new.capacitor_uf is None else Needs(uf=new.capacitor_uf, volts_v=new.capacitor_v)
    return Candidate(
        part_no=new.part_no or "", result=result, rows=rows, refusals=refusals, work=[*work, wait] if wait else work,
        needs_capacitor=needs, minutes=sum(item.minutes for item in work), on_van=on_van, maker=new.maker,
        price=new.price, lead_days=new.lead_days,
    )  # fmt: skip


def _rows(call: Call, new: CatalogueMotor, school: School, ref: Reference) -> list[Judged]:
    power = [electrical.part_row(ref, new)] if school == "like" else [
        electrical.amps_row(ref, new, school), electrical.hp_row(ref, new, school),
    ]  # fmt: skip
    listing = body.listing_row(new, call)
    return [
        electrical.kind_row(ref, new), electrical.volts_row(ref, new), electrical.phase_row(ref, new),
        electrical.hertz_row(ref, new), electrical.speed_row(ref, new), *power, electrical.rotation_row(ref, new),
        body.shaft_diameter_row(ref, new, call), body.shaft_length_row(ref, new, call), body.mount_row(ref, new),
        body.body_row(ref, new, call), body.position_row(new, call), body.enclosure_row(ref, new, call),
        body.ambient_row(ref, new, call), body.protection_row(ref, new), electrical.speeds_row(ref, new, call),
        electrical.capacitor_row(ref, new, call), *([listing] if listing else []),
    ]  # fmt: skip


def match(
    call: Call, catalogue: Iterable[CatalogueMotor], school: School = "amps", van: Mapping[str, int] | None = None,
    expect: int = MOST_EXPECTED,
) -> Match:  # fmt: skip
    """Judge and rank a catalogue for a call.

    Order: fits, then work by minutes, then refused by how many fields; at a tie what is on the van, then the
    sooner, the cheaper, the part number. Waiting for a part is listed with the work and leaves the result alone.
    `van` maps part numbers to stock; without it the catalogue's own `on_van` counts. The first `expect` of those that
    can serve carry what the motor model expects of them here.
    """
    ref = reference_for(call)
    motors = {new.part_no: new for new in catalogue}
    found = [
        judge(call, new, school, ref, None if van is None else van.get(new.part_no or "", 0)) for new in motors.values()
    ]
    found.sort(key=_order)
    listed = [item for item in found if item.result != "refused"]
    for item in listed[:expect]:
        item.expected = expected_run(call, motors[item.part_no])
    refused = [item for item in found if item.result == "refused"]
    counted = Counter(item.refusals[0].field for item in refused) if len(refused) > MOST_REFUSED else {}
    return Match(
        school=school, reference=ref.whose, because=ref.because,
        candidates=listed if counted else listed + refused, refused_by=dict(counted),
    )  # fmt: skip


def _order(item: Candidate) -> tuple[object, ...]:
    rank = {"fits": 0, "work": 1, "refused": 2}[item.result]
    wait = 0.0 if item.on_van else item.lead_days if item.lead_days is not None else 1e6
    price = item.price if item.price is not None else 1e9
    if item.result == "refused":
        return (rank, len(item.refusals), not item.on_van, wait, price, item.part_no)
    return (rank, item.minutes, not item.on_van, wait, price, item.part_no)
