"""The engine does a whole job: its own finding, its own choice of motor and capacitor, its own wiring and steps."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from ...call import Call, read_call
from ...capacitors.needed import needed
from ...capacitors.parts import CapacitorPart, van_sections
from ...capacitors.substitute import substitutes
from ...changes import CHANGES
from ...diagnosis.faults import FAULTS
from ...errors import InvalidField
from ...hookup.answer import HookupAnswer
from ...hookup.plan import plan
from ...match.catalogue import CatalogueMotor
from ...match.geometry import section
from ...match.rank import Evaluation, ranked
from ...match.reference import reference_for
from ...record import KeptCapacitor, KeptPart, KeptPlan, KeptWork
from ...swap.job import Plan, job_for
from ...swap.schedule import schedule
from ...swap.steps import Step, steps_for, tasks
from ...vocabulary import ChangeKind, SizingSchool, words_of
from ..case import Case, write_case
from ..instruments import PlannedTest
from ..play import BEGINS, SURE, Play, engine_plays
from ..running import run_of
from ..simulated_unit import Moment, measure
from ..unit_state import UnitState
from .unit_after import heat_after, trips_after_min, unit_after
from .work_done import ACT_MIN, BY_OTHER_ACTS, WorkDone, work_done

NEEDS_MOTOR = ("condemn_motor", "replace_wrong_motor", "runs_worn")
DELIVERY = "order"
"""The step whose wait is a delivery: days that count as another trip, not as minutes on the job."""
MOST_ROUNDS, MOST_AMPS = 3, 1.1
MOST_LIKELY = 0.2
"""The engine puts right every cause that it gives at least this chance."""


@dataclass(frozen=True)
class Shelf:
    """What a practice job may choose from: motors, how many of each are on the van, capacitors."""

    motors: Sequence[CatalogueMotor]
    on_van: Mapping[str, int]
    capacitors: Sequence[CapacitorPart]

    def motor(self, part_no: str | None) -> CatalogueMotor | None:
        """A motor by its part number."""
        return next((motor for motor in self.motors if motor.part_no == part_no), None)


@dataclass(frozen=True)
class Round:
    """One finding and what was done about it: the call as it then was, what was settled, the steps, minutes of both."""

    play: Play
    call: Call
    held: Evaluation | None
    plan: KeptPlan
    wiring: HookupAnswer | None
    steps: list[Step]
    work: WorkDone
    minutes: float


@dataclass(frozen=True)
class EngineJob:
    """The engine's job: its rounds, one or more where the run test sent it back, and what was done in all of them."""

    rounds: list[Round]
    work: WorkDone

    @property
    def minutes(self) -> float:
        """Minutes of tests, hands and waits, a delivery left out."""
        return sum(each.minutes for each in self.rounds)

    @property
    def lacks_motor(self) -> bool:
        """Whether it wanted a motor that the shelf does not have."""
        last = self.rounds[-1]
        return self.work.motor is None and _decided(last.play) in NEEDS_MOTOR

    @property
    def trips(self) -> int:
        """Ways to the van: one, and one more for each motor that had to come first."""
        return 1 + sum(each.held is not None and not each.held.on_van for each in self.rounds)


def engine_works(case: Case, shelf: Shelf, school: SizingSchool = "amps") -> EngineJob:
    """The engine on a whole job, without knowing what is hidden: it works by the book and leaves no step out.

    Where its run test then shows that something is left, it looks again, at most three times in all.
    """
    rounds: list[Round] = []
    work, left = WorkDone(), case
    for _ in range(MOST_ROUNDS):
        rounds.append(_round(left, shelf, school, work.motor is not None))
        before, work = work, _joined(work, rounds[-1].work)
        if work == before or run_shows_right(unit_after(case, work)):
            break
        left = case.model_copy(update={"faults": [row for row in case.faults if not work.cures(row.fault)]})
    return EngineJob(rounds, work)


def run_shows_right(truth: UnitState) -> bool:
    """Whether a run test would pass: it turns the right way, quietly, within its plate's amps, and stays on."""
    live = Moment(live=True)
    run = run_of(truth)
    if not run.turns or measure(truth, PlannedTest("turns_way"), live).value == "wrong":
        return False
    if measure(truth, PlannedTest("noise"), live).value != "quiet" or trips_after_min(heat_after(truth)) is not None:
        return False
    return max(run.amps) <= MOST_AMPS * float(truth.call.motor.amps_a or max(run.amps))


def _joined(first: WorkDone, then: WorkDone) -> WorkDone:
    """What was done in two rounds."""
    return WorkDone(
        motor=then.motor or first.motor,
        uf=first.uf if then.uf is None else then.uf,
        capacitor=then.capacitor or first.capacitor,
        module=first.module or then.module,
        wired=then.wired or first.wired,
        steps=(*first.steps, *then.steps),
        skipped=first.skipped | then.skipped,
        acts=first.acts | then.acts,
        named=first.named | then.named,
    )


