"""The steps of making safe, in order, each with its reason."""

from __future__ import annotations

from typing import NamedTuple


class SafeStep(NamedTuple):
    """A step of making safe, and why."""

    key: str
    do: str
    why: str


STEPS = (
    SafeStep("thermostat", "Thermostat off", "Nothing calls for the fan while you work."),
    SafeStep("disconnect", "Disconnect pulled, handle in sight", "A blade can break off and stay in. Look at it."),
    SafeStep("breaker", "Breaker off where reachable", "Both the disconnect and the breaker."),
    SafeStep("lock", "Locked and tagged", "Nobody else turns it on."),
    SafeStep("tester_before", "Tester proved on a live source", "A dead tester reads dead on everything."),
    SafeStep("dead", "Tested dead, leg to leg and to ground", "A single-pole contactor leaves one leg live."),
    SafeStep("tester_after", "Tester proved again", "It may have quit in between."),
    SafeStep(
        "bled", "Capacitor bled through a resistor, read with the meter", "Power off does not mean it is discharged."
    ),
)
PROVED_DEAD = {"disconnect", "tester_before", "dead", "tester_after", "bled"}
"""Ticking these sets the power strip to locked out."""
