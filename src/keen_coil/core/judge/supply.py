"""Volts at each point of the way against the motor's plate, and where on the way they are lost.

Window: plate volts +/-10 % (NEMA MG 1). Volts missing behind the switch mean nothing without a call.
"""

from __future__ import annotations

import math
from itertools import pairwise

from ..call import Call
from ..limits import TRADE, Limits
from ..plates import Motor
from ..readings import SUPPLY_AT, Reading
from ..uncertainty import span, spans
from ..units import Span
from ..voltage import Range, range_for, ranges
from .judged import Band, Judged, Judgement, Signal, State, state_in, unjudged, verdict_on

PAIRED_FROM, SINGLE_FROM = 200.0, 260.0
"""Single-phase supplies between these are two legs of half the volts; 277 V is one leg and neutral."""
HALF_NEAR, HALF_SHARE = 0.12, 0.8
"""Near half of the pair; and below this share of the window volts are lost on the way rather than low."""
LINK_AT = {"unit": "supply", "switch_line": "protection", "switch_load": "switching", "motor": "wiring"}
_PLACE = {
    "unit": "into the unit",
    "switch_line": "at the line side of the switch",
    "switch_load": "at the load side of the switch",
    "motor": "at the motor",
}


def unbalance_pct(volts: list[float]) -> float:
    """Unbalance of three line volts in per cent: 100 * max|V - mean| / mean (NEMA MG 1).

    236, 229, 241 give 2.69 %.
    """
    mean = sum(volts) / len(volts)
    return 100 * max(abs(v - mean) for v in volts) / mean if mean else 0.0


_DERATING = ((1.0, 1.0), (2.0, 0.95), (3.0, 0.88), (4.0, 0.82), (5.0, 0.75))


def derating(unbalance: float) -> float | None:
    """Factor of load for a voltage unbalance in per cent (NEMA MG 1, read at whole points, linear between).

    2.69 % gives 0.90; None above 5 %: do not run.
    """
    if unbalance <= 1:
        return 1.0
    for (low, before), (high, after) in pairwise(_DERATING):
        if unbalance <= high:
            return before + (after - before) * (unbalance - low) / (high - low)
    return None


def call_present(call: Call) -> bool | None:
    """Whether the fan is called for, by the latest standing reading; None when nobody looked."""
    calls = (r for _, r in reversed(call.standing("control_call")) if not r.wrong_power)
    latest = next(calls, None)
    return None if latest is None else latest.value == "present"


def window(motor: Motor, call: Call, limits: Limits) -> tuple[Range, Band] | None:
    """The plate's connection for this supply and its volts band; the unit's nominal volts while the plate is not read.

    None when neither is known.
    """
    if motor.volts is None:
        return None if call.unit.supply_v is None else _by_unit(call.unit.supply_v, limits)
    chosen = range_for(motor.volts, call.unit.supply_v or _first_volts(call)) or ranges(motor.volts)[0]
    low, high = chosen.window(limits.supply_window_pct)
    return chosen, Band(low, high, f"{chosen} V ±{limits.supply_window_pct:g} %: {low:.1f} to {high:.1f}", "NEMA MG 1")


def _by_unit(nominal: float, limits: Limits) -> tuple[Range, Band]:
    """The unit's nominal volts as a window."""
    chosen = Range(nominal, nominal)
    low, high = chosen.window(limits.supply_window_pct)
    return chosen, Band(
        low, high, f"unit {nominal:g} V ±{limits.supply_window_pct:g} %: {low:.1f} to {high:.1f}", "NEMA MG 1"
    )


def _first_volts(call: Call) -> float | None:
    lines = (r for _, r in call.standing("supply_v") if r.across != "ground" and r.numbers and not r.wrong_power)
    first = next(lines, None)
    return None if first is None else first.numbers[0]


def judge_volts(index: int, reading: Reading, motor: Motor, call: Call, limits: Limits) -> Judged:
    """Judge volts at one point of the way; three-phase also by unbalance and a lost phase."""
    link = LINK_AT[reading.place]
    found = window(motor, call, limits)
    if found is None:
        return unjudged(index, "No plate volts, motor or unit. Enter a plate first.", link)
    if reading.across == "ground":
        return judge_to_ground(index, reading, found[0], call, limits)
    read = spans(reading, call.meters)
    if len(read) == 3:
        return _judge_three(index, reading, read, found, call, limits)
    return _judge_one(index, reading, read[0], found, call, limits)


