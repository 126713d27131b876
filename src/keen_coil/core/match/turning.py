"""Rows of what the motor does and needs: rotation, speeds, run capacitor."""

from __future__ import annotations

from dataclasses import dataclass

from ..call import Call
from ..outputs import modes_noted
from ..plates import Motor, Rotation
from ..vocabulary import SeenFrom, ShaftSense
from .catalogue import CatalogueMotor
from .reference import Reference
from .row import MatchRow, fits, needs, refused, unknown, work


def rotation_text(rotation: Rotation | None) -> str | None:
    """Rotation as a plate says it, with its viewpoint."""
    if rotation is None or rotation.sense is None:
        return None
    if rotation.sense == "reversible":
        return "reversible"
    return f"{rotation.sense} from the {(rotation.seen_from or 'end not named').replace('_', ' ')}"


def opposite(sense: ShaftSense) -> ShaftSense:
    """The other way round; the same turning seen from the other end."""
    return "ccw" if sense == "cw" else "cw"


def shipped_way(rotation: Rotation) -> ShaftSense | None:
    """The way a reversible motor is shipped, from the shaft end; a plate that names no end is taken to mean that."""
    if rotation.shipped is None:
        return None
    return opposite(rotation.shipped) if rotation.seen_from == "lead_end" else rotation.shipped


def from_shaft_end(rotation: Rotation | None) -> ShaftSense | None:
    """The sense seen from the shaft end; None when sense or viewpoint is not known.

    Clockwise from the shaft end is counter-clockwise from the lead end.
    """
    if rotation is None or rotation.sense is None or rotation.sense == "reversible" or rotation.seen_from is None:
        return None
    return rotation.sense if rotation.seen_from == "shaft_end" else opposite(rotation.sense)


@dataclass(frozen=True)
class Turning:
    """A rotation by both its names, and at which end the technician stands; None where the sense is not known."""

    from_shaft_end: str | None
    from_lead_end: str | None
    stands_at: SeenFrom

    @property
    def as_seen(self) -> str | None:
        """The sense from where the technician stands."""
        return self.from_shaft_end if self.stands_at == "shaft_end" else self.from_lead_end


def turning(rotation: Rotation | None, mounted: str | None) -> Turning:
    """Which way a motor turns, by both names. Over a unit one looks down on it: shaft up, onto the shaft end.

    The leads are taken to leave opposite the shaft.
    """
    sense = from_shaft_end(rotation)
    other = None if sense is None else opposite(sense)
    return Turning(sense, other, "shaft_end" if mounted == "shaft_up" else "lead_end")


def rotation_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """Rotation must be obtainable: reversible, or the same sense from the same end."""
    old_text, new_text = rotation_text(ref.motor.rotation), rotation_text(new.rotation)
    was_reversible = ref.motor.rotation is not None and ref.motor.rotation.sense == "reversible"
    if new.rotation is not None and new.rotation.sense == "reversible":
        if was_reversible:
            return fits("rotation", old_text, new_text, "Reversible, like the old one.")
        sense = from_shaft_end(ref.motor.rotation)
        way = f"{sense} from the shaft end" if sense else "as the old one turned"
        return needs("rotation", old_text, new_text, "Set it to turn like the old one.", work("set_rotation", way=way))
    if was_reversible:
        return unknown("rotation", old_text, new_text, "find_way")
    old, sense = from_shaft_end(ref.motor.rotation), from_shaft_end(new.rotation)
    if old is None or sense is None:
        return unknown("rotation", old_text, new_text, "find_rotation")
    if old == sense:
        return fits("rotation", old_text, new_text, "Same, viewed from the same end.")
    return refused("rotation", old_text, new_text, "Turns the other way and can't be reversed.")


def speeds_row(ref: Reference, new: CatalogueMotor, call: Call) -> MatchRow:
    """At least the speeds that are used; extra taps are capped one by one."""
    of_modes = {speed for _, speed, _ in modes_noted(call) if speed is not None}
    listed = len(of_modes | set(call.speeds_used))
    old = ref.motor.speeds
    used = listed or (1 if old in (None, 1) else None)
    if used is None:
        return _speeds_unknown(old or 1, new)
    if new.speeds is None and used > 1:
        return unknown("speeds", used, None, "count_speeds")
    have = new.speeds or 1
    if have < used:
        return refused("speeds", used, have, f"{used} speeds are used, it has {have}.")
    if have > used:
        extra = have - used
        todo = work("cap_extra_taps", taps=f"{extra} unused speed tap{'s' if extra > 1 else ''}")
        return needs("speeds", used, have, "More taps than you use.", todo._replace(minutes=extra * todo.minutes))
    return fits("speeds", used, have, "As many as you use.")


def _speeds_unknown(old: int, new: CatalogueMotor) -> MatchRow:
    """Which of the old motor's speeds are used is not noted: as many as it had will do."""
    if new.speeds is not None and new.speeds >= old:
        return needs("speeds", old, new.speeds, "As many as the old one.", work("cap_taps"))
    return unknown("speeds", old, new.speeds, "note_speeds_used")


def capacitor_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """The capacitor follows the new motor: same µF as its plate, volts the same or higher."""
    old_text = _capacitor_text(ref.motor)
    new_text = _capacitor_text(new)
    if not new.has_run_capacitor:
        return fits("capacitor", old_text, "none", "This motor type needs no run capacitor.")
    if new.capacitor_uf is None:
        return unknown("capacitor", old_text, None, "find_capacitor")
    volts = f" {new.capacitor_v:g} V" if new.capacitor_v else ""
    part = f"{new.capacitor_uf:g} µF{volts}"
    if (ref.motor.capacitor_uf, ref.motor.capacitor_v) == (new.capacitor_uf, new.capacitor_v):
        return fits("capacitor", old_text, new_text, "Same value. Replace it with the motor anyway.")
    return needs(
        "capacitor", old_text, new_text, "The capacitor goes by the new motor.", work("fit_capacitor", part, uf=part)
    )


def _capacitor_text(motor: Motor) -> str | None:
    if motor.capacitor_uf is None:
        return None if motor.traits.run_capacitor else "none"
    return f"{motor.capacitor_uf:g} µF" + (f" {motor.capacitor_v:g} V" if motor.capacitor_v else "")
