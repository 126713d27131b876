"""The run capacitor: capacitance against its label, the label against the motor plate, terminal to can.

Sources: the label's own tolerance; +/-6 % where it is silent (trade). Under load:
C = 1e6 * I / (2 * pi * f * V).
"""

from __future__ import annotations

import math

from ..call import Call
from ..limits import DEFAULTS, TRADE, Limits
from ..readings import LoadPair, Reading
from ..uncertainty import Meters, meter_u, span
from ..units import Span, fixed
from .judged import Band, Judged, Judgement, Signal, state_in, suspect, unjudged, verdict_on


def tolerance_pct(call: Call, limits: Limits) -> float:
    """Per cent a section may stray from its label: the label's, tightened by the shop, else the default."""
    stated, shop = call.capacitor.tolerance_pct, limits.capacitor_tolerance_pct
    if stated is None:
        return shop
    return min(float(stated), shop) if shop < DEFAULTS.capacitor_tolerance_pct else float(stated)


BLEED_CONSTANTS, BLEED_OHM = 5, 20_000
"""After five time constants of can and resistor less than a hundredth of the volts is left."""


def microfarads_under_load(amps_a: float, volts_v: float, hz: float) -> float:
    """Capacitance in µF from the current in its lead (A) and the volts across it, at hz.

    1.31 A and 402 V at 60 Hz give 8.64 µF.
    """
    return 1e6 * amps_a / (2 * math.pi * hz * volts_v)


def bleed_s(call: Call) -> int | None:
    """Seconds to hold the resistor on each pair of the can's terminals; None where no label and no plate says its µF.

    Five time constants of its largest section, rounded up: 40 µF through 20 kohm: 4 s (reckoning, third round).
    """
    label = [float(row.uf) for row in call.capacitor.label]
    uf = max(label, default=float(call.motor.capacitor_uf or 0))
    return math.ceil(BLEED_CONSTANTS * BLEED_OHM * uf / 1e6) if uf else None


def fan_section(call: Call) -> str:
    """The section that serves the fan: `fan` on a dual, else `single`."""
    return "fan" if call.unit.run_capacitor == "dual" or call.capacitor.section_uf("fan") else "single"


def serving(reading: Reading, call: Call) -> str:
    """The section a reading is about; all of a capacitor that serves the compressor only is the compressor's."""
    return "herm" if call.unit.run_capacitor == "compressor_only" else reading.section or fan_section(call)


def nominal(call: Call, section: str) -> tuple[float, str] | None:
    """The µF a section should have, and whose word that is: its label, else the motor plate."""
    label = call.capacitor.section_uf(section)
    if label is None and section != "herm":
        label = next((row.uf for row in call.capacitor.label if row.section != "herm"), None)
    if label is None and call.unit.run_capacitor == "compressor_only":
        label = next((row.uf for row in call.capacitor.label), None)
    if label is not None:
        return label, "label"
    if section != "herm" and call.motor.capacitor_uf is not None:
        return call.motor.capacitor_uf, "motor plate"
    return None


def band_for(call: Call, section: str, limits: Limits) -> Band | None:
    """The µF within which a section is good; None when neither label nor plate is known."""
    found = nominal(call, section)
    if found is None:
        return None
    uf, whose = found
    pct = tolerance_pct(call, limits)
    low, high = uf * (1 - pct / 100), uf * (1 + pct / 100)
    source = "tolerance of the label" if call.capacitor.tolerance_pct is not None else TRADE
    text = f"{uf:g} µF on the {whose} ±{pct:g} %: {low:.2f} to {high:.2f}"
    return Band(low, high, text, source)


