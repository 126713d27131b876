"""The plan of a hook-up: the fewest moves from the wires that are there to a hook-up that passes its check.

What was noted stays unless a move takes it off, and the check runs on the wires as found with the moves done: whoever
follows the moves to the letter gets what was checked.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from itertools import combinations
from typing import Literal

from ..call import Call
from ..errors import InvalidField, invalid
from ..outputs import outputs_of
from ..plates import Motor
from ..vocabulary import CapacitorSchool
from ..voltage import ranges
from .answer import Check, HookupAnswer, Move, PlannedWire
from .by_table import volts_row
from .check import check, joints_pass, speed_findings
from .laying import WireLayout, table_for, wire_leads
from .leads import MotorLeads
from .leads_of_call import leads_for, leads_to_hang, not_noted
from .moves import Rewiring, applied, between, fewest_moves, in_working_order, take_off
from .places import Places, candidates, usual_unit
from .terminals import Join, hang_together, joins, outputs_must_be_terminals, terminal_words
from .turning_round import plugged, set_besides

CULPRITS = 2
OWN_CAN = ("capacitor.1", "capacitor.2", "fancap.1", "fancap.2")
"""At most so many of the unit's own wires are taken off one by one before all of them are laid anew."""

OLD_GOES = "the old motor comes out. Note each wire before it comes off"
BY_NUMBER = "taps by number, 1 is high. Read the amps on each. Move a tap if the airflow is wrong."
ONE_RANGE = "The diagram shows low and high voltage but the plate as noted has one range. Enter both, such as 115/230."
STILL_FED = (
    "With the fan off and the compressor on, the dual's fan section still feeds the start winding: give this fan its "
    "own capacitor."
)
AS_USUAL = "Planned the usual way for such a unit, not lead for lead. Check it against the unit's diagram."
ALL_OFF = "rewired from scratch: no smaller change of these wires works"


@dataclass(frozen=True)
class ChosenCan:
    """The capacitor that was chosen: its name, what it gives the fan (µF), the school it makes.

    `moves_in`: the can, or cans by the terminal's section, into whose place every wire of the old one moves; empty
    where the old one stays.
    """

    name: str
    uf: float | None
    school: CapacitorSchool
    moves_in: Mapping[str, str] = field(default_factory=dict)

    def place_of(self, terminal: str) -> str:
        """Where a wire on a terminal of the old can goes; empty where it stays."""
        section = "herm" if terminal == "capacitor.herm" else "fan" if terminal == "capacitor.fan" else ""
        return self.moves_in.get(section, self.moves_in.get("", ""))


@dataclass(frozen=True)
class Wiring:
    """What a plan begins with: the motor that is to hang here, its leads, the wires noted and those taken as usual.

    `planned` is the call with the reversing plug as it will sit.
    """

    call: Call
    planned: Call
    motor: Motor
    leads: MotorLeads
    noted: list[Join]
    assumed: list[Join]
    can: ChosenCan | None = None

    @property
    def start(self) -> list[Join]:
        """Every wire that is there."""
        return [*self.noted, *self.assumed]

    @property
    def unit(self) -> list[Join]:
        """The unit's own wires."""
        return [wire for wire in self.start if not wire.lead]

    @property
    def old(self) -> list[Join]:
        """The wires of the motor that hangs here now."""
        return [wire for wire in self.noted if wire.lead]

    @property
    def same_motor(self) -> bool:
        """Whether the motor that is there stays: then its wires are moved, not all taken off."""
        return self.motor is self.call.motor and bool(self.old) and not self.call.hookup.new_leads


def plan(call: Call, motor: Motor, school: CapacitorSchool | None = None, can: ChosenCan | None = None) -> HookupAnswer:
    """The hook-up of a motor in a call's unit under a school, that of the chosen capacitor where there is one.

    The motor that is there is rewired with the fewest moves; another one takes the places of the old one, or, where
    those do not pass, the usual ones of such a unit, and says so. Raises `InvalidField` where leads, volts or board
    terminals are not known, or cannot make a motor.
    """
    outputs_must_be_terminals(call.unit.outputs)
    noted = joins(call.hookup.found, "hookup.found")
    unit = [wire for wire in noted if not wire.lead]
    leads = leads_to_hang(call, motor)
    _must_have_start(motor, leads)
    assumed = [] if unit else usual_unit(call, noted)
    wiring = Wiring(call, _planned_call(call, motor, can), motor, leads, noted, assumed, can)
    school = can.school if can else school
    if wiring.same_motor:
        return _rewired(wiring, school)
    return _replaced(wiring, school)


