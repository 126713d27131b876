"""The plan of a hook-up: where the old motor's wires went, where the new motor's go, and the moves between.

Dual: the start lead goes to the renewed can's fan section, the lead that repeats a line lead is capped. Own: the fan
gets a capacitor of its own, the can's fan section stays empty (practice, schools).
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

from ..call import Call
from ..errors import invalid
from ..match.turning import from_shaft_end, shipped_way
from ..plates import Motor
from ..vocabulary import CapacitorSchool, Plug
from .answer import Check, HookupAnswer, Move, PlannedWire
from .check import check
from .leads import FRAME, MotorLeads, customary, read_leads
from .places import Places, places_of_motor, usual_places, usual_unit
from .terminals import Join, joins, places_of
from .three_phase import STRAPS, connection, volts_row


@dataclass
class Plan:
    """A plan growing: the unit's own wires, the motor's, and the moves."""

    unit: list[Join]
    added: list[Join] = field(default_factory=list)
    motor: list[Join] = field(default_factory=list)
    moves: list[Move] = field(default_factory=list)
    capped: int = 0

    def put(self, lead: str, terminal: str, why: str) -> None:
        """Put a lead on a terminal."""
        self.motor.append(Join(f"motor.{lead}", terminal))
        self.moves.append(Move(do="put_on", what=f"motor.{lead}", where=terminal, why=why))

    def cap(self, lead: str, why: str) -> None:
        """Cap a lead on its own."""
        self.capped += 1
        self.motor.append(Join(f"motor.{lead}", f"cap.{self.capped}"))
        self.moves.append(Move(do="cap", what=f"motor.{lead}", where=f"cap.{self.capped}", why=why))

    @property
    def wires(self) -> list[Join]:
        """Every wire: the unit's own, those the plan adds, the motor's."""
        return [*self.unit, *self.added, *self.motor]

    def relieve(self) -> None:
        """Where a terminal would hold more wires than it has places: ours in a splice, and one wire on from it."""
        counts = Counter(end for wire in self.wires for end in (wire.a, wire.b))
        for terminal, count in sorted(counts.items()):
            if count <= (places_of(terminal) or count) or terminal.startswith(("motor.", "cap.")):
                continue
            taken = {end for wire in self.wires for end in (wire.a, wire.b) if end.startswith("splice.")}
            splice = f"splice.{1 + len(taken)}"
            self.motor = [_moved(wire, terminal, splice) for wire in self.motor]
            self.added = [_moved(wire, terminal, splice) for wire in self.added]
            self.moves = [_move_to(move, terminal, splice) for move in self.moves]
            self.join(splice, terminal, f"{terminal} takes {places_of(terminal)}: join them first, one wire on")

    def join(self, a: str, b: str, why: str) -> None:
        """Join two terminals by a wire of its own."""
        self.added.append(Join(a, b))
        self.moves.append(Move(do="join", what=a, where=b, why=why))


def _moved(wire: Join, old: str, new: str) -> Join:
    return Join(new if wire.a == old else wire.a, new if wire.b == old else wire.b, wire.colour)


def _move_to(move: Move, old: str, new: str) -> Move:
    """A move that puts something on a terminal, with the splice in its place."""
    if move.do == "take_off":
        return move
    moved = {name: new for name in ("what", "where") if getattr(move, name) == old}
    return move.model_copy(update=moved)


def plan(call: Call, motor: Motor, school: CapacitorSchool | None = None) -> HookupAnswer:
    """The hook-up of a motor in a call's unit under a school; its check is part of the answer.

    Where the wires as found lead to a hook-up that does not pass, they were wrong themselves: then it is planned as
    such a unit is usually wired, and says so. Raises `InvalidField` where leads or terminals cannot make a motor.
    """
    found = joins(call.hookup.found, "hookup.found")
    old = [wire for wire in found if wire.lead]
    unit = [wire for wire in found if not wire.lead]
    leads = _new_leads(call, motor)
    first = _planned(call, motor, leads, school, old, unit or usual_unit(call), by_old=True)
    if not found or sound(first.check):
        return first
    for own in (unit, usual_unit(call)):
        again = _planned(call, motor, leads, school, old, own, by_old=False)
        if sound(again.check):
            because = first.check.findings[0].says if first.check.findings else first.check.says
            says = f"The wires as found cannot be right ({because.rstrip('.')}): planned as usual for such a unit."
            return again.model_copy(update={"explains": [says, "Compare it with the unit's diagram."]})
    return first


def sound(found: Check) -> bool:
    """Whether a check names nothing dangerous or wrong."""
    return all(item.severity == "untidy" for item in found.findings)


def _planned(
    call: Call,
    motor: Motor,
    leads: MotorLeads,
    school: CapacitorSchool | None,
    old: list[Join],
    unit: list[Join],
    by_old: bool,
) -> HookupAnswer:
    """A plan on the unit's own wires: where the old motor hung, or as usual."""
    growing = Plan(list(unit))
    for wire in old:
        why = "the old motor goes; note the wire before it comes off"
        growing.moves.append(Move(do="take_off", what=f"motor.{wire.lead}", where=wire.terminal, why=why))
    chosen: CapacitorSchool | None = None
    explains: list[str] = []
    guide = old if by_old else []
    if motor.kind == "three_phase":
        _three_phase(call, motor, leads, growing, guide)
    elif motor.kind == "ecm":
        _commutated(call, leads, growing, guide)
    else:
        places = places_of_motor(call, guide, unit)
        explains = places.explains
        chosen = _school(call, motor, places, school)
        _single_phase(call, motor, leads, growing, places, chosen)
    for lead in leads.having(FRAME):
        growing.put(lead, "ground.frame", "ground first, on clean metal")
    growing.relieve()
    _plug(call, motor, growing)
    if call.motor.role == "condenser_fan":
        why = "rated ties, a drip loop, no edge without a grommet, nothing in the blade's way"
        growing.moves.append(Move(do="set", what="leads", where="tied clear", why=why))
    planned = call.model_copy(update={"hookup": call.hookup.model_copy(update={"plug": _plugged(call, motor)})})
    return HookupAnswer(
        moves=growing.moves,
        planned=[PlannedWire(from_=wire.a, to=wire.b) for wire in growing.wires],
        check=check(planned, motor, leads, growing.wires),
        school=chosen,
        explains=explains,
    )


