"""What a call needs of a capacitor, and whether what is there may stay: the policies of renewal as a table."""

from __future__ import annotations

from dataclasses import dataclass

from ..call import Call
from ..judge.capacitor import fan_section, judge_capacitance, serving, tolerance_pct
from ..limits import DEFAULTS, Limits
from ..plates import Motor
from ..tables import complete
from ..uncertainty import span
from ..vocabulary import Renewal, words_of
from .parts import Need

RENEWALS: dict[Renewal, tuple[str, str]] = {
    "always": ("Always new", "A new motor gets a new capacitor, whatever the old one reads."),
    "outside_label": (
        "Reuse if it tests good",
        "Reused when it is the value the motor calls for and reads inside its label tolerance.",
    ),
    "ten_low": (
        "Reuse unless 10 % low",
        "Reused inside its label tolerance, never at 10 % low or more.",
    ),
}
complete(RENEWALS, words_of(Renewal), "RENEWALS")
TEN_LOW_PCT = 10.0
_SAME = 1e-6


@dataclass(frozen=True)
class Needed:
    """The fan motor's need, and the can that serves compressor and fan together where one does.

    `whose` says which plate asks; `both` is None where the fan has a capacitor of its own.
    """

    fan: Need
    both: Need | None
    whose: str


@dataclass(frozen=True)
class Stays:
    """Whether the capacitor that is there may stay under a policy, and why."""

    may: bool
    because: str


def needed(call: Call) -> Needed | None:
    """What the chosen motor needs, else the one that is there; None when it needs none or its plate does not say.

    A can for compressor and fan takes the compressor's µF from its label and is rated no lower than that label.
    """
    motor = call.chosen_motor or call.motor
    if not motor.traits.run_capacitor or motor.capacitor_uf is None:
        return None
    volts = float(motor.capacitor_v or call.capacitor.volts_v or 0)
    if volts <= 0:
        return None
    whose = "the chosen motor's plate" if call.chosen_motor else "the motor's plate"
    herm = call.capacitor.section_uf("herm") if call.unit.run_capacitor in ("dual", None) else None
    fan = Need(float(motor.capacitor_uf), volts)
    if herm is None or fan_section(call) != "fan":
        return Needed(fan, None, whose)
    return Needed(fan, Need(fan.uf, max(volts, float(call.capacitor.volts_v or 0)), float(herm)), whose)


def stays(call: Call, renewal: Renewal, limits: Limits = DEFAULTS) -> Stays:
    """Whether the capacitor in the unit may stay with the motor that runs on it.

    It must be of the motor's own value (µF), rated for its volts, measured good, sound to look at; a policy of always
    new lets none stay with a chosen motor.
    """
    motor = call.chosen_motor or call.motor
    label, rated = call.capacitor.section_uf(fan_section(call)), call.capacitor.volts_v
    if renewal == "always" and call.chosen_motor:
        return Stays(False, "A new motor gets a new capacitor in this shop.")
    why_not = _other_value(motor, label, rated)
    if why_not:
        return Stays(False, why_not)
    looks = [reading.value for _, reading in call.standing("capacitor_look")]
    if looks and looks[-1] != "sound":
        return Stays(False, f"It is {looks[-1]}: replace it, whatever it reads.")
    return _as_measured(call, renewal, limits)


def _other_value(motor: Motor, label: float | None, rated: float | None) -> str | None:
    if label is None or motor.capacitor_uf is None:
        return "Its value, or the value the motor calls for, is not known."
    if abs(label - motor.capacitor_uf) > _SAME * label:
        return f"It is {label:g} µF, the motor calls for {motor.capacitor_uf:g}. Close does not count."
    if motor.capacitor_v is not None and (rated is None or rated < motor.capacitor_v):
        return f"Rated {'not known' if rated is None else f'{rated:g} V'}, the motor calls for {motor.capacitor_v:g} V."
    return None


def _as_measured(call: Call, renewal: Renewal, limits: Limits) -> Stays:
    found = [(index, reading) for index, reading in call.standing("capacitance_uf") if serving(reading, call) != "herm"]
    if not found:
        return Stays(False, "It has not been measured yet.")
    index, reading = found[-1]
    judgement = judge_capacitance(index, reading, call, limits).judgement
    if judgement.state != "normal":
        return Stays(False, judgement.says)
    label = call.capacitor.section_uf(fan_section(call))
    if renewal == "ten_low" and label is not None:
        read = span(reading.numbers[0], reading, call.meters)
        if read.low < label * (1 - TEN_LOW_PCT / 100):
            return Stays(False, f"It may be {TEN_LOW_PCT:g} % low.")
    inside = f"Inside ±{tolerance_pct(call, limits):g} %, and the value the motor calls for. It can be reused."
    return Stays(True, f"{judgement.says} {inside}")