def _must_have_start(motor: Motor, leads: MotorLeads) -> None:
    """Raise `InvalidField` where none of a motor's leads is its start lead: any plan of the others would not start."""
    wound = any(end.startswith("main") for end in leads.ends)
    starts = motor.traits.has_start_winding and (motor.kind is not None or motor.capacitor_uf is not None)
    if starts and wound and not any(end.startswith("aux") for end in leads.ends):
        raise invalid("hookup.leads", ", ".join(leads.names), "the start lead too: the one that goes to the capacitor")


def must_know_board(call: Call, motor: Motor) -> None:
    """Raise `InvalidField` where a board runs the motor and neither its outputs nor the old wires were noted."""
    board = call.unit.switch is not None and call.unit.switch.kind == "board"
    hung = any(wire.lead for wire in joins(call.hookup.found, "hookup.found"))
    if board and motor.traits.has_main_winding and not hung and not outputs_of(call):
        needed = "which terminal of the board runs it: the wires as found, or the speeds by mode"
        raise invalid("unit.outputs", "nothing", needed)


def sound(found: Check) -> bool:
    """Whether a check names nothing dangerous or wrong."""
    return all(item.severity == "untidy" for item in found.findings)


@dataclass(frozen=True)
class Attempt:
    """The motor's leads laid on some places, with wires of the unit taken off before."""

    laying: WireLayout
    off: tuple[Join, ...]
    places: Places
    school: CapacitorSchool | None
    as_found: bool


def _attempts(wiring: Wiring, school: CapacitorSchool | None) -> Iterator[Attempt]:
    """Ways to lay the leads, the one that leaves most as it is first; at last with the unit wired anew as usual."""
    noted = [wire for wire in wiring.noted if not wire.lead]
    for off in (off for size in range(CULPRITS + 1) for off in combinations(noted, size)):
        unit = _without(wiring.unit, off)
        for number, places in enumerate(candidates(wiring.call, wiring.motor.kind, wiring.old, unit)):
            yield _attempt(wiring, WireLayout(unit, _parks(wiring.noted)), off, places, school, not off and not number)
    usual = usual_unit(wiring.call, wiring.noted)
    wanted = {wire.ends for wire in usual}
    off = tuple(wire for wire in wiring.unit if wire.ends not in wanted)
    laying = WireLayout(_without(wiring.unit, off), _parks(wiring.noted))
    for wire in usual:
        laying.join(wire.a, wire.b, "a wire of the unit, as it usually is")
    places = candidates(wiring.call, wiring.motor.kind, [], laying.wires)[0]
    yield _attempt(wiring, laying, off, places, school, False)


def _attempt(
    wiring: Wiring,
    laying: WireLayout,
    off: tuple[Join, ...],
    places: Places,
    school: CapacitorSchool | None,
    as_found: bool,
) -> Attempt:
    chosen = _school(wiring.call, wiring.motor, places, school)
    wire_leads(wiring.call, wiring.motor, wiring.leads, laying, places, chosen)
    return Attempt(laying, off, places, chosen, as_found)


def _without(wires: list[Join], off: tuple[Join, ...]) -> list[Join]:
    left = list(wires)
    for wire in off:
        left.remove(wire)
    return left


def _replaced(wiring: Wiring, school: CapacitorSchool | None) -> HookupAnswer:
    """The plan of another motor: the old one's leads off, the new one's on; the unit's wires stay where they may."""
    first: HookupAnswer | None = None
    for attempt in _attempts(wiring, school):
        if first is not None and not _passes(wiring, attempt.laying.wires):
            continue
        moves = [take_off(wire, ALL_OFF if wiring.same_motor else OLD_GOES) for wire in wiring.old]
        moves += [take_off(wire, "the wiring does not work with this wire of the unit") for wire in attempt.off]
        explains = [*attempt.places.explains, *_other_strapping(wiring, attempt)]
        was = _speeds_of_old(wiring.call)
        if not wiring.same_motor and was and wiring.leads.taps and len(wiring.leads.taps) != was:
            explains.append(f"The old motor had {was} speeds, this one has {len(wiring.leads.taps)}: {BY_NUMBER}")
        if attempt.school == "dual" and any(not out.assumed for out in attempt.places.outs):
            explains.append(STILL_FED)
        answer = _answer(wiring, [*moves, *attempt.laying.moves], attempt.school, explains)
        if sound(answer.check) and answer.check.runs:
            return answer if attempt.as_found else _explained(wiring, answer, first)
        first = first or answer
    if first is None:
        raise invalid("hookup.found", "nothing", "wires that can be laid")
    return first


