"""Every limit, once: its value, its source, and how far a shop may move it.

A shop may tighten a limit, never loosen it past the default.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Literal

TRADE = "trade practice, not a standard"


@dataclass(frozen=True)
class Limits:
    """The limits in force. Units are in the names; sources and directions in `ABOUT`."""

    capacitor_tolerance_pct: float = 6.0
    capacitor_open_pct: float = 5.0
    capacitor_starts_pct: float = 20.0
    capacitor_shorted_ohm: float = 1.0
    capacitor_case_mohm: float = 1.0
    supply_window_pct: float = 10.0
    supply_missing_pct: float = 20.0
    supply_drop_normal_pct: float = 3.0
    supply_drop_pct: float = 5.0
    supply_sag_pct: float = 6.0
    contact_drop_v: float = 0.5
    unbalance_pct: float = 5.0
    winding_sum_pct: float = 3.0
    winding_sum_ohm: float = 0.5
    phase_ohm_normal_pct: float = 3.0
    phase_ohm_pct: float = 5.0
    grounded_mohm: float = 0.1
    ohmmeter_mohm: float = 1.0
    insulation_floor_mohm: float = 5.0
    insulation_good_mohm: float = 100.0
    amps_over_pct: float = 10.0
    amps_low_pct: float = 75.0
    amps_none_pct: float = 5.0
    amps_uneven_pct: float = 10.0
    sister_amps_pct: float = 10.0
    sister_shell_c: float = 15.0
    hot_standing_c: float = 45.0
    background_pct: float = 5.0
    speed_class_pct: float = 5.0
    cfm_per_ton_low: float = 350.0
    cfm_per_ton_high: float = 450.0
    monoxide_room_ppm: float = 9.0
    monoxide_flue_ppm: float = 100.0
    ask_winding_ohm: float = 1000.0
    ask_winding_least_ohm: float = 0.3
    ask_frame_ohm: float = 100.0
    cool_within_c: float = 10.0
    cool_minutes: float = 60.0


@dataclass(frozen=True)
class About:
    """A limit explained: what it is, its source, and which way is tighter."""

    says: str
    source: str
    tighter: Literal["lower", "higher", "fixed"]


ABOUT: dict[str, About] = {
    "capacitor_tolerance_pct": About("Capacitance from its label when the label is silent", TRADE, "lower"),
    "capacitor_open_pct": About("Below this share of the label a capacitor is open", TRADE, "fixed"),
    "capacitor_starts_pct": About("Up to this much low a capacitor still starts a sound motor", TRADE, "fixed"),
    "capacitor_shorted_ohm": About("Below this a capacitor is shorted", TRADE, "fixed"),
    "capacitor_case_mohm": About("Terminal to can: below this it is grounded", TRADE, "higher"),
    "supply_window_pct": About("Volts from plate volts", "NEMA MG 1", "lower"),
    "supply_missing_pct": About("Below this share of plate volts the supply is missing", TRADE, "fixed"),
    "supply_drop_normal_pct": About("Drop from standing to running", TRADE, "lower"),
    "supply_drop_pct": About("Drop from standing to running: look for the cause", TRADE, "lower"),
    "supply_sag_pct": About(
        "Below the unit's own volts by more than this: worth a look, though within the plate", TRADE, "lower"
    ),
    "contact_drop_v": About("Volts across one closed contact", TRADE, "lower"),
    "unbalance_pct": About("Unbalance of three line volts: do not run above it", "NEMA MG 1", "lower"),
    "winding_sum_pct": About("Largest pair against the sum of the other two", TRADE, "fixed"),
    "winding_sum_ohm": About("Least allowance of the sum check", TRADE, "fixed"),
    "phase_ohm_normal_pct": About("Difference of three phase pairs, normal", TRADE, "lower"),
    "phase_ohm_pct": About("Difference of three phase pairs, failed", TRADE, "lower"),
    "grounded_mohm": About("Winding to frame: below this it is grounded", TRADE, "higher"),
    "ohmmeter_mohm": About("Winding to frame by ohmmeter: below this do not energise", TRADE, "higher"),
    "insulation_floor_mohm": About("Insulation at 40 C: below this do not energise", "IEEE 43, by extension", "higher"),
    "insulation_good_mohm": About("Insulation at 40 C: above this good", "IEEE 43, by extension", "higher"),
    "amps_over_pct": About("Running amps above plate amps", "NEMA MG 1, by analogy", "lower"),
    "amps_low_pct": About("Running amps below this share of the plate are low", TRADE, "fixed"),
    "amps_none_pct": About("Below this share of the plate no current flows", TRADE, "fixed"),
    "amps_uneven_pct": About("Difference of three line currents: find out whether it follows the line", TRADE, "lower"),
    "sister_amps_pct": About("Difference of amps between sister motors", TRADE, "lower"),
    "sister_shell_c": About("Ours hotter than its sister's shell by more than this", TRADE, "lower"),
    "hot_standing_c": About(
        "Shell of a motor that stands still, above the air around it: it has been cooking", TRADE, "lower"
    ),
    "speed_class_pct": About("Running speed from plate speed, same speed class", "n = 120 f / poles", "fixed"),
    "cfm_per_ton_low": About("Air over a cooling coil, least for a ton", TRADE, "higher"),
    "cfm_per_ton_high": About("Air over a cooling coil, most for a ton", TRADE, "lower"),
    "monoxide_room_ppm": About("Carbon monoxide in the room", "9 ppm over 8 hours, US ambient air standard", "lower"),
    "monoxide_flue_ppm": About("Carbon monoxide in the flue, as measured", TRADE, "lower"),
    "ask_winding_ohm": About("A winding pair above this may be kilohm typed as ohm", TRADE, "fixed"),
    "ask_winding_least_ohm": About("A winding pair below this may be kilohm typed as ohm", TRADE, "fixed"),
    "ask_frame_ohm": About("To the frame below this may be kilohm or megohm typed as ohm", TRADE, "fixed"),
    "background_pct": About("Background amps as a share of plate amps", TRADE, "lower"),
    "cool_within_c": About("A motor is cool within this of the air around it", TRADE, "lower"),
    "cool_minutes": About("A motor is cool after this long without power", TRADE, "higher"),
}
DEFAULTS = Limits()


def tightened(wished: dict[str, float], base: Limits = DEFAULTS) -> Limits:
    """The limits with a shop's wishes applied where they tighten.

    Raises `ValueError` naming a limit that does not exist or that the wish would loosen.
    """
    known = {field.name for field in fields(Limits)}
    for name, value in wished.items():
        if name not in known:
            raise ValueError(f"{name}: no limit of this name")
        old, about = getattr(base, name), ABOUT[name]
        moved = {"lower": value <= old, "higher": value >= old, "fixed": value == old}[about.tighter]
        if not moved or value <= 0:
            raise ValueError(f"{name}: got {value:g}; expected {old:g} or {about.tighter}")
    return replace(base, **wished)
