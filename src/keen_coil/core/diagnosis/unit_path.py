"""The path of this unit: which links there are, and what is proved, suspect, failed.

In-window live volts prove everything up to where they were read (contract, Links of the path).
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from ..judge.judged import Judged
from ..judge.supply import lost_between
from .case import Case
from .faults import LINKS, Link

LinkState = Literal["unproved", "proved", "suspect", "failed", "not_applicable"]
PROVED_BY_VOLTS: dict[str, tuple[Link, ...]] = {
    "unit": ("supply",),
    "switch_line": ("supply", "protection", "disconnect"),
    "switch_load": ("supply", "protection", "disconnect", "control", "switching"),
    "motor": ("supply", "protection", "disconnect", "control", "switching", "wiring", "connections"),
}
_VOLTS_ORDER = ("unit", "switch_line", "switch_load", "motor")
_PROOFS: dict[Link, tuple[tuple[str, ...], ...]] = {
    "control": (("control.present",),),
    "capacitor": (("capacitor.good", "capacitor.sound"),),
    "windings": (("winding.good",),),
    "overload": (("winding.good",),),
    "insulation": (("ground.clear",),),
    "bearings": (("spin.free", "play.none"),),
    "load": (("load.sound",),),
    "air": (("air.clear",),),
}
_HALF = {
    "capacitor": "measured or looked at, not both yet",
    "bearings": "spin or side play, not both yet",
}


class LinkReport(BaseModel):
    """The state of a link, why, and on whose word."""

    state: LinkState
    because: str
    source: str


def path_of(case: Case) -> dict[str, LinkReport]:
    """The state of every link of the contract, in order."""
    return {link: _link(link, case) for link in LINKS}


def not_here(link: Link, case: Case) -> str | None:
    """Why a link does not apply in this unit; None when it does."""
    motor, unit = case.call.motor, case.call.unit
    if link != "capacitor":
        return None
    if motor.kind in ("shaded_pole", "three_phase", "ecm"):
        return "This kind of motor has no run capacitor."
    serves_other = unit.run_capacitor in ("none", "compressor_only")
    if serves_other and motor.capacitor_uf is None:
        return "No capacitor in this fan's circuit." if unit.run_capacitor == "none" else "It serves the compressor only."
    return None


def _link(link: Link, case: Case) -> LinkReport:
    absent = not_here(link, case)
    if absent:
        return LinkReport(state="not_applicable", because=absent, source="the unit")
    rows = _latest(link, case)
    return (
        _from_judgement(rows, "failed")
        or _lost(link, case)
        or _proved_by_volts(link, case)
        or _suspect(rows)
        or _proved(link, case)
        or LinkReport(state="unproved", because=_half(link, rows), source="")
    )


def _latest(link: Link, case: Case) -> list[Judged]:
    """The judgements on a link; within a group about the same thing a normal one silences suspects."""
    groups: dict[tuple[object, ...], list[Judged]] = {}
    overload = {"winding.common_open", "winding.common_open_cool", "winding.two_lead_open", "winding.two_lead_open_cool"}
    for index, judged in case.counting:
        on_overload = any(signal.key in overload for signal in judged.signals)
        at = "overload" if on_overload else judged.link
        if at == link and case.call.readings[index].kind != "supply_v":
            groups.setdefault(case.call.readings[index].qualifiers(), []).append(judged)
    return [row for group in groups.values() for row in _unsilenced(group)]


def _unsilenced(group: list[Judged]) -> list[Judged]:
    sound = [row for row in group if row.judgement.state in ("normal", "failed")]
    return sound or group


def _from_judgement(rows: list[Judged], state: str) -> LinkReport | None:
    found = [row.judgement for row in rows if row.judgement.state == state]
    if not found:
        return None
    last = found[-1]
    return LinkReport(state="failed", because=last.says, source=last.source or "")


def _suspect(rows: list[Judged]) -> LinkReport | None:
    found = [row.judgement for row in rows if row.judgement.state in ("suspect", "borderline")]
    if not found:
        return None
    return LinkReport(state="suspect", because=found[-1].says, source=found[-1].source or "")


def _lost(link: Link, case: Case) -> LinkReport | None:
    """Links between the last right volts and the first lost ones; one alone has failed, several are suspect."""
    last, gone = lost_between(case.volts)
    if link == "supply" and last is None and case.volts.get("unit") in ("missing", "low", "high", "phase_lost", "unbalance"):
        return LinkReport(state="failed", because=case.signals[f"supply.unit.{case.volts['unit']}"].says, source="NEMA MG 1")
    if gone is None or gone == "unit":
        return None
    before = PROVED_BY_VOLTS[last] if last else ()
    between = [name for name in PROVED_BY_VOLTS[gone] if name not in before]
    if "control.present" in case.signals and "control" in between:
        between.remove("control")
    if link not in between:
        return None
    text = f"Volts are lost before the {gone.replace('_', ' ')}."
    return LinkReport(state="failed" if len(between) == 1 else "suspect", because=text, source="volts along the way")


def _proved_by_volts(link: Link, case: Case) -> LinkReport | None:
    for place in _VOLTS_ORDER:
        if case.volts.get(place) == "good" and link in PROVED_BY_VOLTS[place]:
            signal = case.signals.get(f"supply.{place}.good")
            return LinkReport(state="proved", because=signal.says if signal else "", source="NEMA MG 1")
    return None


def _proved(link: Link, case: Case) -> LinkReport | None:
    for needed in _PROOFS.get(link, ()):
        if not all(key in case.signals for key in needed):
            continue
        if link == "insulation" and case.call.motor.kind == "three_phase" and not case.call.standing("insulation_mohm"):
            return None
        says = "; ".join(case.signals[key].says for key in needed)
        return LinkReport(state="proved", because=says, source=_source(link, case))
    return None


def _source(link: Link, case: Case) -> str:
    if link == "insulation" and not case.call.standing("insulation_mohm"):
        return "at the meter's own volts, not an insulation tester"
    found = [judged.judgement.source for _, judged in case.counting if judged.link == link and judged.judgement.source]
    return found[-1] if found else "readings of this call"


def _half(link: Link, rows: list[Judged]) -> str:
    if rows and link in _HALF:
        return _HALF[link].capitalize() + "."
    return "Not looked at yet." if not rows else rows[-1].judgement.says
