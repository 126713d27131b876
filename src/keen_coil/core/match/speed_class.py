"""Row of speed: the same speed class, or the range and the command of an ECM."""

from __future__ import annotations

from ..machine.fan import SPEED_CLASS_PCT
from ..speed import poles_of
from .catalogue import CatalogueMotor
from .reference import Reference
from .row import MatchRow, fits, refused, unknown


def speed_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """Same speed class: same poles and plate rpm within 5 %; an ECM by its range."""
    old_text = _speed_text(ref.rpm, ref.poles)
    poles = new.poles or poles_of(new.rpm, new.hz)
    new_text = _speed_text(new.rpm, poles)
    if ref.rpm is None or new.rpm is None:
        return unknown("RPM", old_text, new_text, "find_rpm")
    if new.kind == "ecm":
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
    if new.kind != "ecm" or ref.motor.kind != "ecm":
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
