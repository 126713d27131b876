"""Which leads the motor of a call has: by the plate's diagram, its words, the ends noted, the ohms, else by custom."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable
from dataclasses import replace

from ..call import Call
from ..errors import InvalidField, invalid
from ..installation import Lead
from ..judge.pairs import terminals_by_ohms
from ..plates import Motor
from .diagram import ends_by_diagram, names_of, tables_of
from .functions import Ohms
from .leads import FRAME, GROUND_COLORS, MotorLeads, customary, read_leads
from .terminals import OTHER_SIDE, Join, joins


def by_diagram(call: Call, motor: Motor) -> MotorLeads | None:
    """The leads by the plate's own diagram, where the call has it for this motor; ends that it does not tell are empty.

    Raises `InvalidField` where a table cannot be.
    """
    diagram = call.hookup.diagram
    if diagram is None or (call.chosen_motor is not None and motor is call.motor) or not tables_of(diagram):
        return None
    rows = call.hookup.new_leads or call.hookup.leads
    grounds = [row.lead for row in rows if row.says == "ground" or row.ends == [FRAME]]
    found = ends_by_diagram(diagram, grounds)
    if found is not None:
        return found
    names = dict.fromkeys(lead for table in tables_of(diagram).values() for lead in names_of(table))
    return MotorLeads((*((name, ()) for name in names), *((name, (FRAME,)) for name in grounds)))


def ohms_between(call: Call) -> dict[frozenset[str], float]:
    """Ohms between pairs of leads, of the readings that stand; an open pair is infinite."""
    found = {}
    for _, reading in call.standing("winding_ohm"):
        if reading.pair and len(set(reading.pair)) == 2 and not isinstance(reading.value, list):
            value = reading.value
            found[frozenset(reading.pair)] = float(value) if isinstance(value, int | float) else math.inf
    return found


def by_ohms(call: Call, motor: Motor) -> MotorLeads | None:
    """The three leads of the motor that was measured: the largest pair is run and start, the higher rest the start."""
    if motor is not call.motor or not motor.traits.has_start_winding:
        return None
    roles = terminals_by_ohms(call)
    if roles.common is None or roles.run is None or roles.start is None:
        return None
    return MotorLeads(
        ((roles.common, ("main.1", "aux.1")), (roles.run, ("main.2",)), (roles.start, ("aux.2",))),
    )


def with_ground(leads: MotorLeads, names: Iterable[str]) -> MotorLeads:
    """The leads and, of those that were noted besides, the ground lead by its color."""
    grounds = tuple((name, (FRAME,)) for name in names if name.lower() in GROUND_COLORS and name not in leads.names)
    return replace(leads, leads=(*leads.leads, *grounds))


def leads_for(call: Call, motor: Motor, names: set[str], of_old: bool = False) -> MotorLeads:
    """The leads of the motor that is wired: as noted where the notes cover these names, else by custom.

    `hookup.new_leads` are the chosen motor's, `hookup.leads` the old one's, or the only one there is; with `of_old`
    those of the old one come first.
    """
    rows = [(call.hookup.new_leads, "hookup.new_leads"), (call.hookup.leads, "hookup.leads")]
    drawn = by_diagram(call, motor)
    if drawn is not None and names <= set(drawn.names):
        return drawn
    ohms = ohms_between(call)
    ordered = [row for row in (reversed(rows) if of_old else rows) if row[0]]
    noted = [found for listed, path in ordered if (found := _read(call, motor, listed, path, ohms)) is not None]
    for leads in noted:
        if names <= set(leads.names) and leads.noted:
            return leads
    measured = by_ohms(call, motor)
    if measured is not None and names <= set(with_ground(measured, sorted(names)).names):
        return with_ground(measured, sorted(names))
    try:
        guess = with_ground(customary(motor), sorted(names.union(*(leads.names for leads in noted))))
    except InvalidField:
        if noted:
            raise invalid(
                "hookup.leads",
                ", ".join(sorted(names - set(noted[0].names))) or "ends not noted",
                "every lead with its winding ends, from the diagram",
            ) from None
        raise
    for leads in noted:
        here = guess.only(leads.names)
        if names <= set(leads.names) <= set(guess.names) and here.whole:
            return here
    if names <= set(guess.names):
        return guess
    missing = ", ".join(sorted(names - set(guess.names)))
    raise invalid("hookup.leads", missing, "every lead that is wired, with its winding ends from the diagram")


def _read(call: Call, motor: Motor, rows: list[Lead], path: str, ohms: Ohms) -> MotorLeads | None:
    """Leads that were noted; None where the old motor's cannot be read as those of another one."""
    own = path == "hookup.new_leads" or motor is call.motor
    try:
        return read_leads(rows, path, motor.kind if own else call.motor.kind, ohms)
    except InvalidField:
        if own:
            raise
        return None


