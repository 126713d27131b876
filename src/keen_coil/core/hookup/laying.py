"""Where each lead of a motor goes in a unit: lines, capacitor, a tap on each output, straps, caps.

Dual: the start lead goes to the renewed can's fan section, the lead that repeats a line lead is capped. Own: the fan
gets a capacitor of its own, the can's fan section stays empty (practice, schools).
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from itertools import count
from typing import Literal

from ..call import Call
from ..errors import invalid
from ..installation import DiagramTable
from ..outputs import UnitOutput, speed_asked
from ..plates import Motor
from ..vocabulary import CapacitorSchool
from .answer import Move
from .by_table import STRAPS, connection, volts_row
from .diagram import Grouping, groups_of, tables_of
from .leads import FRAME, MotorLeads
from .moves import put_on
from .places import Places
from .terminals import Join, hang_together, is_output, places_of, terminal_words

SPARE = "not needed, and live while the motor runs"


@dataclass
class WireLayout:
    """Wires being laid beside those the unit has, each with its reason; `parks` are terminals for spare taps."""

    unit: list[Join]
    parks: list[str] = field(default_factory=list)
    laid: list[tuple[Join, str]] = field(default_factory=list)

    def put(self, lead: str, terminal: str, why: str) -> None:
        """Put a lead on a terminal."""
        self.laid.append((Join(f"motor.{lead}", terminal), why))

    def join(self, a: str, b: str, why: str) -> None:
        """Join two terminals by a wire of its own, unless they hang together already."""
        if a != b and not self.joined(a, b):
            self.laid.append((Join(a, b), why))

    def cap(self, lead: str, why: str) -> None:
        """Cap a lead on its own."""
        self.put(lead, self.free("cap"), why)

    def spare_tap(self, lead: str) -> None:
        """A speed that is not used: to a park terminal where the unit has one, else in a cap of its own."""
        used = {end for wire in self.wires for end in (wire.a, wire.b)}
        park = next((terminal for terminal in self.parks if terminal not in used), None)
        if park:
            self.put(lead, park, "unused speed, parked")
        else:
            self.cap(lead, "unused speed: cap it by itself, it is live while the motor runs")

    @property
    def wires(self) -> list[Join]:
        """Every wire: the unit's own, then those laid."""
        return [*self.unit, *(wire for wire, _ in self.laid)]

    @property
    def moves(self) -> list[Move]:
        """The moves that lay them, in the order laid."""
        return [put_on(wire, why) for wire, why in self.laid]

    def free(self, kind: str) -> str:
        """The first cap or splice that nothing is in."""
        used = {end for wire in self.wires for end in (wire.a, wire.b)}
        return next(name for n in count(1) if (name := f"{kind}.{n}") not in used)

    def joined(self, a: str, b: str) -> bool:
        """Whether two terminals hang together by the wires of the unit and those laid between terminals."""
        return hang_together((wire for wire in self.wires if not wire.lead), a, b)

    def at(self, lead: str) -> str | None:
        """Where a lead was put."""
        return next((wire.terminal for wire, _ in self.laid if wire.lead == lead), None)

    def splice_overfilled(self) -> None:
        """Where a terminal would hold more wires than it has places: ours in a splice, and one wire on from it."""
        counts = Counter(end for wire in self.wires for end in (wire.a, wire.b))
        for terminal, held in sorted(counts.items()):
            ours = sum(terminal in (wire.a, wire.b) for wire, _ in self.laid)
            if held <= (places_of(terminal) or held) or ours < 2 or terminal.startswith(("motor.", "cap.")):
                continue
            splice = self.free("splice")
            self.laid = [(_moved(wire, terminal, splice), why) for wire, why in self.laid]
            why = f"{terminal_words(terminal)} takes {places_of(terminal)}: splice them first, one wire to it"
            self.laid.append((Join(splice, terminal), why))


def _moved(wire: Join, old: str, new: str) -> Join:
    return Join(new if wire.a == old else wire.a, new if wire.b == old else wire.b, wire.colour)


