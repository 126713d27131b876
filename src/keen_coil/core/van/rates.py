"""How often parts fail, a unit and year: a table of trade experience, drawn towards what the log has seen."""

from __future__ import annotations

from typing import NamedTuple

from ..vocabulary import PlannedPartKind


class Rate(NamedTuple):
    """Failures of a part of a motor in this role, a unit and year; trade experience, not a standard."""

    part: PlannedPartKind
    role: str
    per_year: float


RATES: tuple[Rate, ...] = (
    Rate("capacitor", "condenser_fan", 0.08),
    Rate("capacitor", "indoor_blower", 0.05),
    Rate("capacitor", "inducer", 0.03),
    Rate("motor", "condenser_fan", 0.05),
    Rate("motor", "indoor_blower", 0.04),
    Rate("motor", "inducer", 0.05),
)
PRIOR_UNIT_YEARS = 20.0
"""How many unit-years of watching the table counts for against the log."""


def table_rate(part: PlannedPartKind, role: str | None) -> float:
    """Failures a unit and year by the table; a motor of unknown role as a condenser fan's."""
    wanted = role or "condenser_fan"
    return next(row.per_year for row in RATES if row.part == part and row.role == wanted)


def rate_seen(per_year: float, failures: int, unit_years: float) -> float:
    """The table's rate drawn towards what was seen (gamma prior, Poisson counts): failures a unit and year.

    No failures in no time leave the table's rate. Source: Gelman and others, *Bayesian Data Analysis*, 2.6.
    """
    return (per_year * PRIOR_UNIT_YEARS + failures) / (PRIOR_UNIT_YEARS + max(0.0, unit_years))
