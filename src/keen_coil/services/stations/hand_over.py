"""Hand over: what is still open, parts booked off a van, follow-ups, closing as finished or as unfinished."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import FieldError, InvalidField, invalid
from ...core.installation import Hookup, Installation
from ...core.record import KeptOutcome
from ...core.swap.steps import GOES_IN
from ...core.units import whole_number
from ...store import tables
from ...store.columns import uid_of
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView, call_view_of
from ..calls.changes import still_open
from ..catalog.shelf import IS_THERE
from ..catalog.stock import note_movements
from ..people.people import van_names, van_of_call
from ..people.settings import limits_in
from ..practice.practice import end_job
from .finding import read_judgement, wants_judgement
from .hook_up import moves_done
from .record import is_in

LONGEST_TEXT, LONGEST_SAYS, MOST_TAKEN = 2000, 500, 100
TAKE, FROM = "take.", "from."
BOUGHT = "bought on the way"
SOURCES = ("", BOUGHT, "delivered for this call", "from the customer")
"""Where a part came from: the van, or elsewhere; what is not off the van is booked and takes none of its stock."""
KINDS = {"temporary": "temporary repair", "watch": "check again", "unfinished": "unfinished"}


@dataclass(frozen=True)
class Bookable:
    """A part that this call may have taken: how many the van has, how many are proposed, from where."""

    part_no: str
    there: int
    proposed: int
    source: str = ""


@dataclass(frozen=True)
class HandOver:
    """The station beside the record: what is open, what may be booked, from which van."""

    loose_ends: list[str]
    parts: list[Bookable]
    others: list[str]
    van: str
    vans: list[str]
    proposed_temporary: str


def hand_over_view(db: Database, view: CallView) -> HandOver:
    """What is still open on a call, and the parts that it took."""
    with db.reading() as session:
        van = van_of_call(view.row)
        row = tables.VanPart
        found = session.execute(select(row.part_no, IS_THERE).where(row.van == van))
        stock = {part: there for part, there in found}
        vans = van_names(session)
    wanted = parts_wanted(view)
    parts = [
        Bookable(part, stock.get(part, 0), number, "" if stock.get(part, 0) >= number else BOUGHT)
        for part, number in wanted.items()
    ]
    others = sorted(part for part, there in stock.items() if there and part not in wanted)
    return HandOver(loose_ends(view), parts, others, van, vans if van in vans else [van, *vans], _temporary(view))


def parts_wanted(view: CallView) -> dict[str, int]:
    """The parts that the plan of a call takes, with how many of each."""
    chosen, plan = view.row.chosen or {}, view.row.plan
    found: dict[str, int] = {chosen["part_no"]: 1} if chosen.get("part_no") else {}
    for part_no in dict.fromkeys(part.part_no for part in (plan.capacitor.parts if plan.capacitor else ())):
        found[part_no] = found.get(part_no, 0) + 1
    return found


def _temporary(view: CallView) -> str:
    capacitor = view.row.plan.capacitor
    if capacitor is None or capacitor.permanent:
        return ""
    return f"Capacitor {capacitor.says.rstrip('.')}: replace it with a single part."[:LONGEST_SAYS]


def loose_ends(view: CallView) -> list[str]:
    """What keeps a call from being finished, in words; a run that is not proved can be excused, the rest cannot."""
    found = []
    if view.swap_left and (view.row.chosen or any(step.station == "swap" for step in view.row.steps)):
        many = "" if view.swap_left == 1 else "s"
        found.append(f"{view.swap_left} step{many} of the swap not done or skipped")
    hookup = view.row.plan.hookup
    left = len(hookup.moves) - len(moves_done(view.row)) if hookup else 0
    if left:
        found.append(f"{left} {'move' if left == 1 else 'moves'} of the wiring plan not checked off")
    if _temporary(view) and is_in(view, "capacitor") and not any(i.kind == "temporary" for i in view.row.follow_ups):
        found.append("the strapped capacitor is temporary: set the day it gets replaced")
    return found + [f"still open: {says}" for says in still_open(view)]


def close_call(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Close a call: finished with its run passed or a named exception, or as unfinished with a day to return.

    Parts are booked off a van; the new motor takes the old one's place when it went in. Raises `InvalidField` naming
    the field; then nothing is saved, no part is booked.
    """
    texts = {key: fields.get(key, "").strip() for key in ("exception", "fitted", "watch", "unfinished")}
    unfinished = fields.get("finish") == "unfinished"
    with act_on(db, call_id, context, "close_call") as (session, row):
        view = call_view_of(row, limits_in(session))
        _check_lengths(texts)
        if row.practice and not unfinished:
            _finished(view, texts)
        if end_job(session, row, context):
            return
        if unfinished:
            _return_on(row, texts, fields)
        else:
            _finished(view, texts)
            view = _judged(view, row, context, fields)
        book_parts(session, row, context, fields)
        row.closed_at = context.now
        row.outcome = KeptOutcome(
            verdict=view.assessment.verdict,
            fault=view.assessment.leading_fault,
            passed=view.proof.passed,
            unjudged=not unfinished and wants_judgement(view),
            **{key: text for key, text in texts.items() if text and (unfinished or key != "unfinished")},
        )
        if row.chosen and _went_in(row, unfinished):
            install(session, row, context.now)


