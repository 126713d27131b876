"""Rows of the body: shaft, key, set screw, mounting, studs, size, side gaps of a wheel."""

from __future__ import annotations

from ..call import Call
from ..plates import Motor
from .catalogue import CatalogueMotor
from .geometry import PLANE_TOLERANCE_IN, FitFinding, Section
from .reference import Reference
from .row import MatchRow, fits, needs, not_compared, refused, unknown, work

BORE_TOLERANCE_IN = 0.005
BAND_TOLERANCE_IN = 0.125
USUAL_HUB_IN = 1.0
"""A hub that was not measured (trade)."""
MEASURE_HUB = "Measure where the hub sits on the old shaft. That may show it reaches."
_SLACK = 1e-9
REMOUNT = {
    ("stud", "belly_band"): "band",
    ("stud", "lug"): "bracket",
    ("belly_band", "stud"): "bracket",
    ("lug", "belly_band"): "band",
    ("belly_band", "lug"): "bracket",
    ("lug", "stud"): "bracket",
    ("integral_arms", "belly_band"): "band with arms",
    ("stud", "face"): "bracket",
    ("face", "stud"): "bracket",
    ("base", "belly_band"): "band with base",
}


def bore_of(ref: Reference, call: Call) -> float | None:
    """The hub's bore in inches: as measured, else the old shaft's diameter."""
    return call.load.hub_bore_in or (ref.motor.shaft.diameter_in if ref.motor.shaft else None)


def shaft_diameter_row(ref: Reference, new: CatalogueMotor, call: Call) -> MatchRow:
    """The hub's bore and the new shaft must agree; a smaller shaft needs a bushing that is in the kit."""
    bore = bore_of(ref, call)
    size = new.shaft.diameter_in if new.shaft else None
    texts = _inches(bore), _inches(size)
    if bore is None or size is None:
        return unknown("shaft diameter", *texts, "measure_bore")
    if abs(bore - size) <= BORE_TOLERANCE_IN + _SLACK:
        return fits("shaft diameter", *texts, "The hub fits.")
    if size < bore and any("bushing" in item.lower() for item in new.kit):
        why = "Smaller. The bushing is in the kit."
        return needs("shaft diameter", *texts, why, work("fit_bushing", "bushing"))
    return refused("shaft diameter", *texts, "The hub does not fit, and no adapter is listed.")


def shaft_ends_row(ref: Reference, new: CatalogueMotor) -> MatchRow | None:
    """A motor that turns two wheels needs both shaft ends; None where the old one has a single end."""
    old = ref.motor.shaft.ends if ref.motor.shaft else None
    mine = new.shaft.ends if new.shaft else None
    if old != 2:
        return None
    if mine is None:
        return unknown("shaft ends", old, mine, "look_shaft_ends")
    if mine < old:
        return refused("shaft ends", old, mine, "Both ends of the old shaft drive something.")
    return fits("shaft ends", old, mine, "Shaft out both ends.")


def key_row(ref: Reference, new: CatalogueMotor) -> MatchRow | None:
    """A keyed hub wants a keyed shaft; None where the old shaft has no key."""
    if not (ref.motor.shaft and ref.motor.shaft.keyed):
        return None
    mine = new.shaft.keyed if new.shaft else None
    if mine is None:
        return unknown("key", "keyed", None, "look_keyway")
    if mine:
        return fits("key", "keyed", "keyed", "Keyed like the old one.")
    return needs("key", "keyed", "no keyway", "The hub is keyed.", work("fit_screwed_hub", "hub"))


def shaft_length_row(ref: Reference, new: CatalogueMotor, laid: Section) -> MatchRow:
    """A shaft that is too short is refused, a longer one is cut after the check."""
    old = ref.motor.shaft.length_in if ref.motor.shaft else None
    length = new.shaft.length_in if new.shaft else None
    texts = _inches(old), _inches(length)
    if length is None:
        return unknown("shaft length", *texts, "measure_shaft")
    short = laid.of("hub_off_shaft") or laid.of("screw_off_shaft") or _moved(laid, out=False)
    if short and short.mark == "refused":
        needed = laid.needed_in
        asked = "" if needed is None else f" It takes {needed:.2f} in; a short shaft can't be stretched."
        return refused("shaft length", *texts, short.says + asked)
    meets = laid.of("tip_meets")
    if meets and meets.mark == "refused":
        return refused("shaft length", *texts, meets.says + " Cutting it off would leave no room for the hub.")
    if laid.needed_in is None and (old is None or length < old - PLANE_TOLERANCE_IN - _SLACK):
        hub = laid.hub_in or USUAL_HUB_IN
        if old is not None and length < old - hub - _SLACK:
            why = f"{old - length:.2f} in shorter than the old one, more than the hub is long ({hub:g} in)."
            return refused("shaft length", *texts, f"{why} {MEASURE_HUB}")
        return unknown("shaft length", *texts, "measure_hub_place")
    long = laid.of("shaft_long")
    if long:
        longer = laid.end_moved_in or 0.0
        says = long.says
        if longer > 0:
            what = "wheel" if laid.wheel else "blade"
            says = f"The body is {longer:.2f} in longer: keep the {what} where it was and cut the shaft, or let it sit"
            says += f" {longer:.2f} in further out. {long.says}"
        return needs("shaft length", *texts, says, work("cut_shaft"))
    return fits("shaft length", *texts, "The hub reaches where it belongs.")