def leads_to_hang(call: Call, motor: Motor) -> MotorLeads:
    """The leads of the motor that comes to hang here: as noted, else by custom.

    The notes of an old motor serve another one only where they are whole and may be its own too.
    """
    drawn = by_diagram(call, motor)
    if drawn is not None:
        return drawn
    if call.hookup.new_leads:
        return _with_ends(read_leads(call.hookup.new_leads, "hookup.new_leads", motor.kind, ohms_between(call)), motor)
    if not call.hookup.leads:
        measured = by_ohms(call, motor)
        if measured is not None and set(names_hung(call)) <= set(with_ground(measured, names_hung(call)).names):
            return with_ground(measured, names_hung(call))
        return with_ground(customary(motor), names_hung(call) if motor is call.motor else [])
    if motor is call.motor:
        return _with_ends(read_leads(call.hookup.leads, kind=motor.kind, ohms=ohms_between(call)), motor)
    return _of_another(call, motor)


def _of_another(call: Call, motor: Motor) -> MotorLeads:
    """The leads of a motor without notes of its own: the old one's where they may be its own too, else by custom."""
    try:
        noted = read_leads(call.hookup.leads, kind=call.motor.kind, ohms=ohms_between(call))
    except InvalidField:
        return customary(motor)
    alike = motor.leads in (None, noted.windings, len(noted.names)) and motor.speeds == call.motor.speeds
    alike = alike and motor.kind == call.motor.kind
    if alike and noted.noted:
        return noted
    try:
        return customary(motor)
    except InvalidField:
        if alike:
            return _with_ends(noted, motor)
        raise


def names_hung(call: Call) -> list[str]:
    """The leads of the old motor that were noted by where they hang."""
    return sorted({wire.lead for wire in joins(call.hookup.found, "hookup.found") if wire.lead})


def _with_ends(leads: MotorLeads, motor: Motor) -> MotorLeads:
    """Leads whose ends are all noted; else the custom for this motor, where the names are the custom's."""
    if leads.noted:
        return leads
    guess = with_ground(customary(motor), leads.names)
    if set(leads.names) <= set(guess.names):
        return guess.only(leads.names) if guess.only(leads.names).whole else guess
    unnoted = next(lead for lead, out in leads.leads if not out and lead not in leads.plugged)
    raise invalid("hookup.leads", unnoted, "the winding ends it brings out, from the diagram or by resistance")


def not_noted(leads: MotorLeads, wires: list[Join]) -> list[str]:
    """What wires as found leave open, as terminals: leads without a place (`motor.` before the name), splices and
    junctions that lead on to nothing, the other side of a capacitor that a wire hangs on. Nobody looked there, so no
    verdict may rest on it.
    """
    hung = {wire.lead for wire in wires}
    at = Counter(end for wire in wires for end in (wire.a, wire.b))
    loose = [end for end, many in at.items() if many == 1 and end.startswith(("splice.", "junction.", "plug."))]
    sides = [other for side, other in OTHER_SIDE.items() if side in at and other not in at]
    placeless = [
        f"motor.{lead}"
        for lead, ends in leads.leads
        if lead not in hung and ends != (FRAME,) and lead not in leads.plugged
    ]
    return [*placeless, *loose, *sides]