def _finished(view: CallView, texts: Mapping[str, str]) -> None:
    open_ends = loose_ends(view)
    if open_ends:
        what = "every step done or skipped with a reason, or hand it over as unfinished"
        raise invalid("finish", "; ".join(open_ends), what)
    if not view.proof.passed and not texts["exception"]:
        raise invalid("exception", "", "a reason")


def _judged(view: CallView, row: tables.Call, context: ActContext, fields: Mapping[str, str]) -> CallView:
    """Asks once for the technician's judgment where a part was renewed and nothing proved; it may be left out."""
    if not wants_judgement(view) or fields.get("no_judgement") == "yes":
        return view
    row.plan = row.plan.changed(judgement=read_judgement(fields, _name_of(row), context.now))
    return call_view_of(row, view.limits)


def _name_of(row: tables.Call) -> str:
    return row.technician.name if row.technician else ""


def _return_on(row: tables.Call, texts: Mapping[str, str], fields: Mapping[str, str]) -> None:
    """An unfinished call says what is left and when somebody returns; that becomes a follow-up."""
    if not texts["unfinished"]:
        raise invalid("unfinished", "", "what is left to do")
    due = _day(fields.get("return_on", ""), "return_on")
    row.follow_ups.append(tables.FollowUp(kind="unfinished", says=texts["unfinished"][:LONGEST_SAYS], due_on=due))


def _went_in(row: tables.Call, unfinished: bool) -> bool:
    """Whether the new motor is in its place: always when finished, by its step when not."""
    return not unfinished or any(
        step.station == "swap" and step.step in GOES_IN and not step.skipped for step in row.steps
    )


def _check_lengths(texts: Mapping[str, str]) -> None:
    faults = [
        FieldError(key, f"{len(text)} characters", f"at most {LONGEST_TEXT}")
        for key, text in texts.items()
        if len(text) > LONGEST_TEXT
    ]
    if faults:
        raise InvalidField(faults)


def _day(text: str, field: str) -> date:
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise invalid(field, text[:40] or "nothing", "a day such as 2026-03-14") from None


