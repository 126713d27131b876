"""Whether the new part of a call is in its place."""

from __future__ import annotations

from ..core.swap.table import CONNECTED, GOES_IN
from .call_view import CallView


def is_in(view: CallView, part: str) -> bool:
    """Whether the new `motor` or `capacitor` of a call is in its place: by its step, or as the call was closed so."""
    capacitor = view.row.plan.capacitor
    if not (view.row.chosen if part == "motor" else capacitor and capacitor.parts):
        return False
    if view.row.outcome is not None and not view.row.outcome.unfinished:
        return True
    steps = GOES_IN if part == "motor" else CONNECTED
    return any(one.station == "swap" and one.step in steps and not one.skipped for one in view.row.steps)
