"""The one meter that this server listens to."""

from __future__ import annotations

from starlette.datastructures import State

from ..meter.link import MeterLink


def link_meter(state: State, address: str) -> None:
    """Listen to the meter at an address from now on, to none when it is empty."""
    had: MeterLink | None = getattr(state, "meter", None)
    if had is not None:
        had.close()
    state.meter = MeterLink(address) if address else None
