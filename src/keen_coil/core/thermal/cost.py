"""What a fault, a capacitor or a new motor costs the winding, in degrees and life, and its sentence."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import replace

from ..call import Call
from ..machine.conditions import Conditions, Model, as_plate, model_of
from ..machine.effects import BLOCKED_FILTER, BLOCKED_FILTER_AIR, DIRTY_COIL, DIRTY_COIL_AIR, DRAGGING, size_up
from ..machine.expected import Range
from ..machine.rated import NoModel
from ..units import Span
from .winding import Heat, heat_of, life_of_plate

SHARES = (
    (0.04, "hardly any of"),
    (0.09, "about a sixteenth of"),
    (0.18, "about an eighth of"),
    (0.29, "about a quarter of"),
    (0.41, "about a third of"),
    (0.6, "about half"),
    (0.85, "about three quarters of"),
    (1.25, "about"),
    (1.75, "about one and a half times"),
    (2.6, "about twice"),
    (5.0, "about four times"),
)
"""Life in words by its middle, up to each share."""
BY = {"": "", "ohms": ", narrowed by its hot and cold ohms", "shell": ", narrowed by its shell"}
"""What narrowed a band, in words."""
MANY = "over four times"


def life_words(life: Range) -> str:
    """Life against the plate's: `about a quarter of the life its plate point would give`."""
    share = next((words for most, words in SHARES if life.mid <= most), MANY)
    return f"{share} the life its plate point would give"


def degrees_words(range_: Range) -> str:
    """A band of temperatures as texts write them: `88 °C to 120 °C`."""
    return f"{range_.low:.0f} °C to {range_.high:.0f} °C"


def heat_sentence(heat: Heat) -> str:
    """Winding temperature and life in one sentence, with the ambient it is for."""
    around = f"at {heat.ambient_c:.0f} °C ambient" + (", assumed" if heat.ambient_assumed else "")
    if heat.burns:
        return f"The winding finds no balance {around}: it burns unless the overload opens."
    return f"Winding {degrees_words(heat.winding_c)} {around}{BY[heat.narrowed_by]}: {life_words(heat.life_of_plate)}."


def cost_sentence(hotter_k: Range, life: Range, burns: bool) -> str:
    """What a change does to the winding: `By the model the winding runs 11 degrees C hotter: about half the life.`"""
    if burns:
        return "By the model the winding finds no balance so: it burns unless the overload opens."
    way = "hotter" if hotter_k.mid > 0 else "cooler"
    share = next((words for most, words in SHARES if life.mid <= most), MANY).removesuffix(" of")
    words = "much the same life" if share == "about" else f"{share} of its life"
    return f"By the model the winding runs {abs(hotter_k.mid):.0f} degrees C {way}: {words}. An estimate."


LEAST_K = 1.5
"""A smaller difference is not worth a sentence."""
Change = Callable[[Conditions, Call], Conditions | None]


def _restricted(at: Conditions, call: Call) -> Conditions | None:
    if call.motor.fan == "forward_curved":
        return replace(at, load=at.load * BLOCKED_FILTER, air=at.air * BLOCKED_FILTER_AIR)
    return replace(at, load=at.load * DIRTY_COIL, air=at.air * DIRTY_COIL_AIR)


def _dragging(at: Conditions, call: Call) -> Conditions | None:
    return replace(at, drag=max(at.drag, DRAGGING))


def _as_read(at: Conditions, call: Call) -> Conditions | None:
    """The volts and the capacitor that were read."""
    try:
        found = model_of(call).conditions
    except NoModel:
        return None
    if not (found.volts_read or found.uf_read):
        return None
    return replace(at, volts_v=found.volts_v, capacitor_uf=found.capacitor_uf)


CHANGES: dict[str, Change] = {
    "air_restricted": _restricted,
    "bearings_worn": _dragging,
    "load_rubbing": _dragging,
    "capacitor_weak": _as_read,
    "capacitor_wrong_value": _as_read,
    "supply_low": _as_read,
    "supply_high": _as_read,
}
"""What each cause changes about a motor's conditions; those of the Lab's questions where nothing was read."""


