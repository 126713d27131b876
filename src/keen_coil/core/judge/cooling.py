"""When a motor counts as cool: near the air around it, and an hour without power (trade). Unknown is not yet.

What counts is how it stood when its windings were read, not later.
"""

from __future__ import annotations

from ..call import Call
from ..limits import Limits
from ..readings import Reading, minutes_between
from ..uncertainty import span

NEAR_MINUTES = 10.0


def shell_for(call: Call, winding: Reading) -> Reading | None:
    """The latest shell temperature that speaks for a winding reading: not taken long after it."""
    shells = [r for _, r in call.standing("shell_c") if (minutes_between(winding, r) or 0.0) <= NEAR_MINUTES]
    return shells[-1] if shells else None


def warmest_c(call: Call, winding: Reading) -> float | None:
    """The warmest the motor may have been when read, C; None when nobody noted it."""
    shell = shell_for(call, winding)
    noted = [span(shell.numbers[0], shell, call.meters).high] if shell else []
    noted += [float(winding.temperature_c)] if winding.temperature_c is not None else []
    return max(noted) if noted else None


def minutes_off(call: Call, winding: Reading) -> float | None:
    """Minutes without power when the winding was read; None when nobody noted it."""
    if winding.minutes_off is not None:
        return float(winding.minutes_off)
    shell = shell_for(call, winding)
    if shell is None or shell.minutes_off is None:
        return None
    return float(shell.minutes_off) - (minutes_between(winding, shell) or 0.0)


def is_cool(call: Call, winding: Reading, limits: Limits) -> bool:
    """Cool by the overload rule: shell within 10 C of the air around it and 60 minutes without power."""
    return not still_to_cool(call, winding, limits)


def still_to_cool(call: Call, winding: Reading, limits: Limits) -> str:
    """What was missing for the motor to count as cool, as a sentence; empty when it was cool."""
    warmest, ambient, off = warmest_c(call, winding), call.unit.ambient_c, minutes_off(call, winding)
    wants = []
    if ambient is None:
        wants.append("note the air temperature")
    if warmest is None:
        wants.append("read the shell temperature")
    elif ambient is not None and warmest - ambient > limits.cool_within_c:
        wants.append(f"let the shell come down to {ambient + limits.cool_within_c:.0f} C")
    if off is None or off < limits.cool_minutes:
        wants.append(f"have power off for {limits.cool_minutes:.0f} minutes, and note it")
    return ", ".join(wants)