def _judge_one(
    index: int, reading: Reading, read: Span, found: tuple[Range, Band], call: Call, limits: Limits
) -> Judged:
    plate, band = found
    called = call_present(call)
    place, link = reading.place, LINK_AT[reading.place]
    missing = read.high < limits.supply_missing_pct / 100 * plate.low
    behind = place in ("switch_load", "motor")
    if missing and behind and not called and not reading.is_proof:
        return _uncalled(index, place, link)
    state = state_in(read, band)
    word = _word(read, band, missing, state)
    says = {
        "good": f"Right volts {_PLACE[place]}.",
        "missing": f"No volts {_PLACE[place]}. Look upstream.",
        "half": _low_says(read, plate, place),
        "low": _low_says(read, plate, place),
        "high": f"High {_PLACE[place]}. It overheats the motor and stresses the capacitor.",
        "borderline": "Too close to call with this meter. Read again with a better one.",
    }[word]
    public = {"good": "good", "borderline": "borderline"}.get(word, "out")
    text = f"{read.text('V')} {_PLACE[place]}" + (", running" if reading.when == "running" else "")
    signals = (Signal(f"volts_{place}.{word}", text, (index,)),) if word != "borderline" else ()
    fallen = _fallen(reading, read, call) if state == "normal" and behind else (0.0, "")
    if fallen[0] > limits.supply_drop_normal_pct:
        large = fallen[0] > limits.supply_drop_pct
        says = f"{fallen[0]:.1f} % lower than {fallen[1]}: burnt contact, loose connection or undersized wire."
        text = f"{fallen[0]:.1f} % lower {_PLACE[place]} than {fallen[1]}"
        found_drop: tuple[State, str, str] = (
            ("failed", "out", "drop.large") if large else ("borderline", "borderline", "drop.some")
        )
        return Judged(
            verdict_on(index, read, band, "V", *found_drop[:2], says), link, (Signal(found_drop[2], text, (index,)),)
        )
    nominal = call.unit.supply_v
    if state == "normal" and nominal and read.mid < (1 - limits.supply_sag_pct / 100) * nominal:
        signals = (
            *signals,
            Signal("sag.yes", f"{100 * (1 - read.mid / nominal):.0f} % under the unit's {nominal:g} V", (index,)),
        )
    return Judged(verdict_on(index, read, band, "V", state, public, says), link, signals)


def _low_says(read: Span, plate: Range, place: str) -> str:
    """Low volts in words; half of a pair is one leg alone."""
    if plate.low >= PAIRED_FROM and abs(read.mid / (plate.high / 2) - 1) < HALF_NEAR:
        return f"Half {_PLACE[place]}. One leg is lost, or the meter is on neutral. Read each leg to ground."
    return f"Low {_PLACE[place]}. Find the drop or call the utility."


def to_ground_v(nominal: float, phase: int | None) -> float:
    """Volts from a hot leg to ground, V: half of a 240 V pair, 1 / sqrt(3) of three-phase volts, else all of it."""
    if phase == 3:
        return nominal / math.sqrt(3)
    return nominal / 2 if PAIRED_FROM <= nominal < SINGLE_FROM else nominal