def _round(case: Case, shelf: Shelf, school: SizingSchool, has_motor: bool) -> Round:
    play = engine_plays(case)
    verdict = _decided(play)
    data: dict[str, Any] = {**write_case(case)["call"], "readings": play.readings}
    wants = verdict in NEEDS_MOTOR and not has_motor
    held = _motor(read_call(data), shelf, school) if wants else None
    named = _named(play)
    acts = _acts(named, with_motor=held is not None)
    at = (BEGINS + timedelta(minutes=round(play.minutes))).isoformat()
    data["changes"] = [{"what": act, "at": at} for act in acts]
    if held is not None:
        data["chosen_motor"] = held.motor.plate()
    can = capacitor_for(read_call(data), shelf) if held is not None or verdict == "replace_capacitor" else None
    wiring = wiring_for(read_call(data)) if held is not None else None
    if wiring is not None:
        planned = [wire.model_dump(mode="json", by_alias=True) for wire in wiring.planned]
        data["hookup"] = {**data.get("hookup", {}), "planned": planned}
    call, kept = read_call(data), KeptPlan(capacitor=can)
    steps = steps_of(call, kept, held, wiring, verdict)
    done = [(step.key, False) for step in steps]
    work = work_done(call, kept, held.motor if held else None, done, named)
    hands = [task._replace(wait_min=0.0) if task.key == DELIVERY else task for task in tasks(steps)]
    minutes = play.minutes + schedule(hands).elapsed + sum(ACT_MIN[act] for act in acts)
    return Round(play, call, held, kept, wiring, steps, work, minutes)


def _decided(play: Play) -> str:
    """The verdict; where its tests ran out before the proof, what the fault that it is sure of leads to."""
    leads, answer = play.answer.leading_fault, play.answer
    sure = next((row.probability for row in answer.ranked if row.fault == leads), 0.0) >= SURE
    return FAULTS[leads].verdict if answer.verdict == "not_proved" and leads in FAULTS and sure else answer.verdict


def _named(play: Play) -> frozenset[str]:
    """The faults that the engine takes to be so: the one that leads, and every other that is likely."""
    likely = {row.fault for row in play.answer.ranked if row.probability >= MOST_LIKELY}
    return frozenset((likely | {play.answer.leading_fault or "none"}) - {"none"})


def _acts(named: frozenset[str], with_motor: bool) -> list[ChangeKind]:
    """What is done about faults that no motor or capacitor cures; something else where no act of the table does.

    with_motor: a motor goes in, which is what was wrong; only what tripped with it is set again.
    """
    if with_motor:
        return ["protection_reset"] if named & set(CHANGES["protection_reset"].cures) else []
    found: dict[ChangeKind, None] = {}
    for fault in sorted(named):
        by: list[ChangeKind] = [what for what in words_of(ChangeKind) if fault in CHANGES[what].cures]
        other: list[ChangeKind] = ["other"] if fault in BY_OTHER_ACTS else []
        found |= dict.fromkeys([what for what in by[:1] if what != "capacitor_changed"] or other)
    return list(found)


def _motor(call: Call, shelf: Shelf, school: SizingSchool) -> Evaluation | None:
    found = ranked(call, shelf.motors, school, shelf.on_van)
    return next(iter(found.serving), None)


def capacitor_for(call: Call, shelf: Shelf) -> KeptCapacitor | None:
    """The first answer of the shelf to what the motor needs, the whole can where it serves the compressor too."""
    asked = needed(call)
    if asked is None:
        return None
    sections = van_sections(list(shelf.capacitors))
    for need in (asked.both, asked.fan):
        answers = substitutes(need, sections).answers if need else []
        if answers:
            best = answers[0]
            parts = [KeptPart(**part.model_dump()) for part in best.parts]
            return KeptCapacitor(key="engine", says=best.says, permanent=best.permanent, parts=parts, uf=best.uf)
    return None


def wiring_for(call: Call) -> HookupAnswer | None:
    """The plan of the chosen motor's wiring; None where its leads are not known and its own diagram decides."""
    try:
        return plan(call, call.chosen_motor or call.motor)
    except InvalidField:
        return None


def steps_of(
    call: Call, kept: KeptPlan, held: Evaluation | None, wiring: HookupAnswer | None, verdict: str
) -> list[Step]:
    """The steps of the swap that the choices ask for."""
    can, moves = kept.capacitor, wiring.moves if wiring is not None else []
    settled = Plan(
        work=[KeptWork(**item._asdict()) for item in held.work] if held else [],
        capacitor_says=can.says if can else None,
        capacitor_parts=tuple(dict.fromkeys(part.part_no for part in (can.parts if can else ()))),
        temporary=bool(can and not can.permanent),
        moves=len(moves),
        capped=tuple(move.what.removeprefix("motor.") for move in moves if move.do == "cap"),
        hook_up=wiring.school if wiring else None,
        on_van=held is None or held.on_van > 0,
        wait_min=(held.motor.lead_days or 1) * 1440 if held and not held.on_van else None,
    )
    laid = section(call, reference_for(call).motor, call.chosen_motor) if call.chosen_motor else None
    return steps_for(job_for(call, settled, laid, verdict))
