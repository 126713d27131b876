"""When a motor counts as cool: near the air around it, and an hour without power (trade). Unknown is not yet.

What counts is how it stood when its windings were read, not later.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..call import Call
from ..limits import Limits
from ..readings import Reading, minutes_between
from ..tables import complete
from ..uncertainty import span
from ..vocabulary import InsulationLetter, words_of

NEAR_MINUTES = 10.0
COLD_C = 15.0
"""A motor no warmer than this is cool whatever the air around it: an overload closes far above (trade)."""


def shell_for(call: Call, winding: Reading) -> Reading | None:
    """The latest shell temperature that speaks for a winding reading: not taken long after it."""
    shells = (r for _, r in reversed(call.standing("shell_c")))
    return next((r for r in shells if (minutes_between(winding, r) or 0.0) <= NEAR_MINUTES), None)


def of_the_visit(call: Call, winding: Reading) -> Iterator[tuple[Reading, float]]:
    """The other winding readings of the same visit, with the minutes from this one to each; 0 when not known.

    What was noted once beside one pair (temperature, minutes without power) serves all of them.
    """
    for _, other in call.standing("winding_ohm"):
        later = minutes_between(winding, other)
        if other is not winding and (later is None or abs(later) <= NEAR_MINUTES):
            yield other, later or 0.0


def warmest_c(call: Call, winding: Reading) -> float | None:
    """The warmest the motor may have been when read, C; None when nobody noted it."""
    shell = shell_for(call, winding)
    noted = [span(shell.numbers[0], shell, call.meters).high] if shell else []
    noted += [float(winding.temperature_c)] if winding.temperature_c is not None else []
    if not noted:
        noted = [
            float(other.temperature_c) for other, _ in of_the_visit(call, winding) if other.temperature_c is not None
        ]
    return max(noted) if noted else None


def minutes_off(call: Call, winding: Reading) -> float | None:
    """Minutes without power when the winding was read; None when nobody noted it. Of several notes the least."""
    if winding.minutes_off is not None:
        return float(winding.minutes_off)
    shell = shell_for(call, winding)
    if shell is not None and shell.minutes_off is not None:
        return float(shell.minutes_off) - (minutes_between(winding, shell) or 0.0)
    return min(
        (
            float(other.minutes_off) - later
            for other, later in of_the_visit(call, winding)
            if other.minutes_off is not None
        ),
        default=None,
    )


def is_cool(call: Call, winding: Reading, limits: Limits) -> bool:
    """Cool by the overload rule: shell within 10 C of the air around it and 60 minutes without power."""
    return not still_to_cool(call, winding, limits)


def still_to_cool(call: Call, winding: Reading, limits: Limits) -> str:
    """What was missing for the motor to count as cool, as a sentence; empty when it was cool."""
    warmest, ambient, off = warmest_c(call, winding), call.unit.ambient_c, minutes_off(call, winding)
    wants = []
    cold = warmest is not None and warmest <= COLD_C
    if ambient is None and not cold:
        wants.append("note the air temperature")
    if warmest is None:
        wants.append("read the motor temperature")
    elif not cold and ambient is not None and warmest - ambient > limits.cool_within_c:
        wants.append(f"let the motor cool to {ambient + limits.cool_within_c:.0f} °C")
    if off is None or off < limits.cool_minutes:
        wants.append(f"have power off for {limits.cool_minutes:.0f} minutes, and note it")
    return ", ".join(wants)


CLASS_TOTAL_C = {"A": 105.0, "B": 130.0, "F": 155.0, "H": 180.0}
complete(CLASS_TOTAL_C, words_of(InsulationLetter), "CLASS_TOTAL_C")
AVERAGE_BELOW_HOT_SPOT_C = 10.0
COPPER_C, ALUMINIUM_C = 234.5, 225.0


def copper_temperature(r_cold: float, t_cold: float, r_hot: float, constant: float = COPPER_C) -> float:
    """Winding temperature in C from cold and hot ohms: R2 / R1 = (k + T2) / (k + T1).

    k is 234.5 for copper (IEEE 112), 225 for aluminium. 12.40 ohm at 24 C, 16.90 hot: 117.8 C.
    """
    return (constant + t_cold) * r_hot / r_cold - constant


def class_average_c(insulation_class: str | None) -> float:
    """The most a winding may average, C: the class's hot-spot total less 10 (class B when not known)."""
    return CLASS_TOTAL_C[insulation_class or "B"] - AVERAGE_BELOW_HOT_SPOT_C


def winding_c(call: Call, index: int) -> float | None:
    """The winding's temperature in C when reading `index` was taken, from a cold reading of the same pair.

    The cold one states its own temperature and the hot one does not. None without such a pair of readings.
    """
    hot = call.readings[index]
    if hot.temperature_c is not None or not hot.pair or hot.value == "OL":
        return None
    cold = [
        r
        for _, r in call.standing("winding_ohm")
        if r is not hot and r.pair and set(r.pair) == set(hot.pair) and r.temperature_c is not None and r.value != "OL"
    ]
    if not cold or not cold[0].numbers[0]:
        return None
    constant = ALUMINIUM_C if call.motor.winding_material == "aluminium" else COPPER_C
    return copper_temperature(cold[0].numbers[0], float(cold[0].temperature_c or 0), hot.numbers[0], constant)


def warmth_says(call: Call, index: int) -> str:
    """The winding's temperature by its ohms, in words; empty when there is no cold reading to go by."""
    found = winding_c(call, index)
    if found is None:
        return ""
    most = class_average_c(call.motor.insulation_class)
    over = f", over the {most:.0f} °C of class {call.motor.insulation_class or 'B'}" if found > most else ""
    return f"By its ohms the winding is at about {found:.0f} °C{over}."