def _speeds_of_old(call: Call) -> int | None:
    """How many speeds the old motor has, where its plate or its leads say so."""
    noted = sum(any(end.startswith("main.s") for end in row.ends) for row in call.hookup.leads)
    return int(call.motor.speeds) if call.motor.speeds and call.motor.speeds > 1 else noted or None


def _other_strapping(wiring: Wiring, attempt: Attempt) -> list[str]:
    """What the plate's other table would do on this supply, where the diagram has both."""
    diagram = wiring.call.hookup.diagram
    if table_for(wiring.call, wiring.motor) is None or diagram is None or not (diagram.low and diagram.high):
        return []
    volts = wiring.motor.volts
    one_range = [ONE_RANGE] if volts and len(ranges(volts)) < 2 else []
    other: Literal["low", "high"] = "high" if volts_row(wiring.call, wiring.motor) == "low" else "low"
    laying = WireLayout(_without(wiring.unit, attempt.off))
    wire_leads(wiring.call, wiring.motor, wiring.leads, laying, attempt.places, attempt.school, other)
    found = check(wiring.planned, wiring.motor, wiring.leads, laying.wires)
    says = next((item.says for item in found.findings if item.severity != "untidy"), found.says)
    return [*one_range, f"Connected by the plate's diagram for {other} volts instead: {says}"]


def _explained(wiring: Wiring, answer: HookupAnswer, first: HookupAnswer | None) -> HookupAnswer:
    """An answer that is not where the old motor hung, with what the check says of the wires as found, if they tell."""
    if first is None or not first.check.findings:
        return answer
    wrong = _wrong_as_found(wiring)
    if wrong is None:
        return answer.model_copy(update={"explains": [*answer.explains, AS_USUAL]})
    says = f"The wires as found can't be right ({wrong.rstrip('.')}). Planned the usual way for such a unit."
    return answer.model_copy(update={"explains": [says, "Check it against the unit's diagram."]})


def _wrong_as_found(wiring: Wiring) -> str | None:
    """What is wrong with the old motor on the wires that were noted; None where it ran, or too little was noted to
    tell."""
    names = {wire.lead for wire in wiring.old if wire.lead}
    if wiring.assumed or not names:
        return None
    try:
        leads = leads_for(wiring.call, wiring.call.motor, names, of_old=True)
        found = check(wiring.call, wiring.call.motor, leads, wiring.noted, planned=False)
    except InvalidField:
        return None
    return None if sound(found) or not_noted(leads, wiring.noted) else found.findings[0].says


def _passes(wiring: Wiring, wires: list[Join]) -> bool:
    """Whether a motor may be left on these wires: its joints first, what flows only where those are right."""
    call, motor = wiring.planned, wiring.motor
    if not joints_pass(call, motor, wiring.leads, wires):
        return False
    found = check(call, motor, wiring.leads, wires)
    speeds = any(speed_findings(call, wiring.leads, wires, found.modes, assumed=True))
    return sound(found) and found.runs and not speeds


def _rewired(wiring: Wiring, school: CapacitorSchool | None) -> HookupAnswer:
    """The plan of the motor that stays: nothing where its wires are right, else the fewest moves that cure them."""

    def passes(wires: list[Join]) -> bool:
        return _by_school(wiring, wires, school) and _passes(wiring, wires)

    usual: list[Attempt] = []
    for attempt in _attempts(wiring, school):
        usual.append(attempt)
        if passes(attempt.laying.wires):
            break
    search = Rewiring(wiring.leads, wiring.noted, wiring.assumed)
    wanted = fewest_moves(search, [attempt.laying.wires for attempt in usual], passes)
    if wanted is None:
        return _replaced(wiring, school)
    moves = between(wiring.start, wanted, "wrong here", lambda _: "where it belongs")
    says = "It is right as found. Nothing to move." if not moves else f"{len(moves)} moves fix it. The rest stays."
    return _answer(wiring, moves, usual[0].school, [says])