def judge_capacitance(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge µF of one section against its label, and the label against the motor plate."""
    section = serving(reading, call)
    link = None if section == "herm" else "capacitor"
    if reading.value == "shorted":
        return _shorted(index, reading, section, link)
    read = span(reading.numbers[0], reading, call.meters)
    return _judge_span(index, reading, read, section, call, limits)


def judge_under_load(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge a capacitor from amps and volts while it runs, at the hertz of the supply, else of the motor plate."""
    hz = call.unit.hz or call.motor.hz
    if not isinstance(reading.value, LoadPair) or hz is None:
        return unjudged(index, "The frequency is not known: give hertz on a plate.", "capacitor")
    amps, volts = load_spans(reading, reading.value, call.meters)
    if volts.low <= 0:
        return suspect(
            index, "Almost no volts across it, so the motor is not running. Read it while it runs.", "capacitor"
        )
    read = Span(
        microfarads_under_load(max(amps.low, 0.0), volts.high, hz), microfarads_under_load(amps.high, volts.low, hz)
    )
    return _judge_span(index, reading, read, serving(reading, call), call, limits)


def load_spans(reading: Reading, pair: LoadPair, meters: Meters) -> tuple[Span, Span]:
    """Amps in the capacitor's lead, divided by the turns, and volts across it; `u` is that of the amps."""
    turns = reading.turns or 1
    u = float(reading.u) if reading.u is not None else meter_u(pair.amps_a, "A", reading.meter, meters)
    volts_u = meter_u(pair.volts_v, "V", reading.meter, meters)
    return (
        Span((pair.amps_a - u) / turns, (pair.amps_a + u) / turns),
        Span(pair.volts_v - volts_u, pair.volts_v + volts_u),
    )


def _judge_span(index: int, reading: Reading, read: Span, section: str, call: Call, limits: Limits) -> Judged:
    link = None if section == "herm" else "capacitor"
    band = band_for(call, section, limits)
    found = nominal(call, section)
    if band is None or found is None:
        return unjudged(index, "No label or plate value to compare with. Enter the label first.", link)
    state = state_in(read, band)
    finding = _finding(read, band, found[0], limits)
    if state == "failed" and reading.isolated is False:
        return suspect(index, "Off its label, but leads are still on it. Take both off and read again.", link)
    wrong = _wrong_value(call, section)
    says = _says(finding, read, found[0])
    signals = [Signal(_key(section, finding), f"{_name(section)} {read.text('µF')} of {found[0]:g}", (index,))]
    if section != "herm" and finding == "weak" and read.mid >= (1 - limits.capacitor_starts_pct / 100) * found[0]:
        signals.append(
            Signal("mild.weak", f"{100 * (1 - read.mid / found[0]):.0f} % low: it still starts a good motor", (index,))
        )
    if wrong and state == "failed" and _suits_plate(read, call, limits):
        says = "Off its label, yet right for the motor plate. Read the label again before you judge it."
        return suspect(index, says, link, band.source)
    if wrong and state != "borderline" and finding in ("good", "weak", "high"):
        state, finding, says = "failed", "wrong_value", f"{wrong} It reads {fixed(read.mid)} µF."
        low = call.motor.capacitor_uf is not None and read.high < call.motor.capacitor_uf * (
            1 - tolerance_pct(call, limits) / 100
        )
        signals = [
            Signal("cap_label.wrong", wrong, (index,)),
            *(signals if low and read.outside(band.low, band.high) else ()),
        ]
    return Judged(verdict_on(index, read, band, "µF", state, finding, says), link, tuple(signals))


def _suits_plate(read: Span, call: Call, limits: Limits) -> bool:
    """Whether a reading lies within the tolerance of what the motor plate asks for."""
    plate, pct = call.motor.capacitor_uf, tolerance_pct(call, limits)
    return plate is not None and plate * (1 - pct / 100) <= read.mid <= plate * (1 + pct / 100)


def _shorted(index: int, reading: Reading, section: str, link: str | None) -> Judged:
    if reading.isolated is False:
        return suspect(index, "Reads shorted, but leads are still on it. Take both off and read again.", link)
    judgement = Judgement(
        reading=index, state="failed", finding="shorted", says="Shorted. It can't hold a charge.", source=TRADE
    )
    return Judged(judgement, link, (Signal(_key(section, "shorted"), f"{_name(section)}: shorted", (index,)),))


def _key(section: str, finding: str) -> str:
    """The answer in the evidence table: the compressor section is good or bad, the fan's is told apart."""
    if section == "herm":
        return "herm.good" if finding in ("good", "borderline") else "herm.bad"
    return f"cap.{finding}"


def _name(section: str) -> str:
    return {"herm": "compressor section", "fan": "fan section"}.get(section, "capacitor")


def _finding(read: Span, band: Band, label: float, limits: Limits) -> str:
    if read.within(band.low, band.high):
        return "good"
    if not read.outside(band.low, band.high):
        return "borderline"
    if read.mid < limits.capacitor_open_pct / 100 * label:
        return "open"
    return "weak" if read.mid < band.low else "high"


def _says(finding: str, read: Span, label: float) -> str:
    off = 100 * (read.mid - label) / label
    return {
        "good": f"Good: {off:+.0f} % from its label.",
        "borderline": f"Borderline: {off:+.0f} %. Too close to call with this meter. Clean the tabs.",
        "open": "Open. The start winding gets no current.",
        "weak": f"Weak: {-off:.0f} % low, under the limit.",
        "high": f"High: {off:.0f} % over. It is failing inside. Replace it.",
    }[finding]


def _wrong_value(call: Call, section: str) -> str | None:
    plate = call.motor.capacitor_uf
    label = next((row.uf for row in call.capacitor.label if row.section != "herm"), None)
    if section == "herm" or label is None or plate is None or abs(label - plate) <= 0.01 * plate:
        return None
    return f"The label says {label:g} µF, the motor plate calls for {plate:g}. Wrong part, even if it tests good."


def judge_case(index: int, reading: Reading, call: Call, limits: Limits) -> Judged:
    """Judge ohms from a terminal to the can: under 1 Mohm is grounded and trips breakers."""
    limit = limits.capacitor_case_mohm * 1e6
    band = Band(limit, math.inf, f"above {limits.capacitor_case_mohm:g} Mohm", TRADE)
    if reading.value == "OL":
        judgement = Judgement(
            reading=index,
            state="normal",
            finding="good",
            says="Not grounded to its can.",
            limit=band.text,
            source=TRADE,
        )
        return Judged(judgement, "capacitor", (Signal("cap_can.good", "terminal to can: over range", (index,)),))
    read = span(reading.numbers[0], reading, call.meters)
    state = state_in(read, band)
    if state == "failed" and reading.isolated is False:
        return suspect(index, "Reads to the can, but leads are still on it. Take them off and read again.", "capacitor")
    finding, says = {
        "normal": ("good", "Not grounded to its can."),
        "failed": ("grounded", "Grounded to its can. It trips the breaker whatever its µF."),
    }.get(state, ("borderline", "Near the limit. Clean and dry the top and read again."))
    signal = Signal(f"cap_can.{finding}", f"terminal to can: {fixed(read.mid)} ohm", (index,))
    return Judged(verdict_on(index, read, band, "ohm", state, finding, says), "capacitor", (signal,))


def label_signals(call: Call) -> list[Signal]:
    """What the label alone shows against the motor plate: wrong value, volts too low."""
    found = []
    wrong = _wrong_value(call, fan_section(call))
    plate, label = call.motor.capacitor_uf, call.capacitor.label
    if wrong:
        found.append(Signal("cap_label.stated_wrong", wrong))
    elif plate is not None and any(row.section != "herm" for row in label):
        found.append(Signal("cap_label.right", f"the label says {plate:g} µF as the motor plate does"))
    rated, asked = call.capacitor.volts_v, call.motor.capacitor_v
    if rated is not None and asked is not None and rated < asked:
        found.append(Signal("cap_volts.under", f"rated {rated:g} V, the motor calls for {asked:g} V"))
    elif rated is not None and asked is not None:
        found.append(Signal("cap_volts.right", f"rated {rated:g} V, enough for the motor's {asked:g} V"))
    return found