def judge_to_ground(index: int, reading: Reading, plate: Range, call: Call, limits: Limits) -> Judged:
    """Judge volts from a leg to ground: they tell of that leg and prove nothing across the line.

    A leg without volts is lost, behind the switch only once the fan is called for. A leg that is fed back through a
    winding shows volts to ground and none across.
    """
    place, link = reading.place, LINK_AT[reading.place]
    phase = call.line_phase
    low, high = (to_ground_v(volts, phase) for volts in (plate.low, plate.high))
    share = limits.supply_window_pct / 100
    band = Band(
        low * (1 - share),
        high * (1 + share),
        f"a leg to ground {low:.0f} to {high:.0f} V ±{limits.supply_window_pct:g} %",
        TRADE,
    )
    read = spans(reading, call.meters)
    whole = Span(min(leg.low for leg in read), max(leg.high for leg in read))
    gone = [leg for leg in read if leg.high < limits.supply_missing_pct / 100 * low]
    text = " / ".join(f"{leg.mid:.0f}" for leg in read) + f" V to ground {_PLACE[place]}"
    paired = phase == 3 or low < plate.low
    if gone and not paired:
        return unjudged(index, "Nothing to ground. It is the neutral or a dead leg. Read across the line.", link)
    if gone and place in ("switch_load", "motor") and not call_present(call) and not reading.is_proof:
        return unjudged(index, "With no call, nothing here is normal. Check the call first.", link)
    if gone:
        judgement = verdict_on(
            index, whole, band, "V", "failed", "out", f"A leg is dead {_PLACE[place]}. Look upstream on that leg."
        )
        key = "phase_lost" if phase == 3 and len(gone) < max(len(read), 2) else "missing"
        return Judged(judgement, link, (Signal(f"volts_{place}.{key}", text, (index,)),))
    states = [state_in(leg, band) for leg in read]
    state: State = "normal" if set(states) == {"normal"} else "borderline"
    says = (
        "This leg is live. That proves one leg only. Read across the line."
        if len(read) == 1
        else "Both legs are live. Read across the line too, a leg can be backfed."
    )
    odd = "Not a live leg, not a dead one. It is a high leg or backfed. Read across the line."
    return Judged(
        verdict_on(
            index,
            whole,
            band,
            "V",
            state,
            "watch" if state == "normal" else "borderline",
            says if state == "normal" else odd,
        ),
        None,
    )


def _uncalled(index: int, place: str, link: str) -> Judged:
    """No volts behind the switch while nobody knows of a call: it fails nothing, and it is no good sign."""
    says = "With no call, no volts here is normal. Check the call first."
    signal = Signal("volts_uncalled.missing", f"no volts {_PLACE[place]}, call not known", (index,))
    return Judged(Judgement(reading=index, state="unjudged", says=says), link, (signal,))


def _fallen(reading: Reading, here: Span, call: Call) -> tuple[float, str]:
    """Drop in per cent from standing at the same place, or from a point before it, the meter's gain taken out."""
    order = list(_PLACE)
    found = [(0.0, "")]
    highest = call.once(("highest", reading.is_proof), lambda: _highest(call, reading.is_proof))
    for (place, running), volts in highest.items():
        if volts <= max(here.mid, 0.0):
            continue
        share = 100 * (volts - here.mid) / volts
        if place == reading.place and reading.when == "running" and not running:
            found.append((share, "standing"))
        elif order.index(place) < order.index(reading.place):
            found.append((share, _PLACE[place]))
    return max(found)


def _highest(call: Call, proof: bool) -> dict[tuple[str, bool], float]:
    """The highest volts of one pair read at each place, standing and running."""
    found: dict[tuple[str, bool], float] = {}
    for _, reading in call.standing("supply_v", proof):
        if reading.across != "ground" and len(reading.numbers) == 1:
            key = (reading.place, reading.when == "running")
            found[key] = max(reading.numbers[0], found.get(key, 0.0))
    return found


def _word(read: Span, band: Band, missing: bool, state: State) -> str:
    if missing:
        return "missing"
    if state == "failed" and read.mid < HALF_SHARE * band.low:
        return "half"
    if state == "failed":
        return "low" if read.mid < band.low else "high"
    return "good" if state == "normal" else "borderline"


def _judge_three(
    index: int, reading: Reading, read: list[Span], found: tuple[Range, Band], call: Call, limits: Limits
) -> Judged:
    plate, band = found
    place, link = reading.place, LINK_AT[reading.place]
    share = unbalance_pct([leg.mid for leg in read])
    whole = Span(min(leg.low for leg in read), max(leg.high for leg in read))
    text = " / ".join(f"{leg.mid:.1f}" for leg in read) + f" V {_PLACE[place]}"
    floor = limits.supply_missing_pct / 100 * plate.low
    behind = reading.place in ("switch_load", "motor")
    if max(leg.high for leg in read) < floor:
        if behind and not call_present(call) and not reading.is_proof:
            return _uncalled(index, place, link)
        key, says = "missing", f"No volts {_PLACE[place]}. Look upstream."
    elif min(leg.high for leg in read) < floor or share > 4 * limits.unbalance_pct:
        key, says = "phase_lost", "One phase is lost. A pair reads almost nothing, or they are far apart."
    elif share > limits.unbalance_pct:
        key, says = "unbalance", f"Unbalance {share:.2f} %. Don't run it."
    else:
        return _three_in(index, whole, band, text, share, place, [state_in(leg, band) for leg in read])
    judgement = verdict_on(index, whole, band, "V", "failed", "out", says)
    return Judged(judgement, link, (Signal(f"volts_{place}.{key}", text, (index,)),))