def _new_leads(call: Call, motor: Motor) -> MotorLeads:
    """The leads of the motor that goes on: as noted, else by custom."""
    if call.hookup.new_leads:
        return _with_ends(read_leads(call.hookup.new_leads, "hookup.new_leads"), motor)
    if call.hookup.leads:
        noted = read_leads(call.hookup.leads)
        of_old = {wire.lead for wire in joins(call.hookup.found, "hookup.found") if wire.lead} & set(noted.names)
        same = motor is call.motor or (not of_old and motor.leads in (None, noted.windings, len(noted.names)))
        if same or (of_old and motor.leads in (None, noted.windings) and call.motor.speeds == motor.speeds):
            return _with_ends(noted, motor)
    return customary(motor)


def _with_ends(leads: MotorLeads, motor: Motor) -> MotorLeads:
    """Leads whose ends are all noted; else the custom for this motor, where the names are the custom's."""
    if all(out for _, out in leads.leads):
        return leads
    guess = customary(motor)
    if set(leads.names) <= set(guess.names):
        return guess.only(leads.names) if guess.only(leads.names).whole else guess
    unnoted = next(lead for lead, out in leads.leads if not out)
    raise invalid("hookup.leads", unnoted, "the winding ends it brings out, from the diagram or by resistance")


def _school(call: Call, motor: Motor, places: Places, asked: CapacitorSchool | None) -> CapacitorSchool | None:
    """Dual only where the can has a fan section; a motor without a run capacitor has no school."""
    if motor.kind != "psc":
        return None
    has_fan = places.capacitor == "capacitor.fan" or call.unit.run_capacitor == "dual"
    return (asked or "dual") if has_fan else "own"


