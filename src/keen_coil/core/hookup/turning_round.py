"""How this motor is made to turn the other way: by plug, two leads or two lines; what is set besides the wires."""

from __future__ import annotations

from ..call import Call
from ..match.turning import from_shaft_end, shipped_way
from ..plates import Motor
from ..vocabulary import Plug
from .answer import Move
from .leads import FRAME, MotorLeads
from .moves import GROUND

NOT_BY_LEADS = (
    "You can't reverse it by its leads. The start winding is tied to common inside, and swapped capacitor leads "
    "would feed the wrong winding."
)


def turn_round(motor: Motor, leads: MotorLeads | None) -> str:
    """The one sentence of how this motor is reversed, with the names of its leads where they decide it."""
    if motor.traits.is_three_phase:
        names = leads.names[:2] if leads and len(leads.names) > 1 else ["any two of the three"]
        return f"To reverse it, swap {' and '.join(names)} at the line side."
    if motor.traits.turning_words:
        return motor.traits.turning_words
    plugged = sorted(leads.plugged) if leads else []
    if len(plugged) > 1:
        return f"To reverse it, swap {plugged[0]} and {plugged[1]} at the reversing plug."
    ends = start_ends(leads)
    if ends is not None:
        return f"To reverse it, swap {ends[0]} and {ends[1]}, the two ends of the start winding."
    if motor.rotation is not None and motor.rotation.sense == "reversible":
        return "To reverse it, swap the reversing plug."
    return NOT_BY_LEADS


def start_ends(leads: MotorLeads | None) -> tuple[str, str] | None:
    """The two leads that bring out the ends of the start winding, each alone: exchanged they turn the motor round.

    None where it has a reversing plug, or where an end is joined inside.
    """
    one, other = _alone(leads, "aux.1"), _alone(leads, "aux.2")
    return (one, other) if one and other and leads and not leads.plugged else None


def _alone(leads: MotorLeads | None, end: str) -> str | None:
    """The lead that brings out this end and no other."""
    return next((lead for lead, ends in leads.leads if ends == (end,)), None) if leads else None


def plugged(call: Call, motor: Motor) -> Plug | None:
    """How the reversing plug must sit: swapped where the motor is shipped the other way than the old one turned.

    None where its module, two line wires or its shading coils decide: see `turn_round`.
    """
    rotation, wanted = motor.rotation, from_shaft_end(call.motor.rotation)
    if motor.traits.reversed_by != "start_winding":
        return None
    if rotation is None or rotation.sense != "reversible":
        return call.hookup.plug if motor is call.motor else None
    if rotation.shipped is None or wanted is None:
        return "as_shipped"
    return "as_shipped" if shipped_way(rotation) == wanted else "swapped"


def set_besides(call: Call, motor: Motor, leads: MotorLeads) -> list[Move]:
    """What is set besides the wires: the ground where no lead is noted, the reversing plug, the leads tied."""
    moves = []
    if not leads.having(FRAME):
        why = (
            "no ground lead noted. One goes on bare metal first. Without one the mount is the ground, paint scraped off"
        )
        moves.append(Move(do="set", what="ground", where=GROUND, why=why))
    plug = plugged(call, motor)
    condenser = call.motor.role == "condenser_fan"
    if plug and motor.rotation is not None and motor.rotation.sense == "reversible":
        known = motor.rotation.shipped is not None and from_shaft_end(call.motor.rotation) is not None
        unknown = "shipped rotation not known. Prove it on the first run, people clear"
        why = "the old motor's way" if known else unknown
        ends = start_ends(leads)
        if ends is not None:
            where = "exchanged" if plug == "swapped" else "as the diagram has them"
            return [*moves, Move(do="set", what=f"leads {' and '.join(ends)}", where=where, why=why), *_tied(condenser)]
        moves.append(Move(do="set", what="reversing plug", where=plug.replace("_", " "), why=why))
        blade = "under the top, clear of the blade" if condenser else "clear of the wheel"
        kept = f"sleeve the reversing leads and tie them up {blade}"
        moves.append(Move(do="set", what="reversing leads", where="tied up", why=kept))
    return [*moves, *_tied(condenser)]


def _tied(condenser: bool) -> list[Move]:
    why = "sun-rated ties, a drip loop, a grommet at every edge, nothing near the blade"
    return [Move(do="set", what="leads", where="tied clear", why=why)] if condenser else []
