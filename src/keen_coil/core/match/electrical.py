"""Rows that must fit before anything else: kind, volts, phase, hertz, speed, amps, horsepower, rotation, capacitor."""

from __future__ import annotations

from ..call import Call
from ..plates import Motor, Rotation
from ..speed import poles_of
from ..units import WATTS_PER_HP, horsepower_text
from ..voltage import plate_amps, range_for, ranges
from .catalogue import CatalogueMotor
from .reference import SPEED_CLASS_PCT, Reference
from .row import Judged, fits, needs, refused, unknown
from .schools import BOUNDS, School, amps_refusal, hp_refusal

KIND_NAMES = {"psc": "PSC", "shaded_pole": "shaded pole", "three_phase": "three-phase", "ecm": "commutated"}
EFFICIENCY = {"psc": 0.55, "shaded_pole": 0.22, "three_phase": 0.70, "ecm": 0.75}
POWER_FACTOR = {"psc": 0.92, "shaded_pole": 0.62, "three_phase": 0.75, "ecm": 0.60}


def kind_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """The kind of motor: PSC in place of shaded pole is work, other changes of kind are refused."""
    old = ref.motor.kind
    names = KIND_NAMES.get(old or ""), KIND_NAMES.get(new.kind or "")
    if old is None or old == new.kind:
        return fits("kind", *names, "Same kind." if old else "The old kind is not known.")
    if (old, new.kind) == ("shaded_pole", "psc"):
        why = "A PSC motor may stand in for a shaded-pole one: it needs its own capacitor."
        return needs("kind", *names, why, "Mount and wire a run capacitor", 8)
    return refused("kind", *names, "Another kind of motor.")


def volts_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """The supply must lie in the new plate's window; a single 230 V plate on a low supply is named."""
    if new.volts is None or ref.supply_v is None:
        return unknown("volts", ref.motor.volts, new.volts, "Measure the supply")
    chosen = range_for(new.volts, ref.supply_v) or ranges(new.volts)[0]
    low, high = chosen.window()
    if not low <= ref.supply_v <= high:
        why = f"{ref.supply_v:g} V is outside {low:.1f} to {high:.1f} V."
        return refused("volts", ref.motor.volts, new.volts, why, "NEMA MG 1")
    if len(ranges(new.volts)) > 1:
        why = f"Strap it for {chosen} V."
        return needs("volts", ref.motor.volts, new.volts, why, f"Strap the leads for {chosen} V", 5, source="NEMA MG 1")
    if chosen.low == chosen.high == 230 and ref.supply_v < 215:
        why = f"Inside its window, but a plain 230 V motor on {ref.supply_v:g} V runs hot."
        return needs("volts", ref.motor.volts, new.volts, why, "Prefer a 208-230 V motor; watch its amps", 0)
    return fits(
        "volts", ref.motor.volts, new.volts, f"{low:.1f} to {high:.1f} V holds {ref.supply_v:g} V.", "NEMA MG 1"
    )


def phase_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """Phases must be the same."""
    if ref.phase is None:
        return unknown("phase", None, new.phase, "Find out the phases of the supply")
    if ref.phase == new.phase:
        return fits("phase", ref.phase, new.phase, "Same phase.")
    return refused("phase", ref.phase, new.phase, "Another number of phases.")


def hertz_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """Hertz must be the same."""
    if ref.hz is None:
        return unknown("hertz", None, new.hz, "Find out the hertz of the supply")
    if ref.hz == new.hz:
        return fits("hertz", ref.hz, new.hz, "Same frequency.")
    return refused("hertz", ref.hz, new.hz, "Another frequency.")


def speed_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """Same speed class: same poles and plate rpm within 5 %; a commutated motor by its range."""
    old_text = _speed_text(ref.rpm, ref.poles)
    poles = new.poles or poles_of(new.rpm, new.hz)
    new_text = _speed_text(new.rpm, poles)
    if ref.rpm is None or new.rpm is None:
        return unknown(
            "RPM", old_text, new_text, "Find out the old RPM before buying: speed is what the blade was chosen for"
        )
    if new.kind == "ecm":
        return _ecm_speed(ref.rpm, new, old_text)
    asked = (new.rpm / ref.rpm) ** 3
    if poles != ref.poles:
        why = f"{poles} poles on a {ref.poles}-pole blade: it is asked for {asked:.2f} times the power."
        return refused("RPM", old_text, new_text, why, "fan laws")
    if abs(new.rpm - ref.rpm) > SPEED_CLASS_PCT / 100 * ref.rpm:
        return refused("RPM", old_text, new_text, f"More than {SPEED_CLASS_PCT:g} % from {ref.rpm:g} rpm.", "fan laws")
    return fits(
        "RPM", old_text, new_text, f"Same speed class; the blade asks for {asked:.2f} times the power.", "fan laws"
    )


