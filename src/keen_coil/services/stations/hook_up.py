"""The Hook-up station: wiring as found, the plan for the chosen motor, and any wiring tried out; what each would do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from ...core.call import Call
from ...core.errors import FieldError, InvalidField, invalid
from ...core.hookup.answer import Check, Move
from ...core.hookup.check import check, motor_of
from ...core.hookup.drawing import Drawing, lay_out
from ...core.hookup.leads import MotorLeads, read_leads
from ...core.hookup.leads_of_call import leads_for, not_noted, ohms_between
from ...core.hookup.places import terminals_of, usual_unit
from ...core.hookup.plan import ChosenCan, must_know_board, plan, sound
from ...core.hookup.solve import volts_per_turn
from ...core.hookup.terminals import Join, joins, places_of, terminal_words
from ...core.hookup.turning_round import turn_round
from ...core.plates import Motor
from ...core.record import KeptHookup
from ...core.thermal.cost import cost_of_wiring
from ...core.units import whole_number
from ...core.vocabulary import CapacitorSchool
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..answers.hookup import SCHOOLS
from ..calls.call_view import CallView, call_view_of
from ..field_messages import message
from .capacitor import ANY_CAN, FOR_BOTH, STAYS
from .lead_forms import LeadRow, OutputRow, diagram_texts, lead_rows, lead_text, output_rows, store_hookup
from .swap import LEAST_WHY, LONGEST_WHY, steps_now

STATION = "swap"
STEPS = ("wires_off", "ground", "connect", "cap")
"""The steps of a swap that are moves of the hook-up."""


def step_of(move: Move) -> str:
    """The step of the swap that a move belongs to."""
    if move.do == "take_off":
        return "wires_off"
    if "ground.frame" in (move.what, move.where):
        return "ground"
    return "cap" if move.do == "cap" else "connect"


def moves_done(row: tables.Call) -> set[int]:
    """The moves of the kept plan that are done, by their numbers: ticked, or of a step that is done."""
    kept = row.plan.hookup or KeptHookup()
    steps = {step.step for step in row.steps if step.station == STATION and not step.skipped}
    return set(kept.done) | {number for number, move in enumerate(kept.moves) if step_of(move) in steps}


def steps_of(kept: KeptHookup, done: set[int]) -> tuple[set[str], set[str]]:
    """The steps whose moves are all done, and those of which one is not."""
    open_yet = {step_of(move) for number, move in enumerate(kept.moves) if number not in done}
    every = {step_of(move) for move in kept.moves}
    return every - open_yet, open_yet


View = Literal["found", "plan", "try"]
VIEWS: tuple[tuple[View, str], ...] = (("found", "As found"), ("plan", "Planned"), ("try", "Try it out"))
WIRE, HANGS = "wire.", "hangs"


@dataclass
class HookupView:
    """What a view of the station shows: drawing, check, moves; leads with where each goes; terminals to choose from."""

    view: View
    motor: Motor
    leads: MotorLeads | None = None
    drawing: Drawing | None = None
    check: Check | None = None
    moves: list[Move] = field(default_factory=list)
    done: set[int] = field(default_factory=set)
    goes: dict[str, str] = field(default_factory=dict)
    terminals: list[str] = field(default_factory=list)
    school: CapacitorSchool | None = None
    explains: list[str] = field(default_factory=list)
    faults: dict[str, str] = field(default_factory=dict)
    lead_rows: list[LeadRow] = field(default_factory=list)
    lead_text: str = ""
    diagram: dict[str, str] = field(default_factory=dict)
    outputs: list[OutputRow] = field(default_factory=list)
    kept: bool = False
    turn_round: str = ""
    heat_says: str = ""
    wires: list[Join] = field(default_factory=list)
    can: ChosenCan | None = None

    @property
    def asks_why(self) -> bool:
        """Whether this wiring is kept with a written reason only: it does not run, or something in it is wrong."""
        return self.check is not None and not (self.check.runs and sound(self.check))

    def fed_words(self, leads: list[str]) -> str:
        """Leads that an output feeds, a speed tap with its own number: `red (speed 3), white`."""
        ends = dict(self.leads.leads) if self.leads is not None else {}
        taps = {lead: next((end[6:] for end in ends.get(lead, ()) if end.startswith("main.s")), "") for lead in leads}
        return ", ".join(f"{lead} (speed {tap})" if tap else lead for lead, tap in taps.items())


def hookup_view(
    call_view: CallView, view: View, school: str | None = None, typed: Mapping[str, str] | None = None
) -> HookupView:
    """A view of the station. What cannot be drawn is named in `faults`, with what to look up."""
    call = call_view.call
    found = HookupView(view, motor_of(call, planned=view != "found"))
    kept = call_view.row.plan.hookup or KeptHookup()
    found.kept = call_view.row.plan.hookup is not None
    found.lead_rows, found.lead_text = lead_rows(call, view), lead_text(call, view)
    found.diagram = diagram_texts(call)
    found.outputs = output_rows(call)
    found.terminals = terminals_of(call)
    found.can = chosen_can(call_view) if view != "found" else None
    try:
        {"found": _as_found, "plan": _to_be, "try": _tried}[view](found, call, kept, school, typed or {})
        found.heat_says = _heat_says(found, call)
        found.turn_round = turn_round(found.motor, found.leads) if found.leads else ""
        found.done = moves_done(call_view.row) if view == "plan" and found.kept else set()
    except InvalidField as error:
        found.faults = {fault.path: message(fault) for fault in error.errors}
    return found


def chosen_can(call_view: CallView) -> ChosenCan | None:
    """The capacitor that was chosen at Capacitor, as the wiring is planned on it."""
    chosen, serves = call_view.row.plan.capacitor, call_view.call.unit.run_capacitor
    if chosen is None or chosen.key.startswith(ANY_CAN):
        return None
    if chosen.key == STAYS:
        return ChosenCan("the old capacitor", None, "dual" if serves == "dual" else "own")
    names = {
        who: " and ".join(dict.fromkeys(p.part_no for p in chosen.parts if p.serves == who)) for who in ("herm", "fan")
    }
    if chosen.key.startswith(FOR_BOTH):
        one_can = names["herm"] == names["fan"]
        return ChosenCan(names["fan"], chosen.uf, "dual" if one_can else "own", {"": names["herm"]})
    return ChosenCan(names["fan"], chosen.uf, "own", {"": names["fan"]} if serves == "own" else {})


def _heat_says(found: HookupView, call: Call) -> str:
    """What the wiring that was checked costs the winding; empty where it is right or the model is silent."""
    if found.check is None or found.leads is None:
        return ""
    planned = found.view != "found"
    wrong = [item.fault for item in found.check.findings]
    volts = volts_per_turn(call, found.motor, found.leads, found.wires, planned) if found.check.solved else None
    return cost_of_wiring(wrong, call, planned, volts)


def _as_found(found: HookupView, call: Call, kept: KeptHookup, school: str | None, typed: Mapping[str, str]) -> None:
    wires = _with_unit(call, joins(call.hookup.found, "hookup.found"), found)
    found.leads = _old_leads(call, {wire.lead for wire in wires if wire.lead})
    _draw(found, wires)
    if not any(wire.lead for wire in wires) or not found.leads.ends:
        return
    missing = [_open_words(end) for end in not_noted(found.leads, wires)]
    if missing:
        found.explains.append(f"Not noted yet: {', '.join(missing)}. Nothing is checked before every wire is noted.")
    else:
        found.check = check(call, call.motor, found.leads, wires, planned=False)


def _open_words(end: str) -> str:
    return end.removeprefix("motor.") if end.startswith("motor.") else f"what is on {terminal_words(end)}"


def _with_unit(call: Call, wires: list[Join], found: HookupView) -> list[Join]:
    """The wires as found with the unit's own as they usually are, where none of those was noted; it says so."""
    if not wires or any(not wire.lead for wire in wires):
        return wires
    unit = usual_unit(call, wires)
    if unit:
        found.explains = ["The unit's own wires were not noted. They are drawn the usual way. Check them."]
    return [*wires, *unit]


