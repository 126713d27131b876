"""How this motor is made to turn the other way, said as exactly that: by plug, by two named leads, by two lines."""

from __future__ import annotations

from ..plates import Motor
from .leads import MotorLeads

NOT_BY_LEADS = (
    "You can't reverse it by its leads. The start winding is tied to common inside, and swapped capacitor leads "
    "would feed the wrong winding."
)


def turn_round(motor: Motor, leads: MotorLeads | None) -> str:
    """The one sentence of how this motor is reversed, with the names of its leads where they decide it."""
    if motor.kind == "three_phase":
        names = leads.names[:2] if leads and len(leads.names) > 1 else ["any two of the three"]
        return f"To reverse it, swap {' and '.join(names)} at the line side."
    if motor.kind == "ecm":
        return "Its module sets the rotation, not its leads."
    plugged = sorted(leads.plugged) if leads else []
    if len(plugged) > 1:
        return f"To reverse it, swap {plugged[0]} and {plugged[1]} at the reversing plug."
    ends = start_ends(leads)
    if ends is not None:
        return f"To reverse it, swap {ends[0]} and {ends[1]}, the two ends of the start winding."
    if motor.rotation is not None and motor.rotation.sense == "reversible":
        return "To reverse it, swap the reversing plug."
    if motor.kind == "shaded_pole":
        return "It turns one way only. Its shading coils decide, not its leads."
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