def wire_leads(
    call: Call,
    motor: Motor,
    leads: MotorLeads,
    laying: WireLayout,
    places: Places,
    school: CapacitorSchool | None,
    row: Literal["low", "high"] | None = None,
) -> None:
    """Lay a motor's leads on its places, the ground first. `row` of the plate's diagram, if not the supply's."""
    for lead in leads.having(FRAME):
        laying.put(lead, "ground.frame", "ground first, on bare metal")
    if motor.traits.is_three_phase:
        _three_phase(call, motor, leads, laying, places.legs)
    elif motor.traits.is_electronic:
        _commutated(leads, laying, places)
    else:
        table = table_for(call, motor, row)
        if table is not None:
            _by_table(call, laying, places, school, groups_of(table))
        else:
            _single_phase(call, motor, leads, laying, places, school)
    laying.splice_overfilled()


def _single_phase(
    call: Call, motor: Motor, leads: MotorLeads, laying: WireLayout, places: Places, school: CapacitorSchool | None
) -> None:
    """Line leads, capacitor, taps, spare leads of a single-phase motor."""
    start = leads.having("aux.2")
    _feed(laying, places)
    for lead in dict.fromkeys([*leads.having("main.1"), *leads.having("aux.1")]):
        if lead not in start:
            laying.put(lead, places.common, "the common lead, on its line")
    if "main_a.1" in leads.ends:
        _halves(call, motor, leads, laying, places)
    elif leads.taps:
        _taps(leads, laying, places)
    repeats = [lead for lead in leads.having("main.2") if lead not in start]
    for lead in repeats[:1]:
        laying.put(lead, places.line, "the line lead, on the other line")
        for out in _switched(places.outs):
            laying.join(places.line, out.terminal, f"one speed for {out.name} too")
    spare = repeats[1:] or leads.having("main.s1")[1:]
    if start:
        _start(call, leads, laying, places, school, start[0], spare)
    else:
        for lead in spare:
            laying.cap(lead, SPARE)


def _feed(laying: WireLayout, places: Places) -> None:
    """A capacitor's terminal that serves as the line must hang on one; a jumper where no wire of the unit does it."""
    if places.line not in ("capacitor.common", "capacitor.1", "capacitor.2"):
        return
    legs = ["switch.t1", "switch.t2", *(out.terminal for out in places.outs), "line.l1", "line.l2"]
    if not any(laying.joined(places.line, leg) for leg in legs if leg != places.common):
        leg = "switch.t2" if places.common == "switch.t1" else "switch.t1"
        laying.join(leg, places.line, "the can's common goes to the line")


def _switched(outs: tuple[UnitOutput, ...]) -> list[UnitOutput]:
    """The outputs, where there are several: a motor of one speed hangs on each of them."""
    return list(outs) if len({out.terminal for out in outs}) > 1 else []


def _start(
    call: Call,
    leads: MotorLeads,
    laying: WireLayout,
    places: Places,
    school: CapacitorSchool | None,
    start: str,
    spare: list[str],
) -> None:
    """The start lead to the capacitor, and what the capacitor's other side hangs on."""
    if school == "dual":
        laying.put(start, "capacitor.fan", "the start lead, alone, on the dual's fan section")
        for lead in spare:
            laying.cap(
                lead, "it is the same as a line lead (zero ohms to it). On a dual it is not needed, and it is live"
            )
        _feed_capacitor(leads, laying, "capacitor.common", places)
        return
    near, far = _own_terminals(call, places)
    laying.put(start, far, "the start lead, on the fan's own capacitor")
    for lead in spare[:1]:
        laying.put(lead, near, "the other capacitor lead")
    for lead in spare[1:]:
        laying.cap(lead, SPARE)
    if not spare:
        _feed_capacitor(leads, laying, near, places)


def _own_terminals(call: Call, places: Places) -> tuple[str, str]:
    """The two terminals of the fan's own capacitor: where the old one was, else an added one."""
    if call.unit.run_capacitor == "own" and (places.capacitor or "capacitor.2") in ("capacitor.1", "capacitor.2"):
        far = places.capacitor or "capacitor.2"
        return ("capacitor.1" if far == "capacitor.2" else "capacitor.2"), far
    return "fancap.1", "fancap.2"