def _by_school(wiring: Wiring, wires: list[Join], school: CapacitorSchool | None) -> bool:
    """Whether the start lead hangs where the school that was asked for puts it; any place will do where none was."""
    starts = wiring.leads.having("aux.2")
    if school is None or not starts or wiring.call.unit.run_capacitor != "dual":
        return True
    return hang_together(wires, f"motor.{starts[0]}", "capacitor.fan") == (school == "dual")


def _answer(wiring: Wiring, moves: list[Move], school: CapacitorSchool | None, explains: list[str]) -> HookupAnswer:
    """The answer of moves on the wires that are there, checked as they read."""
    call, motor = wiring.call, wiring.motor
    ordered = in_working_order([*moves, *_rehomed(wiring), *set_besides(call, motor, wiring.leads)])
    wires = applied(wiring.start, ordered)
    ordered = _either_way(wiring, ordered, wires)
    if wiring.assumed and wiring.noted:
        explains = [*explains, "The unit's own wires were not noted, so they are taken as usual. Check them."]
    return HookupAnswer(
        moves=ordered,
        planned=[PlannedWire(from_=wire.a, to=wire.b) for wire in wires],
        check=check(wiring.planned, motor, wiring.leads, wires),
        school=school,
        explains=explains,
    )


def _rehomed(wiring: Wiring) -> list[Move]:
    """The unit's wires on a can that is replaced, the compressor's too: each goes to the same place on the new one."""
    found = []
    for wire in wiring.unit if wiring.can else []:
        ends = (wire.a, wire.b) if wire.a.startswith("capacitor.") else (wire.b, wire.a)
        place = wiring.can.place_of(ends[0]) if wiring.can and ends[0].startswith("capacitor.") else ""
        if place:
            what = f"wire from {terminal_words(ends[1])}"
            where = f"{terminal_words(ends[0]).removeprefix('capacitor ')} of {place}"
            found.append(Move(do="set", what=what, where=where, why="the old can comes out: all its wires move along"))
    return found


def _either_way(wiring: Wiring, moves: list[Move], wires: list[Join]) -> list[Move]:
    """The moves, with what the check says of exchanging the two leads on the motor's own can: on this unit's wires."""
    on_can = [m for m in moves if m.do == "put_on" and m.where in OWN_CAN]
    start = next((m for m in on_can if m.what.removeprefix("motor.") in wiring.leads.having("aux.2")), None)
    others = [m for m in on_can if start and m is not start and m.where.split(".")[0] == start.where.split(".")[0]]
    if start is None or len(others) != 1 or not wiring.motor.has_run_capacitor:
        return moves
    other, places = others[0], {start.what: others[0].where, others[0].what: start.where}
    swapped = [_on_other(wire, places) for wire in wires]
    says = (
        "these two may change places" if _passes(wiring, swapped) else "not the other way round: a line wire is there"
    )
    return [m.model_copy(update={"why": f"{m.why}; {says}"}) if m is other else m for m in moves]


def _on_other(wire: Join, places: Mapping[str, str]) -> Join:
    """A wire of a lead on the terminal that a table gives it; any other as it is."""
    lead = f"motor.{wire.lead}"
    return Join(lead, places[lead]) if lead in places else wire


def _parks(noted: list[Join]) -> list[str]:
    """The park terminals that something hung on: the unit has them."""
    return sorted({wire.terminal for wire in noted if wire.terminal.startswith("board.park")})


def _school(call: Call, motor: Motor, places: Places, asked: CapacitorSchool | None) -> CapacitorSchool | None:
    """Dual only where the can has a fan section; a motor without a run capacitor has no school."""
    if not motor.has_run_capacitor:
        return None
    has_fan = places.capacitor == "capacitor.fan" or call.unit.run_capacitor == "dual"
    return (asked or "dual") if has_fan else "own"


def _planned_call(call: Call, motor: Motor, can: ChosenCan | None) -> Call:
    """The call with the reversing plug as it will sit and the capacitor that was chosen."""
    changed = {"plug": plugged(call, motor), "can_uf": can.uf if can else None}
    return call.model_copy(update={"hookup": call.hookup.model_copy(update=changed)})
