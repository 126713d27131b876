"""What a job leaves behind and what comes of it, read from `consequences.toml`, which says how a row is read."""

from __future__ import annotations

from typing import NamedTuple

from ...tables import listed, records, table


class Consequence(NamedTuple):
    """The fault it comes back with, least and most months until then, effects at once, the share of life left."""

    brings: str
    months: tuple[float, float]
    says: str
    instead: str
    now: dict[str, float] = {}
    life: float = 1.0


class OrderRow(NamedTuple):
    """A step that must come before another; minutes it costs where it did not, and what may come of it."""

    before: str
    after: str
    says: str
    instead: str
    minutes: float
    brings: str = ""
    months: tuple[float, float] = (0.0, 0.0)


class Figures(NamedTuple):
    """Figures of the story: months, prices, minutes."""

    plate_life_months: float
    horizon_months: float
    capacitor_price: float
    uf_price: float
    module_price: float
    trip_min: float
    wires_min: float


_TABLE = table(__package__, "consequences")
SKIPPED, LEFT, WIRED, FITTED = (
    records(Consequence, _TABLE[name], "consequences") for name in ("skipped", "left", "wired", "fitted")
)
ORDER: tuple[OrderRow, ...] = listed(OrderRow, _TABLE["order"], "consequences")
FIGURES: Figures = records(Figures, {"figures": _TABLE["figures"]}, "consequences")["figures"]
ACT_MIN: dict[str, float] = records(float, _TABLE["acts"], "consequences")
"""Minutes of each act on the unit outside the swap."""
