"""Every limit, once: its value, its source, and how far a shop may move it.

A shop may tighten a limit, never loosen it past the default.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Literal

from .tables import records, table

TRADE = "trade practice, not a standard"


@dataclass(frozen=True)
class Limits:
    """The limits in force. Units are in the names; sources and directions in `ABOUT`."""

    capacitor_tolerance_pct: float
    capacitor_open_pct: float
    capacitor_starts_pct: float
    capacitor_shorted_ohm: float
    capacitor_case_mohm: float
    supply_window_pct: float
    supply_missing_pct: float
    supply_drop_normal_pct: float
    supply_drop_pct: float
    supply_sag_pct: float
    contact_drop_v: float
    unbalance_pct: float
    winding_sum_pct: float
    winding_sum_ohm: float
    phase_ohm_normal_pct: float
    phase_ohm_pct: float
    grounded_mohm: float
    ohmmeter_mohm: float
    insulation_floor_mohm: float
    insulation_good_mohm: float
    amps_over_pct: float
    amps_low_pct: float
    amps_none_pct: float
    amps_uneven_pct: float
    sister_amps_pct: float
    sister_shell_c: float
    hot_standing_c: float
    background_pct: float
    speed_class_pct: float
    cfm_per_ton_low: float
    cfm_per_ton_high: float
    monoxide_room_ppm: float
    monoxide_flue_ppm: float
    ask_winding_ohm: float
    ask_winding_least_ohm: float
    ask_frame_ohm: float
    cool_within_c: float
    cool_minutes: float


@dataclass(frozen=True)
class About:
    """A limit explained: what it is, its source, and which way is tighter."""

    says: str
    source: str
    tighter: Literal["lower", "higher", "fixed"]


_TABLE = table(__package__, "limits")
ABOUT: dict[str, About] = records(
    About, {name: {key: text for key, text in row.items() if key != "value"} for name, row in _TABLE.items()}, "limits"
)
DEFAULTS = Limits(**{name: float(row["value"]) for name, row in _TABLE.items()})
"""The limits of the trade, as `limits.toml` has them."""


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
