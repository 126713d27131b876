"""Signals that several readings give together: volts lost on the way, a locked shaft seen clear, all proved."""

from __future__ import annotations

from collections.abc import Iterator

from ..call import SYMPTOMS
from ..judge.capacitor import label_signals
from ..judge.judged import Signal
from ..judge.supply import lost_between
from .case import Case
from .unit_path import LinkReport

GATE_LINKS = ("supply", "switching", "wiring", "connections", "capacitor")


def all_signals(case: Case, path: dict[str, LinkReport]) -> list[Signal]:
    """The signals of the readings, of the complaint, and those that follow from several together."""
    found = dict(case.signals)
    if case.call.complaint.symptom:
        key = f"symptom.{case.call.complaint.symptom}"
        found[key] = Signal(key, f"complaint: {SYMPTOMS[case.call.complaint.symptom]}")
    for signal in (*label_signals(case.call), *_volts(case), *_switch(case), *_shaft(case), *_running(case, path)):
        found.setdefault(signal.key, signal)
    return list(found.values())


def _volts(case: Case) -> Iterator[Signal]:
    for place, key in (("motor", "supply.good_at_motor"), ("switch_load", "supply.good_at_load"), ("switch_line", "supply.good_at_line")):
        if case.volts.get(place) == "good":
            yield Signal(key, f"right volts at the {place.replace('_', ' ')}", _of(case, f"supply.{place}.good"))
    first = next((place for place in ("unit", "switch_line", "switch_load", "motor") if place in case.volts), None)
    word = case.volts.get(first or "")
    if word in ("low", "high", "unbalance", "phase_lost"):
        yield Signal(f"supply.{word}", case.signals[f"supply.{first}.{word}"].says, _of(case, f"supply.{first}.{word}"))
    last, gone = lost_between(case.volts)
    if gone not in (None, "unit"):
        yield _lost_signal(case, last, str(gone))


def _lost_signal(case: Case, last: str | None, gone: str) -> Signal:
    says = f"volts lost before the {gone.replace('_', ' ')}" + (f", right at the {last.replace('_', ' ')}" if last else "")
    key = "lost.somewhere"
    if (last, gone) == ("unit", "switch_line"):
        key = "lost.before_switch"
    elif (last, gone) == ("switch_load", "motor"):
        key = "lost.on_the_way"
    elif gone == "switch_load" and last == "switch_line":
        key = "lost.in_switch"
        key += "_pulled_in" * ("switch.in" in case.signals) + "_not_pulled_in" * ("switch.out" in case.signals)
    return Signal(key, says, _of(case, f"supply.{gone}.{case.volts[gone]}"))


def _switch(case: Case) -> Iterator[Signal]:
    if "switch.out" in case.signals and "control.present" in case.signals:
        yield Signal("switch.out_called", "called for, and the switch has not pulled in", _of(case, "switch.out", "control.present"))


def _shaft(case: Case) -> Iterator[Signal]:
    if "spin.locked_load" in case.signals and "load.sound" in case.signals:
        yield Signal("spin.locked_clear", "locked, with nothing in the blade's way", _of(case, "spin.locked_load", "load.sound"))
    weak = [key for key in ("capacitor.weak", "capacitor.open", "turned.before") if key in case.signals]
    if "turns.wrong" in case.signals and weak:
        says = "a fan turned by the wind runs on backwards with a weak capacitor"
        yield Signal("turns.wrong_weak", says, _of(case, "turns.wrong", *weak))


def _running(case: Case, path: dict[str, LinkReport]) -> Iterator[Signal]:
    proved = {link for link, report in path.items() if report.state in ("proved", "not_applicable")}
    if "turns.not" in case.signals and set(GATE_LINKS) <= proved and "spin.free" in case.signals:
        key = "dead.all_proved" if "windings" in proved else "dead.windings_unread"
        yield Signal(key, "right volts, a good capacitor, a free shaft, and it does not turn", _of(case, "turns.not"))
    if len(proved) == len(path):
        yield Signal("all.proved", "every link of the path is proved")
    if "turns.right" in case.signals and ("amps.good" in case.signals or "amps.watch" in case.signals):
        yield Signal("runs.well", "it turns the right way within its plate amps", _of(case, "turns.right", "amps.good", "amps.watch"))


def _of(case: Case, *keys: str) -> tuple[int, ...]:
    return tuple(index for key in keys if key in case.signals for index in case.signals[key].readings)
