"""Rows of power: plate amps and horsepower by the school, shaft watts across kinds, torque, blade, part number."""

from __future__ import annotations

from ..plates import Motor
from ..units import WATTS_PER_HP, horsepower_text
from ..vocabulary import SizingSchool
from ..voltage import plate_amps, range_for
from .catalogue import CatalogueMotor
from .reference import Reference
from .row import MatchRow, fits, needs, refused, unknown, work
from .schools import SIZING_RULES, amps_refusal, hp_refusal, is_rounding

WATTS = (0.95, 1.6)
"""Shaft watts of another kind of motor, as shares of the old ones: an estimate, so wide (trade)."""
LEAST_TORQUE = 0.995
BLADE_MOST = 1.05
"""A fan that asks for more than this share of the motor's power overloads it (trade)."""


def amps_row(ref: Reference, new: CatalogueMotor, school: SizingSchool) -> MatchRow:
    """Plate amps by the school, at the same connection; across kinds by shaft watts instead."""
    amps = plate_amps(new.volts, new.amps_a, new.amps_high_a, ref.supply_v)
    old_text = None if ref.amps_a is None else f"{ref.amps_a:.2f} A"
    new_text = None if amps is None else f"{amps:.2f} A"
    if ref.motor.kind not in (None, new.kind) or not _same_connection(ref, new):
        return _watts_row(ref, new, old_text, new_text)
    if ref.amps_a is None or amps is None:
        return unknown("plate amps", old_text, new_text, "find_amps")
    why = amps_refusal(school, ref.amps_a, amps)
    if why:
        return refused("plate amps", old_text, new_text, why)
    if amps > SIZING_RULES[school].flag_amps * ref.amps_a:
        why = f"More than {SIZING_RULES[school].flag_amps:g} times the old amps."
        return needs("plate amps", old_text, new_text, why, work("check_circuit"))
    times = f"{amps / ref.amps_a:.2f} times the old plate amps"
    rounding = ": within 2 %, plates are rounded" if is_rounding(school, ref.amps_a, amps) else ""
    return fits("plate amps", old_text, new_text, f"{times}{rounding}.")


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
    return phases * volts * amps * motor.traits.power_factor * motor.traits.efficiency


def _watts_row(ref: Reference, new: CatalogueMotor, old_text: str | None, new_text: str | None) -> MatchRow:
    reference = ref.motor.model_copy(update={"hp": ref.hp})
    old_w = shaft_watts(reference, ref.amps_a, ref.supply_v)
    new_w = shaft_watts(new, new.amps_a, ref.supply_v)
    source = "typical efficiency of the kind, an estimate"
    if old_w is None or new_w is None:
        return unknown("plate amps", old_text, new_text, "find_power")
    why = f"Amps do not compare between these motor types. Shaft power about {old_w:.0f} W, new {new_w:.0f} W."
    low, high = WATTS
    if new_w < low * old_w:
        return refused("plate amps", old_text, new_text, why + " Less than the load needs.", source, estimate=True)
    if new_w > high * old_w:
        return refused("plate amps", old_text, new_text, why + " Far more than the load needs.", source, estimate=True)
    return fits("plate amps", old_text, new_text, why, source)


def torque_row(ref: Reference, new: CatalogueMotor) -> MatchRow | None:
    """An ECM candidate by its torque, N*m: its plate's, else from horsepower and rpm; None for other kinds."""
    if not new.traits.is_electronic:
        return None
    old = _torque_nm(ref.motor.torque_nm, ref.hp, ref.rpm)
    mine = _torque_nm(new.torque_nm, new.hp, new.rpm)
    texts = _newton_metres(old), _newton_metres(mine)
    if old is None or mine is None:
        return unknown("torque", *texts, "find_torque")
    if mine < LEAST_TORQUE * old:
        return refused("torque", *texts, f"Less than the {old:.2f} N m the load needs.")
    return fits("torque", *texts, "Enough torque.")


def _newton_metres(value: float | None) -> str | None:
    return None if value is None else f"{value:.2f} N m"


def _torque_nm(torque_nm: float | None, hp: float | None, rpm: float | None) -> float | None:
    """Torque in N*m: as stated, else P / w."""
    if torque_nm is not None:
        return torque_nm
    return None if not hp or not rpm else hp * WATTS_PER_HP * 9.5493 / rpm


def blade_row(ref: Reference, new: CatalogueMotor) -> MatchRow | None:
    """Where no plate is the reference: what the blade that is there asks of this motor at its speed (fan laws).

    None where a plate decides or nothing was measured.
    """
    if ref.blade is None or new.rpm is None or new.hp is None:
        return None
    watts, rpm = ref.blade
    asked = watts * (new.rpm / rpm) ** 3
    share = asked / (new.hp * WATTS_PER_HP)
    texts = f"{watts:.0f} W at {rpm:.0f} rpm", f"{asked:.0f} W at {new.rpm:g} rpm"
    why, source = f"The blade needs {100 * share:.0f} % of its power.", "motor model and fan laws, an estimate"
    if share > BLADE_MOST:
        return refused("blade", *texts, why, source, estimate=True)
    return needs("blade", *texts, why, work("prove_blade"), source)


def hp_row(ref: Reference, new: CatalogueMotor, school: SizingSchool) -> MatchRow:
    """Horsepower by the school; *amps first* shows it only."""
    old_text = None if ref.hp is None else horsepower_text(ref.hp)
    new_text = None if new.hp is None else horsepower_text(new.hp)
    if school == "amps":
        return fits("horsepower", old_text, new_text, "For reference. Plate amps decide.")
    if ref.hp is None or new.hp is None:
        return unknown("horsepower", old_text, new_text, "find_horsepower")
    why = hp_refusal(school, ref.hp, new.hp)
    if why:
        return refused("horsepower", old_text, new_text, why)
    return fits("horsepower", old_text, new_text, "Within this way of sizing.")


def part_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """*Like for like*: the same part number, or one listed as superseding it."""
    old = ref.motor.part_no
    if old is None:
        return refused("part number", None, new.part_no, "The old part number is not known; OEM exact needs it.")
    if old == new.part_no:
        return fits("part number", old, new.part_no, "The same part.")
    if old in new.supersedes:
        return fits("part number", old, new.part_no, "Listed as superseding the old part.")
    return refused("part number", old, new.part_no, "Neither the same part nor listed as superseding it.")
