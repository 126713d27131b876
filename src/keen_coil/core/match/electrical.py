"""Rows of the supply: kind of motor, volts, phase, hertz; and the speed class of a plate."""

from __future__ import annotations

from ..machine.fan import SPEED_CLASS_PCT
from ..speed import poles_of
from ..voltage import range_for, ranges
from .catalogue import CatalogueMotor
from .reference import Reference
from .row import MatchRow, fits, needs, not_compared, refused, unknown, work

LOW_FOR_230_V = 215.0
"""Below this a supply is taken for a nominal 208 V one (trade)."""


def kind_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """The kind of motor: PSC in place of shaded pole is work, other changes of kind are refused."""
    old = ref.motor.kind
    names = ref.motor.traits.words or None, new.traits.words or None
    if old is None:
        return unknown("kind", *names, "find_kind")
    if old == new.kind:
        return fits("kind", *names, "Same motor type.")
    if new.kind in ref.motor.traits.stands_in:
        why = "A PSC motor can replace a shaded-pole one. It needs its own run capacitor."
        return needs("kind", *names, why, work("add_capacitor"))
    return refused("kind", *names, "Not the same motor type.")


def volts_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """The supply must lie in the new plate's window; a single 230 V plate on a low supply is named."""
    texts = ref.motor.volts, new.volts
    if new.volts is None:
        return unknown("volts", *texts, "find_volts")
    if ref.supply_v is None:
        return _volts_by_plate(ref, new.volts)
    chosen = range_for(new.volts, ref.supply_v) or ranges(new.volts)[0]
    low, high = chosen.window()
    if not low <= ref.supply_v <= high:
        why = f"{ref.supply_v:g} V is outside {low:.1f} to {high:.1f} V."
        return refused("volts", *texts, why, "NEMA MG 1")
    if len(ranges(new.volts)) > 1:
        why = f"Connect it for {chosen} V."
        return needs("volts", *texts, why, work("strap_leads", volts=str(chosen)), "NEMA MG 1")
    if chosen.low == chosen.high == 230 and ref.supply_v < LOW_FOR_230_V:
        why = f"Within 10 %, but a 230 V only motor on {ref.supply_v:g} V runs hot."
        return needs("volts", *texts, why, work("prefer_dual_volt"))
    return fits("volts", *texts, f"{low:.1f} to {high:.1f} V covers {ref.supply_v:g} V.", "NEMA MG 1")


def _volts_by_plate(ref: Reference, volts: str) -> MatchRow:
    """The supply is not known: plates whose windows have nothing in common cannot both be right."""
    texts = ref.motor.volts, volts
    if ref.motor.volts is not None:
        windows = [[r.window() for r in ranges(plate)] for plate in (ref.motor.volts, volts)]
        if not any(a[0] <= b[1] and b[0] <= a[1] for a in windows[0] for b in windows[1]):
            return refused("volts", *texts, "The two plates have no volts in common.", "NEMA MG 1")
        if ref.motor.volts == volts:
            return fits("volts", *texts, "Same volts as the old plate.", "NEMA MG 1")
    return unknown("volts", *texts, "measure_supply")


def phase_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """Phases must be the same."""
    if ref.phase is None:
        return not_compared("phase", None, new.phase)
    if ref.phase == new.phase:
        return fits("phase", ref.phase, new.phase, "Same phase.")
    return refused("phase", ref.phase, new.phase, "Not the same phase.")


def hertz_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """Hertz must be the same."""
    if ref.hz is None:
        return not_compared("hertz", None, new.hz)
    if ref.hz == new.hz:
        return fits("hertz", ref.hz, new.hz, "Same frequency.")
    return refused("hertz", ref.hz, new.hz, "Not the same frequency.")


def speed_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """Same speed class: same poles and plate rpm within 5 %; an ECM by its range."""
    old_text = _speed_text(ref.rpm, ref.poles)
    poles = new.poles or poles_of(new.rpm, new.hz)
    new_text = _speed_text(new.rpm, poles)
    if ref.rpm is None or new.rpm is None:
        return unknown("RPM", old_text, new_text, "find_rpm")
    if new.traits.is_electronic:
        return _ecm_speed(ref.rpm, new, old_text)
    asked = (new.rpm / ref.rpm) ** 3
    of_old = ref.poles or poles_of(ref.rpm, new.hz)
    if None not in (poles, of_old) and poles != of_old:
        why = f"{poles} poles on a blade made for {of_old}. It would need {asked:.2f} times the power."
        return refused("RPM", old_text, new_text, why, "fan laws")
    if abs(new.rpm - ref.rpm) > SPEED_CLASS_PCT / 100 * ref.rpm:
        return refused("RPM", old_text, new_text, f"More than {SPEED_CLASS_PCT:g} % from {ref.rpm:g} rpm.", "fan laws")
    return fits(
        "RPM", old_text, new_text, f"Same speed class. The blade needs {asked:.2f} times the power.", "fan laws"
    )


def _ecm_speed(rpm: float, new: CatalogueMotor, old_text: str | None) -> MatchRow:
    """An ECM's range must hold the blade's speed; a plate without a range is held to the 5 %."""
    near = SPEED_CLASS_PCT / 100 * rpm
    low, high = new.rpm_min, new.rpm_max if new.rpm_max is not None else new.rpm
    if low is None and new.rpm is not None and abs(new.rpm - rpm) <= near:
        return fits("RPM", old_text, f"{new.rpm:g} rpm", "Its plate speed matches the blade within 5 %.")
    if high is not None and high < rpm - (near if new.rpm_max is None else 0):
        return refused("RPM", old_text, _range_text(low, high), f"Its range does not reach {rpm:g} rpm.")
    if low is None or high is None:
        return unknown("RPM", old_text, _range_text(low, high), "find_speed_range")
    if low <= rpm <= high:
        return fits("RPM", old_text, _range_text(low, high), "Its range covers the blade's speed.")
    return refused("RPM", old_text, _range_text(low, high), f"Its range does not reach {rpm:g} rpm.")


def _range_text(low: float | None, high: float | None) -> str:
    return f"{'?' if low is None else f'{low:g}'} to {'?' if high is None else f'{high:g}'} rpm"


def command_row(ref: Reference, new: CatalogueMotor) -> MatchRow | None:
    """An ECM must take the command that is there and hold what the old one held; None for other kinds."""
    if not new.traits.is_electronic or not ref.motor.traits.is_electronic:
        return None
    old, mine = ref.motor, new
    texts = _command_text(old.ecm_control, old.command), _command_text(mine.ecm_control, mine.command)
    for name, ours, theirs in (("holds", old.ecm_control, mine.ecm_control), ("command", old.command, mine.command)):
        if ours and theirs and ours.casefold() != theirs.casefold():
            why = (
                "Not the same control (torque, airflow or speed)."
                if name == "holds"
                else "It takes a different command."
            )
            return refused("command", *texts, why)
    if not (old.command and mine.command):
        return unknown("command", *texts, "find_command")
    return fits("command", *texts, "Same command.")


def _command_text(control: str | None, command: str | None) -> str | None:
    said = [part for part in ((control or "").replace("_", " "), command) if part]
    return ", ".join(said) or None


def _speed_text(rpm: float | None, poles: int | None) -> str | None:
    return None if rpm is None else f"{rpm:g} ({poles} poles)" if poles else f"{rpm:g}"
