"""A call as its pages show it: the call file put together from the store, assessed, with its stations."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property, lru_cache
from typing import Literal

from sqlalchemy import Select, String, bindparam, select, type_coerce
from sqlalchemy.orm import joinedload, selectinload

from ..core.call import Call, read_call
from ..core.capacitors.needed import needed
from ..core.diagnosis.assess import Assessment, assess
from ..core.diagnosis.sentence import sentence
from ..core.judge.leads import Terminals
from ..core.judge.pairs import terminals
from ..core.limits import DEFAULTS, Limits
from ..core.proof.run_test import RunProof, prove_run
from ..core.swap.steps import steps_for
from ..store import tables
from ..store.database import Database
from .acts import WITH_PRACTICE, NotFound
from .safe_steps import STEPS
from .settings import limits_of, wished_limits
from .swap_job import job_of
from .whole_call import call_data

StationState = Literal["todo", "part", "done", "not_needed"]
STATIONS: tuple[tuple[str, str, str], ...] = (
    ("arrive", "Arrive", "a"),
    ("make-safe", "Make safe", "k"),
    ("plates", "Plates", "l"),
    ("path", "Path", "p"),
    ("finding", "Finding", "f"),
    ("match", "Match", "m"),
    ("capacitor", "Capacitor", "c"),
    ("hook-up", "Hook-up", "h"),
    ("swap", "Swap", "s"),
    ("run-proof", "Run proof", "r"),
    ("hand-over", "Hand over", "o"),
)
NEEDS_MOTOR = ("condemn_motor", "replace_wrong_motor", "runs_worn", "not_proved", "usable_limited", "replace_module")


CACHED_CALLS = 96


@lru_cache(maxsize=CACHED_CALLS)
def _call_of(text: str) -> Call:
    """A call from its file's text; the same text is read once."""
    return read_call(json.loads(text))


@lru_cache(maxsize=CACHED_CALLS)
def _assessment_of(text: str, limits: Limits) -> Assessment:
    """The core's assessment of a call as it stands; pages about the same readings share it."""
    return assess(_call_of(text), limits)


@dataclass(frozen=True)
class CallView:
    """A call with everything its pages need; what the core says is computed when asked for."""

    row: tables.Call
    text: str
    limits: Limits = DEFAULTS

    @property
    def call(self) -> Call:
        """The call, put together from its rows."""
        return _call_of(self.text)

    @cached_property
    def assessment(self) -> Assessment:
        """The assessment by the core."""
        return _assessment_of(self.text, self.limits)

    @cached_property
    def proof(self) -> RunProof:
        """The run proof by the core."""
        return prove_run(self.call, self.limits)

    @cached_property
    def terminals(self) -> Terminals:
        """Which motor lead is which."""
        return terminals(self.call)

    @cached_property
    def sentence(self) -> str:
        """The verdict in one sentence."""
        return sentence(self.assessment)

    @property
    def ticked(self) -> dict[str, datetime]:
        """Steps ticked at Make safe, with their time."""
        return {step.step: step.done_at for step in self.row.steps if step.station == "make-safe"}

    @property
    def is_open(self) -> bool:
        """Not closed yet."""
        return self.row.closed_at is None

    def station_state(self, station: str) -> StationState:
        """How far a station is."""
        state: StationState = getattr(self, "_" + station.replace("-", "_"))
        return "not_needed" if state == "todo" and not self.is_open else state

    @property
    def _arrive(self) -> StationState:
        return "done" if self.call.complaint.symptom else "todo"

    @property
    def _make_safe(self) -> StationState:
        ticked = set(self.ticked)
        # going live for the run took some ticks back: what is left to prove is not the lock-out any more
        behind = not self.is_open or self._run_proof == "done"
        return "done" if ticked >= {step.key for step in STEPS} or (ticked and behind) else "part" if ticked else "todo"

    @property
    def _plates(self) -> StationState:
        motor = self.call.motor
        known = [motor.kind, motor.volts, motor.amps_a, motor.rpm]
        return "done" if all(known) else "part" if any(known) else "todo"

    @property
    def _path(self) -> StationState:
        states = [link.state for link in self.assessment.path.values()]
        if all(state in ("proved", "not_applicable") for state in states) or self._finding == "done":
            return "done"
        return "part" if any(state != "unproved" for state in states) else "todo"

    @property
    def _finding(self) -> StationState:
        return "done" if self.assessment.verdict != "not_proved" else "todo"

    @property
    def _match(self) -> StationState:
        if self.call.chosen_motor:
            return "done"
        return "todo" if self.assessment.verdict in NEEDS_MOTOR else "not_needed"

    @property
    def _capacitor(self) -> StationState:
        if self.row.plan.capacitor:
            return "done"
        if needed(self.call) is None:
            return "not_needed"
        return "todo" if self.call.chosen_motor or self.assessment.verdict == "replace_capacitor" else "not_needed"

    @property
    def _hook_up(self) -> StationState:
        kept = self.row.plan.hookup
        if kept:
            return "done" if len(kept.done) == len(kept.moves) else "part"
        return "todo" if self.call.chosen_motor else "not_needed"

    @cached_property
    def swap_left(self) -> int | None:
        """How many steps of the swap are neither done nor left out; None when there is nothing to swap."""
        ticked = {step.step: step.done_at for step in self.row.steps if step.station == "swap"}
        ordered = ticked.get("order")
        job = job_of(self.call, self.row.plan, self.assessment.verdict, ordered or self.row.opened_at, ordered)
        keys = {step.key for step in steps_for(job)}
        return len(keys - set(ticked)) if keys else None

    @property
    def _swap(self) -> StationState:
        if self.swap_left is None:
            return "not_needed"
        begun = any(step.station == "swap" for step in self.row.steps)
        return "done" if not self.swap_left else "part" if begun else "todo"

    @property
    def _run_proof(self) -> StationState:
        if not any(reading.is_proof for reading in self.call.readings):
            return "todo"
        return "done" if self.proof.passed else "part"

    @property
    def _hand_over(self) -> StationState:
        return "todo" if self.is_open else "done"


def call_view_of(row: tables.Call, limits: Limits = DEFAULTS) -> CallView:
    """The view of a call's row, under the shop's limits. Raises `InvalidField` when the rows are no call."""
    text = json.dumps(call_data(row), ensure_ascii=False)
    _call_of(text)
    return CallView(row, text, limits)


def open_call_view(db: Database, call_id: int) -> CallView:
    """The view of a call by its id. Raises `NotFound`."""
    with db.reading() as session:
        found = session.execute(_BY_ID, {"call_id": call_id}, execution_options=WITH_PRACTICE).unique().one_or_none()
        if found is None:
            raise NotFound(f"call {call_id}")
        return call_view_of(found[0], limits_of(json.loads(found[1]) if found[1] else None))


def whole_calls() -> Select[tables.Call]:
    """Calls with all that their pages show, in as few queries as there are lists."""
    return select(tables.Call).options(
        joinedload(tables.Call.motor).joinedload(tables.Motor.unit).joinedload(tables.Unit.site),
        joinedload(tables.Call.technician),
        selectinload(tables.Call.readings).joinedload(tables.Reading.technician),
        selectinload(tables.Call.steps),
    )


_BY_ID = (
    whole_calls()
    # a few rows each at most: joined, they cost no query of their own
    .options(joinedload(tables.Call.follow_ups), joinedload(tables.Call.parts), joinedload(tables.Call.practice_case))
    .where(tables.Call.id == bindparam("call_id"))
    .add_columns(type_coerce(wished_limits(), String))
)
"""One call with its lists and the shop's limits; made once, for every page of a call asks it."""
