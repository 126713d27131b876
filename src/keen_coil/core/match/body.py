"""Rows of the body: shaft, mounting, size, position, enclosure, ambient, protection, listing, delivery."""

from __future__ import annotations

from ..call import Call
from ..plates import Motor
from .catalogue import CatalogueMotor
from .reference import Reference
from .row import Judged, Work, fits, needs, refused, unknown

BORE_TOLERANCE_IN = 0.005
PLANE_TOLERANCE_IN = 0.125
BAND_TOLERANCE_IN = 0.125
AMBIENT_OVER_C = 10
REMOUNT = {
    ("stud", "belly_band"): "band", ("stud", "lug"): "bracket", ("belly_band", "stud"): "bracket",
    ("lug", "belly_band"): "band", ("belly_band", "lug"): "bracket", ("lug", "stud"): "bracket",
    ("integral_arms", "belly_band"): "band with arms", ("stud", "face"): "bracket", ("face", "stud"): "bracket",
    ("base", "belly_band"): "band with base",
}  # fmt: skip


def shaft_diameter_row(ref: Reference, new: CatalogueMotor, call: Call) -> Judged:
    """The hub's bore and the new shaft must agree; a smaller shaft needs a bushing that is in the kit."""
    old = ref.motor.shaft.diameter_in if ref.motor.shaft else None
    bore = call.load.hub_bore_in or old
    size = new.shaft.diameter_in if new.shaft else None
    texts = _inches(bore), _inches(size)
    if bore is None or size is None:
        return unknown("shaft diameter", *texts, "Measure the hub's bore")
    if abs(bore - size) <= BORE_TOLERANCE_IN:
        return fits("shaft diameter", *texts, "The hub goes on.")
    if size < bore and any("bushing" in item.lower() for item in new.kit):
        return needs(
            "shaft diameter", *texts, "Smaller; the bushing is in the kit.", "Fit the bushing in the hub", 4, "bushing"
        )
    return refused("shaft diameter", *texts, "The hub does not fit, and no adapter is listed.")


def face_to_shaft_end(motor: Motor) -> float | None:
    """Inches from the mounting face to the body's shaft end, along the shaft; None when not known.

    Far end studs: the body's length. Shaft end studs and face mounting: 0. Otherwise half the body.
    """
    if motor.face_to_shaft_end_in is not None:
        return motor.face_to_shaft_end_in
    if motor.mount == "face" or (motor.mount == "stud" and motor.studs in ("shaft_end", "both")):
        return 0.0
    if motor.body_length_in is None or motor.mount is None:
        return None
    return motor.body_length_in if motor.mount == "stud" else motor.body_length_in / 2


def shaft_needed(call: Call, new: CatalogueMotor) -> float | None:
    """Inches of shaft out of the new body so that the hub sits whole with the blade plane kept; None if unknown."""
    plane, hub, face = call.load.blade_plane_in, call.load.hub_length_in, face_to_shaft_end(new)
    if plane is None or face is None:
        return None
    return plane + (hub or 0.0) / 2 - PLANE_TOLERANCE_IN - face


def shaft_length_row(ref: Reference, new: CatalogueMotor, call: Call) -> Judged:
    """A shaft that is too short is refused, a longer one is cut after the check."""
    old = ref.motor.shaft.length_in if ref.motor.shaft else None
    length = new.shaft.length_in if new.shaft else None
    texts = _inches(old), _inches(length)
    needed = shaft_needed(call, new)
    if length is None:
        return unknown("shaft length", *texts, "Measure the new shaft")
    if needed is not None and length < needed:
        return refused(
            "shaft length", *texts, f"The blade plane asks for {needed:.2f} in; a short shaft cannot be stretched."
        )
    if needed is None and (old is None or length < old - PLANE_TOLERANCE_IN):
        return unknown(
            "shaft length", *texts, "Measure where the hub sits: this shaft is shorter than the old, or not known"
        )
    reach = face_to_shaft_end(new)
    most = None if call.space.to_coil_in is None or reach is None else call.space.to_coil_in - reach
    longer = length - max(old or 0.0, needed or 0.0)
    if (most is not None and length > most) or longer > 2 * PLANE_TOLERANCE_IN:
        return needs(
            "shaft length",
            *texts,
            f"{max(longer, 0):.2f} in longer: cut only after the check.",
            "Cut and dress the shaft",
            15,
        )
    return fits("shaft length", *texts, "The hub reaches its place.")


def mount_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """The same mounting fits; some others with a band or bracket; the rest cannot be mounted."""
    old, mine = ref.motor.mount, new.mount
    texts = _mount_text(ref.motor), _mount_text(new)
    if old is None or mine is None:
        return unknown("mounting", *texts, "Look how the old motor is held")
    if old == mine and (old != "stud" or ref.motor.studs in (None, "both", new.studs) or new.studs in (None, "both")):
        return _same_mount(ref, new, texts)
    if old == mine:
        return refused("mounting", *texts, "The studs are on the other end.")
    part = REMOUNT.get((old, mine))
    if part is None:
        return refused("mounting", *texts, "Cannot be mounted with what is listed.")
    in_kit = any(part.split()[0] in item.lower() for item in new.kit)
    return needs(
        "mounting",
        *texts,
        f"Needs a {part}{', in the kit' if in_kit else ''}.",
        f"Mount with a {part}",
        12,
        None if in_kit else part,
    )