def _moved(laid: Section, out: bool) -> FitFinding | None:
    """The plane cannot be kept: pushed out by the body, or short of it on the shaft."""
    found = laid.of("plane_moved")
    return found if found and found.over_in is not None and (found.over_in > 0) == out else None


def set_screw_row(ref: Reference, new: CatalogueMotor, laid: Section) -> MatchRow | None:
    """Whether the set screw meets a flat; None where all is well or the screw's place is not known."""
    found = laid.of("no_flat", "screw_off_flat", "flat_unknown")
    if found is None:
        return None
    texts = _flats(ref.motor), _flats(new)
    if found.what == "flat_unknown":
        return not_compared("set screw", *texts, found.says)
    return needs("set screw", *texts, found.says, work("file_flat"))


def _flats(motor: Motor) -> str | None:
    flats = motor.shaft.flats if motor.shaft else None
    return None if flats is None else {0: "no flat", 1: "one flat"}.get(flats, f"{flats} flats")


def studs_row(new: CatalogueMotor, laid: Section) -> MatchRow | None:
    """Stud ends in the way of blade or guard; None where they are clear or not known."""
    found = laid.of("studs_meet")
    if found is None:
        return None
    return needs("stud ends", None, _inches(new.stud_length_in), found.says, work("cut_studs"))


def wheel_row(laid: Section) -> MatchRow | None:
    """Side gaps of a blower wheel; None where housing or wheel are not measured."""
    if laid.gaps_in is None:
        return None
    far, near = (f"{gap:.2f} in" for gap in laid.gaps_in)
    found = laid.of("wheel_rubs", "gaps_uneven")
    if found is None:
        return fits("side gaps", "equal", f"{far} and {near}", "The wheel sits centered.")
    if found.mark == "refused":
        return refused("side gaps", "equal", f"{far} and {near}", found.says)
    return needs("side gaps", "equal", f"{far} and {near}", found.says, work("move_wheel"))


def mount_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """The same mounting fits; some others with a band or bracket; the rest cannot be mounted."""
    old, mine = ref.motor.mount, new.mount
    texts = _mount_text(ref.motor), _mount_text(new)
    if old is None or mine is None:
        return unknown("mounting", *texts, "look_mounting")
    if old == mine and (old != "stud" or ref.motor.studs in (None, "both", new.studs) or new.studs in (None, "both")):
        return _same_mount(ref, new, texts)
    if old == mine:
        return refused("mounting", *texts, "The studs are on the other end.")
    part = REMOUNT.get((old, mine))
    if part is None:
        return refused("mounting", *texts, "Can't be mounted with what is listed.")
    in_kit = any(part.split()[0] in item.lower() for item in new.kit)
    todo = work("remount", part)
    why = f"Needs a {part}{', in the kit' if in_kit else ''}."
    return needs("mounting", *texts, why, todo._replace(part=None) if in_kit else todo)


def _same_mount(ref: Reference, new: CatalogueMotor, texts: tuple[str | None, str | None]) -> MatchRow:
    old, size = ref.motor.body_diameter_in, new.body_diameter_in
    if old is None or size is None or abs(old - size) <= BAND_TOLERANCE_IN + _SLACK:
        return fits("mounting", *texts, "Same mounting.")
    if new.mount == "belly_band":
        why = f"Body {size:g} in, was {old:g}: needs another band."
        return needs("mounting", *texts, why, work("change_band", f"band {size:g} in"))
    why = f"Body {size:g} in, was {old:g}: adapter for the studs."
    return needs("mounting", *texts, why, work("fit_adapter", "stud adapter"))


def body_row(ref: Reference, new: CatalogueMotor, laid: Section) -> MatchRow:
    """The body must stay clear of coil, guard, hub and inlet with the mounting where it is."""
    old = ref.motor
    texts = _size_text(old), _size_text(new)
    inlet = laid.of("inlet_narrow")
    if new.body_length_in is None and inlet is None:
        return not_compared("body", *texts)
    found = inlet or laid.of("body_meets_behind", "body_meets_ahead", "hub_in_body") or _moved(laid, out=True)
    if found:
        return refused("body", *texts, found.says)
    meets = laid.of("blade_meets")
    if meets:
        certain = meets.mark == "refused"
        if certain:
            return refused("body", *texts, meets.says)
        return unknown("body", *texts, "check_blade", says=meets.says.rstrip("."))
    if old.body_length_in is not None and laid.end_moved_in != 0:
        if laid.of("shaft_long") and (laid.end_moved_in or 0) > 0:
            return fits("body", *texts, f"{laid.end_moved_in:.2f} in longer toward the blade. See shaft length.")
        what = "wheel" if laid.wheel else "blade plane"
        why = f"The shaft end moves. Set the {what} again."
        return needs("body", *texts, why, work("set_wheel" if laid.wheel else "move_hub"))
    if laid.rooms.behind is not None:
        return fits("body", *texts, "Clear on both ends.")
    if old.body_length_in is None:
        return not_compared("body", *texts, "The old body is not measured.")
    return fits("body", *texts, "The shaft end stays where it was.")


def _inches(value: float | None) -> str | None:
    return None if value is None else f"{value:g} in"


def _mount_text(motor: Motor) -> str | None:
    if motor.mount is None:
        return None
    studs = f", {motor.studs.replace('_', ' ')}" if motor.mount == "stud" and motor.studs else ""
    return motor.mount.replace("_", " ") + studs


def _size_text(motor: Motor) -> str | None:
    if motor.body_diameter_in is None or motor.body_length_in is None:
        return _inches(motor.body_length_in)
    return f"{motor.body_diameter_in:g} x {motor.body_length_in:g} in"