def _to_be(found: HookupView, call: Call, kept: KeptHookup, school: str | None, typed: Mapping[str, str]) -> None:
    chosen: CapacitorSchool | None = next((name for name in SCHOOLS if name == (school or kept.school)), None)
    must_know_board(call, found.motor)
    answer = plan(call, found.motor, chosen, found.can)
    wires = [Join(row.from_, row.to) for row in answer.planned]
    found.leads = leads_for(call, found.motor, {wire.lead for wire in wires if wire.lead})
    found.school, found.moves, found.check, found.explains = answer.school, answer.moves, answer.check, answer.explains
    same = found.kept and kept.moves == answer.moves
    found.kept = same
    _draw(found, wires)


def _tried(found: HookupView, call: Call, kept: KeptHookup, school: str | None, typed: Mapping[str, str]) -> None:
    """The wires as the page has them: those typed, else the plan kept, else the plan as it would be."""
    planned = joins(call.hookup.planned, "hookup.planned")
    if not planned:
        planned = [Join(row.from_, row.to) for row in plan(call, found.motor, can=found.can).planned]
    found.leads = leads_for(call, found.motor, {wire.lead for wire in planned if wire.lead})
    found.wires = _typed_wires(found.leads, planned, typed)
    uf = {"can_uf": found.can.uf if found.can else None}
    with_can = call.model_copy(update={"hookup": call.hookup.model_copy(update=uf)})
    found.check = check(with_can, found.motor, found.leads, found.wires)
    _draw(found, found.wires)