def _feed_capacitor(leads: MotorLeads, laying: WireLayout, terminal: str, places: Places) -> None:
    """The capacitor's line side must hang on the line of the run winding; a jumper where no wire of the unit does it.

    On a motor with taps that is its highest speed, live whichever speed is on. A can that the unit feeds itself is not
    tied to an output: that would feed the output back.
    """
    line = places.line
    if leads.taps:
        lead = leads.having(leads.taps[0])[0]
        line = laying.at(lead) or line
        if line.startswith(("cap.", "board.park")):
            splice = laying.free("splice")
            laying.laid = [(_moved(wire, line, splice), why) for wire, why in laying.laid]
            line = splice
    fed = any(laying.joined(terminal, leg) for leg in ("switch.t1", "switch.t2", "line.l1", "line.l2"))
    if terminal == "capacitor.common" and fed and any(out.terminal == places.line for out in places.outs):
        return
    laying.join(line, terminal, "the capacitor's line side goes to the run winding's line")


def table_for(call: Call, motor: Motor, row: Literal["low", "high"] | None = None) -> DiagramTable | None:
    """The table of the plate's diagram for this supply, or a `row` of it; None where the call has none for this motor.

    Raises `InvalidField` where the diagram has the table for the other volts alone.
    """
    diagram = call.hookup.diagram
    if diagram is None or (call.chosen_motor is not None and motor is call.motor) or not tables_of(diagram):
        return None
    row = row or volts_row(call, motor)
    table = tables_of(diagram).get(row)
    if table is None:
        raise invalid(
            f"hookup.diagram.{row}", "nothing", f"the plate's diagram for {row} volts, which this supply needs"
        )
    return table


def _by_table(call: Call, laying: WireLayout, places: Places, school: CapacitorSchool | None, groups: Grouping) -> None:
    """Leads in the groups of the plate's table: several of one point in a splice, one wire on from it."""
    line, common = ("l1", "l2") if groups.far_on != "l2" else ("l2", "l1")
    _feed(laying, places)
    _join_group(laying, getattr(groups, line), places.line, f"to {line.upper()} by the plate's diagram")
    _join_group(laying, getattr(groups, common), places.common, f"to {common.upper()} by the plate's diagram")
    for group in groups.apart:
        _join_group(laying, group, None, "together by the plate's diagram")
    if not groups.near:
        return
    near, far = ("capacitor.common", "capacitor.fan") if school == "dual" else _own_terminals(call, places)
    if groups.far and school == "dual":
        near, far = "fancap.1", "fancap.2"
    _join_group(laying, groups.near, far, "to the capacitor by the plate's diagram")
    if groups.far:
        _join_group(laying, groups.far, near, "to the capacitor's other side by the plate's diagram")
    else:
        laying.join(places.line, near, "the capacitor's other side is on this line by the plate's diagram")


def _join_group(laying: WireLayout, group: tuple[str, ...], terminal: str | None, why: str) -> None:
    """Leads that are one point: one alone on its terminal, several in a splice and one wire on from it."""
    if len(group) == 1:
        if terminal is None:
            laying.cap(group[0], "by itself on the plate's diagram: cap it, it may be live")
        else:
            laying.put(group[0], terminal, why)
        return
    if not group:
        return
    splice = laying.free("splice")
    for lead in group:
        laying.put(lead, splice, why)
    if terminal is not None:
        laying.join(splice, terminal, "one wire from the splice")


def tap_of_each(speeds: list[int], taps: int) -> dict[int, int]:
    """The tap for each speed that is asked for: the same number where the motor has it, else the nearest in order.

    Speeds and taps count from 1, the highest. With at least as many taps as speeds, each speed has a tap of its own.
    """
    wanted = sorted(set(speeds))
    if len(wanted) > taps:
        return {speed: min(place, taps) for place, speed in enumerate(wanted, start=1)}
    left = len(wanted)
    return {speed: min(speed, taps - (left - 1 - place)) for place, speed in enumerate(wanted)}


