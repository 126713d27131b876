"""A call as its pages show it: the call file put together from the store, assessed, proved."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property, lru_cache

from sqlalchemy import ColumnElement, Select, String, bindparam, exists, select, type_coerce, union_all
from sqlalchemy.orm import aliased, joinedload, raiseload, selectinload
from sqlalchemy.orm.attributes import set_committed_value

from ...core.call import Call, read_call
from ...core.diagnosis.assess import Assessment, assess
from ...core.diagnosis.sentence import headline, sentence
from ...core.errors import NotFound
from ...core.judge.pairs import Terminals, terminals
from ...core.limits import DEFAULTS, Limits
from ...core.proof.run_test import RunProof, prove_run
from ...core.replicas.merge import ROW
from ...core.swap.steps import steps_for
from ...store import tables
from ...store.database import Database
from ...store.replica_tables import PartWrite
from ..acts import WITH_PRACTICE
from ..people.settings import ShopUnits, chosen_units, limits_of, units_of, wished_limits
from ..practice.kept import named_of
from ..stations.swap_job import job_of
from .whole_call import call_data

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
    """A call with everything its pages need; what the core says is computed when asked for.

    `units` of the shop are there where the call was opened by its id. `is_written_apart`: several laptops wrote to
    something of it that nobody decided on yet, or that goes together.
    """

    row: tables.Call
    text: str
    limits: Limits = DEFAULTS
    units: ShopUnits | None = None
    is_written_apart: bool = False

    @property
    def call(self) -> Call:
        """The call, put together from its rows."""
        return _call_of(self.text)

    @cached_property
    def assessment(self) -> Assessment:
        """The assessment by the core."""
        return _assessment_of(self.text, self.limits)

    @cached_property
    def verdict(self) -> str:
        """The verdict that the work goes by: the core's; in a whole job of practice the one the learner named."""
        named = named_of(self.row) if self.row.practice else None
        return named.verdict if named is not None else self.assessment.verdict

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
    def headline_and_cause(self) -> tuple[str, str]:
        """The verdict in few words and what stands behind it; the technician's own where readings prove none."""
        own = self.call.judgement
        if own is not None and self.assessment.verdict == "not_proved":
            return headline(own.verdict), f"{own.why.rstrip('.')}. Judged by {own.by}."
        start = headline(self.assessment.verdict)
        return start, self.sentence.replace(f"{start}. ", "")

    @property
    def ticked(self) -> dict[str, datetime]:
        """Steps ticked at Make safe, with their time."""
        return {step.step: step.done_at for step in self.row.steps if step.station == "make-safe"}

    @property
    def is_open(self) -> bool:
        """Not closed yet."""
        return self.row.closed_at is None

    @cached_property
    def swap_left(self) -> int | None:
        """How many steps of the swap are neither done nor left out; None when there is nothing to swap."""
        ticked = {step.step: step.done_at for step in self.row.steps if step.station == "swap"}
        ordered = ticked.get("order")
        job = job_of(self.call, self.row.plan, self.verdict, ordered or self.row.opened_at, ordered)
        keys = {step.key for step in steps_for(job)}
        return len(keys - set(ticked)) if keys else None


def call_view_of(row: tables.Call, limits: Limits = DEFAULTS) -> CallView:
    """The view of a call's row, under the shop's limits. Raises `InvalidField` when the rows are no call."""
    text = json.dumps(call_data(row), ensure_ascii=False)
    _call_of(text)
    return CallView(row, text, limits)


def open_call_view(db: Database, call_id: int) -> CallView:
    """The view of a call by its id. Raises `NotFound`."""
    with db.reading() as session:
        asked = {"call_id": call_id}
        found = session.execute(_BY_ID, asked, execution_options=WITH_PRACTICE).unique().one_or_none()
        if found is None:
            raise NotFound(f"call {call_id}")
        row: tables.Call = found[0]
        set_committed_value(row, "readings", session.scalars(_READINGS, asked).all())
        set_committed_value(row, "steps", session.scalars(_STEPS, asked).all())
        limits, units = (json.loads(kept) if kept else None for kept in found[1:3])
        return replace(call_view_of(row, limits_of(limits)), units=units_of(units), is_written_apart=bool(found[3]))


_WHERE_AND_WHO = (
    joinedload(tables.Call.motor).joinedload(tables.Motor.unit).joinedload(tables.Unit.site),
    joinedload(tables.Call.technician),
)


def whole_calls() -> Select[tables.Call]:
    """Calls with all that their pages show, in as few queries as there are lists."""
    return select(tables.Call).options(
        *_WHERE_AND_WHO,
        selectinload(tables.Call.readings).joinedload(tables.Reading.technician),
        selectinload(tables.Call.steps),
    )


def _written_apart() -> ColumnElement[bool]:
    """Whether several writes stand beside each other, of the call, its motor or its unit."""
    call, motor, unit, write = aliased(tables.Call), aliased(tables.Motor), aliased(tables.Unit), PartWrite
    of_call = call.id == bindparam("call_id")
    uids = union_all(
        select(call.uid).where(of_call),
        select(motor.uid).join(call, call.motor_id == motor.id).where(of_call),
        select(unit.uid).join(motor, motor.unit_id == unit.id).join(call, call.motor_id == motor.id).where(of_call),
    )
    return exists().where(write.value.is_not(None), write.part != ROW, write.row_key.in_(uids))


_BY_ID = (
    select(tables.Call)
    .options(
        *_WHERE_AND_WHO,
        # a few rows each at most: joined, they cost no query of their own
        joinedload(tables.Call.follow_ups),
        joinedload(tables.Call.parts),
        joinedload(tables.Call.practice_case),
        raiseload(tables.Call.readings),
        raiseload(tables.Call.steps),
    )
    .where(tables.Call.id == bindparam("call_id"))
    .add_columns(type_coerce(wished_limits(), String), type_coerce(chosen_units(), String), _written_apart())
)
_READINGS = (
    select(tables.Reading)
    .options(joinedload(tables.Reading.technician))
    .where(tables.Reading.call_id == bindparam("call_id"))
    .order_by(tables.Reading.position)
)
_STEPS = select(tables.Step).where(tables.Step.call_id == bindparam("call_id")).order_by(tables.Step.id)
"""One call with its lists, the shop's limits and its units; made once, for every page of a call asks them."""