def _typed_wires(leads: MotorLeads, planned: list[Join], typed: Mapping[str, str]) -> list[Join]:
    """The wires of the page: each lead to its chosen terminal, and one jumper besides. Raises `InvalidField`.

    The page has one terminal a lead: where a lead hangs on two, the other one stays.
    """
    if not any(key.startswith((WIRE, "jumper.")) and text for key, text in typed.items()):
        return planned
    strange = next((key for key in typed if key.startswith(WIRE) and key[len(WIRE) :] not in leads.names), None)
    if strange:
        raise invalid(strange, typed[strange], f"a lead of this motor: {', '.join(leads.names)}")
    wires = [wire for wire in planned if not wire.lead]
    for lead in leads.names:
        terminal = typed.get(WIRE + lead, "")
        if terminal and terminal != HANGS:
            _must_be(WIRE + lead, terminal)
            others = [wire for wire in planned if wire.lead == lead][1:]
            wires += [Join(f"motor.{lead}", terminal), *(wire for wire in others if wire.terminal != terminal)]
    a, b = typed.get("jumper.a", ""), typed.get("jumper.b", "")
    if bool(a) != bool(b):
        raise invalid("jumper.b" if a else "jumper.a", "nothing", "the other end of the wire")
    if a and b:
        _must_be("jumper.a", a)
        _must_be("jumper.b", b)
        if a == b:
            raise invalid("jumper.b", b, "another terminal than the jumper begins at")
        wires.append(Join(a, b))
    return wires


def _must_be(path: str, terminal: str) -> None:
    if places_of(terminal) is None:
        raise invalid(path, terminal, "a terminal of the list")


def _draw(found: HookupView, wires: list[Join]) -> None:
    if found.leads is None:
        return
    found.wires = wires
    found.goes = {wire.lead: wire.terminal for wire in reversed(wires) if wire.lead}
    shown = [name for name in found.terminals if name.startswith(("switch", "board.c", "capacitor"))]
    found.drawing = lay_out(found.leads, wires, shown)


def _old_leads(call: Call, names: set[str]) -> MotorLeads:
    """The leads of the motor that is there, those that hang among them; names alone where no ends are known."""
    rows, motor = call.hookup.leads, call.motor
    if not rows and not names:
        return leads_for(call, motor, set(), of_old=True)
    noted = read_leads(rows, kind=motor.kind, ohms=ohms_between(call))
    try:
        return leads_for(call, motor, names or set(noted.names), of_old=True)
    except InvalidField:
        if not rows:
            raise
        return noted


def keep_found(db: Database, call_id: int, context: ActContext, typed: Mapping[str, str]) -> None:
    """Note where each wire of the old motor was. Raises `InvalidField`."""
    with act_on(db, call_id, context, "keep_found") as (_, row):
        call = call_view_of(row).call
        known = joins(call.hookup.found, "hookup.found")
        leads = _old_leads(call, {wire.lead for wire in known if wire.lead})
        wires = _typed_wires(leads, known, typed)
        store_hookup(row, "found", [{"from": wire.a, "to": wire.b} for wire in wires])


