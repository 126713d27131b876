"""How warm a motor was found to be: by hot and cold ohms of one pair, or by its shell in the run test.

Only where nothing on record heats or cools the motor that its model does not know: then what was measured says how
much of its class's rise this motor uses.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..call import Call
from ..judge.cooling import ALUMINIUM_C, COPPER_C, copper_temperature, minutes_off
from ..readings import Reading
from ..uncertainty import span

SOON_MINUTES = 10.0
"""Hot ohms read later than this after power off say little of how hot it ran."""
CLEAN = {
    "air_path": ("clear",),
    "load_look": ("sound",),
    "belt_look": ("sound",),
    "spin": ("free",),
    "side_play": ("none", "some"),
}
"""What may be on record of a motor that heats by its own losses alone."""


@dataclass(frozen=True)
class Warmth:
    """Winding (`ohms`) or shell, least, middle and most in C, so many minutes after power went off."""

    by: Literal["ohms", "shell"]
    low_c: float
    mid_c: float
    high_c: float
    minutes_off: float = 0.0


def warmth_of(call: Call, proof: bool) -> Warmth | None:
    """What was measured of the motor's warmth as it ran; None where nothing was, or where other things warm it too.

    Args: proof, of the motor that is in. It is taken as having run to its full warmth, half an hour; the ambient must
    have been noted.
    """
    return None if call.unit.ambient_c is None else call.once(("warmth", proof), lambda: _warmth(call, proof))


def _warmth(call: Call, proof: bool) -> Warmth | None:
    if proof:
        shell = _shell(call)
        if shell is not None or call.chosen_motor is not None:
            return shell
    ohms = _ohms(call)
    return ohms if ohms is not None and _runs_by_itself(call) else None


def _shell(call: Call) -> Warmth | None:
    read = [reading for _, reading in call.standing("shell_c", proof=True)]
    if not read:
        return None
    found = span(read[-1].numbers[0], read[-1], call.meters)
    return Warmth("shell", found.low, found.mid, found.high)


def _runs_by_itself(call: Call) -> bool:
    """Whether it was found running, and nothing that was looked at drags, rubs or keeps the air from it."""
    turns = [reading for kind in ("run_rpm", "run_amps_a") for _, reading in call.standing(kind) if _turned(reading)]
    looked = {kind: [reading.value for _, reading in call.standing(kind)] for kind in CLEAN}
    clean = all(value in CLEAN[kind] for kind, values in looked.items() for value in values[-1:])
    return bool(turns) and bool(looked["air_path"]) and clean


def _turned(reading: Reading) -> bool:
    return not reading.wrong_power and reading.when in (None, "running") and max(reading.numbers, default=0.0) > 0


def _ohms(call: Call) -> Warmth | None:
    """The hottest that hot ohms say against cold ones of the same pair, which state their temperature."""
    constant = ALUMINIUM_C if call.motor.winding_material == "aluminium" else COPPER_C
    read = [reading for _, reading in call.standing("winding_ohm") if reading.pair and len(reading.numbers) == 1]
    found = [
        warmth
        for hot in read
        for cold in read
        if hot.temperature_c is None and cold.temperature_c is not None and set(hot.pair or ()) == set(cold.pair or ())
        if (warmth := _against(call, cold, hot, constant)) is not None
    ]
    return max(found, key=lambda warmth: warmth.mid_c, default=None)


def _against(call: Call, cold: Reading, hot: Reading, constant: float) -> Warmth | None:
    """One pair, in either order; None where the hot one was read late or the meter cannot tell the two apart."""
    off = minutes_off(call, hot)
    if off is None or off > SOON_MINUTES:
        return None
    at, r_cold, r_hot = (
        float(cold.temperature_c or 0),
        *(span(reading.numbers[0], reading, call.meters) for reading in (cold, hot)),
    )
    if not 0 < r_cold.high < r_hot.low < math.inf:
        return None
    spread = (r_cold.u / r_cold.mid) ** 2 + (r_hot.u / r_hot.mid) ** 2
    middle = copper_temperature(r_cold.mid, at, r_hot.mid, constant)
    u = float((constant + middle) * spread**0.5)
    return Warmth("ohms", middle - u, middle, middle + u, max(off, 0.0))
