"""Heat and life in words: temperatures as bands, life as a share of the plate's, never in years."""

from __future__ import annotations

from ..machine.expected import Range
from .winding import Heat

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