def _single_phase(
    call: Call, motor: Motor, leads: MotorLeads, growing: Plan, places: Places, school: CapacitorSchool | None
) -> None:
    """Line leads, capacitor, taps, spare leads of a single-phase motor."""
    halves = "main_a.1" in leads.ends
    start = leads.having("aux.2")
    for lead in dict.fromkeys([*leads.having("main.1"), *leads.having("aux.1")]):
        if lead not in start:
            growing.put(lead, places.common, "where the old common went")
    if halves:
        _halves(call, motor, leads, growing, places)
    elif leads.taps:
        _taps(leads, growing, places)
    repeats = [lead for lead in leads.having("main.2") if lead not in start]
    for lead in repeats[:1]:
        growing.put(lead, places.line, "where the old line lead went")
    spare = repeats[1:] or leads.having("main.s1")[1:]
    if start:
        _start(call, growing, places, school, start[0], spare)
    else:
        for lead in spare:
            growing.cap(lead, "not needed, it is live while the motor runs")


def _start(
    call: Call, growing: Plan, places: Places, school: CapacitorSchool | None, start: str, spare: list[str]
) -> None:
    """The start lead to the capacitor, and what the capacitor's other side hangs on."""
    if school == "dual":
        growing.put(start, "capacitor.fan", "the start lead, alone, on the renewed can's fan section")
        for lead in spare:
            growing.cap(lead, "it repeats a line lead (zero ohms to it): on a dual it is not needed, and it is live")
        _reach(growing, "capacitor.common", places)
        return
    near, far = _own_terminals(call, places)
    growing.put(start, far, "the start lead, on the fan's own capacitor")
    for lead in spare[:1]:
        growing.put(lead, near, "the other capacitor lead: on a capacitor of its own either way round")
    for lead in spare[1:]:
        growing.cap(lead, "not needed, it is live while the motor runs")
    if not spare:
        _reach(growing, near, places)


def _own_terminals(call: Call, places: Places) -> tuple[str, str]:
    """The two terminals of the fan's own capacitor: where the old one was, else an added one."""
    if call.unit.run_capacitor == "own" and (places.capacitor or "capacitor.2") in ("capacitor.1", "capacitor.2"):
        far = places.capacitor or "capacitor.2"
        return ("capacitor.1" if far == "capacitor.2" else "capacitor.2"), far
    return "fancap.1", "fancap.2"


def _reach(growing: Plan, terminal: str, places: Places) -> None:
    """The capacitor's line side must hang on the line of main.2; a jumper where no wire of the unit does it."""
    joined, waiting = {terminal}, [terminal]
    while waiting:
        here = waiting.pop()
        for wire in (*growing.unit, *growing.added):
            for a, b in ((wire.a, wire.b), (wire.b, wire.a)):
                if a == here and b not in joined:
                    joined.add(b)
                    waiting.append(b)
    if places.line not in joined:
        growing.join(places.line, terminal, "the capacitor's line side hangs on the line of the run winding")


def _taps(leads: MotorLeads, growing: Plan, places: Places) -> None:
    """Each used speed to the tap of its rank, the others capped one by one."""
    taps = leads.taps
    wanted = places.speeds or {1: places.line}
    given: dict[str, str] = {}
    for rank, terminal in sorted(wanted.items()):
        tap = taps[min(rank, len(taps)) - 1]
        if tap in given:
            tap = next((other for other in taps if other not in given), tap)
        if tap not in given:
            given[tap] = terminal
    for tap in taps:
        lead = leads.having(tap)[0]
        if tap in given:
            growing.put(lead, given[tap], f"speed {int(tap[6:])} of {len(taps)}, 1 the highest")
        else:
            growing.cap(lead, "a speed that is not used: capped on its own, it is live while the motor runs")


