"""The Capacitor station: what the motor needs, what of the van serves it, what is chosen."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.capacitors.needed import RENEWALS, Needed, Stays, needed, stays
from ...core.capacitors.parts import CapacitorPart, sections_of, van_sections
from ...core.capacitors.strap import Strapped, strapped, strapped_both
from ...core.capacitors.substitute import Answer, Suits, substitutes, suits
from ...core.errors import invalid
from ...core.judge.capacitor import bleed_s
from ...core.limits import DEFAULTS
from ...core.record import KeptCapacitor, KeptPart, KeptPlan
from ...core.thermal.cost import cost_of_capacitor, usual_errors
from ...core.vocabulary import Renewal
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView, call_view_of
from ..catalog.shelf import capacitors_of_call
from ..people.settings import limits_in, schools_in

SHOWN, SHOWN_BOTH, SHOWN_ALL = 6, 3, 60
STAYS, ANY_CAN, FOR_BOTH = "stays", "can:", "both:"


@dataclass(frozen=True)
class AnswerView:
    """An answer with what the page shows beside it: its key, the band of its µF, fit in place, its straps.

    `ufs`: µF by part number and section, for the names of the terminals.
    """

    key: str
    for_both: bool
    answer: Answer
    band_uf: tuple[float, float]
    suits: list[Suits]
    strapped: Strapped
    ufs: dict[tuple[str, str], float]
    heat_says: str


@dataclass(frozen=True)
class CapacitorView:
    """The station: the need, whether what is there may stay, answers for the whole can and for the fan alone."""

    needed: Needed | None
    renewal: Renewal
    stays: Stays
    both: list[AnswerView]
    fan: list[AnswerView]
    more: int
    looked_at: AnswerView | None
    chosen: KeptCapacitor | None
    stocked: bool
    hold_seconds: int | None
    errors: list[tuple[str, str]]
    cans: list[tuple[str, str]]


def capacitor_view(db: Database, call_view: CallView, key: str = "", everything: bool = False) -> CapacitorView:
    """What the motor of a call needs, and what of the van serves it: the best few, or many with `everything`."""
    call = call_view.call
    with db.reading() as session:
        parts = capacitors_of_call(session, call_view.row)
        renewal = _renewal(call_view.row.plan, schools_in(session).renewal)
    asked = needed(call)
    both, fan, more = _answers(call_view, asked, parts, everything)
    chosen = call_view.row.plan.capacitor
    wanted = key or (chosen.key if chosen else "")
    listed = [*both, *fan]
    looked_at = next((view for view in listed if view.key == wanted), listed[0] if listed else None)
    may_stay = stays(call, renewal, call_view.limits)
    errors = usual_errors(asked.fan.uf, call) if asked else []
    hold = bleed_s(call_view.call)
    cans = [(ANY_CAN + part.part_no, f"{part.part_no}, {part.sections_uf} µF") for part in parts]
    return CapacitorView(asked, renewal, may_stay, both, fan, more, looked_at, chosen, bool(parts), hold, errors, cans)


def _any_can(parts: list[CapacitorPart], part_no: str) -> KeptCapacitor:
    """A can of the practice van as it is put in, right or wrong: the fan on its fan section. Raises `InvalidField`."""
    part = next((part for part in parts if part.part_no == part_no), None)
    if part is None:
        raise invalid("capacitor", part_no[:40], "a capacitor of the practice van")
    sections = sections_of(part.sections_uf)
    name, uf = next(((name, uf) for name, uf in sections if name == "fan"), sections[0])
    used = KeptPart(part_no=part_no, section=name)
    return KeptCapacitor(key=ANY_CAN + part_no, says=f"{part_no}, {uf:g} µF.", parts=[used], uf=uf)


def _renewal(plan: KeptPlan, shop: Renewal) -> Renewal:
    return plan.renewal or shop


def _answers(
    call_view: CallView, asked: Needed | None, parts: list[CapacitorPart], everything: bool
) -> tuple[list[AnswerView], list[AnswerView], int]:
    if asked is None:
        return [], [], 0
    on_van = van_sections(parts)
    by_part = {part.part_no: part for part in parts}
    fan = substitutes(asked.fan, on_van)
    whole = substitutes(asked.both, on_van) if asked.both else None
    most, most_both = (SHOWN_ALL, SHOWN_ALL) if everything else (SHOWN, SHOWN_BOTH)
    both = [_view(call_view, answer, by_part, for_both=True) for answer in (whole.answers if whole else [])[:most_both]]
    own = [_view(call_view, answer, by_part, for_both=False) for answer in fan.answers[:most]]
    more = len(fan.answers) + fan.more - len(own) + (len(whole.answers) + whole.more - len(both) if whole else 0)
    return both, own, more


def _view(call_view: CallView, answer: Answer, parts: dict[str, CapacitorPart], for_both: bool) -> AnswerView:
    used = [(part.part_no, part.section) for part in answer.parts]
    read = {number: sections_of(parts[number].sections_uf) for number, _ in used}
    sections = {number: tuple(name for name, _ in rows) for number, rows in read.items()}
    ufs = {(number, name): uf for number, rows in read.items() for name, uf in rows}
    herm, fan = ([(p.part_no, p.section) for p in answer.parts if p.serves == who] for who in ("herm", "fan"))
    drawn = strapped_both(herm, fan, sections) if for_both else strapped(used, answer.join, sections)
    old = call_view.call.capacitor
    beside = not for_both and old.section_uf("herm") is not None
    fit = [
        suits(can.part_no, parts[can.part_no].shape, parts[can.part_no].height_in, old, beside or place > 0)
        for place, can in enumerate(drawn.cans)
    ]
    names = [f"{number}.{section}" for number, section in used]
    if for_both and len(used) > 2:
        names = [f"{part.part_no}.{part.section}.{part.serves}" for part in answer.parts]
    key = (FOR_BOTH if for_both else f"{answer.join}:") + ",".join(names)
    heat = "" if for_both or not answer.off_pct else cost_of_capacitor(answer.uf, call_view.call)
    return AnswerView(key, for_both, answer, answer.band_uf(DEFAULTS.capacitor_tolerance_pct), fit, drawn, ufs, heat)


def choose_capacitor(db: Database, call_id: int, context: ActContext, key: str) -> None:
    """Choose what runs the motor: an answer of the van by its key, `stays` for what is there, empty to take it back.

    Raises `InvalidField` when the answer is not there any more, or what is there may not stay.
    """
    with act_on(db, call_id, context, "choose_capacitor") as (session, row):
        call_view = call_view_of(row, limits_in(session))
        if not key:
            row.plan = row.plan.changed(capacitor=None)
            return
        if key == STAYS:
            found = stays(call_view.call, _renewal(row.plan, schools_in(session).renewal), call_view.limits)
            if not found.may:
                raise invalid("capacitor", "what is there", f"another one: {found.because}")
            row.plan = row.plan.changed(capacitor=KeptCapacitor(key=STAYS, says=f"Kept. {found.because}"))
            return
        if row.practice and key.startswith(ANY_CAN):
            can = _any_can(capacitors_of_call(session, row), key.removeprefix(ANY_CAN))
            row.plan = row.plan.changed(capacitor=can)
            return
        both, fan, _ = _answers(
            call_view,
            needed(call_view.call),
            capacitors_of_call(session, call_view.row),
            everything=True,
        )
        view = next((view for view in (*both, *fan) if view.key == key), None)
        if view is None:
            raise invalid("capacitor", key, "an answer that the van still has")
        parts = [KeptPart(**part.model_dump()) for part in view.answer.parts]
        chosen = KeptCapacitor(
            key=key, says=view.answer.says, permanent=view.answer.permanent, parts=parts, uf=view.answer.uf
        )
        row.plan = row.plan.changed(capacitor=chosen)


def set_renewal(db: Database, call_id: int, context: ActContext, renewal: str) -> None:
    """Choose how this call renews capacitors. Raises `InvalidField`."""
    if renewal not in RENEWALS:
        raise invalid("renewal", renewal, "one of " + ", ".join(RENEWALS))
    with act_on(db, call_id, context, "set_renewal") as (_, row):
        row.plan = row.plan.changed(renewal=renewal)
