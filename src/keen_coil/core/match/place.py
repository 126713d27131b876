"""Rows of the place: position, enclosure, ambient limit, protection, listing; and the wait for delivery."""

from __future__ import annotations

from ..call import Call
from .catalogue import CatalogueMotor
from .reference import Reference
from .row import MatchRow, Work, fits, needs, not_compared, refused, work

AMBIENT_OVER_C = 10


def position_row(ref: Reference, new: CatalogueMotor, call: Call) -> MatchRow:
    """The position it is mounted in must be allowed; drains are opened by position."""
    place = call.unit.mounted
    allowed = ", ".join(item.replace("_", " ") for item in new.duty) or "any"
    name = place.replace("_", " ") if place else None
    if place is None:
        return not_compared("position", name, allowed, "How the motor sits in this unit is not noted.")
    if new.duty and place not in new.duty:
        return refused("position", name, allowed, "Not rated for this position: bearings or weep holes.")
    same = new.duty == ref.motor.duty and new.enclosure in (None, ref.motor.enclosure)
    if call.motor.role == "condenser_fan" and new.duty != [place] and not same:
        return needs(
            "position", name, allowed, "Open the lowest weep plugs, leave the upper ones plugged.", work("set_drains")
        )
    return fits("position", name, allowed, "Allowed.")


def enclosure_row(ref: Reference, new: CatalogueMotor, call: Call) -> MatchRow:
    """No open motor in the rain, no air-over motor out of the airstream."""
    names = ref.motor.enclosure, new.enclosure
    old, mine = (name.replace("_", "-") if name else None for name in names)
    outdoors = call.motor.role == "condenser_fan"
    in_airstream = call.motor.role in ("condenser_fan", "indoor_blower")
    if new.enclosure is None:
        return not_compared("enclosure", old, mine)
    if outdoors and new.enclosure == "open":
        return refused("enclosure", old, mine, "An open motor out in the rain.")
    if new.enclosure == "air_over" and call.motor.role is not None and not in_airstream:
        return refused("enclosure", old, mine, "An air-over motor out of the airstream.")
    return fits("enclosure", old, mine, "Right for the location.")


def ambient_asked(ref: Reference, call: Call) -> float | None:
    """The ambient limit in C that is asked for: the old plate's, else the air here plus 10 C."""
    if ref.motor.ambient_limit_c is not None:
        return ref.motor.ambient_limit_c
    return None if call.unit.ambient_c is None else call.unit.ambient_c + AMBIENT_OVER_C


def ambient_row(ref: Reference, new: CatalogueMotor, call: Call) -> MatchRow:
    """Ambient limit not below the old plate's, else not below the air here plus 10 C."""
    old, asked = ref.motor.ambient_limit_c, ambient_asked(ref, call)
    texts = _celsius(old), _celsius(new.ambient_limit_c)
    if asked is None or new.ambient_limit_c is None:
        return not_compared("ambient limit", *texts)
    if new.ambient_limit_c < asked:
        return refused("ambient limit", *texts, f"Below the {asked:g} °C this location needs.")
    return fits("ambient limit", *texts, "High enough.")


def protection_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """No motor without thermal protection where the old one had it."""
    old, mine = ref.motor.protection, new.protection
    if mine is None:
        return not_compared("protection", old, mine)
    if mine == "none" and old not in (None, "none"):
        return refused("protection", old, mine, "The old motor had thermal protection.")
    return fits("protection", old, mine, "Protected." if mine != "none" else "Same as the old one.")


def listing_row(new: CatalogueMotor, call: Call) -> MatchRow | None:
    """In a unit with mildly flammable refrigerant only parts listed for it; None elsewhere."""
    if not call.unit.refrigerant_mildly_flammable:
        return None
    if new.mildly_flammable_listed:
        return fits("listing", "mildly flammable", "listed", "Listed for this refrigerant.", "local code")
    return refused("listing", "mildly flammable", "not listed", "This unit takes listed parts only.", "local code")


def delivery(lead_days: float | None, on_van: int, part_no: str | None) -> Work | None:
    """Waiting for a part that is neither on the van nor in hand; hands-on time is none."""
    if on_van or lead_days == 0:
        return None
    days = "delivery time not known" if lead_days is None else "1 day" if lead_days == 1 else f"{lead_days:g} days"
    return work("wait_for_delivery", part_no, days=days)


def _celsius(value: float | None) -> str | None:
    return None if value is None else f"{value:g} °C"