def _right(call: Call, proof: bool = False) -> Model | None:
    """The call's motor as it should run here: right volts and capacitor, a clean coil, the air of the place."""
    try:
        model = model_of(call, proof)
    except NoModel:
        return None
    at = replace(as_plate(model.fit.rated), ambient_c=model.conditions.ambient_c)
    return replace(model, conditions=at)


def cost_of(cause: str, call: Call) -> str:
    """What a cause costs this call's motor, in one sentence; empty where the model does not say or it is little."""
    base, change = _right(call), CHANGES.get(cause)
    changed = change(base.conditions, call) if base and change else None
    if base is None or changed is None:
        return ""
    return _compared(heat_of(base), heat_of(replace(base, conditions=changed)))


def cost_of_capacitor(uf: float, call: Call) -> str:
    """What another capacitor than the plate's costs the motor that is to run on it; empty where it is little.

    Empty as well where both windings on average would be cooler: that hides an overfed start winding, and argues for
    nothing.
    """
    try:
        model = model_of(call, proof=True)
    except NoModel:
        return ""
    plate_uf = model.fit.rated.capacitor_uf
    right, other = (
        heat_of(replace(model, conditions=replace(model.conditions, capacitor_uf=Span(value, value), uf_read=False)))
        for value in (plate_uf, uf)
    )
    return _compared(right, other) if other.winding_c.mid > right.winding_c.mid else ""


def _open_start(at: Conditions, call: Call) -> Conditions | None:
    return replace(at, capacitor_uf=Span(0.0, 0.0), uf_read=False)


def _bypassed(at: Conditions, call: Call) -> Conditions | None:
    return replace(at, capacitor_uf=Span(math.inf, math.inf), uf_read=False)


def _herm_section(at: Conditions, call: Call) -> Conditions | None:
    herm = call.capacitor.section_uf("herm")
    return None if herm is None else replace(at, capacitor_uf=Span(float(herm), float(herm)), uf_read=False)


def _in_series_with_main(at: Conditions, call: Call) -> Conditions | None:
    return replace(at, swapped=True)


WIRINGS: dict[str, Change] = {
    "aux_open": _open_start,
    "capacitor_across_line": _open_start,
    "aux_across_line": _bypassed,
    "capacitor_bypassed": _bypassed,
    "wrong_section": _herm_section,
    "capacitor_in_series_with_main": _in_series_with_main,
}
"""What a wiring fault changes about a motor's conditions, where the model knows it."""


def cost_of_wiring(faults: Iterable[str], call: Call, planned: bool, volts: tuple[float, float] | None = None) -> str:
    """What the first wiring fault that the model knows costs the winding; empty where none does or the model is silent.

    Args: faults, of the hook-up's check; planned, of the motor that is to be wired, else of the one that is there;
    volts per turn as wired and as they should be, shares of the plate's, where a strap, a tap or a line is wrong.
    """
    change = next((WIRINGS[fault] for fault in faults if fault in WIRINGS), None)
    base = _right(call, proof=planned)
    if base is None or (change is None and volts is None):
        return ""
    wired, should = volts or (1.0, 1.0)
    before = base.conditions.at_volts(should)
    after = change(before, call) if change else before.at_volts(wired / should)
    return "" if after is None else _compared(*(heat_of(replace(base, conditions=at)) for at in (before, after)))


def usual_errors(uf: float, call: Call) -> list[tuple[str, str]]:
    """What a can 10 % low and one a size up would cost the winding, each in words; empty without a model."""
    rows = [("10 % low", 0.9 * uf), (f"One size up, {size_up(uf):g} µF", size_up(uf))]
    found = [(name, cost_of_capacitor(value, call)) for name, value in rows]
    return [(name, says) for name, says in found if says]


def hotter_by(before: Heat, after: Heat) -> Range:
    """How much hotter, K: the middles apart, by the share of the class that the motor uses at its plate."""
    mid = after.winding_c.mid - before.winding_c.mid
    low, middle, high = before.rise_share.ends
    ends = sorted((low / middle * mid, high / middle * mid))
    return Range(ends[0], mid, ends[1])


def _compared(before: Heat, after: Heat) -> str:
    hotter = hotter_by(before, after)
    if abs(hotter.mid) < LEAST_K:
        return ""
    return cost_sentence(hotter, life_of_plate(hotter), after.burns)
