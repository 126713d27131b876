"""The section along the shaft: where body, shaft, hub and blade come to lie, what meets what, how much to cut.

Inches from the mounting face, positive towards the shaft end. Blade plane = body from the face to its shaft end + shaft
out of the body to the hub's middle (trade). Nothing here refuses an input: what cannot be is laid out and named.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

from ..call import Call
from ..plates import Motor, Space
from .row import Mark

PLANE_TOLERANCE_IN = 0.125
"""The blade plane may lie so far from where it was (trade)."""
GAPS_TOLERANCE_IN = 0.0625
"""The side gaps of a wheel may differ by so much (trade)."""
TIP_BEYOND_HUB_IN = 0.25
"""Shaft left standing out of the hub after cutting (trade)."""
_SLACK = 1e-9
Finding = Literal[
    "hub_off_shaft",
    "hub_in_body",
    "plane_moved",
    "tip_meets",
    "shaft_long",
    "body_meets_ahead",
    "body_meets_behind",
    "screw_off_shaft",
    "screw_off_flat",
    "no_flat",
    "flat_unknown",
    "studs_meet",
    "studs_unknown",
    "wheel_rubs",
    "gaps_uneven",
    "inlet_narrow",
    "blade_meets",
]


class FitFinding(NamedTuple):
    """Something the section shows: what, how grave, in words, by how many inches."""

    what: Finding
    mark: Mark
    says: str
    over_in: float | None = None


class AxialLayout(NamedTuple):
    """A motor along its shaft, inches: the body's shaft end, its far end, the shaft's tip, the stud ends."""

    shaft_end: float
    far_end: float | None
    tip: float | None
    studs: tuple[tuple[float, float], ...] = ()


class Rooms(NamedTuple):
    """Free inches from the mounting face, towards the shaft end (`ahead`) and away from it, with what stands there."""

    ahead: float | None
    behind: float | None
    ahead_is: Literal["coil", "guard"]
    behind_is: Literal["coil", "guard"]


@dataclass(frozen=True)
class Section:
    """The section for one motor. `at_in` is the hub's middle on it, `plane_in` the plane to keep.

    `needed_in` is the shaft out of the body that the hub asks for, `cut_in` how much to take off, `left_in` the shaft
    out of the body that is left; `gaps_in` the side gaps of a wheel, far side first; `end_moved_in` how far the body's
    shaft end lies beyond the old one's. None where a length is missing.
    """

    wheel: bool
    laid: AxialLayout | None
    rooms: Rooms
    hub_in: float
    plane_in: float | None
    at_in: float | None
    needed_in: float | None
    cut_in: float
    left_in: float | None
    gaps_in: tuple[float, float] | None
    found: tuple[FitFinding, ...]
    end_moved_in: float | None = None

    @property
    def hub(self) -> tuple[float, float] | None:
        """The hub along the shaft: its body-side face and its outer one."""
        return None if self.at_in is None else (self.at_in - self.hub_in / 2, self.at_in + self.hub_in / 2)

    @property
    def off_in(self) -> float | None:
        """How far the plane lies from the one to keep, positive towards the shaft end."""
        return None if self.at_in is None or self.plane_in is None else self.at_in - self.plane_in

    @property
    def clear_in(self) -> list[tuple[str, str, float]]:
        """What is nearest to coil and guard, and by how many inches it clears them; negative where it does not."""
        laid = self.laid
        found: list[tuple[str, str, float]] = []
        if laid is None:
            return []
        if self.rooms.behind is not None and laid.far_end is not None:
            found.append(("body", self.rooms.behind_is, self.rooms.behind + laid.far_end))
        outer: list[tuple[str, float]] = [("body", laid.shaft_end)] + ([("hub", self.hub[1])] if self.hub else [])
        outer += [] if laid.tip is None else [("shaft tip", laid.tip - self.cut_in)]
        if self.rooms.ahead is not None:
            what, reach = max(outer, key=lambda item: item[1])
            found.append((what, self.rooms.ahead_is, self.rooms.ahead - reach))
        return found

    def of(self, *kinds: Finding) -> FitFinding | None:
        """The gravest finding among these kinds, the first named winning."""
        if not self.found:
            return None
        here = [found for kind in kinds for found in self.found if found.what == kind]
        return next((found for found in here if found.mark == "refused"), here[0] if here else None)


def rooms(space: Space, mounted: str | None) -> Rooms:
    """The room on either side of the mounting face. Shaft up, coil and guard are exchanged."""
    if mounted == "shaft_up":
        return Rooms(space.to_guard_in, space.to_coil_in, "guard", "coil")
    return Rooms(space.to_coil_in, space.to_guard_in, "coil", "guard")


StudEnd = Literal["shaft_end", "far_end"]


def hung_by(call: Call, old: Motor) -> StudEnd:
    """By which end a motor with studs on both is hung here.

    The end of the old one's studs; where it has them on both, the end its measured blade plane speaks for, else by the
    position: a fan with its shaft down hangs by its far end (trade).
    """
    if old.mount == "stud" and old.studs in ("shaft_end", "far_end"):
        return "shaft_end" if old.studs == "shaft_end" else "far_end"
    plane, body = call.load.blade_plane_in, old.body_length_in
    if plane is not None and body is not None:
        return "far_end" if plane > body else "shaft_end"
    hangs = call.motor.role in ("condenser_fan", None) and call.unit.mounted == "shaft_down"
    return "far_end" if hangs else "shaft_end"


def face_to_shaft_end(motor: Motor, hung: StudEnd = "shaft_end") -> float | None:
    """Inches from the mounting face to the body's shaft end, along the shaft; None when not known.

    Far end studs: the body's length. Shaft end studs and face mounting: 0. Studs on both ends: by the one it is `hung`
    by. Otherwise half the body.
    """
    if motor.face_to_shaft_end_in is not None:
        return motor.face_to_shaft_end_in
    at_shaft_end = motor.studs == "shaft_end" or (motor.studs == "both" and hung == "shaft_end")
    if motor.mount == "face" or (motor.mount == "stud" and at_shaft_end):
        return 0.0
    if motor.body_length_in is None or motor.mount is None:
        return None
    return motor.body_length_in if motor.mount == "stud" else motor.body_length_in / 2


def axial_layout(motor: Motor, hung: StudEnd = "shaft_end") -> AxialLayout | None:
    """A motor along its shaft, inches from its mounting face; None when the face is not known.

        shaft end = f,  far end = f - body length,  tip = f + shaft out of the body
    with f from `face_to_shaft_end` (decision 020; trade).
    """
    end = face_to_shaft_end(motor, hung)
    if end is None:
        return None
    far = None if motor.body_length_in is None else end - motor.body_length_in
    out = motor.shaft.length_in if motor.shaft else None
    return AxialLayout(end, far, None if out is None else end + out, _studs(motor, end, far))


def _studs(motor: Motor, shaft_end: float, far_end: float | None) -> tuple[tuple[float, float], ...]:
    long = motor.stud_length_in
    if long is None or motor.studs in (None, "none"):
        return ()
    ahead = [(shaft_end, shaft_end + long)] if motor.studs in ("shaft_end", "both") else []
    behind = [(far_end - long, far_end)] if far_end is not None and motor.studs in ("far_end", "both") else []
    return (*ahead, *behind)


def section(call: Call, old: Motor, new: Motor, at_in: float | None = None) -> Section:
    """The section of a motor in this call's place.

    Parameters: `old` what came off, `new` what goes on, `at_in` where the hub's middle is put, inches from the mounting
    face; by default at the plane to keep, or as near to it as hub, body and shaft allow. A belt-driven motor carries no
    blade: only its body is laid out.
    """
    hung = hung_by(call, old)
    load, room, laid = call.load, rooms(call.space, call.unit.mounted), axial_layout(new, hung)
    belt = call.motor.drive == "belt"
    plane = None if belt else load.blade_plane_in
    hub = float(load.hub_length_in or 0.0)
    wheel = call.motor.fan in ("forward_curved", "inducer_wheel")
    needed = None if plane is None or laid is None else plane + hub / 2 - PLANE_TOLERANCE_IN - laid.shaft_end
    if laid is None:
        at = at_in if at_in is not None else plane
        return Section(wheel, None, room, hub, plane, at, None, 0.0, None, None, ())
    at = at_in if at_in is not None else _nearest(plane, hub, laid)
    cut = 0.0 if belt else _cut(laid, axial_layout(old, hung), at, hub, room)
    gaps = _gaps(call, plane, at) if wheel else None
    before = face_to_shaft_end(old, hung)
    moved = None if before is None else laid.shaft_end - before
    found = [*_body(laid, room), *_shaft(laid, room, cut)]
    if at is not None:
        found += [*_hub(laid, at, hub, plane), *_screw(call, new, laid, at, hub, cut), *_blade(call, room, at, wheel)]
    if wheel:
        found += [*_wheel(gaps), *_inlet(call, new, laid, plane)]
    found += _stud_ends(call, new, laid, room, at, hub)
    left = None if laid.tip is None else laid.tip - laid.shaft_end - cut
    return Section(wheel, laid, room, hub, plane, at, needed, cut, left, gaps, tuple(found), moved)


def _nearest(plane: float | None, hub: float, laid: AxialLayout) -> float | None:
    """The plane to keep, or the nearest place where the hub sits whole on the shaft and clear of the body."""
    if plane is None:
        return None
    at = max(float(plane), laid.shaft_end + hub / 2)
    return at if laid.tip is None else min(at, max(laid.tip - hub / 2, laid.shaft_end + hub / 2))


def _cut(laid: AxialLayout, old: AxialLayout | None, at: float | None, hub: float, room: Rooms) -> float:
    """Inches to take off: what stands out further than the old tip and the hub need, or than there is room for.

    wished = max(hub's middle + hub / 2 + 1/4, old tip), at most the room ahead, at least the hub's own end
    cut = max(tip - wished, 0) where the tip meets something or stands out by more than 1/4 inch (trade)
    """
    if laid.tip is None:
        return 0.0
    least = None if at is None else at + hub / 2 + TIP_BEYOND_HUB_IN
    before = old.tip if old else None
    known = [end for end in (least, before) if end is not None]
    wished = max(known) if known else laid.tip
    if room.ahead is not None:
        wished = min(wished, room.ahead)
    if at is not None:
        wished = max(wished, at + hub / 2)
    over = laid.tip - wished
    meets = room.ahead is not None and laid.tip > room.ahead + _SLACK
    return max(over, 0.0) if meets or over > TIP_BEYOND_HUB_IN + _SLACK else 0.0


def _body(laid: AxialLayout, room: Rooms) -> list[FitFinding]:
    found = []
    if room.behind is not None and laid.far_end is not None and -laid.far_end > room.behind + _SLACK:
        over = -laid.far_end - room.behind
        says = f"The body sits {over:.2f} in too far toward the {room.behind_is}."
        found.append(FitFinding("body_meets_behind", "refused", says, over))
    if room.ahead is not None and laid.shaft_end > room.ahead + _SLACK:
        over = laid.shaft_end - room.ahead
        says = f"The body hits the {room.ahead_is} by {over:.2f} in."
        found.append(FitFinding("body_meets_ahead", "refused", says, over))
    return found


def _shaft(laid: AxialLayout, room: Rooms, cut: float) -> list[FitFinding]:
    found = []
    if laid.tip is not None and room.ahead is not None and laid.tip > room.ahead + _SLACK:
        over = laid.tip - room.ahead
        short = cut + _SLACK < over
        says = f"Uncut, the shaft hits the {room.ahead_is} by {over:.2f} in."
        found.append(FitFinding("tip_meets", "refused" if short else "work", says, over))
    if cut > 0 and laid.tip is not None:
        left = laid.tip - cut - laid.shaft_end
        says = f"{cut:.2f} in longer than needed: {left:.2f} in left. Cut only after the fit check."
        found.append(FitFinding("shaft_long", "work", says, cut))
    return found


def _hub(laid: AxialLayout, at: float, hub: float, plane: float | None) -> list[FitFinding]:
    found = []
    inner, outer = at - hub / 2, at + hub / 2
    if laid.tip is not None and outer > laid.tip + _SLACK:
        over = outer - laid.tip
        says = f"The hub hangs {over:.2f} in past the shaft tip."
        found.append(FitFinding("hub_off_shaft", "refused", says, over))
    if inner < laid.shaft_end - _SLACK:
        over = laid.shaft_end - inner
        found.append(FitFinding("hub_in_body", "refused", f"The hub hits the body by {over:.2f} in.", over))
    if plane is not None and abs(at - plane) > PLANE_TOLERANCE_IN + _SLACK:
        over = at - plane
        way = "further out" if over > 0 else "nearer the body"
        says = f"The blade sits {abs(over):.2f} in {way} than it was; within {PLANE_TOLERANCE_IN:g} in is right."
        found.append(FitFinding("plane_moved", "refused", says, over))
    return found


def _screw(call: Call, new: Motor, laid: AxialLayout, at: float, hub: float, cut: float) -> list[FitFinding]:
    """Whether the set screw still bites, and on the flat."""
    from_face = call.load.set_screw_from_face_in
    if from_face is None or laid.tip is None:
        return []
    screw, tip = at - hub / 2 + from_face, laid.tip - cut
    if screw > tip + _SLACK:
        over = screw - tip
        return [FitFinding("screw_off_shaft", "refused", f"The set screw misses the shaft by {over:.2f} in.", over)]
    shaft = new.shaft
    if shaft is None or shaft.flats is None:
        return [FitFinding("flat_unknown", "work", "Check if the shaft has a flat for the set screw.")]
    if shaft.flats == 0:
        return [
            FitFinding(
                "no_flat", "work", "No flat for the set screw. File one where it bites. Don't add a second screw."
            )
        ]
    if shaft.flat_length_in is not None and screw < laid.tip - shaft.flat_length_in - _SLACK:
        short = laid.tip - shaft.flat_length_in - screw
        says = f"The flat ends {short:.2f} in short of the set screw. File it longer."
        return [FitFinding("screw_off_flat", "work", says, short)]
    return []


def _blade(call: Call, room: Rooms, at: float, wheel: bool) -> list[FitFinding]:
    """A blade that meets what stands ahead; where it already did at its old plane, the lengths want measuring again."""
    width, plane = call.load.width_in, call.load.blade_plane_in
    if wheel or width is None or room.ahead is None or at + width / 2 <= room.ahead + _SLACK:
        return []
    over = at + width / 2 - room.ahead
    says = f"The blade hits the {room.ahead_is} by {over:.2f} in."
    if plane is not None and at <= plane + _SLACK:
        return [FitFinding("blade_meets", "work", says + " By these lengths the old one did too. Measure again.", over)]
    return [FitFinding("blade_meets", "refused", says, over)]


def _gaps(call: Call, plane: float | None, at: float | None) -> tuple[float, float] | None:
    """Side gaps of a wheel, far side first: (housing - wheel) / 2 each, moved by as much as the wheel is."""
    housing, width = call.space.housing_width_in, call.load.width_in
    if housing is None or width is None:
        return None
    moved = 0.0 if plane is None or at is None else at - plane
    return (housing - width) / 2 + moved, (housing - width) / 2 - moved


def _wheel(gaps: tuple[float, float] | None) -> list[FitFinding]:
    if gaps is None:
        return []
    if min(gaps) < -_SLACK:
        return [FitFinding("wheel_rubs", "refused", f"The wheel hits the housing by {-min(gaps):.2f} in.", -min(gaps))]
    uneven = abs(gaps[0] - gaps[1])
    if uneven <= GAPS_TOLERANCE_IN + _SLACK:
        return []
    says = f"Side gaps {gaps[0]:.2f} and {gaps[1]:.2f} in. They should match within 1/16 in."
    return [FitFinding("gaps_uneven", "work", says, uneven)]


def _inlet(call: Call, new: Motor, laid: AxialLayout, plane: float | None) -> list[FitFinding]:
    """A body that hangs in the inlet must be narrower than it."""
    inlet, body, housing = call.space.inlet_in, new.body_diameter_in, call.space.housing_width_in
    if inlet is None or body is None or body < inlet - _SLACK:
        return []
    outside = plane is not None and housing is not None and laid.shaft_end <= plane - housing / 2 + _SLACK
    if outside:
        return []
    says = f"A body of {body:g} in does not clear the {inlet:g} in inlet."
    return [FitFinding("inlet_narrow", "refused", says, body - inlet)]


def _stud_ends(
    call: Call, new: Motor, laid: AxialLayout, room: Rooms, at: float | None, hub: float
) -> list[FitFinding]:
    found = []
    width = call.load.width_in
    blade = None if at is None else min(at - hub / 2, at - width / 2 if width is not None else at)
    for low, high in laid.studs:
        ahead = low >= laid.shaft_end - _SLACK
        limit = blade if ahead else None if room.behind is None else -room.behind
        over = None if limit is None else high - limit if ahead else limit - low
        if over is not None and over > _SLACK:
            what = "blade's way" if ahead else room.behind_is
            says = f"The stud ends reach {over:.2f} in into the {what}: cut them once the nuts are on."
            found.append(FitFinding("studs_meet", "work", says, over))
    if new.stud_length_in is None and new.mount == "stud" and new.studs in ("shaft_end", "both"):
        found.append(FitFinding("studs_unknown", "fits", "Measure the studs. They point at the blade."))
    return found