def _ecm_speed(rpm: float, new: CatalogueMotor, old_text: str | None) -> Judged:
    low, high = new.rpm_min or new.rpm, new.rpm_max or new.rpm
    text = f"{low:g} to {high:g} rpm"
    if low is not None and high is not None and low <= rpm <= high:
        return fits("RPM", old_text, text, "Its range holds the blade's speed.")
    return refused("RPM", old_text, text, f"Its range does not hold {rpm:g} rpm.")


def _speed_text(rpm: float | None, poles: int | None) -> str | None:
    return None if rpm is None else f"{rpm:g} ({poles} poles)" if poles else f"{rpm:g}"


def amps_row(ref: Reference, new: CatalogueMotor, school: School) -> Judged:
    """Plate amps by the school, at the same connection; across kinds by shaft watts instead."""
    amps = plate_amps(new.volts, new.amps_a, new.amps_high_a, ref.supply_v)
    old_text = None if ref.amps_a is None else f"{ref.amps_a:.2f} A"
    new_text = None if amps is None else f"{amps:.2f} A"
    if ref.motor.kind not in (None, new.kind) or not _same_connection(ref, new):
        return _watts_row(ref, new, old_text, new_text)
    if ref.amps_a is None or amps is None:
        return unknown("plate amps", old_text, new_text, "Find out the plate amps: read the plate, or the unit's")
    why = amps_refusal(school, ref.amps_a, amps)
    if why:
        return refused("plate amps", old_text, new_text, why)
    if amps > BOUNDS[school].flag_amps * ref.amps_a:
        why = f"More than {BOUNDS[school].flag_amps:g} times the old amps."
        return needs(
            "plate amps", old_text, new_text, why, "Check circuit, relay and board rating for the higher amps", 5
        )
    return fits("plate amps", old_text, new_text, f"{amps / ref.amps_a:.2f} times the old plate amps.")


def _same_connection(ref: Reference, new: CatalogueMotor) -> bool:
    """Whether both plates' amps belong to the same volts, within the 208 to 240 V family or exactly."""
    if ref.connection is None or new.volts is None:
        return True
    chosen = range_for(new.volts, ref.supply_v)
    return chosen is None or (chosen.low <= ref.connection.high and ref.connection.low <= chosen.high)


def shaft_watts(motor: Motor, amps: float | None, volts: float | None) -> float | None:
    """Typical shaft power in W: from horsepower when given, else from plate amps by typical efficiency.

    An estimate; efficiency and power factor are typical of the kind.
    """
    if motor.hp is not None:
        return motor.hp * WATTS_PER_HP
    if amps is None or volts is None or motor.kind is None:
        return None
    phases = 3**0.5 if motor.phase == 3 else 1.0
    return phases * volts * amps * POWER_FACTOR[motor.kind] * EFFICIENCY[motor.kind]


def _watts_row(ref: Reference, new: CatalogueMotor, old_text: str | None, new_text: str | None) -> Judged:
    reference = ref.motor.model_copy(update={"hp": ref.hp})
    old_w = shaft_watts(reference, ref.amps_a, ref.supply_v)
    new_w = shaft_watts(new, new.amps_a, ref.supply_v)
    source = "typical efficiency of the kind, an estimate"
    if old_w is None or new_w is None:
        return unknown("plate amps", old_text, new_text, "Find out the old motor's power: amps do not compare here")
    why = f"Amps do not compare here. Shaft about {old_w:.0f} W, new {new_w:.0f} W."
    if new_w < 0.95 * old_w:
        return refused("plate amps", old_text, new_text, why + " Less than the load needs.", source)
    if new_w > 1.6 * old_w:
        return refused("plate amps", old_text, new_text, why + " Far more than the load needs.", source)
    return fits("plate amps", old_text, new_text, why, source)


def hp_row(ref: Reference, new: CatalogueMotor, school: School) -> Judged:
    """Horsepower by the school; *amps first* shows it only."""
    old_text = None if ref.hp is None else horsepower_text(ref.hp)
    new_text = None if new.hp is None else horsepower_text(new.hp)
    if ref.hp is None or new.hp is None or school == "amps":
        return fits(
            "horsepower", old_text, new_text, "Shown only: the plate amps decide." if school == "amps" else "Not known."
        )
    why = hp_refusal(school, ref.hp, new.hp)
    if why:
        return refused("horsepower", old_text, new_text, why)
    return fits("horsepower", old_text, new_text, "Within the school.")


