"""Rows of the supply: kind of motor, volts, phase, hertz."""

from __future__ import annotations

from ..voltage import range_for, ranges
from .catalogue import CatalogueMotor
from .reference import Reference
from .row import MatchRow, fits, needs, not_compared, refused, unknown
from .work import work

KIND_NAMES = {"psc": "PSC", "shaded_pole": "shaded pole", "three_phase": "three-phase", "ecm": "ECM"}
TAKES = {"shaded_pole": ("shaded_pole", "psc")}
"""Kinds that may stand in for a kind; itself where nothing is listed."""
LOW_FOR_230_V = 215.0
"""Below this a supply is taken for a nominal 208 V one (trade)."""


def kind_row(ref: Reference, new: CatalogueMotor) -> MatchRow:
    """The kind of motor: PSC in place of shaded pole is work, other changes of kind are refused."""
    old = ref.motor.kind
    names = KIND_NAMES.get(old or ""), KIND_NAMES.get(new.kind or "")
    if old is None:
        return unknown("kind", *names, "find_kind")
    if old == new.kind:
        return fits("kind", *names, "Same motor type.")
    if new.kind in TAKES.get(old, ()):
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
