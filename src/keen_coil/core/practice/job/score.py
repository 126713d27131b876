"""How a whole job ended: what it cost, how long it took, how often somebody walked to the van, what comes back."""

from __future__ import annotations

from pydantic import BaseModel

from ...capacitors.parts import sections_of
from ..case import Case
from .callbacks import Outcome, outcome, wrong_order
from .engine import EngineJob, Shelf, engine_works
from .work_done import FIGURES, WITH_THE_MOTOR, WorkDone


class PartCost(BaseModel):
    """A part that went in; `wasted` where the one that came out was good."""

    name: str
    price: float
    wasted: bool = False


class OutOfOrder(BaseModel):
    """Two steps that were done the wrong way round, in words; minutes that it cost."""

    says: str
    instead: str
    minutes: float


class Took(BaseModel):
    """What a job took: parts with their prices, minutes, ways to the van, and what became of the unit."""

    parts: list[PartCost]
    minutes: float
    trips: int
    outcome: Outcome

    @property
    def cost(self) -> float:
        """Price of the parts."""
        return round(sum(part.price for part in self.parts), 2)

    @property
    def wasted(self) -> list[str]:
        """Parts that went in for good ones."""
        return [part.name for part in self.parts if part.wasted]


class JobScore(BaseModel):
    """A learner's job beside the engine's, and the steps that were out of order."""

    mine: Took
    engine: Took
    order: list[OutOfOrder] = []

    @property
    def is_good(self) -> bool:
        """Whether it runs, nothing was wasted and nobody is called back."""
        return self.mine.outcome.is_good and not self.mine.wasted


def job_score(case: Case, work: WorkDone, shelf: Shelf, minutes: float, trips: int) -> JobScore:
    """Score a job: `minutes` it took on the bench and `trips` to the van, beside the engine on the same unit."""
    order = wrong_order(work)
    late = sum(row.minutes for row in order)
    mine = Took(
        parts=parts_in(case, work, shelf),
        minutes=round(minutes + late + FIGURES.trip_min * max(0, trips - 1), 1),
        trips=trips,
        outcome=outcome(case, work),
    )
    listed = [OutOfOrder(says=row.says, instead=row.instead, minutes=row.minutes) for row in order]
    return JobScore(mine=mine, engine=engine_took(case, engine_works(case, shelf), shelf), order=listed)


def engine_took(case: Case, job: EngineJob, shelf: Shelf) -> Took:
    """What the engine's own job took: everything goes up in one trip, a second one where its part had to come."""
    return Took(
        parts=parts_in(case, job.work, shelf),
        minutes=round(job.minutes, 1),
        trips=job.trips,
        outcome=outcome(case, job.work),
    )


def parts_in(case: Case, work: WorkDone, shelf: Shelf) -> list[PartCost]:
    """The parts that went in, each with its price and whether it was needed."""
    found = []
    if work.motor is not None:
        needed = bool(case.truth & WITH_THE_MOTOR)
        price = float(work.motor.price or 0.0)
        found.append(PartCost(name=f"motor {work.motor.part_no}", price=price, wasted=not needed))
    if work.module:
        needed = bool(case.truth & {"ecm_module"})
        found.append(PartCost(name="ECM module", price=FIGURES.module_price, wasted=not needed))
    if work.capacitor is not None:
        bad = any(fault.startswith("capacitor_") for fault in case.truth)
        for part_no in dict.fromkeys(part.part_no for part in work.capacitor.parts):
            price = round(_capacitor_price(part_no, shelf), 2)
            found.append(PartCost(name=f"capacitor {part_no}", price=price, wasted=not bad and work.motor is None))
    return found


def _capacitor_price(part_no: str, shelf: Shelf) -> float:
    """A capacitor's price by its sections, made up for the practice van."""
    part = next((part for part in shelf.capacitors if part.part_no == part_no), None)
    sections = sections_of(part.sections_uf) if part is not None else []
    return sum(FIGURES.capacitor_price + FIGURES.uf_price * uf for _, uf in sections)