def _three_in(index: int, whole: Span, band: Band, text: str, share: float, place: str, states: list[State]) -> Judged:
    """Three line volts whose balance passes, against the window."""
    state: State = next((s for s in ("failed", "borderline") if s in states), "normal")
    word = {"normal": "good", "borderline": "borderline"}.get(state, "low" if whole.low < band.low else "high")
    start = {"good": "In the window", "borderline": "On the edge of the window"}.get(word, f"{word.capitalize()}")
    factor = derating(share)
    rated = f", load it to {factor:.2f} of its rating at most" if factor is not None and factor < 1 else ""
    finding = {"good": "good" if share <= 1 else "watch", "borderline": "borderline"}.get(word, "out")
    judgement = verdict_on(index, whole, band, "V", state, finding, f"{start}, unbalance {share:.2f} %{rated}.")
    signals = (Signal(f"volts_{place}.{word}", text, (index,)),) if word != "borderline" else ()
    return Judged(judgement, LINK_AT[place], signals)


def judge_contact_drop(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge volts across one closed contact: above 0.5 V on small motors is a finding (trade)."""
    read = span(reading.numbers[0], reading, call.meters)
    band = Band(0, limits.contact_drop_v, f"at most {limits.contact_drop_v:g} V", TRADE)
    if read.within(-read.u, band.high):
        state: State = "normal"
    else:
        state = "failed" if read.low > band.high else "borderline"
    finding = {"normal": "good", "failed": "out"}.get(state, "borderline")
    says = {"good": "Clean contact.", "out": "Burnt contact. Replace the contactor or relay."}.get(
        finding, "Near the limit. Use a meter that reads millivolts."
    )
    signals = (Signal(f"contact.{finding}", f"{read.text('V')} across the contact", (index,)),)
    return Judged(
        verdict_on(index, read, band, "V", state, finding, says),
        "switching",
        signals if finding != "borderline" else (),
    )


def volts_seen(judged: dict[int, Judged], call: Call) -> dict[str, str]:
    """For each point of the way the word on its volts: good, missing, low, high ... Running outranks standing."""
    seen: dict[str, str] = {}
    rows = [row for row in call.standing("supply_v") if row[1].across != "ground"]
    rows += [row for row in call.standing("supply_v") if row[1].across == "ground"]
    for index, _ in sorted(rows, key=lambda row: row[1].when == "running"):
        for signal in judged[index].signals:
            group, _, word = signal.key.partition(".")
            if group.startswith("volts_"):
                seen[group.removeprefix("volts_")] = word
            elif signal.key == "drop.large":
                seen[call.readings[index].place] = "low"
    return seen


def lost_between(seen: dict[str, str]) -> tuple[str | None, str | None]:
    """The last point with right volts, and the first behind it without: where they are lost."""
    good = [place for place in SUPPLY_AT if seen.get(place) == "good"]
    last = good[-1] if good else None
    behind = SUPPLY_AT[SUPPLY_AT.index(last) + 1 :] if last else SUPPLY_AT
    gone = [place for place in behind if seen.get(place) in ("missing", "low", "half", "phase_lost")]
    return last, gone[0] if gone else None


def drop_judgement(standing: Span, running: Span, limits: Limits) -> Judgement:
    """Judge the drop from standing to running volts at the load side, per cent of standing (trade)."""
    drop = 100 * (standing.mid - running.mid) / standing.mid
    text = f"up to {limits.supply_drop_normal_pct:g} %, look for it above {limits.supply_drop_pct:g} %"
    state: State = "normal" if drop <= limits.supply_drop_normal_pct else "borderline"
    state = "failed" if drop > limits.supply_drop_pct else state
    return Judgement(reading=-1, state=state, says=f"Volts drop {drop:.1f} % when it runs.", limit=text, source=TRADE)