def book_parts(session: Session, row: tables.Call, context: ActContext, fields: Mapping[str, str]) -> None:
    """Book parts: `take.PART` says how many, `from.PART` where from if not off the van; `take_other` another part.

    Raises `InvalidField`; none is then.
    """
    van = fields.get("van", "").strip() or van_of_call(row)
    asked = {key.removeprefix(TAKE): text.strip() for key, text in fields.items() if key.startswith(TAKE)}
    other = fields.get("take_other", "").strip()
    if other:
        asked[other] = fields.get("take_other_many", "").strip() or "1"
    faults: list[FieldError] = []
    taken: list[tables.StockMovement] = []
    for part_no, text in asked.items():
        field = TAKE + part_no if part_no != other else "take_other"
        if text in ("", "0"):
            continue
        many = whole_number(text, MOST_TAKEN + 1)
        if not many:
            faults.append(FieldError(field, text[:20], f"how many, 0 to {MOST_TAKEN}"))
            continue
        source = fields.get(FROM + part_no if part_no != other else "other_from", "").strip()
        if source not in SOURCES:
            faults.append(FieldError(field, source[:40], "one of " + ", ".join(SOURCES[1:]) + ", or off the van"))
            continue
        if source:
            row.parts.append(
                tables.PartUsed(part_no=part_no, quantity=many, van=van, source=source, booked_at=context.now)
            )
            continue
        part = session.get(tables.VanPart, (van, part_no))
        there = max(0, part.quantity) if part else 0
        if part is None or there < many:
            faults.append(
                FieldError(
                    field,
                    f"{text} of {part_no}",
                    f"at most {there}: that is what {van} has; or say where else it came from",
                )
            )
            continue
        taken.append(tables.StockMovement(van=van, part_no=part_no, kind="booked", quantity=-many, call_id=row.id))
        row.parts.append(tables.PartUsed(part_no=part_no, quantity=many, van=van, booked_at=context.now))
    if faults:
        raise InvalidField(faults)
    note_movements(session, context, taken)


def add_follow_up(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> None:
    """Note something temporary, or something to look at again, with its day. Raises `InvalidField`."""
    kind, says = fields.get("kind", ""), fields.get("says", "").strip()
    if kind not in ("temporary", "watch"):
        raise invalid("kind", kind[:40], "temporary or watch")
    if not 3 <= len(says) <= LONGEST_SAYS:
        raise invalid("says", says[:40] or "nothing", f"what it is, 3 to {LONGEST_SAYS} characters")
    due = _day(fields.get("due_on", ""), "due_on")
    with act_on(db, call_id, context, "add_follow_up") as (_, row):
        row.follow_ups.append(tables.FollowUp(kind=kind, says=says, due_on=due))


def drop_follow_up(db: Database, call_id: int, context: ActContext, follow_up: str) -> None:
    """Take back a follow-up of an open call. Raises `InvalidField` when it is none of its."""
    with act_on(db, call_id, context, "drop_follow_up") as (session, row):
        found = next((item for item in row.follow_ups if str(item.id) == follow_up), None)
        if found is None:
            raise invalid("follow_up", follow_up[:20], "a follow-up of this call")
        row.follow_ups.remove(found)
        session.delete(found)


def install(session: Session, row: tables.Call, now: datetime) -> None:
    """The chosen motor goes in, the old one is out; what it turns stays, capacitor and wiring are new.

    Its leads and the plan it was wired by are what the next call finds, where its leads were noted. Its identity is
    made from the call's: handed over on two vans, it is one motor.
    """
    old, plate = row.motor, dict(row.chosen or {})
    plate["role"] = plate.get("role") or old.plate.get("role")
    old.removed_at = now
    was = old.installation
    named = was.hookup.new_leads or was.hookup.diagram
    wired = Hookup(diagram=was.hookup.diagram)
    if named:
        wired = Hookup(leads=was.hookup.new_leads, found=was.hookup.planned, diagram=was.hookup.diagram)
    installation = Installation(load=was.load, space=was.space, hookup=wired)
    session.add(
        tables.Motor(
            uid=uid_of(int(row.opened_at.timestamp() * 1000), f"motor of {row.uid}"),
            unit_id=old.unit_id,
            plate=plate,
            installation=installation,
            place=old.place,
            installed_at=now,
        )
    )