def part_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """*Like for like*: the same part number, or one listed as superseding it."""
    old = ref.motor.part_no
    if old is None:
        return refused("part number", None, new.part_no, "The old part number is not known; like for like needs it.")
    if old == new.part_no:
        return fits("part number", old, new.part_no, "The same part.")
    if old in new.supersedes:
        return fits("part number", old, new.part_no, "Listed as superseding the old part.")
    return refused("part number", old, new.part_no, "Neither the same part nor listed as superseding it.")


def rotation_text(rotation: Rotation | None) -> str | None:
    """Rotation as a plate says it, with its viewpoint."""
    if rotation is None or rotation.sense is None:
        return None
    if rotation.sense == "reversible":
        return "reversible"
    return f"{rotation.sense} from the {(rotation.seen_from or 'end not named').replace('_', ' ')}"


def from_shaft_end(rotation: Rotation | None) -> str | None:
    """The sense seen from the shaft end; None when sense or viewpoint is not known.

    Clockwise from the shaft end is counter-clockwise from the lead end.
    """
    if rotation is None or rotation.sense not in ("cw", "ccw") or rotation.seen_from is None:
        return None
    if rotation.seen_from == "shaft_end":
        return rotation.sense
    return "ccw" if rotation.sense == "cw" else "cw"


def rotation_row(ref: Reference, new: CatalogueMotor) -> Judged:
    """Rotation must be obtainable: reversible, or the same sense from the same end."""
    old_text, new_text = rotation_text(ref.motor.rotation), rotation_text(new.rotation)
    if new.rotation is not None and new.rotation.sense == "reversible":
        sense = from_shaft_end(ref.motor.rotation)
        do = f"Set the rotation {sense} from the shaft end" if sense else "Set the rotation as the old one turned"
        return needs("rotation", old_text, new_text, "Takes either way.", do, 3)
    if ref.motor.rotation is not None and ref.motor.rotation.sense == "reversible":
        return unknown("rotation", old_text, new_text, "Find out which way the old one turned")
    old, sense = from_shaft_end(ref.motor.rotation), from_shaft_end(new.rotation)
    if old is None or sense is None:
        return unknown("rotation", old_text, new_text, "Find out rotation and from which end it is seen")
    if old == sense:
        return fits("rotation", old_text, new_text, "The same, seen from the same end.")
    return refused("rotation", old_text, new_text, "Turns the other way and cannot be reversed.")


def speeds_row(ref: Reference, new: CatalogueMotor, call: Call) -> Judged:
    """At least the speeds that are used; extra taps are capped one by one."""
    used = len(call.unit.speeds_used) or ref.motor.speeds or 1
    have = new.speeds or 1
    if have < used:
        return refused("speeds", used, have, f"{used} speeds are used, it has {have}.")
    if have > used:
        extra = have - used
        do = f"Cap {extra} unused speed tap{'s' if extra > 1 else ''}, one by one"
        return needs("speeds", used, have, "More taps than used.", do, 2 * extra)
    return fits("speeds", used, have, "As many as used.")


def capacitor_row(ref: Reference, new: CatalogueMotor, call: Call) -> Judged:
    """The capacitor follows the new motor: same µF as its plate, volts the same or higher."""
    old_text = _capacitor_text(ref.motor)
    new_text = _capacitor_text(new)
    if new.kind != "psc":
        return fits("capacitor", old_text, "none", "This kind needs no run capacitor.")
    if new.capacitor_uf is None:
        return unknown("capacitor", old_text, None, "Find out the new motor's capacitor before it runs")
    volts = f" {new.capacitor_v:g} V" if new.capacitor_v else ""
    do = f"Fit a new {new.capacitor_uf:g} µF{volts} or higher-volt capacitor"
    part = f"{new.capacitor_uf:g} µF{volts}"
    if (ref.motor.capacitor_uf, ref.motor.capacitor_v) == (new.capacitor_uf, new.capacitor_v):
        return fits("capacitor", old_text, new_text, "The same value. Renew it with the motor all the same.")
    return needs("capacitor", old_text, new_text, "The capacitor follows the new motor.", do, 8, part)


def _capacitor_text(motor: Motor) -> str | None:
    if motor.capacitor_uf is None:
        return None if motor.kind in (None, "psc") else "none"
    return f"{motor.capacitor_uf:g} µF" + (f" {motor.capacitor_v:g} V" if motor.capacitor_v else "")
