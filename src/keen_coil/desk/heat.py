"""Heat and life at the stations: what causes cost, what the run test should find on the shell."""

from __future__ import annotations

from dataclasses import replace

from ..core.diagnosis.causes import Cause
from ..core.machine.conditions import model_of
from ..core.machine.rated import NoModel
from ..core.thermal.cost import cost_of
from ..core.thermal.sentence import degrees_words, heat_sentence
from ..core.thermal.winding import heat_of
from ..core.uncertainty import span
from .call_view import CallView


def heat_costs(view: CallView, causes: list[Cause]) -> dict[str, str]:
    """What each cause costs the winding, in a sentence; empty where the model does not say."""
    return {cause.cause: cost_of(cause.cause, view.call) for cause in causes}


def run_heat_says(view: CallView) -> str:
    """What the motor that is in should get to once warm, and whether the shell that was read agrees."""
    call = view.call
    try:
        model = model_of(call, proof=True)
    except NoModel:
        return ""
    heat, expected = heat_of(model), heat_of(replace(model, warmth=None))
    if heat.burns:
        return heat_sentence(heat)
    shell = degrees_words(expected.shell_c)
    read = call.standing("shell_c", proof=True)
    if not read:
        return f"{heat_sentence(heat)} Warmed up, its shell should read {shell}."
    found = span(read[-1][1].numbers[0], read[-1][1], call.meters)
    agrees = found.high >= expected.shell_c.low and found.low <= expected.shell_c.high
    if agrees:
        return f"The shell read {found.mid:.0f} °C: it agrees with {shell}. {heat_sentence(heat)}"
    if found.high < expected.shell_c.low:
        return f"The shell read {found.mid:.0f} °C, under {shell}: has it run half an hour? {heat_sentence(heat)}"
    high = f"The shell read {found.mid:.0f} °C, over {shell}: look for load, volts, capacitor and air."
    return f"{high} {heat_sentence(heat)}"