def _same_mount(ref: Reference, new: CatalogueMotor, texts: tuple[str | None, str | None]) -> Judged:
    old, size = ref.motor.body_diameter_in, new.body_diameter_in
    if old is None or size is None or abs(old - size) <= BAND_TOLERANCE_IN:
        return fits("mounting", *texts, "The same mounting.")
    if new.mount == "belly_band":
        return needs(
            "mounting",
            *texts,
            f"Body {size:g} in, was {old:g}: another band.",
            "Change the band",
            6,
            f"band {size:g} in",
        )
    return needs(
        "mounting",
        *texts,
        f"Body {size:g} in, was {old:g}: adapter for the studs.",
        "Fit an adapter",
        10,
        "stud adapter",
    )


def body_row(ref: Reference, new: CatalogueMotor, call: Call) -> Judged:
    """The body must stay clear of coil and guard with the mounting where it is."""
    old, mine = ref.motor, new
    texts = _size_text(old), _size_text(mine)
    room, face, length = call.space.to_guard_in, face_to_shaft_end(new), new.body_length_in
    if length is None:
        return unknown("body", *texts, "Measure the body")
    beyond = None if face is None else length - face
    if room is not None and beyond is not None and beyond > room:
        return refused("body", *texts, f"It stands {beyond - room:.2f} in too far towards the guard.")
    if call.space.to_coil_in is not None and face is not None and face > call.space.to_coil_in:
        return refused("body", *texts, "The body meets the coil.")
    if old.body_length_in is not None and face_to_shaft_end(old) != face:
        return needs(
            "body", *texts, "The shaft end moves: set the blade plane anew.", "Move the hub to the old blade plane", 5
        )
    return fits("body", *texts, "Clear on both ends." if room is not None else "Same place of the shaft end.")


def position_row(new: CatalogueMotor, call: Call) -> Judged:
    """The position it is mounted in must be allowed; drains are opened by position."""
    place = call.unit.mounted
    allowed = ", ".join(item.replace("_", " ") for item in new.duty) or "any"
    name = place.replace("_", " ") if place else None
    if place is None:
        return unknown("position", name, allowed, "Note how the motor is mounted")
    if new.duty and place not in new.duty:
        return refused("position", name, allowed, "Not allowed in this position: bearings or drains.")
    if call.motor.role == "condenser_fan" and new.duty != [place]:
        return needs(
            "position", name, allowed, "Open the lowest drains, plug the upper ones.", "Set the drain plugs", 2
        )
    return fits("position", name, allowed, "Allowed.")


def enclosure_row(ref: Reference, new: CatalogueMotor, call: Call) -> Judged:
    """No open motor in the rain, no air-over motor out of the airstream."""
    names = ref.motor.enclosure, new.enclosure
    old, mine = (name.replace("_", "-") if name else None for name in names)
    outdoors = call.motor.role == "condenser_fan"
    in_airstream = call.motor.role in ("condenser_fan", "indoor_blower")
    if new.enclosure is None:
        return unknown("enclosure", old, mine, "Find out the enclosure")
    if outdoors and new.enclosure == "open":
        return refused("enclosure", old, mine, "An open motor in the rain.")
    if new.enclosure == "air_over" and call.motor.role is not None and not in_airstream:
        return refused("enclosure", old, mine, "An air-over motor out of the airstream.")
    return fits("enclosure", old, mine, "Suits the place.")


def ambient_row(ref: Reference, new: CatalogueMotor, call: Call) -> Judged:
    """Ambient limit not below the old plate's, else not below the air here plus 10 C."""
    old = ref.motor.ambient_limit_c
    asked = old if old is not None else None if call.unit.ambient_c is None else call.unit.ambient_c + AMBIENT_OVER_C
    texts = _celsius(old), _celsius(new.ambient_limit_c)
    if asked is None or new.ambient_limit_c is None:
        return unknown("ambient limit", *texts, "Compare the ambient limits")
    if new.ambient_limit_c < asked:
        return refused("ambient limit", *texts, f"Below the {asked:g} C asked for here.")
    return fits("ambient limit", *texts, "High enough.")


def protection_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """No motor without thermal protection where the old one had it."""
    old, mine = ref.motor.protection, new.protection
    if mine is None:
        return unknown("protection", old, mine, "Find out the thermal protection")
    if mine == "none" and old not in (None, "none"):
        return refused("protection", old, mine, "The old motor had thermal protection.")
    return fits("protection", old, mine, "Protected." if mine != "none" else "As the old one.")


def listing_row(new: CatalogueMotor, call: Call) -> Judged | None:
    """In a unit with mildly flammable refrigerant only parts listed for it; None elsewhere."""
    if not call.unit.refrigerant_mildly_flammable:
        return None
    if new.mildly_flammable_listed:
        return fits("listing", "mildly flammable", "listed", "Listed for this refrigerant.", "local code")
    return refused("listing", "mildly flammable", "not listed", "This unit takes only listed parts.", "local code")


def delivery(new: CatalogueMotor, stock: int | None) -> Work | None:
    """Waiting for a part that is not on the van; hands-on time is none."""
    if stock:
        return None
    days = f"{new.lead_days:g} days" if new.lead_days is not None else "time not known"
    return Work(do=f"Wait for delivery: {days}", part=new.part_no, minutes=0)


def _inches(value: float | None) -> str | None:
    return None if value is None else f"{value:g} in"


def _celsius(value: float | None) -> str | None:
    return None if value is None else f"{value:g} C"


def _mount_text(motor: Motor) -> str | None:
    if motor.mount is None:
        return None
    studs = f", {motor.studs.replace('_', ' ')}" if motor.mount == "stud" and motor.studs else ""
    return motor.mount.replace("_", " ") + studs


def _size_text(motor: Motor) -> str | None:
    if motor.body_diameter_in is None or motor.body_length_in is None:
        return _inches(motor.body_length_in)
    return f"{motor.body_diameter_in:g} x {motor.body_length_in:g} in"