def keep_plan(db: Database, call_id: int, context: ActContext, school: str, why: str = "") -> None:
    """Keep the plan under a school, its moves to be ticked; `why` where it does not run or is wrong.

    Raises `InvalidField`, on a missing reason too.
    """
    chosen = next((name for name in SCHOOLS if name == school), None)
    if chosen is None and school:
        raise invalid("school", school, "one of " + ", ".join(SCHOOLS))
    with act_on(db, call_id, context, "keep_plan") as (_, row):
        view = call_view_of(row)
        call = view.call
        motor = motor_of(call, planned=True)
        must_know_board(call, motor)
        answer = plan(call, motor, chosen, chosen_can(view))
        reason, runs = why.strip(), answer.check.runs and sound(answer.check)
        if not runs and not row.practice and not LEAST_WHY <= len(reason) <= LONGEST_WHY:
            raise invalid("keep_why", reason[:40] or "nothing", f"a reason, {LEAST_WHY} to {LONGEST_WHY} characters")
        store_hookup(row, "planned", [wire.model_dump(mode="json", by_alias=True) for wire in answer.planned])
        kept = KeptHookup(school=answer.school, moves=answer.moves, why=reason if not runs and reason else None)
        row.plan = row.plan.changed(hookup=kept)


def lay_wires(db: Database, call_id: int, context: ActContext, typed: Mapping[str, str]) -> None:
    """Keep the wires of a practice call as its page has them, right or wrong, in place of a plan.

    Raises `InvalidField`, on a real call as well: there the plan is kept.
    """
    with act_on(db, call_id, context, "lay_wires") as (_, row):
        if not row.practice:
            raise invalid("wires", "your own", "the plan, which is checked")
        view = hookup_view(call_view_of(row), "try", None, typed)
        if view.faults:
            raise InvalidField([FieldError(path, typed.get(path, ""), says) for path, says in view.faults.items()])
        store_hookup(row, "planned", [{"from": wire.a, "to": wire.b} for wire in view.wires])
        row.plan = row.plan.changed(hookup=KeptHookup())


def tick_moves(db: Database, call_id: int, context: ActContext, ticked: str) -> None:
    """Keep which moves are done, by their numbers. Raises `InvalidField`."""
    with act_on(db, call_id, context, "tick_moves") as (session, row):
        kept = row.plan.hookup
        if kept is None:
            raise invalid("steps", "no plan", "a plan that was kept first")
        numbers = [text for text in ticked.split("|") if text]
        found = {whole_number(text, len(kept.moves)) for text in numbers}
        if None in found:
            raise invalid("steps", ticked, "numbers of the moves")
        done = {number for number in found if number is not None}
        row.plan = row.plan.changed(hookup=kept.changed(done=sorted(done)))
        _tick_steps(session, row, context, kept, done)


def _tick_steps(session: Any, row: tables.Call, context: ActContext, kept: KeptHookup, done: set[int]) -> None:
    """The steps of the swap that are moves: done when all of their moves are, open again when one is not."""
    whole, open_yet = steps_of(kept, done)
    had = {step.step: step for step in row.steps if step.station == STATION}
    of_job = {step.key for step in steps_now(session, row, context.now)}
    for key in sorted(whole & of_job):
        if key not in had:
            session.add(tables.Step(call=row, station=STATION, step=key, done_at=context.now))
        elif had[key].skipped:
            had[key].skipped, had[key].done_at = None, context.now
    for key in sorted(open_yet & set(had)):
        if not had[key].skipped:
            session.delete(had[key])


def has_place(shown: HookupView, name: str) -> bool:
    """Whether the page has the field of this name: a fault of one that it has not is told above the form."""
    field_name, _, place = name.partition(".")
    if field_name in ("lead", "says"):
        return place.isdigit() and int(place) < len(shown.lead_rows)
    if field_name in ("mode", "terminal", "speed"):
        return place.isdigit() and int(place) < len(shown.outputs)
    if field_name == "wire":
        return shown.leads is not None and place in shown.leads.names
    return True
