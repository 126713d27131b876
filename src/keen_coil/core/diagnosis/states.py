"""The states of a unit in one call: as it was found, and as it is since something was changed."""

from __future__ import annotations

from ..call import Call
from ..changes import CHANGES, last_state_of, state_of, touches
from ..judge.judged import Signal
from ..readings import Reading
from ..vocabulary import Verdict
from .case import Case

DAMAGE: dict[str, tuple[str, ...]] = {
    "conductor": ("open", "shorted", "chafed"),
    "connection": ("loose", "burnt", "off"),
    "fuse": ("open",),
    "belt_look": ("slack", "broken", "misaligned"),
    "load_look": ("bent", "cracked", "hub_loose", "rubbing", "backwards", "off", "jammed", "iced", "packed"),
    "breaker": ("tripped",),
    "starter_overload": ("tripped",),
}
"""Damage that a reading records and that stays until something is done about it."""


def with_run_proof(call: Call) -> Call:
    """The call with the run proof among its readings, where the motor that was found is the one that was proved."""
    if call.chosen_motor is not None or not any(r.is_proof for r in call.readings):
        return call
    plain = [r.model_copy(update={"stage": None}) if r.is_proof else r for r in call.readings]
    return call.model_copy(update={"readings": plain})


def as_found(call: Call) -> Call:
    """The call without the readings taken after a change that touches them."""
    changes = call.changes_in_order
    return call.without(frozenset(i for i, r in enumerate(call.readings) if state_of(r, changes) > 0))


def as_it_is_now(call: Call) -> Call:
    """The call without the readings that a later change made out of date, and without the complaint it came with."""
    changes = call.changes_in_order
    gone = frozenset(
        i for i, r in enumerate(call.readings) if not r.is_proof and state_of(r, changes) < last_state_of(r, changes)
    )
    complaint = call.complaint.model_copy(update={"symptom": None})
    return call.model_copy(update={"complaint": complaint}).without(gone)


def read_since(call: Call) -> bool:
    """Whether anything that a change touches was read after it."""
    changes = call.changes_in_order
    return any(state_of(r, changes) > 0 for _, r in call.standing())


def cured_signals(call: Call, before: Case, after: Case) -> tuple[Signal, ...]:
    """For each change whether it helped: what failed before it passes after it, and nothing it touches still fails."""
    found = []
    for change in call.changes_in_order:
        touched = [(i, r) for i, r in call.standing() if touches(change, r)]
        failed_then = {r.kind for i, r in touched if i in before.seen and _bad(before, i)}
        if call.complaint.symptom in ("quiet", "hums_no_start", "slow_start", "trips", "stops_hot"):
            failed_then.add("turns_way")
        later = [(i, r) for i, r in touched if i in after.seen and state_of(r, (change,)) > 0]
        passes = {r.kind for i, r in later if after.judged[i].judgement.state == "normal"}
        fails = {r.kind for i, r in later if _bad(after, i)}
        if failed_then & fails:
            found.append(
                Signal(f"cured_{change.what}.no", f"{CHANGES[change.what].says}: no better", tuple(i for i, _ in later))
            )
        elif failed_then & passes:
            found.append(
                Signal(
                    f"cured_{change.what}.yes", f"{CHANGES[change.what].says}: good since", tuple(i for i, _ in later)
                )
            )
    return tuple({signal.key: signal for signal in found}.values())


def _bad(case: Case, index: int) -> bool:
    reading = case.call.readings[index]
    return case.judged[index].judgement.state == "failed" or (
        reading.kind == "turns_way" and reading.value == "not_turning"
    )


def cures(call: Call, cured: tuple[Signal, ...]) -> tuple[str, ...]:
    """The faults that the changes which helped can cure."""
    helped = [signal.key.split(".")[0].removeprefix("cured_") for signal in cured if signal.key.endswith(".yes")]
    return tuple(dict.fromkeys(fault for what in helped for fault in CHANGES[what].cures))


def is_broken(verdict: Verdict, leading: str | None, healed: list[str]) -> bool:
    """Whether the unit still has a fault of its own since the changes."""
    return leading not in (None, "none", *healed) and verdict != "no_fault_found"


NAMED = {"load_look": "blade or wheel", "belt_look": "belt"}


def damage_says(reading: Reading) -> str:
    """Recorded damage in words: `conductor chafed`, `blade or wheel bent`."""
    where = f" ({reading.at or reading.leg})" if reading.at or reading.leg else ""
    return f"{NAMED.get(reading.kind, reading.row.title)}{where} {str(reading.value).replace('_', ' ')}"


def still_open(case: Case) -> list[str]:
    """Damage that was recorded and that nothing was done about, in words."""
    rows = [(case.call.readings[index], judged.judgement.state) for index, judged in case.counting]
    return list(
        dict.fromkeys(damage_says(r) for r, state in rows if state == "failed" and r.value in DAMAGE.get(r.kind, ()))
    )
