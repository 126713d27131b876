"""The path of this unit: which links there are, and what is proved, suspect, failed.

In-window live volts prove everything up to where they were read (contract, Links of the path).
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from ..call import Call
from ..judge.judged import Judged
from ..judge.supply import lost_between
from ..limits import TRADE
from ..vocabulary import Link
from .applies import no_capacitor, no_overload
from .case import Case
from .faults import LINKS

LinkState = Literal["unproved", "proved", "suspect", "failed", "not_applicable"]
PROVED_BY_VOLTS: dict[str, tuple[Link, ...]] = {
    "unit": ("supply",),
    "switch_line": ("supply", "protection", "disconnect"),
    "switch_load": ("supply", "protection", "disconnect", "control", "switching"),
    "motor": ("supply", "protection", "disconnect", "control", "switching", "wiring", "connections"),
}


def proved_by_volts(place: str, call: Call) -> tuple[Link, ...]:
    """The links that right line volts at a place prove; an ECM is fed whether it is called for or not."""
    links = PROVED_BY_VOLTS[place]
    return (
        links
        if not call.motor.traits.is_electronic
        else tuple(link for link in links if link not in ("control", "switching"))
    )


_VOLTS_ORDER = ("unit", "switch_line", "switch_load", "motor")
_PLUG_POWER: tuple[Link, ...] = ("supply", "protection", "disconnect", "wiring", "connections")
_PLUG_COMMAND: tuple[Link, ...] = ("control", "switching")
_AT_PLUG: tuple[tuple[str, tuple[Link, ...]], ...] = (
    ("ecm_power.present", _PLUG_POWER),
    ("ecm_command.present", _PLUG_COMMAND),
    ("trial_direct_power.no_change", PROVED_BY_VOLTS["motor"]),
)
"""What proves the ways that power or command came; a motor that was fed directly had no need of them."""
_PROOFS: dict[Link, tuple[tuple[str, ...], ...]] = {
    "control": (("call.present",),),
    "capacitor": (("cap.good", "cap_look.sound"),),
    "windings": (("winding.good",), ("ecm_windings.even",)),
    "overload": (("winding.good",),),
    "insulation": (("ground.clear",), ("megger.good",), ("ecm_frame.clear",)),
    "bearings": (("spin.free", "play.none"), ("shaft.free", "play.none")),
    "load": (("load.sound",),),
    "air": (("air.clear",),),
}
_HALF = {
    "capacitor": "only measured or only looked at so far",
    "bearings": "only turned or only checked for side play so far",
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
    if link == "capacitor":
        return no_capacitor(case.call)
    return no_overload(case.call) if link == "overload" else None


def _link(link: Link, case: Case) -> LinkReport:
    absent = not_here(link, case)
    if absent:
        return LinkReport(state="not_applicable", because=absent, source="the unit")
    rows = _latest(link, case)
    return (
        _welded(link, case)
        or _from_judgement(rows, "failed")
        or _lost(link, case)
        or _proved_by_volts(link, case)
        or _proved_at_plug(link, case)
        or _contradicted(link, case)
        or _suspect(rows)
        or _proved(link, case)
        or LinkReport(state="unproved", because=_half(link, rows), source="")
    )


WITHOUT_CALL = ("call.absent", "switch.out", "switch_uncalled.out")
BEHIND = ("volts_switch_load.good", "volts_motor.good")


def is_welded(case: Case) -> bool:
    """Right volts behind a switch that is not called, or has not pulled in: its contacts are welded."""
    if case.call.motor.traits.is_electronic or not {*BEHIND} & set(case.signals):
        return False
    return any(case.at_one_time(key, behind) for key in WITHOUT_CALL for behind in BEHIND)


def _welded(link: Link, case: Case) -> LinkReport | None:
    if link != "switching" or not is_welded(case):
        return None
    return LinkReport(state="failed", because="Volts past it with no call: its contacts are welded.", source=TRADE)


def _latest(link: Link, case: Case) -> list[Judged]:
    """The judgments on a link; within a group about the same thing a normal one silences suspects."""
    return [row for group in case.by_link.get(link, {}).values() for row in _unsilenced(group)]


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
    if (
        link == "supply"
        and last is None
        and case.volts.get("unit") in ("missing", "low", "half", "high", "phase_lost", "unbalance")
    ):
        return LinkReport(state="failed", because=_volts_says(case, "unit"), source="NEMA MG 1")
    if gone is None or gone == "unit":
        return None
    before = PROVED_BY_VOLTS[last] if last else ()
    between = [name for name in PROVED_BY_VOLTS[gone] if name not in before]
    if "call.present" in case.signals and "control" in between:
        between.remove("control")
    if link not in between:
        return None
    text = f"Volts are lost ahead of the {gone.replace('_', ' ')}."
    return LinkReport(state="failed" if len(between) == 1 else "suspect", because=text, source="volts along the way")


def _proved_by_volts(link: Link, case: Case) -> LinkReport | None:
    for place in _VOLTS_ORDER:
        if case.volts.get(place) == "good" and link in proved_by_volts(place, case.call):
            return LinkReport(state="proved", because=_volts_says(case, place), source="NEMA MG 1")
    return None


def _volts_says(case: Case, place: str) -> str:
    signal = case.signals.get(f"volts_{place}.{case.volts[place]}")
    return signal.says if signal else ""


def _proved_at_plug(link: Link, case: Case) -> LinkReport | None:
    """Line power and command at an ECM's plug prove the ways they came."""
    for key, links in _AT_PLUG:
        if link in links and key in case.signals:
            return LinkReport(state="proved", because=case.signals[key].says, source=TRADE)
    return None


def _contradicted(link: Link, case: Case) -> LinkReport | None:
    doubted = {index for row in case.contradictions for index in row.readings}
    if any(case.judged[index].link == link for index in doubted):
        return LinkReport(state="suspect", because="Two readings contradict each other.", source="")
    return None


def _proved(link: Link, case: Case) -> LinkReport | None:
    for needed in _PROOFS.get(link, ()):
        if link == "control" and case.call.motor.traits.is_electronic:
            return None
        if not all(key in case.signals for key in needed):
            continue
        if link == "insulation" and case.call.motor.traits.is_three_phase and "megger.good" not in case.signals:
            return None
        says = "; ".join(case.signals[key].says for key in needed)
        return LinkReport(state="proved", because=says, source=_source(link, case))
    return None


def _source(link: Link, case: Case) -> str:
    if link == "insulation" and "megger.good" not in case.signals:
        return "at the meter's own volts, not an insulation tester"
    found = [judged.judgement.source for _, judged in case.counting if judged.link == link and judged.judgement.source]
    return found[-1] if found else "readings of this call"


def _half(link: Link, rows: list[Judged]) -> str:
    if rows and link in _HALF:
        return _HALF[link].capitalize() + "."
    return "Not checked yet." if not rows else rows[-1].judgement.says
