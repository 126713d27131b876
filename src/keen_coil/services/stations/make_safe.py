"""Make safe: the steps to tick, and the power strip."""

from __future__ import annotations

from ...core.errors import invalid
from ...core.vocabulary import PowerState, words_of
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..practice.practice import power_was_set
from .safe_steps import PROVED_DEAD, STEPS


def tick_steps(db: Database, call_id: int, context: ActContext, steps: list[str]) -> None:
    """Set which steps of Make safe are ticked; new ones get the time now.

    With the steps that prove it dead ticked, the power strip goes to *locked out*; without, it stays.
    """
    unknown = [step for step in steps if step not in {row.key for row in STEPS}]
    if unknown:
        raise invalid("steps", unknown[0], "a step of Make safe")
    with act_on(db, call_id, context, "tick_steps") as (session, row):
        had = {step.step: step for step in row.steps if step.station == "make-safe"}
        for step in set(had) - set(steps):
            session.delete(had[step])
        for step in [row.key for row in STEPS if row.key in steps and row.key not in had]:
            session.add(tables.Step(call_id=call_id, station="make-safe", step=step, done_at=context.now))
        if set(steps) >= PROVED_DEAD and not set(had) >= PROVED_DEAD and row.power != "dead":
            row.power, row.power_at = "dead", context.now
            if row.practice:
                power_was_set(session, row, "dead")


def set_power(db: Database, call_id: int, context: ActContext, power: str) -> None:
    """Set the power strip; the time is noted. Going live unticks the steps that proved it dead."""
    if power not in words_of(PowerState):
        raise invalid("power", power, "energised or dead")
    with act_on(db, call_id, context, "set_power") as (session, row):
        row.power, row.power_at = power, context.now
        if power == "energised":
            for step in [s for s in row.steps if s.station == "make-safe" and s.step in PROVED_DEAD]:
                session.delete(step)
        if row.practice:
            power_was_set(session, row, power)