def _halves(call: Call, motor: Motor, leads: MotorLeads, growing: Plan, places: Places) -> None:
    """The two halves of a dual-voltage main winding: in series for the high volts, side by side for the low."""
    row = volts_row(call, motor)
    end = {name: leads.having(name) for name in ("main_a.1", "main_a.2", "main_b.1", "main_b.2")}
    put = {
        "low": {"main_a.1": places.common, "main_b.1": places.common, "main_a.2": places.line, "main_b.2": places.line},
        "high": {"main_a.1": places.common, "main_a.2": "splice.1", "main_b.1": "splice.1", "main_b.2": places.line},
    }[row]
    done = {wire.lead for wire in growing.motor}
    for name, terminal in put.items():
        for lead in end[name]:
            if lead not in done:
                growing.put(lead, terminal, f"strapped for the {row} volts by the plate's diagram")
                done.add(lead)


def _three_phase(call: Call, motor: Motor, leads: MotorLeads, growing: Plan, old: list[Join]) -> None:
    """Three leads to the three legs, nine by the table."""
    legs = [wire.terminal for wire in old if wire.terminal.startswith("switch.t")]
    legs = legs if len(set(legs)) == 3 else ["switch.t1", "switch.t2", "switch.t3"]
    row = STRAPS[connection(call, motor, leads)]
    for leg, group in zip(legs, row["lines"], strict=True):
        for end in group:
            for lead in leads.having(end):
                growing.put(lead, leg, "by the plate's diagram; exchange two legs to turn it round")
    for number, group in enumerate(row["joined"], start=1):
        for end in group:
            for lead in leads.having(end):
                growing.put(lead, f"splice.{number}", "joined by the plate's diagram")


def _commutated(call: Call, leads: MotorLeads, growing: Plan, old: list[Join]) -> None:
    """Line on two lines, commands where the old commands were."""
    usual = usual_places(call)
    power = [lead for lead, ends in leads.leads if any(end.startswith("power") for end in ends)]
    commands = [lead for lead, ends in leads.leads if any(end.startswith(("command", "tap")) for end in ends)]
    was = {wire.lead: wire.terminal for wire in old if wire.lead}
    hot = "line.l1" if usual.common.startswith("board") else "switch.t1"
    for lead, terminal in zip(power, (hot, usual.common), strict=False):
        growing.put(lead, was.get(lead, terminal), "line power, plugged with the power off for 5 minutes")
    for number, lead in enumerate(commands, start=1):
        growing.put(lead, was.get(lead, f"board.y{number}"), "the command, low volts: never on a line terminal")


def _plugged(call: Call, motor: Motor) -> Plug | None:
    """How the reversing plug must sit: swapped where the motor is shipped the other way than the old one turned."""
    rotation, wanted = motor.rotation, from_shaft_end(call.motor.rotation)
    if rotation is None or rotation.sense != "reversible":
        return call.hookup.plug if motor is call.motor else None
    if rotation.shipped is None or wanted is None:
        return "as_shipped"
    return "as_shipped" if shipped_way(rotation) == wanted else "swapped"


def _plug(call: Call, motor: Motor, growing: Plan) -> None:
    plug = _plugged(call, motor)
    if plug is None or motor.rotation is None or motor.rotation.sense != "reversible":
        return
    known = motor.rotation.shipped is not None and from_shaft_end(call.motor.rotation) is not None
    unknown = "which way it is shipped is not known: prove it on the first run, people clear"
    why = "the old motor's way" if known else unknown
    growing.moves.append(Move(do="set", what="reversing plug", where=plug.replace("_", " "), why=why))
    kept = "sleeve the reversing leads, tie them up under the top, out of the blade's reach"
    growing.moves.append(Move(do="set", what="reversing leads", where="tied up", why=kept))