def _taps(leads: MotorLeads, laying: WireLayout, places: Places) -> None:
    """Each output's speed to its tap; outputs of one speed are joined; the other taps parked or capped one by one."""
    taps = leads.taps
    outs = places.outs or (UnitOutput(None, places.line, 1),)
    given = tap_of_each([speed_asked(out, len(taps)) for out in outs], len(taps))
    at: dict[str, list[UnitOutput]] = {}
    for out in outs:
        at.setdefault(taps[given[speed_asked(out, len(taps))] - 1], []).append(out)
    for tap in taps:
        lead = leads.having(tap)[0]
        mine = at.get(tap, [])
        if not mine:
            laying.spare_tap(lead)
            continue
        modes = " and ".join(dict.fromkeys(out.name for out in mine if out.mode))
        why = f"speed {int(tap[6:])} of {len(taps)}, 1 the highest"
        laying.put(lead, mine[0].terminal, f"{modes}: {why}" if modes else why)
        for out in mine[1:]:
            laying.join(mine[0].terminal, out.terminal, f"{out.name} runs on the same speed")


def _halves(call: Call, motor: Motor, leads: MotorLeads, laying: WireLayout, places: Places) -> None:
    """The two halves of a dual-voltage main winding: in series for the high volts, side by side for the low."""
    row = volts_row(call, motor)
    middle = laying.free("splice")
    put = {
        "low": {"main_a.1": places.common, "main_b.1": places.common, "main_a.2": places.line, "main_b.2": places.line},
        "high": {"main_a.1": places.common, "main_a.2": middle, "main_b.1": middle, "main_b.2": places.line},
    }[row]
    done = {wire.lead for wire, _ in laying.laid}
    for name, terminal in put.items():
        for lead in leads.having(name):
            if lead not in done:
                laying.put(lead, terminal, f"strapped for the {row} volts by the plate's diagram")
                done.add(lead)


def _three_phase(call: Call, motor: Motor, leads: MotorLeads, laying: WireLayout, legs: tuple[str, ...]) -> None:
    """Three leads to the three legs, nine by the table."""
    row = STRAPS[connection(call, motor, leads)]
    for leg, group in zip(legs, row["lines"], strict=True):
        for end in group:
            for lead in leads.having(end):
                laying.put(lead, leg, "by the plate's diagram; swap two legs to reverse it")
    for group in row["joined"]:
        splice = laying.free("splice")
        for end in group:
            for lead in leads.having(end):
                laying.put(lead, splice, "together by the plate's diagram")


def _commutated(leads: MotorLeads, laying: WireLayout, places: Places) -> None:
    """Power on two lines; each output's signal on the tap it asks for, else on a command."""
    power = [lead for lead, ends in leads.leads if any(end.startswith("power") for end in ends)]
    hot = "line.l1" if places.common.startswith("board") else "switch.t1"
    for lead, terminal in zip(power, (hot, places.common), strict=False):
        laying.put(lead, places.was.get(lead, terminal), "line power, plugged in with the power off 5 minutes")
    done = {wire.lead for wire, _ in laying.laid}
    signals = [out for out in places.outs if is_output(out.terminal)]
    for out in signals:
        for lead in leads.having(f"tap.{out.speed or 1}"):
            if lead not in done:
                laying.put(lead, out.terminal, f"{out.name}: its signal on tap {out.speed or 1}, low voltage")
                done.add(lead)
    commands = [lead for lead, ends in leads.leads if any(end.startswith(("command", "tap")) for end in ends)]
    if signals and done & set(commands):
        for lead in (lead for lead in commands if lead not in done):
            laying.cap(lead, "a tap no signal uses")
        return
    for number, lead in enumerate((lead for lead in commands if lead not in done), start=1):
        laying.put(lead, places.was.get(lead, f"board.y{number}"), "the command, low voltage: never on a line terminal")
